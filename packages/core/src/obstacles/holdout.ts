// Where a camera ray meets an obstacle, so that the medium behind it is held out.
import type { ObstaclePart, Triple } from '../recipe/recipe';
import type { Holdout } from '../look/render';

/** @returns the nearest hit of all obstacles that are on; null without any */
export function obstacleHoldout(obstacles: readonly ObstaclePart[]): Holdout | null {
  const shapes = obstacles.filter((o) => o.on);
  if (shapes.length === 0) return null;
  return (eye, direction) =>
    Math.min(...shapes.map((s) => (s.shape === 'sphere' ? hitSphere(s, eye, direction) : hitBox(s, eye, direction))));
}

function hitSphere(s: ObstaclePart, eye: Triple, d: Triple): number {
  const o = eye.map((v, a) => v - s.centre[a]);
  const b = o[0] * d[0] + o[1] * d[1] + o[2] * d[2],
    c = o[0] * o[0] + o[1] * o[1] + o[2] * o[2] - s.radius * s.radius;
  const q = b * b - c;
  if (q < 0) return Infinity;
  const t = -b - Math.sqrt(q);
  return t > 0 ? t : c < 0 ? 0 : Infinity;
}

function hitBox(s: ObstaclePart, eye: Triple, d: Triple): number {
  let t0 = 0,
    t1 = Infinity;
  for (let a = 0; a < 3; a++) {
    const lo = s.centre[a] - s.size[a] / 2,
      hi = s.centre[a] + s.size[a] / 2;
    if (Math.abs(d[a]) < 1e-12) {
      if (eye[a] < lo || eye[a] > hi) return Infinity;
      continue;
    }
    const p = (lo - eye[a]) / d[a],
      q = (hi - eye[a]) / d[a];
    t0 = Math.max(t0, Math.min(p, q));
    t1 = Math.min(t1, Math.max(p, q));
  }
  return t0 <= t1 ? t0 : Infinity;
}
