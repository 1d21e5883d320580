// Files on the shelf as the page and its live worker use them: fetched once by content, decoded here.
import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import { assetsFrom, importAsset, type ImportedAsset } from '@bramblemist/core/assets/import-asset';
import type { Assets } from '@bramblemist/core/assets/assets';
import type { FilePart, Recipe } from '@bramblemist/core/recipe/types';
import { routes } from '@bramblemist/contracts/routes';

/** What was fetched, by content; an error stays as its message. */
const useDecoded = create<{ readonly kept: ReadonlyMap<string, ImportedAsset | Error> }>(() => ({
  kept: new Map(),
}));
const asked = new Map<string, Promise<ImportedAsset>>();

function decoded(file: FilePart): Promise<ImportedAsset> {
  const known = asked.get(file.sha256);
  if (known) return known;
  const coming = (async () => {
    const response = await fetch(routes.fileData(file.sha256));
    if (!response.ok) throw new Error(`${file.name} is not on the shelf of files. Bring it in again.`);
    return importAsset(file.name, new Uint8Array(await response.arrayBuffer()));
  })();
  asked.set(file.sha256, coming);
  const keep = (value: ImportedAsset | Error): void =>
    useDecoded.setState(({ kept }) => ({ kept: new Map(kept).set(file.sha256, value) }));
  coming.then(keep, (error: Error) => {
    asked.delete(file.sha256);
    keep(error);
  });
  return coming;
}

/** What is here of a recipe's files; what is not yet throws when it is asked for. */
export function assetsOf(kept: ReadonlyMap<string, ImportedAsset | Error>): Assets {
  return assetsFrom((file) => {
    const value = kept.get(file.sha256);
    if (value instanceof Error) throw value;
    if (!value) throw new Error(`${file.name} is not here yet.`);
    return value;
  });
}

/** Fetches all files of a recipe. */
export async function fetchAssets(recipe: Pick<Recipe, 'files'>): Promise<Assets> {
  const all = await Promise.all(recipe.files.map(async (f) => [f.sha256, await decoded(f)] as const));
  return assetsOf(new Map(all));
}

/** What is here of a recipe's files; asks for the rest. */
export function useAssets(recipe: Recipe): Assets {
  const kept = useDecoded((s) => s.kept);
  const { files } = recipe;
  useEffect(() => {
    void fetchAssets({ files }).catch(() => {}); // what went wrong is kept with the file
  }, [files]);
  return useMemo(() => assetsOf(kept), [kept]);
}
