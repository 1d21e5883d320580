// Currents: pushes of the air that are limited to a shape with a soft edge, see currents.ts of the kernels.
// Those with a goal draw the air there as a linear drag does, exactly over any substep.
import { exponential } from '../../math/exact';
import { placeShape } from '../place-shape';
import { CurrentKind, CurrentStruct } from '@bramblemist/kernels/seam';
import { boundsOf, cellShape } from '../../geometry/shape';
import { putFloats } from '../../grid/memory';
import { SLAB, named, addresses, boxFields } from '../../grid/sweep';
import { poseAt } from '../../plan/placement';
import type { CurrentPart } from '../../recipe/types';
import { type Triple, directionOf } from '../../math/vector';
import type { Plan, PlannedShape } from '../../plan/plan';
import type { Pose } from '../../geometry/pose';
import type { Force, Now } from './force';

const KINDS: Readonly<Record<CurrentPart['does'], number>> = {
  jet: CurrentKind.JET,
  spin: CurrentKind.SPIN,
  point: CurrentKind.POINT,
  still: CurrentKind.STILL,
  shear: CurrentKind.SHEAR,
  path: CurrentKind.PATH,
  pipe: CurrentKind.PIPE,
  volume: CurrentKind.VOLUME,
};

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
  planned: PlannedShape<CurrentPart>,
  n: number,
  part: CurrentPart,
  weight: number,
): void {
  const { plan, threadPool, layout, window } = state;
  const l = window.lattice;
  const h = window.voxelSizeM;
  if (state.frame < part.from || state.frame > part.until) return;
  const pose = poseAt(plan, 'currents', planned, state.timeS + state.dtS / 2, 0);
  const volume = planned.mesh?.at(state.timeS + state.dtS / 2) ?? null;
  const plain = isPath(part) ? 'path' : part.shape;
  const own = volume ? 'mesh' : plain;
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
    putFloats(threadPool.memory, layout.currentGrids[n], volume.grid.distances);
    putFloats(threadPool.memory, layout.currentWays[n], volume.ways);
  }

  const guided = part.does !== 'pipe';
  CurrentStruct.write(threadPool.memory, layout.emission, {
    ...placeShape(state, shape, layout.currentGrids[n]),
    ...named(['fx', 'fy', 'fz'], addresses(layout.acceleration)),
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    does: KINDS[part.does],
    strength,
    ...named(['dx', 'dy', 'dz'], direction),
    pull: guided ? part.toPath : 0,
    spin: guided ? part.turning * turn : 0,
    mouth,
    grip: (1 - exponential(-dtS / part.within)) / dtS,
    soft,
    h,
    weight,
    ...boxFields([from, to]),
    ways: layout.currentWays[n],
  });
  threadPool.run('applyCurrent', l.nz, SLAB, {
    block: layout.emission,
    rowStride: l.rowStride,
    planeStride: l.planeStride,
  });
}

const inWorld = (toOwn: Pose['toOwn'], v: Triple): Triple =>
  [0, 1, 2].map((a) => toOwn[0][a] * v[0] + toOwn[1][a] * v[1] + toOwn[2][a] * v[2]) as Triple;
