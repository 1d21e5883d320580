// Handles of the light that is chosen, over the render: where it stands and what it points at, or from where
// a sun shines.
import { useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import { cameraRays, directionOf, type LightPart, type Look } from '@bramblemist/core/look/look';
import { FAR } from '@bramblemist/core/recipe/settings';
import type { Triple } from '@bramblemist/core/math/vector';
import { putNumbers } from '../data/keyed';
import { useSelection } from '../data/selection';

const Whole = styled.svg`
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  overflow: visible;
`;
const Grip = styled.g`
  pointer-events: auto;
  cursor: grab;
  touch-action: none;
  outline: none;
  circle {
    stroke: #191217;
    stroke-width: 1.5;
  }
  &:focus-visible circle {
    stroke: #fff;
    stroke-width: 3;
  }
`;
/** A sun is drawn as if it stood so far from what the camera looks at, of the camera's distance. */
const SUN_AT = 0.3;
/** Degrees a screen pixel, for a sun. */
const TURN = 0.35;
const tidy = (v: number): number => Number(Math.min(FAR, Math.max(-FAR, v)).toFixed(4));

interface Seen {
  readonly x: number;
  readonly y: number;
  /** Along the middle of the view, m. */
  readonly depth: number;
}

/** A place in the world on the picture, in its pixels; null behind the camera. */
function seenAt(look: Look, place: readonly number[]): Seen | null {
  const { eye, corner, across, down } = cameraRays(look);
  const { width, height } = look.camera;
  const ahead = corner.map(
    (v, a) => v + ((width - 1) / 2) * across[a] + ((height - 1) / 2) * down[a],
  ) as Triple;
  const away = place.map((v, a) => v - eye[a]);
  const along = (v: readonly number[]): number => v.reduce((sum, x, a) => sum + x * away[a], 0);
  const depth = along(ahead);
  if (depth <= 1e-6) return null;
  const square = (v: Triple): number => v.reduce((sum, x) => sum + x * x, 0);
  return {
    x: (width - 1) / 2 + along(across) / square(across) / depth + 0.5,
    y: (height - 1) / 2 + along(down) / square(down) / depth + 0.5,
    depth,
  };
}

export function LightHandles({
  look,
  onScreen,
  pixel,
}: {
  look: Look;
  /** Where a place of the picture stands in the window. */
  onScreen: (x: number, y: number) => { x: number; y: number };
  /** Screen pixels a picture pixel. */
  pixel: number;
}): ReactNode {
  const id = useSelection((s) => s.id);
  const n = look.lights.findIndex((l) => l.id === id);
  if (n < 0) return null;
  const light = look.lights[n];
  if (light.kind === 'sun') return <SunHandle {...{ look, light, n, onScreen }} />;
  const place = seenAt(look, light.position);
  const aim = light.kind === 'point' ? null : seenAt(look, light.aim);
  const at = place && onScreen(place.x, place.y);
  const to = aim && onScreen(aim.x, aim.y);
  /** Moves it in a plane that faces the camera, or along the view. */
  const move =
    (path: 'position' | 'aim', from: readonly number[], depth: number): Moved =>
    (dx, dy, isAlong) => {
      const { corner, across, down } = cameraRays(look);
      const { width, height, squeeze } = look.camera;
      const ahead = corner.map((v, a) => v + ((width - 1) / 2) * across[a] + ((height - 1) / 2) * down[a]);
      const by = isAlong
        ? ahead.map((v) => (-v * dy * depth) / 300)
        : across.map((v, a) => depth * ((v * dx) / pixel / squeeze + (down[a] * dy) / pixel));
      const values = Object.fromEntries(by.map((v, a) => [`${path}.${a}`, tidy(from[a] + v)]));
      putNumbers('look', `move ${light.name}`, `lights.${n}`, `lights/${light.id}`, values);
    };

  return (
    <Whole aria-label={`Handles of ${light.name}`}>
      {at && to && (
        <line
          x1={at.x}
          y1={at.y}
          x2={to.x}
          y2={to.y}
          stroke="#f0d9a0"
          strokeDasharray="5 4"
          strokeWidth={1.5}
        />
      )}
      {to && (
        <Knob
          name={`What ${light.name} points at`}
          at={to}
          radius={5}
          onMove={move('aim', light.aim, aim.depth)}
        />
      )}
      {at && (
        <Knob
          name={`Where ${light.name} stands`}
          at={at}
          radius={8}
          onMove={move('position', light.position, place.depth)}
        />
      )}
    </Whole>
  );
}

function SunHandle({
  look,
  light,
  n,
  onScreen,
}: {
  look: Look;
  light: LightPart;
  n: number;
  onScreen: (x: number, y: number) => { x: number; y: number };
}): ReactNode {
  const { eye, target } = look.camera;
  const far = Math.hypot(...eye.map((v, a) => v - target[a]));
  const toward = directionOf(light);
  const middle = seenAt(look, target);
  const sun = seenAt(
    look,
    target.map((v, a) => v + SUN_AT * far * toward[a]),
  );
  if (!middle || !sun) return null;
  const [m, s] = [onScreen(middle.x, middle.y), onScreen(sun.x, sun.y)];
  // seen from in front of it, what goes right turns its heading the other way
  const side = toward.reduce((sum, v, a) => sum + v * (eye[a] - target[a]), 0) >= 0 ? -1 : 1;
  return (
    <Whole aria-label={`Handle of ${light.name}`}>
      <line x1={m.x} y1={m.y} x2={s.x} y2={s.y} stroke="#f0d9a0" strokeDasharray="5 4" strokeWidth={1.5} />
      <Knob
        name={`From where ${light.name} shines`}
        at={s}
        radius={8}
        onMove={(dx, dy) => {
          const heading = light.heading + side * dx * TURN;
          const height = Math.min(90, Math.max(-90, light.height - dy * TURN));
          putNumbers('look', `turn ${light.name}`, `lights.${n}`, `lights/${light.id}`, {
            heading: Number((((heading + 540) % 360) - 180).toFixed(1)),
            height: Number(height.toFixed(1)),
          });
        }}
      />
    </Whole>
  );
}

/** Screen pixels from where it was taken hold of. @param isAlong along the view, not across it */
type Moved = (dx: number, dy: number, isAlong: boolean) => void;
const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-5, 0],
  ArrowRight: [5, 0],
  ArrowUp: [0, -5],
  ArrowDown: [0, 5],
};

function Knob({
  name,
  at,
  radius,
  onMove,
}: {
  name: string;
  at: { x: number; y: number };
  radius: number;
  onMove: Moved;
}): ReactNode {
  /** What moves it is that of where it was taken hold of. */
  const hold = useRef<{ x: number; y: number; onMove: Moved } | null>(null);
  return (
    <Grip
      role="button"
      tabIndex={0}
      aria-label={`${name}. Drag it, with Shift along the view; arrow keys move it too`}
      onPointerDown={(e: PointerEvent) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        hold.current = { x: e.clientX, y: e.clientY, onMove };
      }}
      onPointerMove={(e: PointerEvent) => {
        const from = hold.current;
        if (!from) return;
        e.stopPropagation();
        from.onMove(e.clientX - from.x, e.clientY - from.y, e.shiftKey);
      }}
      onPointerUp={(e: PointerEvent) => {
        if (hold.current) e.stopPropagation();
        hold.current = null;
      }}
      onKeyDown={(e: KeyboardEvent) => {
        const by = ARROWS[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        onMove(by[0], by[1], e.shiftKey);
      }}
    >
      <circle cx={at.x} cy={at.y} r={radius} fill="#f0d9a0" />
    </Grip>
  );
}
