// A curve over 0…1 that is drawn by points: drag them, press twice to add one, Delete takes one away.
import { useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import styled, { useTheme } from 'styled-components';
import { valueAt, type Profile } from '@bramblemist/core/recipe/profile';

const WIDE = 190;
const HIGH = 74;
const EDGE = 7;
const STEP = 0.02;
const MOST = 32;
const Box = styled.svg`
  display: block;
  width: ${WIDE}px;
  height: ${HIGH}px;
  background: ${({ theme }) => theme.raised};
  border-radius: 4px;
  touch-action: none;
  circle {
    cursor: grab;
    outline: none;
  }
  circle:focus-visible {
    stroke: ${({ theme }) => theme.text};
    stroke-width: 2;
  }
`;
const tidy = (v: number): number => Number(Math.min(1, Math.max(0, v)).toFixed(3));

export function ProfileField({
  name,
  value,
  onward = false,
  onChange,
}: {
  name: string;
  value: Profile;
  /** It ends as it goes, and not level. */
  onward?: boolean;
  onChange: (value: Profile) => void;
}): ReactNode {
  const theme = useTheme();
  const box = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<number | null>(null);
  const x = (v: number): number => EDGE + v * (WIDE - 2 * EDGE);
  const y = (v: number): number => HIGH - EDGE - v * (HIGH - 2 * EDGE);
  const placeOf = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = box.current!.getBoundingClientRect();
    return [
      tidy((e.clientX - r.left - EDGE) / (WIDE - 2 * EDGE)),
      tidy((r.bottom - e.clientY - EDGE) / (HIGH - 2 * EDGE)),
    ];
  };

  /** A point stays between its neighbours, the outermost ones at the ends. */
  const put = (n: number, [at, v]: readonly [number, number]): void => {
    const isEnd = n === 0 || n === value.length - 1;
    const least = isEnd ? Math.sign(n) : value[n - 1][0] + STEP / 2;
    const most = isEnd ? Math.sign(n) : value[n + 1][0] - STEP / 2;
    onChange(value.map((p, m) => (m === n ? [tidy(Math.min(most, Math.max(least, at))), tidy(v)] : p)));
  };

  const add = (e: { clientX: number; clientY: number }): void => {
    const [at, v] = placeOf(e);
    if (value.length >= MOST || value.some((p) => Math.abs(p[0] - at) < STEP)) return;
    onChange([...value, [at, v] as const].sort((a, b) => a[0] - b[0]));
  };

  const onKey = (n: number) => (e: KeyboardEvent) => {
    const by = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, STEP], ArrowDown: [0, -STEP] }[
      e.key
    ];
    if (by) {
      e.preventDefault();
      put(n, [value[n][0] + by[0], value[n][1] + by[1]]);
    } else if ((e.key === 'Delete' || e.key === 'Backspace') && n > 0 && n < value.length - 1) {
      e.preventDefault();
      onChange(value.filter((_, m) => m !== n));
    }

    e.stopPropagation();
  };

  const line = Array.from(
    { length: 61 },
    (_, n) =>
      `${x(n / 60).toFixed(1)},${y(Math.min(1, Math.max(0, valueAt(value, n / 60, onward)))).toFixed(1)}`,
  ).join(' ');
  return (
    <Box
      ref={box}
      role="group"
      aria-label={`${name}, a curve of ${value.length} points`}
      onDoubleClick={add}
      onPointerMove={(e: PointerEvent) => held !== null && put(held, placeOf(e))}
      onPointerUp={() => setHeld(null)}
    >
      <title>Drag the points. Press twice for another one; Delete takes it away.</title>
      <polyline points={`${x(0)},${y(0)} ${line} ${x(1)},${y(0)}`} fill={theme.thorn} opacity={0.18} />
      <polyline points={line} fill="none" stroke={theme.thorn} strokeWidth={1.6} />
      {value.map(([at, v], n) => (
        <circle
          key={n}
          cx={x(at)}
          cy={y(v)}
          r={4.5}
          fill={theme.straw}
          tabIndex={0}
          role="slider"
          aria-label={`${name}, point ${n + 1} at ${at}`}
          aria-valuemin={0}
          aria-valuemax={1}
          aria-valuenow={v}
          onKeyDown={onKey(n)}
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.ownerSVGElement!.setPointerCapture(e.pointerId);
            setHeld(n);
          }}
          onDoubleClick={(e) => e.stopPropagation()}
        />
      ))}
    </Box>
  );
}
