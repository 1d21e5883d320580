// The run as an instrument: frames as a strip whose fill says what is there, readings as curves on the same
// axis.
import { MoveRight, Pause, Play, Repeat, SkipBack, SkipForward, StepBack, StepForward } from 'lucide-react';
import {
  memo,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
} from 'react';
import { Button } from 'react-aria-components';
import styled, { useTheme } from 'styled-components';
import type { Readings } from '@bramblemist/core/record/readings';
import { goTo, usePlayhead } from '../data/playhead';
import { NextStepSlot } from '../parts/NextStep';

/** Units that a reading's last value is told with. */
const UNITS: Readonly<Record<string, string>> = { riseHeight: ' m', topSpeed: ' m/s' };

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
  gap: 1px;
  margin: 10px 0 8px -5px;
`;
const Key = styled(Button)`
  background: none;
  border: none;
  padding: 4px;
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

const Legend = styled.div`
  position: absolute;
  inset: 0 0 auto 0;
  display: flex;
  gap: 26px;
  font-size: 12px;
  line-height: 16px;
  color: ${({ theme }) => theme.quiet};
  pointer-events: none;
  contain: strict;
  height: 16px;
  i {
    display: inline-block;
    width: 16px;
    margin-right: 6px;
    vertical-align: middle;
  }
  span:last-child {
    margin-left: auto;
  }
`;
const Playhead = styled.div`
  position: absolute;
  left: 0;
  top: 0;
  height: 36px;
  border: 2px solid ${({ theme }) => theme.thorn};
  border-radius: 2px;
  pointer-events: none;
  will-change: transform;
`;

export type FrameState = 'none' | 'live' | 'kept' | 'stale';

export interface Strip {
  readonly id: string;
  readonly label: string;
  readonly from: number;
  readonly to: number;
  /** Frames that are marked on it. */
  readonly marks: readonly number[];
  readonly isChosen: boolean;
}

export interface ReelProps {
  readonly first: number;
  readonly last: number;
  readonly frame: number;
  readonly frameRate: number;
  readonly playing: boolean;
  readonly stateOf: (frame: number) => FrameState;
  readonly readings: ReadonlyMap<number, Readings>;
  /** Frames in which something was noticed for the first time. */
  readonly flags: readonly number[];
  /** In place of readings: what is there from which frame to which, such as layers. */
  readonly strips?: readonly Strip[];
  /** What is said under the buttons. */
  readonly note: string;
  /** What the fill means, for the eye and for screen readers. */
  readonly legend: string;
  readonly onPlay: (playing: boolean) => void;
  readonly onStep: (by: 1 | -1) => void;
}

const CURVES = [
  { key: 'mass', label: 'mass', tone: 'lichen', dash: '' },
  { key: 'riseHeight', label: 'rise height', tone: 'straw', dash: '' },
  { key: 'topSpeed', label: 'top speed', tone: 'thorn', dash: '4 3' },
] as const;
const CURVES_TOP = 22;
const STRIP_HEIGHT = 26;
const LABELS = 18;

export function Reel(props: ReelProps): ReactNode {
  const { first, last, frame, frameRate, playing, stateOf, readings, flags, note, legend } = props;
  const { strips, onPlay, onStep } = props;
  const loop = usePlayhead((s) => s.loop);
  const theme = useTheme();
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 800, height: 140 });
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) =>
      setSize({ width: entry.contentRect.width, height: entry.contentRect.height }),
    );
    if (box.current) watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const count = last - first + 1;
  const cell = size.width / count;
  const stripY = size.height - LABELS - STRIP_HEIGHT;
  const runsKey = useMemo(() => {
    const runs: string[] = [];
    for (let f = first, from = first, state = stateOf(first); f <= last; f++) {
      const next = f < last ? stateOf(f + 1) : null;
      if (next === state) continue;
      runs.push(`${from}-${f}-${state}`);
      from = f + 1;
      if (next) state = next;
    }

    return runs.join();
  }, [first, last, stateOf]);
  const at = (e: PointerEvent): void => {
    const r = box.current!.getBoundingClientRect();
    goTo(Math.min(last, Math.max(first, first + Math.floor(((e.clientX - r.left) / r.width) * count))));
  };

  const onKey = (e: KeyboardEvent): void => {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -12, PageDown: 12 }[e.key];
    const ends: Readonly<Record<string, number>> = { Home: first, End: last };
    const to = by ? frame + by : (ends[e.key] ?? null);
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
          <Key aria-label="A frame back" onPress={() => onStep(-1)}>
            <StepBack size={14} />
          </Key>
          <Key aria-label={playing ? 'Pause' : 'Play'} onPress={() => onPlay(!playing)}>
            {playing ? <Pause size={17} /> : <Play size={17} />}
          </Key>
          <Key aria-label="A frame on" onPress={() => onStep(1)}>
            <StepForward size={14} />
          </Key>
          <Key aria-label="To the last frame" onPress={() => goTo(last)}>
            <SkipForward size={15} />
          </Key>
          <Key
            aria-label="Over and over"
            aria-pressed={loop}
            onPress={() => usePlayhead.setState({ loop: !loop })}
          >
            {loop ? <Repeat size={14} /> : <MoveRight size={14} />}
          </Key>
        </Keys>
        <Small>
          {((frame - first) / frameRate).toFixed(2)} s{note && ` · ${note}`}
        </Small>
        <NextStepSlot />
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
        <Drawing
          first={first}
          last={last}
          size={size}
          readings={readings}
          runs={runsKey}
          flags={flags}
          strips={strips}
        />
        <Legend aria-hidden>
          {(strips ? [] : CURVES).map((c) => {
            const now = readings.get(frame)?.[c.key];
            return (
              <span key={c.key}>
                <i style={{ borderTop: `2px ${c.dash ? 'dashed' : 'solid'} ${theme[c.tone]}` }} />
                {c.label}
                {now !== undefined && ' ' + `${Number(now.toPrecision(3))}${UNITS[c.key] ?? ''}`}
              </span>
            );
          })}
          <span>{legend}</span>
        </Legend>
        <Playhead
          style={{
            width: Math.max(cell, 3) + 2,
            transform: `translate(${(frame - first) * cell - 1}px, ${stripY - 5}px)`,
          }}
        />
      </Strip>
    </Frame>
  );
}

