// The files of a recipe on the page: those that are here, while the rest are fetched.
import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import type { Assets } from '@bramblemist/core/assets/assets';
import type { ImportedAsset } from '@bramblemist/core/assets/imported';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { assetsOf, decoded } from './fetch-assets';

/** What was fetched, by content; an error stays as its message. */
const useDecoded = create<{ readonly kept: ReadonlyMap<string, ImportedAsset | Error> }>(() => ({
  kept: new Map(),
}));

/** What is here of a recipe's files; asks for the rest. */
export function useAssets(recipe: Recipe): Assets {
  const kept = useDecoded((s) => s.kept);
  const { files } = recipe;
  useEffect(() => {
    for (const file of files) {
      const keep = (value: ImportedAsset | Error): void => {
        if (useDecoded.getState().kept.get(file.sha256) !== value)
          useDecoded.setState((s) => ({ kept: new Map(s.kept).set(file.sha256, value) }));
      };

      decoded(file).then(keep, keep);
    }
  }, [files]);
  return useMemo(() => assetsOf(kept), [kept]);
}
