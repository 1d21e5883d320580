// The course of something over frames or seconds, drawn small beside the setting that makes it.
import { useMemo, type ReactNode } from 'react';
import { Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import styled, { useTheme } from 'styled-components';
import { useCalmFrame } from '../data/playhead';

const Figure = styled.figure`
  margin: 4px 0 8px;
  figcaption {
    color: ${({ theme }) => theme.quiet};
    font-size: 12px;
    display: flex;
    gap: 12px;
  }
  i {
    display: inline-block;
    width: 14px;
    margin-right: 5px;
    vertical-align: middle;
  }
`;
const POINTS = 120;
const TONES = ['lichen', 'straw', 'thorn'] as const;

export interface CourseProps {
  readonly title: string;
  readonly unit: string;
  /** What goes to the right; of frames the one that is shown is marked. */
  readonly x: 'frame' | 's';
  readonly from: number;
  readonly to: number;
  readonly lines: readonly { readonly name: string; readonly at: (x: number) => number }[];
}

export function Course({ title, unit, x, from, to, lines }: CourseProps): ReactNode {
  const theme = useTheme();
  const frame = useCalmFrame();
  const data = useMemo(
    () =>
      Array.from({ length: POINTS + 1 }, (_, n) => {
        const at = from + ((to - from) * n) / POINTS;
        return { x: at, ...Object.fromEntries(lines.map((l) => [l.name, l.at(at)])) };
      }),
    [from, to, lines],
  );
  const short = (v: number): string => String(Number(v.toPrecision(2)));
  return (
    <Figure aria-label={title}>
      <figcaption>
        <span>
          {title}, {unit}
        </span>
        {lines.length > 1 &&
          lines.map((l, n) => (
            <span key={l.name}>
              <i style={{ borderTop: `2px ${n ? 'dashed' : 'solid'} ${theme[TONES[n % TONES.length]]}` }} />
              {l.name}
            </span>
          ))}
      </figcaption>
      <ResponsiveContainer width="100%" height={72}>
        <LineChart data={data} margin={{ top: 6, right: 6, bottom: 0, left: 0 }}>
          <XAxis
            dataKey="x"
            type="number"
            domain={[from, to]}
            tickCount={4}
            height={16}
            tick={{ fill: theme.quiet, fontSize: 11 }}
            stroke={theme.line}
            tickFormatter={(v: number) => (x === 's' ? `${short(v)} s` : String(Math.round(v)))}
          />
          <YAxis
            width={34}
            tickCount={3}
            tick={{ fill: theme.quiet, fontSize: 11 }}
            stroke="none"
            tickFormatter={short}
          />
          {x === 'frame' && <ReferenceLine x={frame} stroke={theme.thorn} />}
          {lines.map((l, n) => (
            <Line
              key={l.name}
              dataKey={l.name}
              dot={false}
              stroke={theme[TONES[n % TONES.length]]}
              strokeDasharray={n ? '4 3' : undefined}
              strokeWidth={1.6}
              isAnimationActive={false}
            />
          ))}
        </LineChart>
      </ResponsiveContainer>
    </Figure>
  );
}
