// Currents: pushes of the air that are limited to a shape with a soft edge, see currents.ts of the kernels.
// Those with a goal draw the air there as a linear drag does, exactly over any substep.
import { boundsOf, cellShape, putFloats, writeShape } from '../../geometry/shape';
import { SLAB } from '../../grid/sweep';
import { poseAt } from '../../plan/standing';
import type { CurrentPart } from '../../recipe/types';
import { type Triple, directionOf } from '../../math/vector';
import type { Plan, Standing } from '../../plan/compile';
import type { Pose } from '../../geometry/pose';
import type { Force, Now } from './force';

const KINDS = { jet: 0, spin: 1, point: 2, still: 3, shear: 4, path: 5, pipe: 6, volume: 7 } as const;

interface CurrentForce {
  readonly id: string;
  readonly index: number;
  readonly add: Force['add'];
}

/** Whether it goes along corners, whatever its shape is. */
export const isPath = ({ does }: Pick<CurrentPart, 'does'>): boolean => does === 'path' || does === 'pipe';

/** One force for each current that is on, in the order of the page. */
export function currentForces(plan: Plan): CurrentForce[] {
  return plan.currents.map((planned, n) => ({
    id: planned.part.id,
    index: planned.index,
    add: (now, recipe, weight) => addCurrent(now, planned, n, recipe.currents[planned.index], weight),
  }));
}

/** @param n its place in the plan's list */
function addCurrent(
  { state, dtS }: Now,
  planned: Standing<CurrentPart>,
  n: number,
  part: CurrentPart,
  weight: number,
): void {
  const { plan, team, layout, window } = state;
  const l = window.lattice;
  const h = window.voxelSizeM;
  if (state.frame < part.from || state.frame > part.until) return;
  const pose = poseAt(plan, 'currents', planned, state.timeS + state.dtS / 2, 0, (x) => team.solo('sine', x));
  const volume = planned.mesh?.at(state.timeS + state.dtS / 2) ?? null;
  const own = volume ? 'mesh' : isPath(part) ? 'path' : part.shape;
  const shape = cellShape({ ...part, shape: own }, pose, h, volume?.grid ?? null);
  const soft = part.soft / h;
  const mouth = part.does === 'pipe' ? part.mouth / h : 0;
  const [from, to] = boundsOf(shape, window.origin, [l.nx, l.ny, l.nz], 1 + Math.ceil(Math.max(soft, mouth)));
  if (from.some((v, a) => v >= to[a])) return;
  // what carries a current turns its direction too
  const direction = part.follows
    ? inWorld(pose.toOwn, directionOf(part.direction))
    : directionOf(part.direction);
  const turn = Math.PI / 180;
  const strength = {
    jet: part.speed,
    path: part.speed,
    pipe: part.speed,
    spin: part.turning * turn,
    point: part.pull,
    still: 0,
    shear: part.shear,
    volume: part.times,
  }[part.does];
  if (volume) {
    putFloats(team.memory, layout.currentGrids[n], volume.grid.distances);
    putFloats(team.memory, layout.currentWays[n], volume.ways);
  }

  writeShape(team.memory, layout.emission, shape, window.origin, layout.currentGrids[n], layout.corners)
    .ints(
      ...layout.acceleration.map((f) => f.address),
      ...layout.velocity.map((f) => f.address),
      KINDS[part.does],
    )
    .floats(
      strength,
      ...direction,
      ...(part.does === 'pipe' ? [0, 0] : [part.toPath, part.turning * turn]),
      mouth,
    )
    .floats((1 - team.solo('exponential', -dtS / part.within)) / dtS, soft, h)
    .ints(weight, from[0], to[0], from[1], to[1], from[2], to[2], layout.currentWays[n]);
  team.run('current', l.nz, SLAB, layout.emission, l.rowStride, l.planeStride);
}

const inWorld = (toOwn: Pose['toOwn'], v: Triple): Triple =>
  [0, 1, 2].map((a) => toOwn[0][a] * v[0] + toOwn[1][a] * v[1] + toOwn[2][a] * v[2]) as Triple;
