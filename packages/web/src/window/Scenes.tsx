// The scene, alone or with another run: side by side, wiped, or as the difference of the two pictures.
import { useRef, type CSSProperties, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import { useCompare } from '../data/compare';

const Whole = styled.div<{ $difference: boolean }>`
  position: absolute;
  inset: 0;
  ${({ $difference }) => $difference && 'isolation: isolate; filter: brightness(2.5); background: #000;'}
`;
const Half = styled.div<{ $from: number; $to: number }>`
  position: absolute;
  top: 0;
  bottom: 0;
  left: ${({ $from }) => 100 * $from}%;
  right: ${({ $to }) => 100 * (1 - $to)}%;
  > div {
    position: absolute !important;
    inset: 0;
  }
`;
const Line = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  width: 13px;
  margin-left: -6px;
  cursor: ew-resize;
  touch-action: none;
  &::after {
    content: '';
    position: absolute;
    left: 6px;
    top: 0;
    bottom: 0;
    width: 1px;
    background: #f2f0f1;
  }
`;
const STEP = 0.02;

/** @param one the run that is shown; @param two the other, null for one alone */
export function Scenes({ one, two }: { one: ReactNode; two: ReactNode | null }): ReactNode {
  const { mode, at } = useCompare();
  const box = useRef<HTMLDivElement>(null);
  const held = useRef(false);
  const set = (v: number): void => useCompare.setState({ at: Math.min(0.98, Math.max(0.02, v)) });
  const onMove = (e: PointerEvent): void => {
    const r = box.current!.getBoundingClientRect();
    if (held.current) set((e.clientX - r.left) / r.width);
  };

  const onKey = (e: KeyboardEvent): void => {
    if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return;
    e.preventDefault();
    e.stopPropagation();
    set(at + (e.key === 'ArrowLeft' ? -STEP : STEP));
  };

  const side = two !== null && mode === 'side';
  // the first scene keeps its place among its parents, so that it is not made anew when another comes
  return (
    <Whole ref={box} $difference={two !== null && mode === 'difference'}>
      <Half $from={0} $to={side ? 0.5 : 1}>
        {one}
      </Half>
      {two !== null && (
        <Half $from={side ? 0.5 : 0} $to={1} style={styleOf(mode, at)}>
          {two}
        </Half>
      )}
      {two !== null && mode === 'wipe' && (
        <Line
          role="slider"
          tabIndex={0}
          aria-label="Where the wipe stands"
          aria-valuenow={Math.round(100 * at)}
          aria-valuemin={2}
          aria-valuemax={98}
          style={{ left: `${100 * at}%` }}
          onPointerDown={(e) => {
            held.current = true;
            e.currentTarget.setPointerCapture(e.pointerId);
          }}
          onPointerMove={onMove}
          onPointerUp={() => (held.current = false)}
          onKeyDown={onKey}
        />
      )}
    </Whole>
  );
}

/** How the second of two scenes lies over or beside the first. */
function styleOf(mode: string, at: number): CSSProperties {
  if (mode === 'wipe') return { clipPath: `inset(0 0 0 ${100 * at}%)`, pointerEvents: 'none' };
  if (mode === 'difference') return { mixBlendMode: 'difference', pointerEvents: 'none' };
  return { borderLeft: '1px solid #f2f0f188' };
}
