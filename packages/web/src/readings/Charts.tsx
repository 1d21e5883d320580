// Readings of one run or of several as small charts on the frame axis, in step with the reel.
import { memo, useEffect, useMemo, useRef, type ReactNode } from 'react';
import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import styled, { useTheme } from 'styled-components';
import { READING_CURVES } from '@bramblemist/core/record/reading-curves';
import { goTo, usePlayhead } from '../data/playhead';
import { Quiet } from '../parts/ui';
import type { ChartedRun } from './charted';

/** What lies beside a chart's plot, px: its numbers, and a little air. */
const [LEFT, TOP, RIGHT] = [38, 4, 4];

/** A line across the plots where the reel stands; it goes along without a chart being drawn again. */
const Standing = styled.div`
  --at: 0;
  figure > div {
    position: relative;
  }
  figure > div::after {
    content: '';
    position: absolute;
    top: ${TOP}px;
    bottom: 0;
    left: calc(${LEFT}px + (100% - ${LEFT + RIGHT}px) * var(--at));
    border-left: 1px dashed ${({ theme }) => theme.quiet};
    pointer-events: none;
  }
  &[data-outside] figure > div::after {
    display: none;
  }
`;
const Chart = styled.figure`
  margin: 0 0 10px;
  figcaption {
    color: ${({ theme }) => theme.quiet};
    font-size: 12px;
  }
`;
const Names = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 0 0 6px;
  font-size: 12px;
  color: ${({ theme }) => theme.quiet};
  i {
    display: inline-block;
    width: 18px;
    margin-right: 5px;
    vertical-align: middle;
  }
`;
/** By tone and by dash, so that runs are told apart without colour too. */
const STROKES = [
  { tone: 'lichen', dash: undefined },
  { tone: 'thorn', dash: '5 3' },
  { tone: 'straw', dash: '2 3' },
  { tone: 'rust', dash: '8 3 2 3' },
] as const;

const short = (v: number): string =>
  v !== 0 && Math.abs(v) < 0.01 ? v.toExponential(0) : String(Number(v.toPrecision(2)));

/** Sets the line of Standing between the frames of charts, at every frame of the reel. */
function useStanding(frames: readonly number[]): React.RefObject<HTMLDivElement | null> {
  const box = useRef<HTMLDivElement>(null);
  const [first, last] = [frames[0], frames[frames.length - 1]];
  useEffect(() => {
    const follow = ({ frame }: { readonly frame: number }): void => {
      box.current?.style.setProperty('--at', String((frame - first) / (last - first)));
      box.current?.toggleAttribute('data-outside', !(frame >= first && frame <= last));
    };

    follow(usePlayhead.getState());
    return usePlayhead.subscribe(follow);
  }, [first, last]);
  return box;
}

/** A reading that is nothing throughout tells nothing and is left out. */
export const Charts = memo(function Charts({ runs }: { runs: readonly ChartedRun[] }): ReactNode {
  const theme = useTheme();
  const frames = useMemo(
    () => [...new Set(runs.flatMap((r) => r.frames.map((f) => f.frame)))].sort((a, b) => a - b),
    [runs],
  );
  const box = useStanding(frames);
  const charts = useMemo(() => {
    return READING_CURVES.flatMap((curve) => {
      const values = runs.map(
        (r) => new Map(curve.of(r.frames, r.frameS).map((v, n) => [r.frames[n].frame, v])),
      );
      if (values.every((of) => [...of.values()].every((v) => !v))) return [];
      return [
        {
          curve,
          data: frames.map((f) => ({
            frame: f,
            ...Object.fromEntries(values.map((of, n) => [`r${n}`, of.get(f) ?? null])),
          })),
        },
      ];
    });
  }, [runs, frames]);
  if (runs.every((r) => r.frames.length < 2)) return <Quiet>Readings come with the first frames.</Quiet>;
  return (
    <Standing ref={box}>
      {runs.length > 1 && (
        <Names>
          {runs.map((r, n) => (
            <span key={r.name}>
              <i
                style={{ borderTop: `2px ${STROKES[n].dash ? 'dashed' : 'solid'} ${theme[STROKES[n].tone]}` }}
              />
              {r.name}
            </span>
          ))}
        </Names>
      )}
      {charts.map(({ curve, data }) => (
        <Chart key={curve.key} title={curve.doc} aria-label={curve.label}>
          <figcaption>
            {curve.label}
            {curve.unit && `, ${curve.unit}`}
          </figcaption>
          <ResponsiveContainer width="100%" height={74}>
            <LineChart
              data={data}
              margin={{ top: TOP, right: RIGHT, bottom: 0, left: 0 }}
              onClick={({ activeLabel }) => activeLabel !== undefined && goTo(Number(activeLabel))}
            >
              <CartesianGrid stroke={theme.line} strokeDasharray="2 4" vertical={false} />
              <XAxis dataKey="frame" type="number" domain={['dataMin', 'dataMax']} hide />
              <YAxis
                width={LEFT}
                tick={{ fill: theme.quiet, fontSize: 11 }}
                tickCount={3}
                stroke="none"
                domain={[(low: number) => Math.min(0, low), 'auto']}
                tickFormatter={short}
              />
              <Tooltip
                contentStyle={{
                  background: theme.raised,
                  border: `1px solid ${theme.line}`,
                  color: theme.text,
                }}
                formatter={(v, key) => [
                  Number(Number(v).toPrecision(4)),
                  runs[Number(String(key).slice(1))]?.name ?? '',
                ]}
                labelFormatter={(f) => `frame ${String(f)}`}
              />
              {runs.map((_, n) => (
                <Line
                  key={STROKES[n].tone}
                  dataKey={`r${n}`}
                  dot={false}
                  stroke={theme[STROKES[n].tone]}
                  strokeDasharray={STROKES[n].dash}
                  strokeWidth={1.6}
                  isAnimationActive={false}
                />
              ))}
            </LineChart>
          </ResponsiveContainer>
        </Chart>
      ))}
    </Standing>
  );
});
