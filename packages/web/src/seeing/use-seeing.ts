// What is to be seen of how the air is moved, and what the worker saw: the latest wish is followed, one at a
// time.
import { latestWish } from '../data/latest-wish';
import { shotStore } from '../data/shot-store';
import { WorkerCalls } from '../data/worker-calls';
import { useEffect } from 'react';
import type { Shown } from '@bramblemist/core/analysis/flow';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { ShownBrick } from '../live/use-live';
import type { Seen, ToSeeing } from './messages';

export interface Wish {
  /**
   * Arrows of a force by its name, or `all`; of the air itself `air`, its streamlines `lines`; null: none.
   */
  readonly arrows: string | null;
  /** Id of a region. */
  readonly veil: string | null;
  /** Name of a force, or `=` and that of a channel, which is shown on a plane. */
  readonly slice: string | null;
  /** Across which axis the plane lies, and where: a share of the domain. */
  readonly axis: 0 | 1 | 2;
  readonly at: number;
  /** The formula that is being written. */
  readonly formula: { readonly index: number; readonly text: string } | null;
}
export const useWish = shotStore<Wish>(
  () => ({ arrows: null, veil: null, slice: null, axis: 2, at: 0.5, formula: null }),
  { returns: true },
);
const NOTHING = { seen: null, error: null };
export const useSeen = shotStore<{ readonly seen: Seen | null; readonly error: string | null }>(
  () => NOTHING,
  { returns: false },
);

const worker = new WorkerCalls<ToSeeing, Seen>(
  () => new Worker(new URL('./seeing-worker.ts', import.meta.url), { type: 'module' }),
);
const { ask, forget } = latestWish(
  worker.call,
  (seen) => useSeen.setState({ seen, error: null }),
  ({ message }) => useSeen.setState({ seen: null, error: message }),
);

/** Keeps what is seen in step with the recipe and the frame that is shown. */
export function useSeeing(recipe: Recipe, shown: ShownBrick | null, wanted: boolean): void {
  const wish = useWish();
  useEffect(() => {
    const { arrows, veil, slice, formula, axis, at } = wish;
    if (!wanted || (arrows ?? veil ?? slice ?? formula) === null) {
      forget();
      useSeen.setState(NOTHING);
      return;
    }

    const { corner, size } = recipe.space;
    const plane = { axis, atM: corner[axis] + at * size[axis] };
    const flows: Readonly<Record<string, 'arrows' | 'lines'>> = { air: 'arrows', lines: 'lines' };
    const flow = arrows === null ? null : (flows[arrows] ?? null);
    const frame = shown?.brick.frame ?? recipe.space.firstFrame;
    ask({
      recipe,
      frame,
      glimpse: shown?.glimpse ?? null,
      flow,
      arrows: arrows !== null && flow === null,
      veil,
      brick: slice === '=density' ? (shown?.brick ?? null) : null,
      slice: slice === null ? null : { ...plane, of: shownBy(slice) },
      formula: formula && { ...plane, ...formula },
    });
  }, [recipe, shown, wanted, wish]);
}

/** What a slice's name stands for: the distance to obstacles, a channel, or a force. */
function shownBy(slice: string): 'distance' | { channel: Shown } | { force: string } {
  if (slice === '=distance') return 'distance';
  return slice.startsWith('=') ? { channel: slice.slice(1) as Shown } : { force: slice };
}
