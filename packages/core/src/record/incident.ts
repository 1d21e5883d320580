// What a run noticed and an artist would want to know, with the change that would cure it.
import type { Triple } from '../math/vector';
import { differences, setAt } from '../recipe/paths';
import type { Recipe } from '../recipe/types';

/** A change of settings that would cure something, to be tried at once. */
export interface Fix {
  /** What a variant with it is called. */
  readonly label: string;
  readonly settings: readonly (readonly [path: string, value: number | string | boolean])[];
}

/** What a run looks out for: how it went on, and what readings/incidents.ts finds in its frames. */
export type IncidentKind =
  | ('unmet' | 'capped' | 'pocket' | 'nowhere to go' | 'crowded' | 'thin' | 'apart' | 'unbound')
  | ('cut off' | 'nothing' | 'outside' | 'buried' | 'mass' | 'stirred' | 'puffs');

/** Something that the run noticed and that an artist would want to know. */
export interface Incident {
  readonly kind: IncidentKind;
  readonly frame: number;
  readonly substep: number;
  readonly what: string;
  readonly cure: string;
  /** Where, in the world. */
  readonly placeM?: Triple;
  readonly fix?: Fix;
}

/** Incidents as any program version wrote them: earlier ones called the fix a mend. */
export const readIncidents = (written: readonly (Incident & { readonly mend?: Fix })[]): Incident[] =>
  written.map(({ mend, ...incident }) => (mend ? { ...incident, fix: mend } : incident));

/**
 * Twice as many substeps at the least, and at the most where that is less, within what a recipe may ask for.
 */
export function moreSubsteps({ space }: Recipe): [string, number][] {
  const least = Math.min(32, 2 * space.substepsLeast);
  return [
    ['space.substepsLeast', least],
    ...(least > space.substepsMost ? [['space.substepsMost', least] as [string, number]] : []),
  ];
}

/** The recipe with them. */
export const withMoreSubsteps = (recipe: Recipe): Recipe =>
  moreSubsteps(recipe).reduce((r, [path, value]) => setAt(r, path, value), recipe);

/** Whether two recipes are the same but for their substeps. */
export const onlySubsteps = (a: Recipe, b: Recipe): boolean =>
  differences(a, b).every((d) => d.path === 'space.substepsLeast' || d.path === 'space.substepsMost');
