// Bricks of a bake, fetched as they are needed and a little ahead, the oldest let go.
import { decodePreview } from '@bramblemist/core/cache/preview';
import { lightSweep } from '@bramblemist/core/look/sweep';
import { routes } from '@bramblemist/contracts/routes';
import { create } from 'zustand';
import type { ShownBrick } from '../live/use-live';
import { PREVIEW_EXTINCTION, PREVIEW_SUN } from '../viewport/light';

const MOST_KEPT = 240;
const AHEAD = 6;

export const useBricks = create<{ readonly kept: ReadonlyMap<string, ShownBrick> }>(() => ({ kept: new Map() }));
const asked = new Set<string>();

const keyOf = (bakeId: number, frame: number): string => `${bakeId}/${frame}`;

async function fetchBrick(bakeId: number, frame: number): Promise<void> {
  const key = keyOf(bakeId, frame);
  if (asked.has(key)) return;
  asked.add(key);
  try {
    const response = await fetch(routes.brick(bakeId, frame));
    if (!response.ok) throw new Error(String(response.status));
    const { brick, glimpse } = decodePreview(new Uint8Array(await response.arrayBuffer()));
    const kept = new Map(useBricks.getState().kept);
    kept.set(key, { brick, light: lightSweep(brick, PREVIEW_SUN, PREVIEW_EXTINCTION), dots: null, glimpse });
    while (kept.size > MOST_KEPT) {
      const oldest = kept.keys().next().value!;
      kept.delete(oldest);
      asked.delete(oldest);
    }
    useBricks.setState({ kept });
  } catch {
    asked.delete(key); // asked again when it is shown again
  }
}

/** Sees to it that these frames come, the first one first. */
export function wantBricks(bakeId: number, frame: number, there: readonly number[]): void {
  const at = there.indexOf(frame);
  if (at < 0) return;
  for (let n = 0; n <= AHEAD; n++) void fetchBrick(bakeId, there[(at + n) % there.length]);
}

export function brickOf(kept: ReadonlyMap<string, ShownBrick>, bakeId: number, frame: number): ShownBrick | null {
  return kept.get(keyOf(bakeId, frame)) ?? null;
}
