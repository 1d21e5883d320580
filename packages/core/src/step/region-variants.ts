// The settings of a part as they are from place to place: what a region changes, and where each version
// counts.
import { SLAB, extent } from '../grid/sweep';
import { getAt, setAt } from '../recipe/paths';
import type { Placed, Recipe } from '../recipe/types';
import { changedBy } from '../plan/plan-regions';
import type { PlannedChange } from '../plan/plan';
import { reduce, type SimulationState } from './state';

/** A region's weight, or what it leaves of the whole: 1 − weight. */
interface Factor {
  readonly region: number;
  readonly inverted: boolean;
}

/**
 * Visits every version of the settings that holds somewhere, with the address of the field of weights by
 * which it counts there; 0 where it counts everywhere. Weights of all versions add up to that of the region
 * which the part is limited to.
 * @param keys parts of the recipe (`wind`, `currents/ID`) whose changes make another version; the part's own
 * first
 * @param own the part, for the region that it is limited to
 */
export function eachRegionVariant(
  state: SimulationState,
  keys: readonly string[],
  own: (recipe: Recipe) => Placed,
  visit: (recipe: Recipe, weight: number) => void,
): void {
  const { plan } = state;
  const now = plan.at(state.timeS + state.dtS / 2);
  const limit = plan.regions.findIndex((r) => r.part.id === own(now).where);
  const limits: Factor[] = limit < 0 ? [] : [{ region: limit, inverted: false }];
  const changes = plan.changes.filter((c) => keys.includes(c.key));
  const regions = [...new Set(changes.map((c) => c.region))].sort((a, b) => a - b);
  const go = (recipe: Recipe, factors: readonly Factor[], rest: readonly number[]): void => {
    const [region, ...others] = rest;
    if (region === undefined) {
      const weight = weigh(state, factors);
      if (weight !== null) visit(recipe, weight);
      return;
    }

    go(recipe, [...factors, { region, inverted: true }], others);
    const inside = changes.filter((c) => c.region === region).reduce((r, c) => changed(r, c, now), recipe);
    go(inside, [...factors, { region, inverted: false }], others);
  };

  go(now, limits, regions);
}

function changed(recipe: Recipe, { at, index, part, least, most }: PlannedChange, now: Recipe): Recipe {
  const value = changedBy(part, now.changes[index].amount, getAt(recipe, at) as number);
  return setAt(recipe, at, Math.min(most, Math.max(least, value)));
}

/** Address of the product of weights; 0 for the whole of the window, null where it is nothing anywhere. */
function weigh(state: SimulationState, factors: readonly Factor[]): number | null {
  const { layout, threadPool, window } = state;
  const l = window.lattice;
  if (factors.length === 0) return 0;
  if (factors.length === 1 && !factors[0].inverted) return layout.regions[factors[0].region].address;
  const list = factors.map(({ region, inverted }) => layout.regions[region].address + Number(inverted));
  new Int32Array(threadPool.memory.buffer, layout.emission, list.length).set(list);
  const out = layout.regionWeight!.address;
  threadPool.run('multiplyWeights', l.nz, SLAB, {
    out,
    list: layout.emission,
    count: list.length,
    ...extent(l),
    partials: layout.partials,
  });
  return reduce(state, l.nz, 0, 'max') > 0 ? out : null;
}
