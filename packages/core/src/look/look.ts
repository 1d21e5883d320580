// A look: how a volume is lit and seen. Plain, validated data like a recipe.
import { DocumentKind } from '../recipe/document';
import type { Triple } from '../math/vector';
import type { DocumentOf } from '../recipe/settings';
import { LOOK_PARTS } from './parts';

export type Look = { version: 1; name: string } & DocumentOf<typeof LOOK_PARTS>;

export const LOOK = new DocumentKind<Look>('look', 1, LOOK_PARTS, (look) => {
  const same = look.camera.eye.every((v, a) => v === look.camera.target[a]);
  return same ? [{ path: 'camera.target', message: 'must differ from where the camera stands' }] : [];
});

/** Unit vector toward the sun. */
export function sunDirection(look: Look): Triple {
  const h = (look.sun.heading * Math.PI) / 180;
  const e = (look.sun.height * Math.PI) / 180;
  return [Math.cos(e) * Math.cos(h), Math.sin(e), Math.cos(e) * Math.sin(h)];
}

const FILM_BACK_MM = 36;

/**
 * The camera's frame: pixel (x, y) looks along corner + x · across + y · down (not normalised), y downward.
 */
export function cameraRays(look: Look): { eye: Triple; corner: Triple; across: Triple; down: Triple } {
  const { eye, target, focal, width, height } = look.camera;
  const unit = (v: number[]): number[] => v.map((x) => x / Math.hypot(...v));
  const cross = (a: number[], b: number[]): number[] => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ];
  const ahead = unit(target.map((t, a) => t - eye[a]));
  const right = unit(cross(ahead, Math.abs(ahead[1]) > 0.999 ? [0, 0, 1] : [0, 1, 0]));
  const up = cross(right, ahead);
  const pixel = FILM_BACK_MM / focal / width;
  const across = right.map((v) => v * pixel) as Triple;
  const down = up.map((v) => -v * pixel) as Triple;
  const corner = ahead.map(
    (v, a) => v - ((width - 1) / 2) * across[a] - ((height - 1) / 2) * down[a],
  ) as Triple;
  return { eye, corner, across, down };
}
