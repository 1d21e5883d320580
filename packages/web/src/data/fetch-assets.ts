// Files on the shelf as the page and its workers use them: fetched once by content, decoded here.
import { assetsFrom, endingOf, SEQUENCE_ENDING, type ImportedAsset } from '@bramblemist/core/assets/imported';
import type { Assets } from '@bramblemist/core/assets/assets';
import type { ByteRanges } from '@bramblemist/core/files/ranges';
import type { FilePart, Recipe } from '@bramblemist/core/recipe/types';
import { routes } from '@bramblemist/contracts/routes';

const asked = new Map<string, Promise<ImportedAsset>>();

/** Workers alone can read a file without waiting for it. */
declare const FileReaderSync: (new () => { readAsArrayBuffer(blob: Blob): ArrayBuffer }) | undefined;
/** A window holds the files that it draws in memory. */
const MOST_DRAWN_BYTES = 2 ** 31 - 1;

/** In a worker a sequence stays where the browser keeps what it fetched, and is read frame by frame. */
async function contentOf(file: FilePart, response: Response): Promise<Uint8Array | ByteRanges> {
  if (endingOf(file.name) === SEQUENCE_ENDING && typeof FileReaderSync !== 'undefined') {
    const blob = await response.blob();
    const reader = new FileReaderSync();
    return {
      size: blob.size,
      read: (from, end) => new Uint8Array(reader.readAsArrayBuffer(blob.slice(from, end))),
    };
  }

  if (Number(response.headers.get('Content-Length') ?? 0) > MOST_DRAWN_BYTES) {
    await response.body?.cancel();
    throw new Error(`${file.name} is too large to be drawn here; runs and bakes use it all the same.`);
  }

  return new Uint8Array(await response.arrayBuffer());
}

/** The content of a file; asked for once, and once more where that failed. */
export function decoded(file: FilePart): Promise<ImportedAsset> {
  const known = asked.get(file.sha256);
  if (known) return known;
  const coming = (async () => {
    const response = await fetch(routes.fileData(file.sha256));
    if (!response.ok) throw new Error(`${file.name} is not on the shelf of files. Bring it in again.`);
    // the readers of all kinds are large, and many shots have no file
    const { importAsset } = await import('@bramblemist/core/assets/import-asset');
    return importAsset(file.name, await contentOf(file, response));
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
