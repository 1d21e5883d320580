// Stage 7: the velocity is made free of divergence by a pressure (Chorin 1968) with cut-cell faces (Ng et al.
// 2009): conjugate gradients, preconditioned by a multigrid V-cycle (McAdams, Sifakis, Teran 2010), started
// from the last pressure.
import { coverFaces } from './cut-cells';
import { notice, reduce, type StepState } from './state';
import { share, SLAB } from '../grid/sweep';
import { onTeam, type Level } from '../plan/layout';
import { StepTrouble } from '../record/solver-error';

/** Of the greatest divergence; and, so that still air is not polished, of a voxel's volume a substep. */
const RELATIVE_TOLERANCE = 1e-4;
const VOLUME_TOLERANCE = 1e-6;
/** Mean divergence, as part of the greatest, that rounding may leave. */
const ROUND_OFF = 1e-4;
const MOST_ITERATIONS = 60;
const COARSEST_SWEEPS = 16;
/** Byte of the word e in a level's block. */
const E_WORD = 16 * 4;

export function projection(state: StepState): void {
  const { plan, team, layout } = state;
  const fine = layout.levels[0];
  const { nz } = fine.lattice;
  const { pressure, partials } = layout;
  const slab = share(nz, team);
  const faces = layout.velocity.map((f) => f.address);

  team.run(
    'rightHandSide',
    nz,
    slab,
    fine.block,
    ...faces,
    layout.outflow?.address ?? 0,
    pressure,
    partials,
    slab,
  );
  const before = reduce(state, nz, 0, 'max');
  let left = reduce(state, nz, 1, 'max');
  if (state.sides.every((rule) => rule === 'wall')) {
    team.run('sumResidual', nz, SLAB, fine.block, partials);
    const cells = reduce(state, nz, 1, 'sum');
    const sum = reduce(state, nz, 0, 'sum');
    if (cells > 0) team.run('removeMean', nz, SLAB, fine.block, sum / cells);
    // with walls all round there is only a pressure if as much flows out of cells as into them
    if (Math.abs(sum) > ROUND_OFF * cells * before) {
      notice(state, {
        kind: 'nowhere to go',
        what:
          'Something makes or takes up air between walls on all sides; what is too much is spread over ' +
          'the room.',
        cure: 'Open a side, or take the expansion back.',
      });
    }
  }

  const tolerance = Math.max(
    RELATIVE_TOLERANCE * before,
    (VOLUME_TOLERANCE * plan.window.voxelSizeM) / state.dtS,
  );
  let direction = layout.direction;
  let correction = fine.e;
  let iterations = 0;
  let rho = 0;
  const point = (e: number): void => void (new Int32Array(team.memory.buffer, fine.block + E_WORD, 1)[0] = e);
  for (; left > tolerance && iterations < MOST_ITERATIONS; iterations++) {
    vCycle(state);
    const last = rho;
    rho = reduce(state, nz, 0, 'sum');
    if (!Number.isFinite(rho))
      throw new StepTrouble(
        state,
        'The pressure became infinite.',
        'Something drives the air without bound: lower the strongest force, or raise the least substeps.',
      );
    if (rho === 0) break;
    if (iterations === 0) {
      [correction, direction] = [direction, correction]; // the first direction is the correction itself
      point(correction);
    }

    team.run('direction', nz, slab, fine.block, direction, iterations === 0 ? 0 : rho / last, partials, slab);
    team.run('energyEdges', nz, slab, fine.block, direction, partials, slab);
    const curvature = reduce(state, nz, 0, 'sum');
    if (!(curvature > 0)) break;
    team.run('advance', nz, slab, fine.block, pressure, direction, rho / curvature, partials, slab);
    left = reduce(state, nz, 0, 'max');
  }

  point(fine.e);
  const planes = share(nz + 1, team);
  team.run('subtractGradient', nz + 1, planes, fine.block, ...faces, pressure, partials, planes);
  state.velocityIsFinite = reduce(state, nz + 1, 3, 'max') === 0;
  state.topSpeeds = [0, 1, 2].map((axis) => reduce(state, nz + 1, axis, 'max')) as [number, number, number];
  if (plan.obstacles.length > 0) {
    layout.velocity.forEach((f, axis) => team.run('extrapolate', nz, SLAB, fine.block, f.address, axis));
    coverFaces(state);
  }

  state.solve = { iterations, before, left, met: left <= tolerance };
}

/** e = M⁻¹ r on the finest level, M symmetric; leaves Σ e r in the partials. */
function vCycle(state: StepState): void {
  const { layout, team } = state;
  const { levels, partials } = layout;
  const last = levels.length - 1;
  const pass = (kernel: string, level: Level, ...values: number[]): void => {
    const { nz } = level.lattice;
    if (!onTeam(level.lattice)) {
      team.solo(kernel, level.block, ...values, nz + 1, 0, nz);
      return;
    }

    const slab = share(nz, team);
    team.run(kernel, nz, slab, level.block, ...values, slab);
  };

  for (let d = 0; d < last; d++) pass('down', levels[d], levels[d + 1].block);
  team.solo('relaxCoarsest', levels[last].block, COARSEST_SWEEPS);
  for (let d = last - 1; d >= 0; d--) pass('up', levels[d], levels[d + 1].block, partials);
}
