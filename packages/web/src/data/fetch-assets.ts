// Files on the shelf as the page and its workers use them: fetched once by content, decoded here.
import { assetsFrom, type ImportedAsset } from '@bramblemist/core/assets/imported';
import type { Assets } from '@bramblemist/core/assets/assets';
import type { FilePart, Recipe } from '@bramblemist/core/recipe/types';
import { routes } from '@bramblemist/contracts/routes';

const asked = new Map<string, Promise<ImportedAsset>>();

/** The content of a file; asked for once, and once more where that failed. */
export function decoded(file: FilePart): Promise<ImportedAsset> {
  const known = asked.get(file.sha256);
  if (known) return known;
  const coming = (async () => {
    const response = await fetch(routes.fileData(file.sha256));
    if (!response.ok) throw new Error(`${file.name} is not on the shelf of files. Bring it in again.`);
    // the readers of all kinds are large, and many shots have no file
    const { importAsset } = await import('@bramblemist/core/assets/import-asset');
    return importAsset(file.name, new Uint8Array(await response.arrayBuffer()));
  })();
  asked.set(file.sha256, coming);
  coming.catch(() => asked.delete(file.sha256));
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
