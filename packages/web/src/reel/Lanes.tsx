// Keyed settings as lanes on the frame axis: a mark for each key, to drag, to jump to, to take away, with its
// ease and value.
import { useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { create } from 'zustand';
import styled, { useTheme } from 'styled-components';
import { EASES } from '@bramblemist/core/recipe/settings';
import {
  moveKeys,
  scaleKeys,
  targetIn,
  valueOf,
  withKey,
  type KeyedCurve,
} from '@bramblemist/core/recipe/keys';
import type { Ease } from '@bramblemist/core/recipe/settings';
import { formatValue } from '@bramblemist/core/recipe/units';
import { change } from '../data/bench';
import { KEYED_PARTS, type KeyedName, type WithCurves } from '../data/keyed';
import { goTo } from '../data/playhead';
import { ChoiceWord } from '../parts/controls';
import { MoreMenu, type Deed } from '../parts/MoreMenu';
import { Plain } from '../parts/ui';

const Box = styled.div`
  border-top: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.ground};
  overflow: auto;
  max-height: 190px;
  padding: 4px 16px;
`;
/** Heights of a lane, folded and not, px. */
const LOW = 22;
const TALL = 118;
const Lane = styled.div<{ $tall: boolean }>`
  display: grid;
  grid-template-columns: 168px 1fr;
  align-items: ${({ $tall }) => ($tall ? 'start' : 'center')};
  height: ${({ $tall }) => ($tall ? TALL : LOW)}px;
`;
const Name = styled.div`
  font-size: 12px;
  line-height: 1.25;
  overflow: hidden;
  padding-right: 8px;
  button {
    font-size: 12px;
  }
`;
const Track = styled.div`
  position: relative;
  align-self: stretch;
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    overflow: visible;
  }
`;
const KeyMark = styled.div<{ $here: boolean; $holds: boolean }>`
  position: absolute;
  width: 11px;
  height: 11px;
  margin: -5.5px;
  border-radius: ${({ $holds }) => ($holds ? '1px' : '6px')};
  background: ${({ theme, $here }) => ($here ? theme.straw : theme.thorn)};
  cursor: grab;
  touch-action: none;
`;
const Tools = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
  padding-top: 6px;
`;

/** Keys that were copied, for another lane of this or another shot. */
const useCopied = create<{ readonly keys: KeyedCurve['keys'] | null; readonly after: KeyedCurve['after'] }>(
  () => ({
    keys: null,
    after: 'hold',
  }),
);

/** The keyed settings of a document, a lane each. */
export function Lanes({
  document,
  content,
  first,
  last,
  frame,
}: {
  document: KeyedName;
  content: WithCurves;
  first: number;
  last: number;
  frame: number;
}): ReactNode {
  if (content.curves.length === 0) return null;
  return (
    <Box aria-label="Keyed settings" role="group">
      {content.curves.map((curve, n) => (
        <CurveLane
          key={curve.id}
          document={document}
          content={content}
          curve={curve}
          index={n}
          first={first}
          last={last}
          frame={frame}
        />
      ))}
    </Box>
  );
}

interface LaneProps {
  readonly document: KeyedName;
  readonly content: WithCurves;
  readonly curve: KeyedCurve;
  readonly index: number;
  readonly first: number;
  readonly last: number;
  readonly frame: number;
}
const PAD = 10;

function CurveLane({ document, content, curve, index, first, last, frame }: LaneProps): ReactNode {
  const theme = useTheme();
  const [open, setOpen] = useState(false);
  const track = useRef<HTMLDivElement>(null);
  const drag = useRef<{ key: number; x: number; y: number; from: KeyedCurve } | null>(null);
  const { keys: copiedKeys, after: copiedAfter } = useCopied();
  const copied = copiedKeys && { keys: copiedKeys, after: copiedAfter };
  const target = targetIn(KEYED_PARTS[document], content, curve.path);
  if ('wrong' in target) return null;
  const { setting, name } = target;
  const count = last - first + 1;
  const height = open ? TALL : LOW;
  const values = curve.keys.map((k) => k.value);
  const low = Math.min(...values);
  const high = Math.max(...values);
  const span = high - low || 1;
  const x = (f: number): number => ((f - first + 0.5) / count) * 100;
  const y = (v: number): number =>
    open ? height - PAD - ((v - low) / span) * (height - 2 * PAD) : height / 2;
  const set = (label: string, next: KeyedCurve): void =>
    change(`${label} ${name}`, document, `curves.${index}`, next);
  const remove = (): void =>
    change(
      `remove keys of ${name}`,
      document,
      'curves',
      content.curves.filter((c) => c.id !== curve.id),
    );
  const removeKey = (f: number): void => {
    if (curve.keys.length === 1) return remove();
    set('remove a key of', { ...curve, keys: curve.keys.filter((k) => k.frame !== f) });
  };

  const inRange = (v: number): number =>
    Math.min(setting.most, Math.max(setting.least, Number(v.toPrecision(4))));
  const onKey = (e: KeyboardEvent, f: number): void => {
    const by = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, span / 20],
      ArrowDown: [0, -span / 20],
    }[e.key];
    if (e.key === 'Delete' || e.key === 'Backspace') removeKey(f);
    else if (by) set('move a key of', bounded(moveKeys(curve, new Set([f]), by[0], by[1])));
    else if (e.key === 'Enter' || e.key === ' ') goTo(f);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  const bounded = (c: KeyedCurve): KeyedCurve => ({
    ...c,
    keys: c.keys.map((k) => ({ ...k, value: inRange(k.value) })),
  });
  const path = Array.from({ length: count * 2 }, (_, n) => first + n / 2).map(
    (f) => `${x(f).toFixed(2)},${y(valueOf(curve, f)).toFixed(1)}`,
  );
  const here = curve.keys.find((k) => k.frame === frame);
  const toHere = (): KeyedCurve =>
    moveKeys(curve, new Set(curve.keys.map((k) => k.frame)), frame - curve.keys[0].frame, 0);
  const deeds: readonly Deed[] = [
    { label: 'Slower by a quarter', act: () => set('stretch', scaleKeys(curve, 1.25, 1)) },
    { label: 'Faster by a fifth', act: () => set('stretch', scaleKeys(curve, 0.8, 1)) },
    { label: 'Stronger by a quarter', act: () => set('scale', bounded(scaleKeys(curve, 1, 1.25))) },
    { label: 'Weaker by a fifth', act: () => set('scale', bounded(scaleKeys(curve, 1, 0.8))) },
    { label: `Start at frame ${frame}`, act: () => set('shift', toHere()) },
    { label: 'Copy', act: () => useCopied.setState({ keys: curve.keys, after: curve.after }) },
    ...(copied
      ? [{ label: 'Paste', act: () => set('paste keys to', bounded({ ...curve, ...copied })) }]
      : []),
    { label: 'Remove all keys', act: remove },
  ];
  return (
    <Lane $tall={open}>
      <Name>
        <Plain aria-expanded={open} onPress={() => setOpen(!open)}>
          {open ? '▾' : '▸'} {name}
        </Plain>
        {open && (
          <Tools>
            <span>{formatValue(Number(valueOf(curve, frame).toPrecision(4)), setting.unit)}</span>
            {here ? (
              <ChoiceWord
                name={`Ease of ${name} at ${frame}`}
                value={here.ease}
                options={EASES.map((e) => ({ value: e, label: e }))}
                onChange={(ease) =>
                  set('ease', {
                    ...curve,
                    keys: curve.keys.map((k) => (k === here ? { ...k, ease: ease as Ease } : k)),
                  })
                }
              />
            ) : (
              <Plain onPress={() => set('key', withKey(curve, frame, valueOf(curve, frame)))}>key here</Plain>
            )}
            <span>then</span>
            <ChoiceWord
              name={`After the last key of ${name}`}
              value={curve.after}
              options={['hold', 'loop', 'swing'].map((v) => ({ value: v, label: v }))}
              onChange={(after) => set('end of', { ...curve, after: after as KeyedCurve['after'] })}
            />
            <MoreMenu label={`Keys of ${name}`} deeds={deeds} />
          </Tools>
        )}
      </Name>
      <Track ref={track}>
        <svg viewBox={`0 0 100 ${height}`} preserveAspectRatio="none">
          <line
            x1={0}
            x2={100}
            y1={height - 0.5}
            y2={height - 0.5}
            stroke={theme.line}
            vectorEffect="non-scaling-stroke"
          />
          {open && (
            <polyline
              points={path.join(' ')}
              fill="none"
              stroke={theme.thorn}
              strokeWidth={1.5}
              vectorEffect="non-scaling-stroke"
            />
          )}
        </svg>
        {curve.keys
          .filter((k) => k.frame >= first && k.frame <= last)
          .map((k) => (
            <KeyMark
              key={k.frame}
              role="button"
              tabIndex={0}
              aria-label={`${name}: ${formatValue(k.value, setting.unit)} at frame ${k.frame}`}
              title={
                `${formatValue(k.value, setting.unit)} at frame ${k.frame}, ${k.ease}. Drag to move; ` +
                'double press or Delete takes it away.'
              }
              $here={k.frame === frame}
              $holds={k.ease === 'hold'}
              style={{ left: `${x(k.frame)}%`, top: y(k.value) }}
              onKeyDown={(e) => onKey(e, k.frame)}
              onDoubleClick={() => removeKey(k.frame)}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                drag.current = { key: k.frame, x: e.clientX, y: e.clientY, from: curve };
              }}
              onPointerMove={(e) => {
                const d = drag.current;
                const box = track.current?.getBoundingClientRect();
                if (!d || !box) return;
                const frames = Math.round(((e.clientX - d.x) / box.width) * count);
                const value = open ? (-(e.clientY - d.y) / (box.height - 2 * PAD)) * span : 0;
                if (frames !== 0 || Math.abs(value) > span / 50)
                  set('move a key of', bounded(moveKeys(d.from, new Set([d.key]), frames, value)));
              }}
              onPointerUp={() => (drag.current = null)}
              onClick={() => goTo(k.frame)}
            />
          ))}
      </Track>
    </Lane>
  );
}
