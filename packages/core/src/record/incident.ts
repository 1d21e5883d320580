// What a run noticed and an artist would want to know, with the change that would cure it.
import type { Triple } from '../math/vector';
import type { Recipe } from '../recipe/types';

/** A change of settings that would cure something, to be tried at once. */
export interface Mend {
  /** What a variant with it is called. */
  readonly label: string;
  readonly settings: readonly (readonly [path: string, value: number | string | boolean])[];
}

/** What a run looks out for: how it went on, and what readings/incidents.ts finds in its frames. */
export type NoticeKind =
  | ('unmet' | 'capped' | 'nowhere to go' | 'crowded' | 'thin' | 'apart' | 'unbound')
  | ('cut off' | 'nothing' | 'outside' | 'buried' | 'mass' | 'stirred' | 'puffs' | 'leak');

/** Something that the run noticed and that an artist would want to know. */
export interface Notice {
  readonly kind: NoticeKind;
  readonly frame: number;
  readonly substep: number;
  readonly what: string;
  readonly cure: string;
  /** Where, in the world. */
  readonly placeM?: Triple;
  readonly mend?: Mend;
}

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
