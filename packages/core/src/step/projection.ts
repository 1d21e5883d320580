// Stage 7: the velocity is made free of divergence by a pressure (Chorin 1968) with cut-cell faces (Ng et al.
// 2009): conjugate gradients started from the last pressure, among what stands around the window.
import { conjugateGradients } from './conjugate-gradients';
import { findFarPressure, layFarPressure } from './far-field';
import { coverFaces } from './cut-cells';
import { split } from '../grid/memory';
import { evenPockets, findPockets, tellOfPressed, type Pocket } from './pockets';
import { raiseIncident, reduce, type Solve, type SimulationState } from './state';
import { share, SLAB, named } from '../grid/sweep';
import { SolverError } from '../record/solver-error';

/** Of the greatest divergence; and, so that still air is not polished, of a voxel's volume a substep. */
const RELATIVE_TOLERANCE = 1e-4;
const VOLUME_TOLERANCE = 1e-6;
/** Mean divergence, as part of the greatest, that rounding may leave. */
const ROUND_OFF = 1e-4;
const MOST_ITERATIONS = 60;

/** Part of the last pressure that pushes the air before it is carried along. */
const AHEAD = 0.5;

/**
 * Half of the last substep's pressure pushes the air where it is, before it is carried along; projection
 * finds the rest where it has come. So pressure acts along the whole way, to second order (Van Kan 1986), and
 * whirls lose hardly anything to the splitting. Leaves that half in `pressure`, where the search begins.
 */
export function pushAhead(state: SimulationState): void {
  const { layout, threadPool } = state;
  const { nz } = layout.levels[0].lattice;
  threadPool.run('setPressureAside', nz + 2, SLAB, { ...pressures(state), gain: AHEAD * state.dtS });
  takeGradient(state);
}

/** The pressure and the last one's, for kernels that go over both and over the planes around them. */
function pressures({ layout }: SimulationState): { p: number; kept: number; planeBytes: number } {
  const { plane: planeBytes, row } = split(layout.levels[0].lattice);
  const ahead = planeBytes + row;
  return { p: layout.pressure - ahead, kept: layout.lastPressure - ahead, planeBytes };
}

export function projection(state: SimulationState): void {
  const { plan, threadPool, layout } = state;
  findFarPressure(state);
  let solve = findPressure(state, []);
  if (!solve.met && plan.obstacles.some((o) => o.moves)) {
    const pockets = findPockets(state);
    if (pockets.length > 0) {
      // what was found so far has run away in the pocket
      const { lead, bytes } = split(layout.levels[0].lattice);
      new Uint8Array(threadPool.memory.buffer, layout.pressure - lead, bytes).fill(0);
      solve = findPressure(state, pockets);
    }
  }

  if (!Number.isFinite(solve.left))
    throw new SolverError(
      state,
      'The pressure became infinite.',
      'Something drives the air without bound: lower the strongest force, or raise the least substeps.',
    );
  takeGradient(state);
  layBeside(state);
  threadPool.run('sumPressures', layout.levels[0].lattice.nz + 2, SLAB, {
    ...pressures(state),
    gain: AHEAD * state.dtS,
    rate: 1 / state.dtS,
  });
  state.solve = solve;
}

/** Of the air as it is; in pockets without their mean. `left` is not a number where it ran away. */
function findPressure(state: SimulationState, pockets: readonly Pocket[]): Solve {
  const { plan, threadPool, layout } = state;
  const fine = layout.levels[0];
  const { nz } = fine.lattice;
  const { pressure, partials } = layout;
  const slab = share(nz, threadPool);
  const faces = layout.velocity.map((f) => f.address);
  layFarPressure(state);
  threadPool.run('rightHandSide', nz, slab, {
    level: fine.block,
    ...named(['u', 'v', 'w'], faces),
    outflow: layout.outflow?.address ?? 0,
    p: pressure,
    partials,
    slab,
  });
  const before = reduce(state, nz, 0, 'max');
  let left = reduce(state, nz, 1, 'max');
  if (state.sides.every((rule) => rule === 'wall')) {
    threadPool.run('sumResidual', nz, SLAB, { level: fine.block, partials });
    const cells = reduce(state, nz, 1, 'sum');
    const sum = reduce(state, nz, 0, 'sum');
    if (cells > 0) threadPool.run('removeMean', nz, SLAB, { level: fine.block, mean: sum / cells });
    // with walls all round there is only a pressure if as much flows out of cells as into them
    if (plan.makesAir && Math.abs(sum) > ROUND_OFF * cells * before) {
      raiseIncident(state, {
        kind: 'nowhere to go',
        what:
          'Something makes or takes up air between walls on all sides; what is too much is spread over ' +
          'the domain.',
        cure: 'Open a side, or take the expansion back.',
      });
    }
  }

  if (pockets.length > 0) {
    tellOfPressed(state, pockets);
    left = evenPockets(state, pockets);
  }

  const tolerance = Math.max(
    RELATIVE_TOLERANCE * before,
    (VOLUME_TOLERANCE * plan.window.voxelSizeM) / state.dtS,
  );
  const found = conjugateGradients(state, layout, left, tolerance, MOST_ITERATIONS, () =>
    // rounding brings a little of the mean of a pocket back, which has no pressure
    pockets.length > 0 ? evenPockets(state, pockets) : null,
  );
  return { ...found, before, met: found.left <= tolerance };
}

/** Takes the pressure's gradient from the air; leaves its greatest speeds in the partials. */
function takeGradient({ threadPool, layout }: SimulationState): void {
  const fine = layout.levels[0];
  const planes = fine.lattice.nz + 1;
  const slab = share(planes, threadPool);
  threadPool.run('subtractGradient', planes, slab, {
    level: fine.block,
    ...named(
      ['u', 'v', 'w'],
      layout.velocity.map((f) => f.address),
    ),
    p: layout.pressure,
    partials: layout.partials,
    slab,
  });
}

/** Sees how fast the air is now, and lays air into what obstacles cover, for look-ups beside them. */
function layBeside(state: SimulationState): void {
  const { plan, threadPool, layout } = state;
  const fine = layout.levels[0];
  const { nz } = fine.lattice;
  state.velocityIsFinite = reduce(state, nz + 1, 3, 'max') === 0;
  state.topSpeeds = [0, 1, 2].map((axis) => reduce(state, nz + 1, axis, 'max')) as [number, number, number];
  if (plan.obstacles.length === 0) return;
  layout.velocity.forEach((f, axis) =>
    threadPool.run('extrapolate', nz, SLAB, { level: fine.block, vel: f.address, axis }),
  );
  coverFaces(state);
}
