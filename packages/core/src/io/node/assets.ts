// The files of recipes and looks from a folder: under their name, or under their content's hash.
import { CoreError } from '../../base/error';
import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { importAsset } from '../../assets/import-asset';
import { assetsFrom, endingOf, type ImportedAsset } from '../../assets/imported';
import type { Assets } from '../../assets/assets';
import { filesWanted } from '../../assets/resolve';
import type { FilePart, Recipe } from '../../recipe/types';
import type { ByteRanges } from '../../files/ranges';
import { nodeZip, rangesOfFile, sha256OfFile } from './files';

/**
 * Reads all files that the recipe's parts ask for.
 * @throws Error naming the file and what is wrong with it
 */
export function loadAssets(recipe: Recipe, folder: string): Promise<Assets> {
  const wanted = filesWanted(recipe);
  return loadFiles(
    recipe.files.filter(({ id }) => wanted.has(id)),
    folder,
  );
}

/**
 * Reads files of a recipe or a look.
 * @throws Error naming the file and what is wrong with it
 */
export async function loadFiles(files: readonly FilePart[], folder: string): Promise<Assets> {
  const read = new Map<string, ImportedAsset>();
  for (const file of files) {
    const ranges = fileOf(file, folder);
    try {
      read.set(file.id, await importAsset(file.name, ranges, nodeZip));
    } catch (error) {
      throw new CoreError('file', `${file.name}: ${(error as Error).message}`);
    }
  }

  return assetsFrom((file) => read.get(file.id));
}

function fileOf(file: FilePart, folder: string): ByteRanges {
  // a name is not a path: nothing outside of the folder is read
  const named = /[/\\]|^\.\.?$/.test(file.name) ? null : join(folder, file.name);
  const hashed = /^[0-9a-f]{64}$/.test(file.sha256)
    ? join(folder, `${file.sha256}.${endingOf(file.name)}`)
    : null;
  const path = [hashed, named].find((p) => p !== null && existsSync(p));
  if (!path)
    throw new CoreError(
      'file',
      `${file.name} is not in the folder ${resolve(folder)}. Put it there, or say with --files where it is.`,
    );
  const ranges = rangesOfFile(path);
  if (file.sha256 !== '' && sha256OfFile(ranges) !== file.sha256)
    throw new CoreError(
      'file',
      `${path} is not the file that the recipe was made with: its content differs. Empty the recipe’s ` +
        '“content” of it to take it all the same.',
    );
  return ranges;
}
