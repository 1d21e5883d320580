// Which picture of the reference goes with the frame that is shown.
import { useEffect, useMemo } from 'react';
import type { AssetInfo, ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { usePlayhead } from '../data/playhead';

/** A picture alone, or those of a sequence in the order of their frames. */
export interface ReferenceItem {
  readonly key: string;
  readonly name: string;
  readonly pictures: readonly AssetInfo[];
}

export function referencesOf(shot: ShotInfo): ReferenceItem[] {
  const out = new Map<string, AssetInfo[]>();
  for (const a of shot.assets) {
    if (a.kind !== 'reference') continue;
    const key = a.series || String(a.id);
    out.set(key, [...(out.get(key) ?? []), a]);
  }

  return [...out].map(([key, pictures]) => ({
    key,
    name: pictures[0].series || pictures[0].name,
    pictures: pictures.sort((a, b) => (a.frame ?? 0) - (b.frame ?? 0)),
  }));
}

/** The chosen one, else the newest. */
export function chosenReference(shot: ShotInfo): ReferenceItem | null {
  const all = referencesOf(shot);
  return all.find((r) => r.key === shot.reference.of) ?? all[all.length - 1] ?? null;
}

/**
 * The picture that goes with a frame of the shot: that of a sequence whose frame is as far from the one that
 * is lined up with the shot's first, held at its ends.
 */
export function pictureAt(
  { pictures }: ReferenceItem,
  frame: number,
  shotFirst: number,
  lined: number | undefined,
): AssetInfo {
  if (pictures.length === 1) return pictures[0];
  const wanted = frame - shotFirst + (lined ?? pictures[0].frame ?? 0);
  return pictures.reduce((best, p) =>
    Math.abs((p.frame ?? 0) - wanted) < Math.abs((best.frame ?? 0) - wanted) ? p : best,
  );
}

export function useReferencePicture(
  shot: ShotInfo,
): { readonly src: string; readonly name: string; readonly asset: AssetInfo } | null {
  const item = useMemo(() => chosenReference(shot), [shot]);
  const first = shot.variants[shot.variants.length - 1].recipe.space.firstFrame;
  const asset = usePlayhead((s) => item && pictureAt(item, s.frame, first, shot.reference.first));
  // the next ones are fetched ahead, so that a sequence plays
  useEffect(() => {
    if (!item || !asset || item.pictures.length === 1) return;
    const at = item.pictures.indexOf(asset);
    for (const p of item.pictures.slice(at + 1, at + 5)) new Image().src = routes.asset(p.id);
  }, [item, asset]);
  return item && asset ? { src: routes.asset(asset.id), name: item.name, asset } : null;
}
