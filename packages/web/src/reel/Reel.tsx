// The run as an instrument: frames as a strip whose fill says what is there, readings as curves on the same axis.
import { Pause, Play, SkipBack, SkipForward } from 'lucide-react';
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import { Button } from 'react-aria-components';
import styled, { useTheme } from 'styled-components';
import type { Readings } from '@bramblemist/core/readings/readings';
import { goTo } from '../data/playhead';

const Frame = styled.footer`
  display: grid;
  grid-template-columns: 168px 1fr;
  border-top: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.ground};
  padding: 10px 16px 8px;
  min-height: 0;
`;
const Number_ = styled.div`
  font: 30px/1 ${({ theme }) => theme.serif};
`;
const Keys = styled.div`
  display: flex;
  gap: 4px;
  margin: 10px 0 8px -5px;
`;
const Key = styled(Button)`
  background: none;
  border: none;
  padding: 4px 6px;
  line-height: 0;
  border-radius: 4px;
  cursor: pointer;
  color: ${({ theme }) => theme.text};
  &[data-hovered] {
    background: ${({ theme }) => theme.raised};
  }
  &[data-disabled] {
    opacity: 0.35;
  }
`;
const Small = styled.div`
  color: ${({ theme }) => theme.quiet};
  font-size: 12px;
`;
const Strip = styled.div`
  position: relative;
  min-width: 0;
  min-height: 0;
  touch-action: none;
  cursor: pointer;
  svg {
    display: block;
    width: 100%;
    height: 100%;
  }
`;

export type FrameState = 'none' | 'live' | 'kept' | 'stale';

export interface ReelProps {
  readonly first: number;
  readonly last: number;
  readonly frame: number;
  readonly frameRate: number;
  readonly playing: boolean;
  readonly stateOf: (frame: number) => FrameState;
  readonly readings: ReadonlyMap<number, Readings>;
  /** What is said under the buttons. */
  readonly note: string;
  /** What the fill means, for the eye and for screen readers. */
  readonly legend: string;
  readonly onPlay: (playing: boolean) => void;
}

const CURVES = [
  { key: 'mass', label: 'mass', tone: 'lichen', dash: '' },
  { key: 'riseHeight', label: 'rise height', tone: 'straw', dash: '' },
  { key: 'topSpeed', label: 'top speed', tone: 'thorn', dash: '4 3' },
] as const;
const CURVES_TOP = 22,
  STRIP_HEIGHT = 26,
  LABELS = 18;

