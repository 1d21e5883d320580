// What lies over the comp in the window: the frame's lines, and handles of what is chosen: a layer's place,
// size and turn, a mask's corners.
import { useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import type { Combine, CompLayer, CompMask } from '@bramblemist/core/combine/combine';
import { shapeAt, smoothed } from '@bramblemist/core/combine/masks';
import {
  inverted,
  mapped,
  moved,
  scaled,
  times,
  turned,
  type Matrix,
} from '@bramblemist/core/combine/placing';
import { valueOf } from '@bramblemist/core/recipe/keys';
import { change } from '../data/bench';
import { putNumbers } from '../data/keyed';
import { usePlayhead } from '../data/playhead';
import type { LayerSeen } from './messages';
import { useChosen } from './use-comp';

const Over = styled.svg`
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  .knob {
    pointer-events: all;
    cursor: move;
    outline: none;
    fill: ${({ theme }) => theme.thorn};
    stroke: #fff;
    stroke-width: 1.5;
  }
  .knob:focus-visible {
    stroke-width: 3;
  }
  .line {
    fill: none;
    stroke: ${({ theme }) => theme.thorn};
    stroke-width: 1.5;
  }
  .soft {
    fill: none;
    stroke: ${({ theme }) => theme.thorn};
    stroke-dasharray: 4 4;
    opacity: 0.8;
  }
  .frame {
    fill: none;
    stroke: #ffffff66;
  }
  .wipe {
    stroke: #fff;
    stroke-width: 1.5;
  }
`;

type Place = { readonly x: number; readonly y: number };
/** Parts of the frame within which action and words are safe to be seen (SMPTE ST 2046-1). */
const SAFE = [0.93, 0.9];

export function CompHandles({
  comp,
  layers,
  toScreen,
  toComp,
  zoom,
  safe,
  wipe,
}: {
  comp: Combine;
  layers: readonly LayerSeen[];
  toScreen: (x: number, y: number) => Place;
  toComp: (e: { clientX: number; clientY: number }) => Place;
  zoom: number;
  safe: boolean;
  wipe: number | null;
}): ReactNode {
  const chosen = useChosen((s) => s.id);
  const { width, height } = comp.frame;
  const layer = comp.layers.find(({ id }) => id === chosen);
  const mask = comp.masks.find(({ id, kind }) => id === chosen && kind === 'drawn');
  const box = (part: number): ReactNode => {
    const a = toScreen((width * (1 - part)) / 2, (height * (1 - part)) / 2);
    const b = toScreen((width * (1 + part)) / 2, (height * (1 + part)) / 2);
    return <rect key={part} className="frame" x={a.x} y={a.y} width={b.x - a.x} height={b.y - a.y} />;
  };

  const line = wipe === null ? null : [toScreen(wipe * width, 0), toScreen(wipe * width, height)];
  return (
    <Over>
      {safe && [1, ...SAFE].map(box)}
      {line && <line className="wipe" x1={line[0].x} y1={line[0].y} x2={line[1].x} y2={line[1].y} />}
      {layer && (
        <LayerHandles
          comp={comp}
          layer={layer}
          seen={layers.find(({ id }) => id === layer.id)}
          toScreen={toScreen}
          toComp={toComp}
        />
      )}
      {mask && <MaskHandles comp={comp} mask={mask} toScreen={toScreen} toComp={toComp} zoom={zoom} />}
    </Over>
  );
}

/** A point that is dragged, or moved by arrow keys. */
function Knob({
  at,
  label,
  square,
  onGrab,
  onDrag,
  onStep,
  onRemove,
  toComp,
}: {
  at: Place;
  label: string;
  square?: boolean;
  onGrab?: () => void;
  /** To a place of the comp, from where it was taken. */
  onDrag: (to: Place, from: Place, turns: boolean) => void;
  onStep: (dx: number, dy: number) => void;
  onRemove?: () => void;
  toComp: (e: { clientX: number; clientY: number }) => Place;
}): ReactNode {
  const taken = useRef<Place | null>(null);
  const onKey = (e: KeyboardEvent): void => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (by) {
      const step = e.shiftKey ? 10 : 1;
      onStep(by[0] * step, by[1] * step);
    } else if (onRemove && (e.key === 'Delete' || e.key === 'Backspace')) onRemove();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  const props = {
    className: 'knob',
    role: 'slider',
    'aria-label': label,
    'aria-valuenow': Math.round(at.x),
    'aria-valuetext': label,
    tabIndex: 0,
    onKeyDown: onKey,
    onPointerDown: (e: PointerEvent) => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      taken.current = toComp(e);
      onGrab?.();
    },
    onPointerMove: (e: PointerEvent) => taken.current && onDrag(toComp(e), taken.current, e.shiftKey),
    onPointerUp: () => (taken.current = null),
    onDoubleClick: (e: React.MouseEvent) => e.stopPropagation(),
  };
  return square ? (
    <rect {...props} x={at.x - 5} y={at.y - 5} width={10} height={10} />
  ) : (
    <circle {...props} cx={at.x} cy={at.y} r={6} />
  );
}

