// Which force rules: how hard each pushes the medium at the frame that is shown, and over all frames.
import { useMemo, type ReactNode } from 'react';
import { Area, AreaChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import styled, { useTheme } from 'styled-components';
import type { ForceShares } from '@bramblemist/core/record/readings';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { formatValue } from '@bramblemist/core/recipe/units';
import { Quiet } from '../parts/ui';
import { forceTitle } from './names';

const Rows = styled.dl`
  display: grid;
  grid-template-columns: 12px 1fr auto 38px;
  gap: 2px 8px;
  margin: 6px 0 0;
  align-items: center;
  font-variant-numeric: tabular-nums;
  i {
    height: 10px;
    border-radius: 2px;
  }
  dt {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  dd {
    margin: 0;
    text-align: right;
    color: ${({ theme }) => theme.quiet};
  }
  dd:last-of-type {
    color: inherit;
  }
`;
/** Tones that can be told apart by lightness as well. */
const TONES = ['#7fa36b', '#e2c765', '#b79cf0', '#d9795d', '#8fb8c9', '#efe3c2', '#8a5f86', '#5c7f86'];

export interface FrameShares {
  readonly frame: number;
  readonly forces: ForceShares;
}

export function ForceShares({
  recipe,
  frames,
  frame,
}: {
  recipe: Recipe;
  frames: readonly FrameShares[];
  frame: number;
}): ReactNode {
  const theme = useTheme();
  const names = useMemo(() => {
    const sums = new Map<string, number>();
    for (const { forces } of frames)
      for (const [name, v] of Object.entries(forces)) sums.set(name, (sums.get(name) ?? 0) + v);
    return [...sums].sort((a, b) => b[1] - a[1]).map(([name]) => name);
  }, [frames]);
  const data = useMemo(
    () =>
      frames.map(({ frame: f, forces }) => {
        const all = Object.values(forces).reduce((a, v) => a + v, 0);
        return {
          frame: f,
          ...Object.fromEntries(names.map((n) => [n, all > 0 ? (100 * (forces[n] ?? 0)) / all : 0])),
        };
      }),
    [frames, names],
  );
  if (names.length === 0) return <Quiet>No force acts.</Quiet>;
  const now = frames.find((f) => f.frame === frame)?.forces ?? frames[frames.length - 1].forces;
  const all = Object.values(now).reduce((a, v) => a + v, 0);
  const tone = (n: number): string => TONES[n % TONES.length];
  return (
    <>
      <ResponsiveContainer width="100%" height={70}>
        <AreaChart data={data} margin={{ top: 2, right: 2, bottom: 0, left: 0 }}>
          <XAxis dataKey="frame" type="number" domain={['dataMin', 'dataMax']} hide />
          <YAxis domain={[0, 100]} hide />
          {names.map((name, n) => (
            <Area
              key={name}
              dataKey={name}
              stackId="1"
              stroke={theme.panel}
              fill={tone(n)}
              fillOpacity={0.9}
              isAnimationActive={false}
            />
          ))}
          <ReferenceLine x={frame} stroke={theme.text} />
        </AreaChart>
      </ResponsiveContainer>
      <Rows aria-label="Shares of the forces">
        {names.map((name, n) => {
          const v = now[name] ?? 0;
          return (
            <div key={name} style={{ display: 'contents' }}>
              <i aria-hidden style={{ background: tone(n) }} />
              <dt>{forceTitle(recipe, name)}</dt>
              <dd>{formatValue(Number(v.toPrecision(2)), 'm/s²')}</dd>
              <dd>{all > 0 ? `${Math.round((100 * v) / all)} %` : '–'}</dd>
            </div>
          );
        })}
      </Rows>
    </>
  );
}
