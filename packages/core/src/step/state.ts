// What a run keeps between stages: its fields, where they are, and what the last substep found.
import type { CarriedField } from '../base/channels';
import type { ActiveWindow } from '../grid/lattice';
import type { Field } from '../grid/memory';
import { extent, SLAB } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import type { PoolState } from '../plan/particle-pool';
import type { Triple } from '../math/vector';
import type { Plan, SideRules } from '../plan/plan';
import type { Layout } from '../plan/layout';
import type { MediumLayout } from '../plan/medium-layout';
import type { Incident } from '../record/incident';
import type { Ledger } from '../record/ledger';

/** What projection reports of one substep. */
export interface Solve {
  iterations: number;
  /** Greatest divergence before, and left after, as a speed difference over one voxel, m/s. */
  before: number;
  left: number;
  met: boolean;
}

export interface SimulationState {
  /** Another one only between frames. */
  plan: Plan;
  readonly threadPool: ThreadPool;
  /** What is in memory now: a window in the domain, and where its fields are. */
  window: ActiveWindow;
  sides: SideRules;
  layout: Layout;
  /** Cells that each obstacle may touch, from and to. */
  solidBoxes: (readonly [Triple, Triple])[];
  /** As in plan.particles; their arrays lie in layout.pools. */
  pools: PoolState[];
  incidents: Incident[];
  /**
   * The frame being made, the substep in it, and the simulated time at the substep's start since the first
   * frame.
   */
  frame: number;
  substep: number;
  timeS: number;
  dtS: number;
  /** Greatest face velocity along x, y, z after the last projection, m/s. */
  topSpeeds: [number, number, number];
  /** Whether that projection left only finite numbers. */
  velocityIsFinite: boolean;
  /** The layout in which the weights of the regions stand that stay as they are; null at first. */
  weightedLayout: Layout | null;
  /** Is told after each force, with the sum so far; see readings/shares.ts. */
  onForce: ((name: string) => void) | null;
  solve: Solve;
  ledger: Ledger;
  /** Of sources that stay as they are, by lattice and number. */
  readonly covers: Map<string, KeptCover>;
}

/** What a source covers of the cells of its box, and for which layout and look of it. */
export interface KeptCover {
  readonly layout: MediumLayout;
  readonly looks: string;
  readonly values: Float32Array;
}

/** What giving off, carrying and spreading the medium need of it, on cells that may be the medium's own. */
export interface MediumState extends Omit<SimulationState, 'layout'> {
  readonly layout: MediumLayout;
}

/** Density, and what rides on it. */
export const isMass = ({ channels }: Plan, n: number): boolean => n === 0 || channels[n].rides;

/**
 * Where a channel lies now; transport swaps fields, so ask again after it. Null where the run does not carry
 * it.
 */
export function channelField(
  state: { readonly plan: Plan; readonly layout: Pick<Layout, 'channels'> },
  name: CarriedField,
): Field | null {
  const n = state.plan.channels.findIndex((c) => c.name === name);
  return n < 0 ? null : state.layout.channels[n];
}

/** Sums or takes the greatest of a slot of the partial results, in the order of the planes. */
export function reduce(state: MediumState, planes: number, slot: number, how: 'sum' | 'max'): number {
  const parts = new Float64Array(state.threadPool.memory.buffer, state.layout.partials, planes * 8);
  let out = how === 'sum' ? 0 : -Infinity;
  for (let k = 0; k < planes; k++)
    out = how === 'sum' ? out + parts[k * 8 + slot] : Math.max(out, parts[k * 8 + slot]);
  return out;
}

/** Greatest value of a field of the state's cells, without its sign. */
export function greatestOf(state: MediumState, f: Field): number {
  const { threadPool, layout } = state;
  const l = f.lattice;
  threadPool.run('maxAbs', l.nz, SLAB, { f: f.address, ...extent(l), partials: layout.partials, slot: 0 });
  return reduce(state, l.nz, 0, 'max');
}

export const momentOf = (state: MediumState): { frame: number; substep: number } => ({
  frame: state.frame,
  substep: state.substep,
});

/** Keeps the first of each kind in a frame. */
export function raiseIncident(state: MediumState, what: Omit<Incident, 'frame' | 'substep'>): void {
  if (!state.incidents.some((n) => n.kind === what.kind))
    state.incidents.push({ ...momentOf(state), ...what });
}