const round = (v: number, digits = 2): number => Number(v.toFixed(digits));

/** A number of a part as it is at the frame that is shown. */
function nowOf(comp: Combine, path: string, own: number, frame: number): number {
  const curve = comp.curves.find((c) => c.path === path);
  return curve ? valueOf(curve, frame) : own;
}

function LayerHandles({
  comp,
  layer,
  seen,
  toScreen,
  toComp,
}: {
  comp: Combine;
  layer: CompLayer;
  seen: LayerSeen | undefined;
  toScreen: (x: number, y: number) => Place;
  toComp: (e: { clientX: number; clientY: number }) => Place;
}): ReactNode {
  const frame = usePlayhead((s) => s.frame);
  const begun = useRef({ x: 0, y: 0, scale: 100, turn: 0 });
  if (!seen || layer.bind.how === 'pinned') return null;
  const at = comp.layers.findIndex(({ id }) => id === layer.id);
  const head = `layers/${layer.id}`;
  const now = (key: 'x' | 'y' | 'scale' | 'turn'): number =>
    nowOf(comp, `${head}/place.${key}`, layer.place[key], frame);
  const grab = (): void => {
    begun.current = { x: now('x'), y: now('y'), scale: now('scale'), turn: now('turn') };
  };

  const put = (label: string, values: Readonly<Record<string, number>>): void =>
    putNumbers('combine', `${label} ${layer.name}`, `layers.${at}`, head, values);
  const corners = seen.corners.map(([x, y]) => toScreen(x, y));
  const [mx, my] = [0, 1].map((a) => seen.corners.reduce((sum, c) => sum + c[a as 0 | 1], 0) / 4);
  const middle = toScreen(mx, my);
  const anchor = { x: mx + layer.place.anchorX, y: my + layer.place.anchorY };
  const from = (p: Place): { far: number; angle: number } => ({
    far: Math.hypot(p.x - anchor.x, p.y - anchor.y),
    angle: (Math.atan2(p.y - anchor.y, p.x - anchor.x) * 180) / Math.PI,
  });
  return (
    <g>
      <polygon className="line" points={corners.map((c) => `${c.x},${c.y}`).join(' ')} />
      {corners.map((corner, n) => (
        <Knob
          key={n}
          at={corner}
          square
          label={`Size of ${layer.name}; with Shift its turn`}
          toComp={toComp}
          onGrab={grab}
          onDrag={(to, taken, turns) => {
            const [a, b] = [from(taken), from(to)];
            if (turns) put('turn', { 'place.turn': round(begun.current.turn + b.angle - a.angle) });
            else
              put('scale', {
                'place.scale': round(Math.max(1, (begun.current.scale * b.far) / Math.max(a.far, 1))),
              });
          }}
          onStep={(dx, dy) => put('scale', { 'place.scale': round(Math.max(1, now('scale') + dx - dy)) })}
        />
      ))}
      <Knob
        at={middle}
        label={`Place of ${layer.name}`}
        toComp={toComp}
        onGrab={grab}
        onDrag={(to, taken) =>
          put('move', {
            'place.x': round(begun.current.x + to.x - taken.x, 1),
            'place.y': round(begun.current.y + to.y - taken.y, 1),
          })
        }
        onStep={(dx, dy) => put('move', { 'place.x': now('x') + dx, 'place.y': now('y') + dy })}
      />
    </g>
  );
}

