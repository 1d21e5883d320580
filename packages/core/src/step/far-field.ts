// The far field: beyond the sides of a window that lie inside the domain, the pressure goes on in a box about
// it, on cells four times as large, where all air is free of divergence. The window's sides meet what stands
// there instead of nothing, so that air which rises has to push the air above it aside, window or not.
import { lattice, type ActiveWindow } from '../grid/lattice';
import { split } from '../grid/memory';
import { addresses, named, share, sites, SLAB } from '../grid/sweep';
import type { Triple } from '../math/vector';
import { coarsenFar, FAR_TIMES, type FarBox } from '../plan/layout';
import type { Plan } from '../plan/plan';
import { conjugateGradients } from './conjugate-gradients';
import { reduce, type SimulationState } from './state';

/** How far the box reaches beyond the window, as a part of the window's mean width; in far cells at least. */
const REACH = 0.5;
const LEAST_REACH = 4;
/** Of the greatest divergence; what is missing here reaches the window as a smooth, small error. */
const TOLERANCE = 1e-3;
const MOST_ITERATIONS = 20;

/** The box about a window; null where none of its sides lies inside the domain. */
export function farBoxOf(plan: Plan, domain: ActiveWindow, window: ActiveWindow): FarBox | null {
  const cells = (w: ActiveWindow): Triple => [w.lattice.nx, w.lattice.ny, w.lattice.nz];
  const own = cells(window).map((n) => Math.ceil(n / FAR_TIMES));
  const reach = Math.max(LEAST_REACH, Math.round((REACH * (own[0] + own[1] + own[2])) / 3));
  /** Fine cells of the domain beyond each side. */
  const beyond = [0, 1, 2].flatMap((a) => {
    const before = window.origin[a] - domain.origin[a];
    return [before, cells(domain)[a] - before - cells(window)[a]];
  });
  const inner = beyond.map((n) => n > 0);
  if (!inner.includes(true)) return null;
  const more = beyond.map((n) => Math.min(reach, Math.ceil(Math.max(0, n) / FAR_TIMES)));
  return {
    lattice: lattice(own[0] + more[0] + more[1], own[1] + more[2] + more[3], own[2] + more[4] + more[5]),
    at: [more[0], more[2], more[4]],
    // a side of the domain that the box reaches is what it is there; else the pressure has faded
    sides: plan.sides.map((rule, side) =>
      more[side] * FAR_TIMES >= beyond[side] ? rule : 'open',
    ) as unknown as Plan['sides'],
    inner,
  };
}

const cellOf = ([i, j, k]: Triple): { i: number; j: number; k: number } => ({ i, j, k });

/** What obstacles cover of the far faces. */
export function writeFarFaces({ layout, threadPool }: SimulationState): void {
  const { far } = layout;
  if (!far) return;
  const [top] = far.levels;
  for (const axis of [0, 1, 2])
    threadPool.run('farFaces', sites(top.lattice, axis)[2], SLAB, {
      fine: layout.levels[0].block,
      far: top.block,
      axis,
      ...cellOf(far.at),
    });
  coarsenFar(threadPool, far);
  for (const level of far.levels) threadPool.solo('fillCoefficients', { level: level.block });
}

/** Finds the far pressure of the air as it is. */
export function findFarPressure(state: SimulationState): void {
  const { layout, threadPool } = state;
  const { far } = layout;
  if (!far) return;
  const [top] = far.levels;
  const { nz } = top.lattice;
  const { lead, bytes } = split(top.lattice);
  new Uint8Array(threadPool.memory.buffer, far.pressure - lead, bytes).fill(0);
  const slab = share(nz, threadPool);
  threadPool.run('farDivergence', nz, slab, {
    fine: layout.levels[0].block,
    far: top.block,
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    outflow: layout.outflow?.address ?? 0,
    ...cellOf(far.at),
    partials: layout.partials,
    slab,
  });
  const greatest = reduce(state, nz, 0, 'max');
  conjugateGradients(state, far, greatest, TOLERANCE * greatest, MOST_ITERATIONS);
}

/** Lays it around the window's pressure, where that meets it. */
export function layFarPressure({ layout, threadPool }: SimulationState): void {
  const { far } = layout;
  far?.inner.forEach((meets, side) => {
    if (!meets) return;
    threadPool.solo('farGhosts', {
      fine: layout.levels[0].block,
      far: far.levels[0].block,
      p: layout.pressure,
      farP: far.pressure,
      side,
      ...cellOf(far.at),
    });
  });
}
