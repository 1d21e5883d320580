// What forces are called on the page.
import { PARTS } from '@bramblemist/core/recipe/parts';
import type { Recipe } from '@bramblemist/core/recipe/types';

/** @param name as in readings: `wind`, `currents/ID`, `formulas`, `all` */
export function forceTitle(recipe: Recipe, name: string): string {
  if (name === 'all') return 'all forces';
  const [key, id] = name.split('/');
  if (id !== undefined) return recipe.currents.find((c) => c.id === id)?.name ?? 'a current that is gone';
  return PARTS.find((p) => p.key === key)?.title ?? name;
}

/** Forces that the recipe has, in the order in which they act. */
export function forcesOf(recipe: Recipe): string[] {
  const { buoyancy, wind, drag, turbulence, edges, vorticity } = recipe;
  const on: readonly (readonly [string, boolean])[] = [
    ['vorticity', vorticity.strength !== 0 || vorticity.large !== 0],
    ['turbulence', turbulence.strength !== 0],
    ['edges', edges.strength !== 0],
    ['buoyancy', buoyancy.lift !== 0 || buoyancy.weight !== 0],
    ['wind', wind.speed !== 0 || wind.gust !== 0],
    ['drag', drag.halfLife > 0],
  ];
  return [
    ...on.filter(([, is]) => is).map(([name]) => name),
    ...recipe.currents.filter((c) => c.on).map((c) => `currents/${c.id}`),
    ...(recipe.formulas.some((f) => f.on && f.when === 'pushed') ? ['formulas'] : []),
  ];
}
