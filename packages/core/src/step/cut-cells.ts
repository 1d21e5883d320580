// Obstacles on the lattice: what they cover of the faces, on every level, and how their motion reaches the
// air.
import { writeFarFaces } from './far-field';
import { followMedium } from './finer';
import { placeShape } from './place-shape';
import { SolidStruct } from '@bramblemist/kernels/seam';
import { SLAB, addresses, named, boxFields } from '../grid/sweep';
import { coarsenLevels, type Level } from '../plan/levels';
import { isMass, type SimulationState } from './state';
import { boundsOf, cellShape, KIND, type CellShape } from '../geometry/shape';
import { putFloats, type Field } from '../grid/memory';
import type { Pose } from '../geometry/pose';
import type { ObstaclePart } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { PlannedShape } from '../plan/plan';
import { poseAt } from '../plan/placement';

/** Cells of the window, from and to (behind the last). */
export type Box = readonly [from: Triple, to: Triple];

/**
 * Writes all obstacles as they stand at a moment for the kernels (solids.ts); returns the cells that each may
 * touch.
 * @param lengthS the stretch of time before it, over which those that keys move have their velocity
 */
function placeObstacles(state: SimulationState, timeS: number, lengthS: number): Box[] {
  const { plan, threadPool, layout, window } = state;
  const { nx, ny, nz } = window.lattice;
  const h = window.voxelSizeM;
  return plan.obstacles.map((obstacle, n) => {
    const pose = poseAt(plan, 'obstacles', obstacle, timeS, lengthS);
    const part = plan.at(timeS).obstacles[obstacle.index];
    const moment = obstacle.mesh?.moves ? obstacle.mesh.at(timeS, lengthS) : null;
    const shape = closed(cellShape(part, pose, h, obstacle.mesh?.outline ?? null), pose);
    const [from, to] = boundsOf(shape, window.origin, [nx, ny, nz], 2);
    if (moment) {
      putFloats(threadPool.memory, layout.obstacleGrids[n], moment.grid.distances);
      putFloats(threadPool.memory, layout.obstacleFlows[n], moment.flow);
    }

    SolidStruct.write(threadPool.memory, layout.solids + n * SolidStruct.bytes, {
      ...placeShape(state, shape, layout.obstacleGrids[n], moment?.flow ? layout.obstacleFlows[n] : 0),
      ...named(['vx', 'vy', 'vz'], pose.velocity),
      ...named(
        ['wx', 'wy', 'wz'],
        pose.turning.map((w) => w * h),
      ),
      stick: part.stick,
      ...boxFields([from, to]),
    });
    return [from, to] as const;
  });
}

/**
 * A box or a flat cylinder is at least so thick that every line of cells that crosses it meets a closed face:
 * half the cell's extent across it.
 */
function closed(shape: CellShape, pose: Pose): CellShape {
  if (shape.kind !== KIND.box && shape.kind !== KIND.cylinder) return shape;
  const half = shape.half.map((v, m) =>
    Math.max(v, 0.501 * pose.toOwn[m].reduce((sum, x) => sum + Math.abs(x), 0)),
  ) as Triple;
  return { ...shape, half, reach: [half.map((v) => -v) as Triple, half] };
}

/** All faces anew: sides, then obstacles. */
export function writeFaces(state: SimulationState, timeS: number): void {
  const { nx, ny, nz } = state.window.lattice;
  state.solidBoxes = placeObstacles(state, timeS, 0);
  cut(state, [
    [0, 0, 0],
    [nx, ny, nz],
  ]);
  for (const level of state.layout.levels) state.threadPool.solo('fillCoefficients', { level: level.block });
  writeFarFaces(state);
  if (state.layout.rooms) writeRooms(state, state.layout.rooms[0]);
}

/**
 * Faces again where something moved. What stands in the way is handed to the cells beside; what the motion
 * drives out of cells goes into `outflow`, so that air and medium make way alike.
 */
export function moveObstacles(state: SimulationState, timeS: number): void {
  const { plan, threadPool, layout, window } = state;
  if (!plan.obstacles.some((o) => o.moves)) return;
  const before = state.solidBoxes;
  state.solidBoxes = placeObstacles(state, timeS, state.dtS);
  const moved = plan.obstacles.flatMap((o, n) => (o.moves ? [before[n], state.solidBoxes[n]] : []));
  const from = [0, 1, 2].map((a) => Math.min(...moved.map((b) => b[0][a]))) as Triple;
  const to = [0, 1, 2].map((a) => Math.max(...moved.map((b) => b[1][a]))) as Triple;
  if (from.every((v, a) => v < to[a])) {
    cut(state, [from, to]);
    writeFarFaces(state);
  }

  const [rooms, roomsTo] = addresses(layout.rooms!);
  writeRooms(state, layout.rooms![1]);
  if (from.every((v, a) => v < to[a])) makeWay(state, [from, to]);
  const level = layout.levels[0].block;
  const outflow = layout.outflow!.address;
  eachSolid(
    state,
    (o) => o.moves,
    (solid, planes) => threadPool.run('solidFlow', planes, SLAB, { level, solid, outflow }),
  );
  threadPool.run('settleRooms', window.lattice.nz, SLAB, {
    level,
    rooms,
    roomsTo,
    outflow,
    kappa: state.dtS / window.voxelSizeM,
  });
}

