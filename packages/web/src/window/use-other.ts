// The run that is compared with: a bake's frames, a variant that is played beside, or frames that were held.
import { useEffect, useMemo } from 'react';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { canonicalText } from '@bramblemist/core/recipe/document';
import type { Look } from '@bramblemist/core/look/look';
import { voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { brickOf, useBricks, wantBricks } from '../data/bricks';
import { useCompare } from '../data/compare';
import { beside, liveThreads, type ShownBrick } from '../live/use-live';

export interface OtherRun {
  readonly name: string;
  readonly recipe: Recipe;
  readonly look: Look;
  readonly shown: ShownBrick | null;
  /** Why nothing is shown, where nothing is. */
  readonly why: string | null;
}

/** @param size at which a variant is played */
export function useOther(shot: ShotInfo, size: Size, frame: number): OtherRun | null {
  const other = useCompare((s) => s.other);
  const variant = other?.kind === 'variant' ? shot.variants.find((v) => v.id === other.id) : undefined;
  const bake = other?.kind === 'bake' ? shot.bakes.find((b) => b.id === other.id) : undefined;
  const text = variant && canonicalText({ ...variant.recipe, name: '', keep: null });
  useEffect(() => {
    if (!variant) return;
    beside.start(variant.recipe, voxelSizeAt(variant.recipe, size), liveThreads());
    return () => beside.end();
    // the recipe's text stands for the variant, which is another object with every answer of the server
  }, [text, size]); // eslint-disable-line react-hooks/exhaustive-deps
  const played = beside.use((s) => s.frames.get(frame) ?? null);
  const status = beside.use((s) => s.status);
  const message = beside.use((s) => s.message);
  const cached = useBricks((s) => (bake ? brickOf(s.kept, bake.id, frame) : null));
  const there = useMemo(() => bake?.frames.map((f) => f.frame) ?? [], [bake]);
  useEffect(() => {
    if (bake) wantBricks(bake.id, frame, there);
  }, [bake, frame, there]);
  const notYet = `frame ${frame} is not there yet`;
  const stopped = status === 'trouble' ? message : notYet;
  const unread = there.includes(frame) ? '…' : notYet;
  if (other?.kind === 'held')
    return {
      name: 'as it was held',
      recipe: other.recipe,
      look: other.look,
      shown: other.frames.get(frame) ?? null,
      why: other.frames.has(frame) ? null : `frame ${frame} was not there when it was held`,
    };
  if (variant)
    return {
      name: `variant ${variant.number}`,
      recipe: variant.recipe,
      look: variant.look,
      shown: played,
      why: played ? null : stopped,
    };
  if (bake) {
    const look = shot.variants.find((v) => v.id === bake.variantId)!.look;
    return {
      name: `bake ${bake.id}`,
      recipe: bake.recipe,
      look,
      shown: cached,
      why: cached ? null : unread,
    };
  }

  return null;
}
