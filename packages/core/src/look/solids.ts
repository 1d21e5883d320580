// What is solid in a picture: obstacles of a plan at a moment, as the kernels of light meet them.
import { KIND, type CellShape } from '../geometry/shape';
import type { Mesh } from '../geometry/mesh';
import type { Triple } from '../math/vector';
import type { Plan } from '../plan/plan';
import { shapeAt } from '../plan/placement';

export interface Solid {
  /** Of the obstacle in the recipe; empty where it is none. */
  readonly id: string;
  /** Lengths in cells of `cellM`, places from the world's origin. */
  readonly shape: CellShape;
  readonly cellM: number;
  /** In its own axes, m; null where the shape's distances say what it is. */
  readonly mesh: Mesh | null;
  readonly kind: 'obstacle' | 'vessel' | 'ground';
}

/** @param timeS simulated time since the start of the first frame */
export function solidsAt(plan: Plan, timeS: number): Solid[] {
  return plan.obstacles.map((o) => {
    const shape = shapeAt(plan, 'obstacles', o, timeS, true);
    return {
      id: o.part.id,
      shape,
      cellM: plan.window.voxelSizeM,
      // a mesh that was made thicker is met by its distances
      mesh: shape.grow === 0 ? (o.mesh?.surfaceAt?.(timeS) ?? null) : null,
      kind: shape.facing < 0 ? 'vessel' : 'obstacle',
    };
  });
}

/** @param levelM height of a level ground without an end */
export function groundAt(levelM: number): Solid {
  const shape: CellShape = {
    kind: KIND.ground,
    centre: [0, levelM, 0],
    half: [0, 0, 0],
    toOwn: [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ],
    grow: 0,
    facing: 1,
    corners: [],
    grid: null,
    reach: null,
    gain: 1,
  };
  return { id: '', shape, cellM: 1, mesh: null, kind: 'ground' };
}

/** Place of a world's point on a lattice with a ring: see the kernels' medium.ts. */
export const placeOn = (corner: Triple, voxelSizeM: number, world: readonly number[]): Triple =>
  world.map((v, a) => (v - corner[a]) / voxelSizeM + 0.5) as Triple;
