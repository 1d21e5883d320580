// The formulas of a moment of the step, in the order of the page.
import type { Moment } from '../formulas/language';
import { runFormula } from './run-formula';
import { SLAB } from '../grid/sweep';
import { followMedium } from './finer';
import { bookGiven } from './ledger';
import { eachRegionVariant } from './region-variants';
import type { SimulationState } from './state';

/** @returns whether any was worked out */
export function formulas(state: SimulationState, moment: Moment): boolean {
  const { plan, layout, threadPool } = state;
  let wrote = false;
  for (const { index, part, program } of plan.formulas) {
    if (part.when !== moment || state.frame < part.from || state.frame > part.until) continue;
    eachRegionVariant(
      state,
      [],
      (r) => r.formulas[index],
      (_, weight) => runFormula(state, program, weight),
    );
    wrote = true;
  }

  if (!wrote) return false;
  for (const f of plan.obstacles.length > 0 ? layout.channels : [])
    threadPool.run('clearSolids', state.window.lattice.nz, SLAB, {
      level: layout.levels[0].block,
      f: f.address,
    });
  followMedium(state);
  bookGiven(state);
  return true;
}
