// Stage 4: the velocity is made free of divergence by a pressure (Chorin 1968) with cut-cell faces (Ng et al. 2009):
// conjugate gradients, preconditioned by a multigrid V-cycle (McAdams, Sifakis, Teran 2010), started from the last pressure.
import type { Field } from '../grid/memory';
import { fillHalo, reduce, shape, sites, SLAB, StepTrouble, type Level, type StepState } from './state';

/** Of the greatest divergence; and, so that still air is not polished, of a voxel's volume a substep. */
const RELATIVE_TOLERANCE = 1e-4;
const VOLUME_TOLERANCE = 1e-6;
const MOST_ITERATIONS = 60;
const COARSEST_SWEEPS = 16;
/** Planes a worker takes in a sweep; the first and the last wait for the neighbours, so not too few. */
const SWEEP_SLAB = 8;
/** Below this a level is quicker on one worker than a barrier. */
const SOLO_CELLS = 12000;

export function projection(state: StepState): void {
  const { plan, team, layout } = state;
  const fine = layout.levels[0],
    l = fine.lattice,
    p = layout.pressure;
  const [u, v, w] = layout.velocity;
  const open = fine.open.map((f) => f.address);
  const flat = [l.nx, l.ny, l.rowStride, l.planeStride];
  const walls = plan.sides.reduce((bits, rule, side) => (rule === 'wall' ? bits | (1 << side) : bits), 0);
  // the solver's fields lie in scratch, and what lies outside the window must be 0
  let direction = layout.scratch[2];
  fine.e = layout.scratch[1];
  for (const f of [fine.e, direction, fine.q]) fillHalo(team, f, 3, 63);

  team.run(
    'rightHandSide',
    l.nz,
    SLAB,
    u.address,
    v.address,
    w.address,
    ...open,
    fine.kind,
    p.address,
    fine.r.address,
    ...flat,
    layout.partials,
  );
  const before = reduce(state, l.nz, 0, 'max');
  let left = reduce(state, l.nz, 1, 'max');
  const closed = walls === 63;
  if (closed) {
    const cells = reduce(state, l.nz, 3, 'sum');
    if (cells > 0) team.run('removeMean', l.nz, SLAB, fine.r.address, ...open, ...flat, reduce(state, l.nz, 2, 'sum') / cells);
  }
  const tolerance = Math.max(RELATIVE_TOLERANCE * before, (VOLUME_TOLERANCE * plan.window.voxelSizeM) / state.dtS);
  let iterations = 0,
    rho = 0;
  for (; left > tolerance && iterations < MOST_ITERATIONS; iterations++) {
    vCycle(state, walls);
    const last = rho;
    team.run('dot', l.nz, SLAB, fine.e.address, fine.r.address, ...flat, layout.partials, 0);
    rho = reduce(state, l.nz, 0, 'sum');
    if (!Number.isFinite(rho))
      throw new StepTrouble(
        state,
        'The pressure became infinite.',
        'Something drives the air without bound: lower the strongest force, or raise the least substeps.',
      );
    if (rho === 0) break;
    if (iterations === 0)
      [fine.e, direction] = [direction, fine.e]; // the first direction is the correction itself
    else team.run('direction', l.nz, SLAB, direction.address, fine.e.address, ...flat, rho / last);
    team.run('energy', l.nz, SLAB, direction.address, ...open, fine.kind, ...flat, layout.partials);
    const curvature = reduce(state, l.nz, 0, 'sum');
    if (!(curvature > 0)) break;
    team.run(
      'advance',
      l.nz,
      SLAB,
      p.address,
      fine.r.address,
      direction.address,
      ...open,
      fine.kind,
      ...flat,
      rho / curvature,
      layout.partials,
    );
    left = reduce(state, l.nz, 0, 'max');
  }
  let top = 0;
  layout.velocity.forEach((f, axis) => {
    const planes = sites(l, axis)[2];
    team.run('subtractGradient', planes, SLAB, f.address, p.address, open[axis], ...flat, axis, layout.partials);
    top = Math.max(top, reduce(state, planes, axis, 'max'));
  });
  if (plan.obstacles.length > 0) {
    layout.velocity.forEach((f, axis) => team.run('extrapolate', l.nz, SLAB, f.address, ...open, open[axis], fine.kind, ...shape(l), axis));
  }
  state.topSpeed = top;
  state.solve = { iterations, before, left, met: left <= tolerance };
}

/** Runs a kernel whose last arguments are planes: together on large levels, here alone on small ones. */
function onLevel(state: StepState, level: Level, slab: number, kernel: string, ...values: number[]): void {
  const { nx, ny, nz } = level.lattice;
  if (nx * ny * nz < SOLO_CELLS) state.team.solo(kernel, ...values, 0, nz);
  else state.team.run(kernel, nz, slab, ...values);
}

/** fine.e = M⁻¹ fine.r, M symmetric: red-black sweeps mirrored on the way back up. */
function vCycle(state: StepState, walls: number): void {
  const { layout, team } = state;
  const { levels, line } = layout;
  const last = levels.length - 1;
  for (let d = 0; d < last; d++) {
    const level = levels[d],
      below = levels[d + 1],
      l = level.lattice,
      c = below.lattice;
    sweep(state, level, 0, true);
    sweep(state, level, 0, false);
    onLevel(
      state,
      level,
      SLAB,
      'residual',
      level.e.address,
      level.r.address,
      level.q.address,
      ...open(level),
      level.kind,
      l.nx,
      l.ny,
      l.rowStride,
      l.planeStride,
    );
    // the residual goes on past a wall as in a mirror, except where a coarse cell sticks out of the fine lattice
    const oddEnds = (l.nx & 1 ? 2 : 0) | (l.ny & 1 ? 8 : 0) | (l.nz & 1 ? 32 : 0);
    fillHalo(team, level.q, 3, 63 & (~walls | oddEnds));
    onLevel(
      state,
      below,
      2,
      'restrict',
      level.q.address,
      below.r.address,
      line,
      l.rowStride,
      l.planeStride,
      l.nx,
      c.nx,
      c.ny,
      c.rowStride,
      c.planeStride,
    );
  }
  const bottom = levels[last],
    b = bottom.lattice;
  team.solo('relaxCoarsest', bottom.e.address, bottom.r.address, ...open(bottom), bottom.kind, ...shape(b), COARSEST_SWEEPS);
  for (let d = last - 1; d >= 0; d--) {
    const level = levels[d],
      below = levels[d + 1],
      l = level.lattice,
      c = below.lattice;
    fillHalo(team, below.e, 3, 63 & ~walls);
    onLevel(
      state,
      level,
      SLAB,
      'prolong',
      below.e.address,
      level.e.address,
      line,
      ...open(level),
      1,
      1,
      l.nx,
      l.ny,
      l.rowStride,
      l.planeStride,
      c.nx,
      c.rowStride,
      c.planeStride,
    );
    sweep(state, level, 1, false);
    sweep(state, level, 1, false);
  }
}

/** Both colours once, `colour` first. */
function sweep(state: StepState, level: Level, colour: number, fresh: boolean): void {
  const l = level.lattice;
  const base = [level.e.address, level.r.address, ...open(level), level.kind, l.nx, l.ny, l.rowStride, l.planeStride, colour];
  onLevel(state, level, SWEEP_SLAB, 'relaxPair', ...base, Number(fresh));
  onLevel(state, level, SWEEP_SLAB, 'relaxEdges', ...base);
}

function open(level: Level): [number, number, number] {
  return level.open.map((f: Field) => f.address) as [number, number, number];
}