/** Curves and frames, apart from what moves with each frame: painting them is the dear part of the reel. */
const Drawing = memo(function Drawing({
  first,
  last,
  size,
  readings,
  runs,
  flags,
  strips,
}: {
  first: number;
  last: number;
  size: { width: number; height: number };
  readings: ReadonlyMap<number, Readings>;
  runs: string;
  flags: readonly number[];
  strips: readonly Strip[] | undefined;
}): ReactNode {
  const theme = useTheme();
  const count = last - first + 1;
  const cell = size.width / count;
  const stripY = size.height - LABELS - STRIP_HEIGHT;
  const x = (f: number): number => (f - first) * cell;
  const colours: Record<string, string> = {
    none: theme.raised,
    live: theme.lichen,
    kept: theme.lichen,
    stale: theme.straw,
  };
  const every = [1, 2, 5, 10, 12, 24, 48, 96, 120, 240, 480, 960].find((n) => n * cell >= 46) ?? 1000;
  const curveHeight = Math.max(10, stripY - CURVES_TOP - 8);
  return (
    <svg aria-hidden>
      {strips?.map((strip, n) => (
        <StripDrawn
          key={strip.id}
          strip={strip}
          y={CURVES_TOP + (n * curveHeight) / strips.length}
          high={Math.min(18, curveHeight / strips.length)}
          x={x}
          cell={cell}
          first={first}
          last={last}
        />
      ))}
      {(strips ? [] : CURVES).map((c) => {
        const points: string[] = [];
        let greatest = 0;
        for (const r of readings.values()) greatest = Math.max(greatest, r[c.key]);
        for (let f = first; f <= last; f++) {
          const r = readings.get(f);
          if (r && greatest > 0)
            points.push(
              [x(f) + cell / 2, CURVES_TOP + curveHeight * (1 - r[c.key] / greatest)]
                .map((v) => v.toFixed(1))
                .join(),
            );
        }

        return (
          <polyline
            key={c.key}
            points={points.join(' ')}
            fill="none"
            stroke={theme[c.tone]}
            strokeWidth={1.6}
            strokeDasharray={c.dash}
            strokeLinejoin="round"
          />
        );
      })}
      {runs.split(',').map((run) => {
        const [from, to, state] = run.split('-');
        return (
          <rect
            key={from}
            x={x(Number(from))}
            y={stripY}
            width={cell * (Number(to) - Number(from) + 1)}
            height={STRIP_HEIGHT}
            fill={colours[state]}
            opacity={state === 'none' ? 1 : 0.62}
          />
        );
      })}
      {flags.map((f) => (
        <path
          key={f}
          d={`M${x(f) + cell / 2} ${stripY} v-15 l9 4.5 l-9 4.5`}
          stroke={theme.rust}
          strokeWidth={1.5}
          fill={theme.rust}
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
    </svg>
  );
});

function StripDrawn({
  strip: { label, from, to, marks, isChosen },
  y,
  high,
  x,
  cell,
  first,
  last,
}: {
  strip: Strip;
  y: number;
  high: number;
  x: (frame: number) => number;
  cell: number;
  first: number;
  last: number;
}): ReactNode {
  const theme = useTheme();
  const [a, b] = [Math.max(first, from), Math.min(last, to)];
  if (b < a) return null;
  const middle = y + high / 2;
  return (
    <g>
      <rect
        x={x(a)}
        y={y + 1}
        width={Math.max(2, x(b) - x(a) + cell)}
        height={Math.max(3, high - 3)}
        rx={3}
        fill={isChosen ? theme.thorn : theme.raised}
        opacity={isChosen ? 0.55 : 1}
      />
      {high >= 12 && (
        <text x={x(a) + 6} y={middle + 4} fontSize={12} fill={theme.text}>
          {label}
        </text>
      )}
      {marks.map((f) => (
        <circle key={f} cx={x(f) + cell / 2} cy={middle} r={3.5} fill={theme.straw} />
      ))}
    </g>
  );
}

/** A value that follows another at most every `ms`, and ends equal to it. */
export function useCalm<T>(value: T, ms: number): T {
  const [shown, setShown] = useState(value);
  const latest = useRef(value);
  const timer = useRef(0);
  useEffect(() => {
    latest.current = value;
    if (timer.current) return;
    timer.current = window.setTimeout(() => {
      timer.current = 0;
      setShown(() => latest.current);
    }, ms);
  }, [value, ms]);
  useEffect(
    () => () => {
      window.clearTimeout(timer.current);
      timer.current = 0;
    },
    [],
  );
  return shown;
}