/** The air that obstacles leave to the cells by their shape: 1, but for what those that move cover. */
function writeRooms(state: SimulationState, { address, lattice }: Field): void {
  const { threadPool, layout } = state;
  const { nx, ny, nz, rowStride, planeStride } = lattice;
  const level = layout.levels[0].block;
  threadPool.run('fill', nz, SLAB, { f: address, ny, rowStride, planeStride, nx, value: 1 });
  eachSolid(
    state,
    (o) => o.moves,
    (solid, planes) => threadPool.run('coverRooms', planes, SLAB, { level, solid, rooms: address }),
  );
  threadPool.run('boundRooms', nz, SLAB, { level, rooms: address });
}

/** What stands in cells of a box that are shut now makes way for the obstacle. */
function makeWay(state: SimulationState, box: Box): void {
  const [rooms, roomsTo] = addresses(state.layout.rooms!);
  state.threadPool.solo('handOver', { ...carriedIn(state, box), rooms, roomsTo });
  followMedium(state);
}

/** Slivers of air beside obstacles that move share what is in them with their neighbours; after transport. */
export function shareSlivers(state: SimulationState): void {
  state.plan.obstacles.forEach(({ moves }, n) => {
    if (!moves) return;
    const [rooms] = addresses(state.layout.rooms!);
    state.threadPool.solo('shareSlivers', { ...carriedIn(state, state.solidBoxes[n]), rooms });
  });
}

/** Cells that owe density beside obstacles that move are paid by their neighbours; after transport. */
export function settleDebts(state: SimulationState): void {
  const { plan, threadPool, layout } = state;
  const [rooms] = addresses(layout.rooms!);
  const list = listOf(state, (n) => isMass(plan, n));
  threadPool.solo('settleDebts', { level: layout.levels[0].block, list, rooms });
}

/** A list of channels as kernels take it: how many, then where they lie. */
export function listOf({ threadPool, layout }: SimulationState, wanted: (n: number) => boolean): number {
  const fields = addresses(layout.channels.filter((_, n) => wanted(n)));
  new Int32Array(threadPool.memory.buffer, layout.emission, fields.length + 1).set([
    fields.length,
    ...fields,
  ]);
  return layout.emission;
}

/** A box of cells and the fields that are carried by mass, as kernels take them. */
function carriedIn(
  state: SimulationState,
  [lo, hi]: Box,
): Record<'level' | 'list' | 'i0' | 'i1' | 'j0' | 'j1' | 'from' | 'to', number> {
  return {
    level: state.layout.levels[0].block,
    list: listOf(state, (n) => state.plan.channels[n].fades !== null),
    ...named(['i0', 'i1', 'j0', 'j1', 'from', 'to'], [lo[0], hi[0], lo[1], hi[1], lo[2], hi[2]]),
  };
}

function cut(state: SimulationState, [from, to]: Box): void {
  const { threadPool, layout } = state;
  const fine: Level = layout.levels[0];
  const nz = fine.lattice.nz;
  threadPool.solo('resetFaces', {
    level: fine.block,
    i0: from[0],
    i1: to[0],
    j0: from[1],
    j1: to[1],
    k0: from[2],
    k1: Math.min(to[2] + 1, nz + 1),
  });
  eachSolid(
    state,
    () => true,
    (solid) => threadPool.run('cutFaces', nz + 1, SLAB, { level: fine.block, solid }),
  );
  coarsenLevels(threadPool, layout.levels, from, to);
}

/** The velocity that obstacles give to faces that they close; see coverFaces of the kernels. */
export function coverFaces(state: SimulationState): void {
  const { plan, threadPool, layout } = state;
  eachSolid(
    state,
    (o) => o.moves || plan.at(state.timeS).obstacles[o.index].stick > 0,
    (solid, planes) =>
      threadPool.run('coverFaces', planes, SLAB, {
        level: layout.levels[0].block,
        solid,
        ...named(
          ['u', 'v', 'w'],
          layout.velocity.map((f) => f.address),
        ),
      }),
  );
}

function eachSolid(
  state: SimulationState,
  wanted: (o: PlannedShape<ObstaclePart>) => boolean,
  visit: (address: number, planes: number) => void,
): void {
  state.plan.obstacles.forEach((o, n) => {
    if (wanted(o)) visit(state.layout.solids + n * SolidStruct.bytes, state.window.lattice.nz);
  });
}
