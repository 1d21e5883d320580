// Currents: pushes of the air that are limited to a shape with a soft edge, see currents.ts of the kernels. Those with a goal
// draw the air there as a linear drag does, exactly over any substep.
import { boundsOf, cellShape, writeShape } from '../geometry/shape';
import { SLAB } from '../grid/sweep';
import { poseAt } from '../step/standing';
import type { StepState } from '../step/state';

const KINDS = { jet: 0, spin: 1, point: 2, still: 3, shear: 4, path: 5 } as const;

export function addCurrents(state: StepState, dtS: number): void {
  const { plan, team, layout, window } = state,
    l = window.lattice,
    h = window.voxelSizeM,
    sine = (x: number): number => team.solo('sine', x);
  for (const planned of plan.currents) {
    const part = plan.at(state.timeS + state.dtS / 2).currents[planned.index];
    if (state.frame < part.from || state.frame > part.until) continue;
    const pose = poseAt(plan, 'currents', planned, state.timeS + state.dtS / 2, 0, sine),
      shape = cellShape({ ...part, shape: part.does === 'path' ? 'path' : part.shape }, pose, h, null),
      soft = part.soft / h;
    const [from, to] = boundsOf(shape, window.origin, [l.nx, l.ny, l.nz], 1 + Math.ceil(soft));
    if (from.some((v, a) => v >= to[a])) continue;
    const long = Math.sqrt(part.direction.reduce((sum, v) => sum + v * v, 0)) || 1,
      turn = Math.PI / 180;
    const strength = { jet: part.speed, path: part.speed, spin: part.turning * turn, point: part.pull, still: 0, shear: part.shear }[
      part.does
    ];
    writeShape(team.memory, layout.emission, shape, window.origin, 0, layout.corners)
      .ints(...layout.acceleration.map((f) => f.address), ...layout.velocity.map((f) => f.address), KINDS[part.does])
      .floats(strength, ...part.direction.map((v) => v / long), part.toPath, part.turning * turn)
      .floats((1 - team.solo('exponential', -dtS / part.within)) / dtS, soft, h)
      .ints(from[0], to[0], from[1], to[1], from[2], to[2]);
    team.run('current', l.nz, SLAB, layout.emission, l.rowStride, l.planeStride);
  }
}
