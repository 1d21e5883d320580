// What each frame is measured by, in SI units.
import { SLAB, extent } from '../grid/sweep';
import { mediumOf } from '../step/finer';
import { greatestOf, reduce, type SimulationState } from '../step/state';
import { made, type Ledger } from '../record/ledger';
import { boxOfMedium } from '../step/window';
import type { Triple } from '../math/vector';
import type { ForceShares, MassAccounts, SixSides, Readings } from '../record/readings';

interface StepFigures {
  forces: ForceShares;
  substeps: number;
  iterations: number;
  before: number;
  left: number;
  cfl: number;
  capped: boolean;
  unmet: number;
  ms: number;
}

function accounts(ledger: Ledger, cell: number): MassAccounts {
  const sides = ledger.left.map((v) => v * cell) as unknown as SixSides;
  return {
    mass: ledger.mass * cell,
    massGivenOff: ledger.given * cell,
    massFaded: ledger.faded * cell,
    massDeposited: ledger.deposited * cell,
    massLeft: (ledger.trimmed + ledger.left.reduce((a, v) => a + v, 0)) * cell,
    massLeftSides: sides,
    massMade: made(ledger) * cell,
  };
}

/** Where the middle of the medium is, and how far it spreads about it. */
function shapeOf(state: SimulationState): Partial<Readings> {
  const { threadPool, layout, window } = state;
  const l = window.lattice;
  const { partials } = layout;
  threadPool.run('sumMoments', l.nz, SLAB, { f: layout.channels[0].address, ...extent(l), partials });
  const [mass, ...moments] = [0, 1, 2, 3, 4, 5, 6].map((slot) => reduce(state, l.nz, slot, 'sum'));
  if (!(mass > 0)) return {};
  const h = window.voxelSizeM;
  const mean = moments.slice(0, 3).map((m) => m / mass);
  const spread = moments.slice(3).map((m, a) => h * Math.sqrt(Math.max(0, m / mass - mean[a] * mean[a])));
  return {
    centre: mean.map((m, a) => (m + 0.5 + window.origin[a]) * h) as unknown as Triple,
    spread: spread as unknown as Triple,
  };
}

export function takeReadings(state: SimulationState, figures: StepFigures): Readings {
  const { layout, plan, threadPool } = state;
  const l = state.window.lattice;
  const h = plan.window.voxelSizeM;
  const cell = h * h * h;
  const [u, v, w] = layout.velocity.map((f) => f.address);
  const [x, y, z] = layout.levels[0].open.map((f) => f.address);
  threadPool.run('measureFrame', l.nz, SLAB, {
    density: layout.channels[0].address,
    u,
    v,
    w,
    ax: x,
    ay: y,
    az: z,
    ...extent(l),
    threshold: plan.recipe.keep.threshold,
    partials: layout.partials,
  });
  const sum = (slot: number): number => reduce(state, l.nz, slot, 'sum');
  const most = (slot: number): number => reduce(state, l.nz, slot, 'max');
  const mass = sum(0);
  const part = (v: number): number => (mass > 0 ? v / mass : 0);
  const whole = {
    ...accounts(state.ledger, cell),
    greatestDensity: layout.medium ? greatestOf(mediumOf(state), layout.medium.channels[0]) : most(1),
    volume: sum(3) * cell,
    riseHeight: (most(4) + 1) * h,
    topSpeed: Math.max(...state.topSpeeds),
    kineticEnergy: 0.5 * sum(2) * cell,
    divergence: most(5) / h,
    contact: part(sum(6)),
  };
  const density = layout.channels[0].address;
  const shape = shapeOf(state);
  threadPool.run('boundarySums', l.nz, SLAB, { f: density, ...extent(l), partials: layout.partials });
  const contactSides = [0, 1, 2, 3, 4, 5].map((side) => part(sum(side))) as unknown as SixSides;
  const box = boxOfMedium(state, plan.recipe.keep.threshold);
  return {
    ...whole,
    ...shape,
    contactSides,
    extent: box && ([0, 1, 2].flatMap((a) => [box[0][a] * h, box[1][a] * h]) as unknown as SixSides),
    memory: layout.bytes,
    particles: state.pools.reduce((n, p) => n + p.count, 0),
    forces: figures.forces,
    substeps: figures.substeps,
    cfl: figures.cfl,
    iterations: figures.iterations,
    divergenceBefore: figures.before,
    residual: figures.left,
    capped: figures.capped,
    unmet: figures.unmet,
    ms: figures.ms,
  };
}
