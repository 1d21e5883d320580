// The range of a channel in the medium at a frame, for its colours.
import { channelOf, type Shown } from '@bramblemist/core/analysis/flow';
import type { ShownBrick } from '../live/use-live';

/** Density below this part of the greatest is not seen, so it does not count. */
const FAINT = 0.02;
const ranges = new WeakMap<ShownBrick, Map<string, readonly [number, number]>>();

export function rangeOf(shown: ShownBrick, colouring: 'light' | Shown): readonly [number, number] {
  const { brick, glimpse } = shown;
  if (colouring === 'light') return [0, 1];
  if (colouring === 'density') return [0, brick.greatest];
  if (!glimpse) return [0, 1];
  const own = ranges.get(shown) ?? new Map<string, readonly [number, number]>();
  ranges.set(shown, own);
  let found = own.get(colouring);
  if (!found) {
    const density = channelOf(glimpse, 'density');
    const values = channelOf(glimpse, colouring);
    const least = FAINT * density.reduce((m, v) => Math.max(m, v), 0);
    let low = Infinity;
    let high = -Infinity;
    values.forEach((v, n) => {
      if (density[n] <= least) return;
      low = Math.min(low, v);
      high = Math.max(high, v);
    });
    found = high > low ? [low, high] : [0, 1];
    own.set(colouring, found);
  }

  return found;
}
