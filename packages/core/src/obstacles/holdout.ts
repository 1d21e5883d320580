// Where a camera ray meets an obstacle, so that the medium behind it is held out.
import type { ObstaclePart, Triple } from '../recipe/recipe';
import type { Holdout } from '../look/render';
import { poseOf, type Pose } from './pose';

/**
 * @param timeS simulated time since the first frame
 * @returns the nearest hit of all obstacles that are on; null without any
 */
export function obstacleHoldout(obstacles: readonly ObstaclePart[], timeS: number): Holdout | null {
  const shapes = obstacles.filter((o) => o.on).map((part) => ({ part, pose: poseOf(part, timeS) }));
  if (shapes.length === 0) return null;
  return (eye, direction) =>
    Math.min(
      ...shapes.map(({ part, pose }) => {
        const from = own(
            pose,
            eye.map((v, a) => v - pose.centre[a]),
          ),
          along = own(pose, direction);
        return part.shape === 'sphere' ? hitSphere(part.radius, from, along) : hitBox(part.size, from, along);
      }),
    );
}

function own(pose: Pose, v: readonly number[]): Triple {
  return pose.toOwn.map((r) => r[0] * v[0] + r[1] * v[1] + r[2] * v[2]) as Triple;
}

function hitSphere(radius: number, o: Triple, d: Triple): number {
  const b = o[0] * d[0] + o[1] * d[1] + o[2] * d[2],
    c = o[0] * o[0] + o[1] * o[1] + o[2] * o[2] - radius * radius;
  const q = b * b - c;
  if (q < 0) return Infinity;
  const t = -b - Math.sqrt(q);
  return t > 0 ? t : c < 0 ? 0 : Infinity;
}

function hitBox(size: Triple, o: Triple, d: Triple): number {
  let t0 = 0,
    t1 = Infinity;
  for (let a = 0; a < 3; a++) {
    const half = size[a] / 2;
    if (Math.abs(d[a]) < 1e-12) {
      if (Math.abs(o[a]) > half) return Infinity;
      continue;
    }
    const p = (-half - o[a]) / d[a],
      q = (half - o[a]) / d[a];
    t0 = Math.max(t0, Math.min(p, q));
    t1 = Math.min(t1, Math.max(p, q));
  }
  return t0 <= t1 ? t0 : Infinity;
}
