// What the run that is shown is compared with, and how.
import type { Look } from '@bramblemist/core/look/look';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { shotStore } from './shot-store';
import { useLive, type ShownBrick } from '../live/use-live';
import type { Readings } from '@bramblemist/core/record/readings';

export type Other =
  | { readonly kind: 'variant' | 'bake'; readonly id: number }
  /** Frames of the live run as they were when they were held. */
  | {
      readonly kind: 'held';
      readonly recipe: Recipe;
      readonly look: Look;
      readonly frames: ReadonlyMap<number, ShownBrick>;
      readonly readings: ReadonlyMap<number, Readings>;
    };
export const MODES = [
  { value: 'side', label: 'side by side' },
  { value: 'wipe', label: 'wiped' },
  { value: 'difference', label: 'as their difference' },
] as const;
export type Mode = (typeof MODES)[number]['value'];

export interface CompareState {
  readonly other: Other | null;
  readonly mode: Mode;
  /** Where the wipe stands, part of the width. */
  readonly at: number;
}
export const useCompare = shotStore<CompareState>(() => ({ other: null, mode: 'side', at: 0.5 }), {
  returns: false,
});

export const compareWith = (other: Other | null): void => useCompare.setState({ other });

/** Keeps the live run as it is now, to be held against what it becomes. */
export function holdLive(recipe: Recipe, look: Look): void {
  const { frames, readings } = useLive.getState();
  compareWith({ kind: 'held', recipe, look, frames, readings });
}