export function Reel(props: ReelProps): ReactNode {
  const { first, last, frame, frameRate, playing, stateOf, readings, note, legend, onPlay } = props;
  const theme = useTheme(),
    box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 800, height: 140 });
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setSize({ width: entry.contentRect.width, height: entry.contentRect.height }));
    if (box.current) watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const count = last - first + 1,
    cell = size.width / count,
    stripY = size.height - LABELS - STRIP_HEIGHT;
  const x = (f: number): number => (f - first) * cell;
  const colours: Record<FrameState, string> = { none: theme.raised, live: theme.lichen, kept: theme.lichen, stale: theme.straw };
  const runs: { from: number; to: number; state: FrameState }[] = [];
  for (let f = first; f <= last; f++) {
    const state = stateOf(f),
      top = runs[runs.length - 1];
    if (top?.state === state) top.to = f;
    else runs.push({ from: f, to: f, state });
  }
  const every = [1, 2, 5, 10, 12, 24, 48, 96, 120, 240, 480, 960].find((n) => n * cell >= 46) ?? 1000;
  const curveHeight = Math.max(10, stripY - CURVES_TOP - 8);
  const at = (e: PointerEvent): void => {
    const r = box.current!.getBoundingClientRect();
    goTo(Math.min(last, Math.max(first, first + Math.floor(((e.clientX - r.left) / r.width) * count))));
  };
  const onKey = (e: KeyboardEvent): void => {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -12, PageDown: 12 }[e.key];
    const to = by ? frame + by : e.key === 'Home' ? first : e.key === 'End' ? last : null;
    if (to === null) return;
    e.preventDefault();
    goTo(Math.min(last, Math.max(first, to)));
  };
  return (
    <Frame aria-label="Reel">
      <div>
        <Number_ data-testid="frame">{frame}</Number_>
        <Keys>
          <Key aria-label="To the first frame" onPress={() => goTo(first)}>
            <SkipBack size={15} />
          </Key>
          <Key aria-label={playing ? 'Pause' : 'Play'} onPress={() => onPlay(!playing)}>
            {playing ? <Pause size={17} /> : <Play size={17} />}
          </Key>
          <Key aria-label="To the last frame" onPress={() => goTo(last)}>
            <SkipForward size={15} />
          </Key>
        </Keys>
        <Small>
          {((frame - first) / frameRate).toFixed(2)} s{note && ` · ${note}`}
        </Small>
      </div>
      <Strip
        ref={box}
        role="slider"
        tabIndex={0}
        aria-label="Frame"
        aria-valuemin={first}
        aria-valuemax={last}
        aria-valuenow={frame}
        aria-valuetext={`Frame ${frame}. ${legend}`}
        onKeyDown={onKey}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          at(e);
        }}
        onPointerMove={(e) => e.buttons === 1 && at(e)}
      >
        <svg aria-hidden>
          {CURVES.map((c, n) => {
            const points: string[] = [];
            let greatest = 0;
            for (const r of readings.values()) greatest = Math.max(greatest, r[c.key]);
            for (let f = first; f <= last; f++) {
              const r = readings.get(f);
              if (r && greatest > 0)
                points.push(`${(x(f) + cell / 2).toFixed(1)},${(CURVES_TOP + curveHeight * (1 - r[c.key] / greatest)).toFixed(1)}`);
            }
            const now = readings.get(frame)?.[c.key];
            return (
              <g key={c.key}>
                <line x1={n * 150} x2={n * 150 + 16} y1={8} y2={8} stroke={theme[c.tone]} strokeWidth={1.6} strokeDasharray={c.dash} />
                <text x={n * 150 + 22} y={12} fontSize={12} fill={theme.quiet}>
                  {c.label}
                  {now !== undefined
                    ? ` ${Number(now.toPrecision(3))}${c.key === 'riseHeight' ? ' m' : c.key === 'topSpeed' ? ' m/s' : ''}`
                    : ''}
                </text>
                {points.length > 1 && (
                  <polyline
                    points={points.join(' ')}
                    fill="none"
                    stroke={theme[c.tone]}
                    strokeWidth={1.6}
                    strokeDasharray={c.dash}
                    strokeLinejoin="round"
                  />
                )}
              </g>
            );
          })}
          {runs.map((r) => (
            <rect
              key={r.from}
              x={x(r.from)}
              y={stripY}
              width={cell * (r.to - r.from + 1)}
              height={STRIP_HEIGHT}
              fill={colours[r.state]}
              opacity={r.state === 'none' ? 1 : 0.62}
            />
          ))}
          {cell > 3 && (
            <>
              <pattern id="frames" width={cell} height={STRIP_HEIGHT} patternUnits="userSpaceOnUse">
                <rect width={1.5} height={STRIP_HEIGHT} fill={theme.ground} />
              </pattern>
              <rect x={0} y={stripY} width={size.width} height={STRIP_HEIGHT} fill="url(#frames)" />
            </>
          )}
          {Array.from({ length: count }, (_, n) => first + n)
            .filter((f) => (f - first) % every === 0)
            .map((f) => (
              <text
                key={f}
                x={x(f) + cell / 2}
                y={size.height - 2}
                fontSize={12}
                fill={theme.quiet}
                textAnchor={f === first ? 'start' : 'middle'}
              >
                {f}
              </text>
            ))}
          <text x={size.width} y={12} fontSize={12} fill={theme.quiet} textAnchor="end">
            {legend}
          </text>
          <rect
            x={x(frame) - 1}
            y={stripY - 5}
            width={Math.max(cell, 3) + 2}
            height={STRIP_HEIGHT + 10}
            rx={2}
            fill="none"
            stroke={theme.thorn}
            strokeWidth={2}
          />
        </svg>
      </Strip>
    </Frame>
  );
}
