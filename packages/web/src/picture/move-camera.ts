// Moves the camera that the window sees through: about what it looks at, across, and nearer.
import { cameraRays, type Look } from '@bramblemist/core/look/look';
import { FAR } from '@bramblemist/core/recipe/settings';
import type { Triple } from '@bramblemist/core/math/vector';
import { putNumbers } from '../data/keyed';

/** Degrees a screen pixel. */
const TURN = 0.3;
/** How steeply it may look, degrees. */
const STEEP = 89;
const LEAST_M = 0.01;
const tidy = (v: number): number => Number(Math.min(FAR, Math.max(-FAR, v)).toFixed(4));

/** Sets where a camera stands and what it looks at. @param id of a further one; null: the shot's */
function put(look: Look, id: string | null, eye: Triple, target: Triple): void {
  const values = Object.fromEntries(
    [0, 1, 2].flatMap((a) => [
      [`eye.${a}`, tidy(eye[a])],
      [`target.${a}`, tidy(target[a])],
    ]),
  );
  const n = look.cameras.findIndex((c) => c.id === id);
  if (n < 0) putNumbers('look', 'move the camera', 'camera', 'camera', values);
  else putNumbers('look', `move ${look.cameras[n].name}`, `cameras.${n}`, `cameras/${id}`, values);
}

/** @param dx,dy screen pixels */
export function orbit(look: Look, id: string | null, dx: number, dy: number): void {
  const { eye, target } = look.camera;
  const away = eye.map((v, a) => v - target[a]);
  const far = Math.hypot(...away);
  const heading = Math.atan2(away[0], away[2]) - (dx * TURN * Math.PI) / 180;
  const steep = (STEEP * Math.PI) / 180;
  const height = Math.min(steep, Math.max(-steep, Math.asin(away[1] / far) + (dy * TURN * Math.PI) / 180));
  const level = far * Math.cos(height);
  put(
    look,
    id,
    [
      target[0] + level * Math.sin(heading),
      target[1] + far * Math.sin(height),
      target[2] + level * Math.cos(heading),
    ],
    target,
  );
}

/** @param dx,dy pixels of the picture */
export function pan(look: Look, id: string | null, dx: number, dy: number): void {
  const { eye, target } = look.camera;
  const { across, down } = cameraRays(look);
  const far = Math.hypot(...eye.map((v, a) => v - target[a]));
  const by = across.map((v, a) => -far * (v * dx + down[a] * dy));
  put(look, id, eye.map((v, a) => v + by[a]) as Triple, target.map((v, a) => v + by[a]) as Triple);
}

/** @param factor of its distance from what it looks at */
export function dolly(look: Look, id: string | null, factor: number): void {
  const { eye, target } = look.camera;
  const far = Math.hypot(...eye.map((v, a) => v - target[a]));
  const by = Math.max(factor, LEAST_M / far);
  put(look, id, eye.map((v, a) => target[a] + (v - target[a]) * by) as Triple, target);
}
