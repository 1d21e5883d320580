// Bricks of a bake: fetched in the order in which they are wanted, some ahead of where one looks, within a
// budget.
import { routes } from '@bramblemist/contracts/routes';
import { create } from 'zustand';
import { bytesOf, framesBudget } from '../live/budget';
import type { ShownBrick } from '../live/use-live';
import type { BrickWish } from './brick-worker';
import { WorkerCalls } from './worker-calls';

/** Frames that are fetched before they are shown; and how many are on their way at once. */
const AHEAD = 12;
const AT_ONCE = 2;

interface Bricks {
  readonly kept: ReadonlyMap<string, ShownBrick>;
  /** A frame as a tool would make it, in place of the one that is kept. */
  readonly tried: { readonly bakeId: number; readonly frame: number; readonly shown: ShownBrick } | null;
}
export const useBricks = create<Bricks>(() => ({ kept: new Map(), tried: null }));

/** One worker alone does not keep up with a cube of 128 voxels at 24 frames a second. */
const workers = Array.from(
  { length: AT_ONCE },
  () =>
    new WorkerCalls<BrickWish, ShownBrick>(
      () => new Worker(new URL('./brick-worker.ts', import.meta.url), { type: 'module' }),
    ),
);
let turn = 0;
let keptBytes = 0;
/** What is wanted now, the most wanted first. */
let wanted: { key: string; url: string }[] = [];
const underWay = new Set<string>();
const keyOf = (bakeId: number, frame: number): string => `${bakeId}/${frame}`;

const unpacked = (wish: BrickWish): Promise<ShownBrick> => workers[turn++ % workers.length].call(wish);

/** @param shown null where it could not be had: it is asked for again when it is wanted again */
function receive(key: string, shown: ShownBrick | null): void {
  underWay.delete(key);
  wanted = wanted.filter((w) => w.key !== key);
  if (shown) {
    const kept = new Map(useBricks.getState().kept).set(key, shown);
    keptBytes += bytesOf(shown);
    for (const [old, brick] of kept) {
      if (keptBytes <= framesBudget() || old === key) break;
      kept.delete(old);
      keptBytes -= bytesOf(brick);
    }

    useBricks.setState({ kept });
  }

  next();
}

function next(): void {
  const { kept } = useBricks.getState();
  for (const w of wanted) {
    if (underWay.size >= AT_ONCE) return;
    if (kept.has(w.key) || underWay.has(w.key)) continue;
    underWay.add(w.key);
    unpacked({ url: w.url }).then(
      (shown) => receive(w.key, shown),
      () => receive(w.key, null),
    );
  }
}

/**
 * Sees to it that these frames come, the first one first; what was wanted before and is not any more is let
 * be.
 */
export function wantBricks(bakeId: number, frame: number, there: readonly number[]): void {
  const at = there.indexOf(frame);
  if (at < 0) return;
  const list = Array.from(
    { length: Math.min(AHEAD + 1, there.length) },
    (_, n) => there[(at + n) % there.length],
  );
  const own = list.map((f) => ({ key: keyOf(bakeId, f), url: routes.brick(bakeId, f) }));
  // two bakes may be looked at side by side
  wanted = [...own, ...wanted.filter((w) => !w.key.startsWith(`${bakeId}/`)).slice(0, AHEAD)];
  next();
}

export function brickOf(
  kept: ReadonlyMap<string, ShownBrick>,
  bakeId: number,
  frame: number,
): ShownBrick | null {
  return kept.get(keyOf(bakeId, frame)) ?? null;
}

/** Shows a preview that is at hand in place of a kept frame; null ends it. */
export async function showTried(
  of: { bakeId: number; frame: number; bytes: Uint8Array } | null,
): Promise<void> {
  if (!of) return useBricks.setState({ tried: null });
  const shown = await unpacked({ bytes: of.bytes });
  useBricks.setState({ tried: { bakeId: of.bakeId, frame: of.frame, shown } });
}
