// The formulas of a moment of the step, in the order of the page.
import type { Moment } from '../formulas/language';
import { work } from './run-formula';
import { SLAB } from '../grid/sweep';
import { eachPlace } from './places';
import type { StepState } from './state';

/** @returns whether any was worked out */
export function formulas(state: StepState, moment: Moment): boolean {
  const { plan, layout, team } = state;
  let wrote = false;
  for (const { index, part, program } of plan.formulas) {
    if (part.when !== moment || state.frame < part.from || state.frame > part.until) continue;
    eachPlace(
      state,
      [],
      (r) => r.formulas[index],
      (_, weight) => work(state, program, weight),
    );
    wrote = true;
  }

  if (!wrote || moment === 'pushed' || plan.obstacles.length === 0) return wrote;
  for (const f of layout.channels)
    team.run('clearSolids', state.window.lattice.nz, SLAB, { level: layout.levels[0].block, f: f.address });
  return wrote;
}
