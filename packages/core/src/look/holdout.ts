// Where a camera ray meets an obstacle, so that the medium behind it is held out: sphere tracing (Hart 1996)
// of the same distances that the run uses.
import { ownDistance, type CellShape } from '../geometry/shape';
import type { Plan } from '../plan/plan';
import { shapeAt } from '../plan/placement';
import type { Triple } from '../math/vector';

/** Distance in metres at which a ray meets something solid, Infinity for never. */
export type Holdout = (eye: Triple, direction: Triple) => number;

const MOST_STEPS = 256;
/** How near counts as met, cells. */
const NEAR = 0.005;
/** Cells that a ray goes at the most to a shape without an end. */
const FARTHEST = 1e5;

/**
 * @param timeS simulated time since the start of the first frame
 * @returns the distance in metres to the nearest hit of all obstacles that are on; null without any
 */
export function obstacleHoldout(plan: Plan, timeS: number): Holdout | null {
  const h = plan.window.voxelSizeM;
  const shapes = plan.obstacles.map((o) => shapeAt(plan, 'obstacles', o, timeS, true));
  if (shapes.length === 0) return null;
  return (eye, direction) => {
    let least = Infinity;
    for (const s of shapes) {
      const from = s.toOwn.map((r) => r.reduce((sum, v, a) => sum + v * (eye[a] / h - s.centre[a]), 0));
      const along = s.toOwn.map((r) => r.reduce((sum, v, a) => sum + v * direction[a], 0));
      least = Math.min(least, trace(s, from, along, least));
    }

    return least * h;
  };
}

/** In own axes; cells to the surface, infinite without a hit before `most`. */
function trace(s: CellShape, from: readonly number[], along: readonly number[], most: number): number {
  let t = 0;
  let end = Math.min(most, FARTHEST);
  if (s.reach && s.facing > 0) {
    for (let a = 0; a < 3; a++) {
      const p = (s.reach[0][a] - Math.max(0, s.grow) - 0.1 - from[a]) / along[a];
      const q = (s.reach[1][a] + Math.max(0, s.grow) + 0.1 - from[a]) / along[a];
      // a ray along an axis gives infinities of the right sign, or NaN on the very edge, which neither
      // comparison takes
      t = Math.max(t, Math.min(p, q) || 0);
      end = Math.min(end, Math.max(p, q));
    }
  }

  for (let n = 0; n < MOST_STEPS && t <= end; n++) {
    const d =
      s.facing *
      (ownDistance(s, from[0] + t * along[0], from[1] + t * along[1], from[2] + t * along[2]) - s.grow);
    if (d < NEAR) return t;
    t += d;
  }

  return Infinity;
}