function MaskHandles({
  comp,
  mask,
  toScreen,
  toComp,
  zoom,
}: {
  comp: Combine;
  mask: CompMask;
  toScreen: (x: number, y: number) => Place;
  toComp: (e: { clientX: number; clientY: number }) => Place;
  zoom: number;
}): ReactNode {
  const frame = usePlayhead((s) => s.frame);
  const n = comp.masks.findIndex(({ id }) => id === mask.id);
  const now = (key: 'x' | 'y' | 'scale' | 'turn'): number =>
    nowOf(comp, `masks/${mask.id}/place.${key}`, mask.place[key], frame);
  const { width, height } = comp.frame;
  const scale = now('scale') / 100;
  // a track moves it further; its corners are set where it is drawn
  const stands: Matrix = times(
    moved(width / 2 + now('x'), height / 2 + now('y')),
    times(turned(now('turn')), scaled(scale, scale)),
  );
  const back = inverted(stands) ?? stands;
  const points = shapeAt(mask.outline, frame);
  const line = mask.smooth === 'smooth' ? smoothed(points) : points;
  const screen = (p: readonly [number, number]): Place => {
    const [x, y] = mapped(stands, p);
    return toScreen(x, y);
  };

  /** The shape at this frame; where there are several it becomes one of its own. */
  const put = (next: readonly (readonly [number, number])[], label: string): void => {
    const single = mask.outline.length === 1;
    const own = { frame: single ? mask.outline[0].frame : frame, points: next };
    const rest = mask.outline.filter((s) => s.frame !== own.frame);
    const all = [...rest, own].sort((a, b) => a.frame - b.frame);
    change(`${label} ${mask.name}`, 'combine', `masks.${n}.outline`, all);
  };

  const moveTo = (m: number, to: Place): void => {
    const [x, y] = mapped(back, [to.x, to.y]);
    put(
      points.map((p, k) => (k === m ? ([round(x, 1), round(y, 1)] as const) : p)),
      'draw',
    );
  };

  /** In every shape, so that all keep as many corners. */
  const everywhere = (
    label: string,
    edit: (points: readonly (readonly [number, number])[]) => readonly (readonly [number, number])[],
  ): void =>
    change(
      `${label} ${mask.name}`,
      'combine',
      `masks.${n}.outline`,
      mask.outline.map((s) => ({ ...s, points: edit(s.points) })),
    );
  const path = line.map(screen);
  const outward = mask.outer * scale * zoom;
  return (
    <g>
      <polygon className="line" points={path.map((p) => `${p.x},${p.y}`).join(' ')} />
      {outward > 2 && (
        <polygon
          className="soft"
          points={grown(path, outward)
            .map((p) => `${p.x},${p.y}`)
            .join(' ')}
        />
      )}
      {points.map((p, m) => {
        const next = points[(m + 1) % points.length];
        const half = screen([(p[0] + next[0]) / 2, (p[1] + next[1]) / 2]);
        return (
          <g key={m}>
            <circle
              className="knob"
              style={{ fill: 'transparent', cursor: 'copy' }}
              role="button"
              tabIndex={0}
              aria-label={`Another corner of ${mask.name} after corner ${m + 1}`}
              cx={half.x}
              cy={half.y}
              r={4}
              onPointerDown={(e) => e.stopPropagation()}
              onClick={() => everywhere('another corner of', (all) => withCorner(all, m))}
              onKeyDown={(e) =>
                e.key === 'Enter' && everywhere('another corner of', (all) => withCorner(all, m))
              }
            />
            <Knob
              at={screen(p)}
              label={`Corner ${m + 1} of ${mask.name}`}
              toComp={toComp}
              onDrag={(to) => moveTo(m, to)}
              onStep={(dx, dy) =>
                put(
                  points.map((q, k) => (k === m ? ([q[0] + dx, q[1] + dy] as const) : q)),
                  'draw',
                )
              }
              onRemove={
                points.length > 3
                  ? () => everywhere('remove a corner of', (all) => all.filter((_, k) => k !== m))
                  : undefined
              }
            />
          </g>
        );
      })}
    </g>
  );
}

function withCorner(
  all: readonly (readonly [number, number])[],
  after: number,
): (readonly [number, number])[] {
  const [a, b] = [all[after], all[(after + 1) % all.length]];
  const half = [round((a[0] + b[0]) / 2, 1), round((a[1] + b[1]) / 2, 1)] as const;
  return [...all.slice(0, after + 1), half, ...all.slice(after + 1)];
}

/** A closed line further out, for the eye alone. */
function grown(path: readonly Place[], by: number): Place[] {
  const area = path.reduce((sum, p, n) => {
    const q = path[(n + 1) % path.length];
    return sum + p.x * q.y - q.x * p.y;
  }, 0);
  const out = area > 0 ? 1 : -1;
  return path.map((p, n) => {
    const a = path[(n + path.length - 1) % path.length];
    const b = path[(n + 1) % path.length];
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const long = Math.hypot(dx, dy) || 1;
    return { x: p.x + (out * by * dy) / long, y: p.y - (out * by * dx) / long };
  });
}
