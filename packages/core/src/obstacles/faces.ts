// Obstacles on the lattice: what they cover of the faces, on every level, and how their motion reaches the air.
import { SLAB } from '../grid/sweep';
import { coarsenLevels, type Level } from '../step/layout';
import type { StepState } from '../step/state';
import type { ObstaclePart, Triple } from '../recipe/recipe';
import { isMoving, poseOf, type Pose } from './pose';

/** Cells of the window, from and to (behind the last). */
export type Box = readonly [from: Triple, to: Triple];
const WORDS = 29;

/** Writes all obstacles as they stand at a moment for the kernels (solids.ts); returns the cells that each may touch. */
export function placeObstacles(state: StepState, timeS: number): Box[] {
  const { plan, team, layout, window } = state;
  const { nx, ny, nz } = window.lattice,
    n = [nx, ny, nz];
  return plan.obstacles.map((part, index) => {
    const pose = poseOf(part, timeS, (x) => team.solo('sine', x)),
      h = window.voxelSizeM;
    const centre = pose.centre.map((c, a) => c / h - window.origin[a]),
      half = halfSizes(part, pose, h);
    // how far the turned shape reaches along the window's axes
    const reach = [0, 1, 2].map((a) =>
      part.shape === 'sphere'
        ? half[0]
        : half[0] * Math.abs(pose.toOwn[0][a]) + half[1] * Math.abs(pose.toOwn[1][a]) + half[2] * Math.abs(pose.toOwn[2][a]),
    );
    const from = centre.map((c, a) => Math.min(n[a], Math.max(0, Math.floor(c - reach[a]) - 2))) as Triple,
      to = centre.map((c, a) => Math.min(n[a], Math.max(0, Math.ceil(c + reach[a]) + 2))) as Triple;
    const at = layout.solids + index * WORDS * 4;
    const words = new Int32Array(team.memory.buffer, at, WORDS),
      floats = new Float32Array(team.memory.buffer, at, WORDS);
    words[0] = part.shape === 'box' ? 1 : 0;
    floats.set([...centre, ...half, ...pose.toOwn.flat(), ...pose.velocity, ...pose.turning.map((w) => w * h), part.stick], 1);
    words.set([from[0], to[0], from[1], to[1], from[2], to[2]], 23);
    return [from, to] as const;
  });
}

/**
 * Half sizes in cells. A box is at least so thick that every line of cells that crosses it meets a closed face: half the
 * cell's extent across it.
 */
function halfSizes(part: ObstaclePart, pose: Pose, h: number): Triple {
  if (part.shape === 'sphere') return [part.radius / h, part.radius / h, part.radius / h];
  return part.size.map((s, m) => Math.max(s / 2 / h, 0.501 * pose.toOwn[m].reduce((sum, v) => sum + Math.abs(v), 0))) as Triple;
}

/** All faces anew: sides, then obstacles. */
export function writeFaces(state: StepState, timeS: number): void {
  const { nx, ny, nz } = state.window.lattice;
  state.solidBoxes = placeObstacles(state, timeS);
  cut(state, [
    [0, 0, 0],
    [nx, ny, nz],
  ]);
  for (const level of state.layout.levels) state.team.solo('fillCoefficients', level.block);
}

/** Faces again where something moved, and what the motion drives out of cells, in `outflow`. */
export function moveObstacles(state: StepState, timeS: number): void {
  const { plan, team, layout } = state;
  if (!plan.obstacles.some(isMoving)) return;
  const before = state.solidBoxes;
  state.solidBoxes = placeObstacles(state, timeS);
  const moved = plan.obstacles.flatMap((part, n) => (isMoving(part) ? [before[n], state.solidBoxes[n]] : []));
  const from = [0, 1, 2].map((a) => Math.min(...moved.map((b) => b[0][a]))) as Triple,
    to = [0, 1, 2].map((a) => Math.max(...moved.map((b) => b[1][a]))) as Triple;
  if (from.every((v, a) => v < to[a])) cut(state, [from, to]);
  eachSolid(state, isMoving, (solid, planes) =>
    team.run('solidFlow', planes, SLAB, layout.levels[0].block, solid, layout.outflow!.address),
  );
}

function cut(state: StepState, [from, to]: Box): void {
  const { team, layout } = state,
    fine: Level = layout.levels[0],
    nz = fine.lattice.nz;
  team.solo('resetFaces', fine.block, from[0], to[0], from[1], to[1], from[2], Math.min(to[2] + 1, nz + 1));
  eachSolid(
    state,
    () => true,
    (solid) => team.run('cutFaces', nz + 1, SLAB, fine.block, solid),
  );
  coarsenLevels(team, layout, from, to);
}

/** The velocity that obstacles give to faces that they close; see coverFaces of the kernels. */
export function coverFaces(state: StepState): void {
  const { team, layout } = state;
  eachSolid(
    state,
    (part) => isMoving(part) || part.stick > 0,
    (solid, planes) => team.run('coverFaces', planes, SLAB, layout.levels[0].block, solid, ...layout.velocity.map((f) => f.address)),
  );
}

function eachSolid(state: StepState, wanted: (part: ObstaclePart) => boolean, visit: (address: number, planes: number) => void): void {
  state.plan.obstacles.forEach((part, n) => {
    if (wanted(part)) visit(state.layout.solids + n * WORDS * 4, state.window.lattice.nz);
  });
}
