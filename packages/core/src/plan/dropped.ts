// What of a recipe has no part in its run, and why: said rather than left out without a word.
import type { Recipe } from '../recipe/types';
import type { Plan } from './plan';

export interface Dropped {
  /** Where it stands in the recipe: `sources.2`. */
  readonly path: string;
  readonly name: string;
  readonly why: string;
}

type Listed = { readonly id: string; readonly name: string; readonly on: boolean };

const LISTS = [
  'sources',
  'patterns',
  'obstacles',
  'particles',
  'currents',
  'regions',
  'changes',
  'formulas',
] as const;

export function droppedParts(recipe: Recipe, plan: Plan): Dropped[] {
  const isOn = (list: 'sources' | 'particles' | 'regions', id: string): boolean =>
    recipe[list].some((p) => p.id === id && p.on);
  const whys: Partial<Record<(typeof LISTS)[number], (n: number) => string | null>> = {
    sources: (n) => {
      const { shape, particles } = recipe.sources[n];
      return shape === 'particles' && !isOn('particles', particles) ? 'its particles are off' : null;
    },
    patterns: (n) => (isOn('sources', recipe.patterns[n].source) ? null : 'its source is off'),
    particles: (n) => {
      const { born, parent } = recipe.particles[n];
      return born === 'children' && !isOn('particles', parent) ? 'what it springs from is off' : null;
    },
    regions: (n) =>
      plan.regions.some((r) => r.index === n) ? null : 'nothing is limited to it or changed in it',
    changes: (n) => (plan.changes.some((c) => c.index === n) ? null : 'its region is off'),
  };

  return LISTS.flatMap((list) =>
    (recipe[list] as readonly Listed[]).flatMap((part, n) => {
      const why = part.on ? (whys[list]?.(n) ?? null) : 'it is off';
      return why === null ? [] : [{ path: `${list}.${n}`, name: part.name, why }];
    }),
  );
}
