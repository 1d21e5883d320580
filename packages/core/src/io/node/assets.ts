// The recipe's files from a folder: under their name, or under their content's hash.
import { existsSync, readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { assetsFrom, endingOf, readBrought, type Brought } from '../../assets/brought';
import type { Assets } from '../../assets/assets';
import type { FilePart, Recipe } from '../../recipe/types';
import { nodeZip, sha256 } from './files';

/**
 * Reads all files that the recipe's parts ask for.
 * @throws Error naming the file and what is wrong with it
 */
export async function loadAssets(recipe: Recipe, folder: string): Promise<Assets> {
  const read = new Map<string, Brought>();
  const wanted = new Set([
    ...[...recipe.sources, ...recipe.obstacles, ...recipe.particles]
      .filter((p) => p.on && p.shape === 'mesh')
      .map((p) => p.file),
    ...recipe.currents.filter((c) => c.on && c.does === 'volume').map((c) => c.file),
    ...recipe.particles.filter((p) => p.on && p.born === 'file').map((p) => p.sequence),
    ...recipe.patterns.filter((p) => p.on && p.noise === 'picture').map((p) => p.file),
  ]);
  for (const file of recipe.files) {
    if (!wanted.has(file.id)) continue;
    const bytes = bytesOf(file, folder);
    try {
      read.set(file.id, await readBrought(file.name, bytes, nodeZip));
    } catch (error) {
      throw new Error(`${file.name}: ${(error as Error).message}`);
    }
  }

  return assetsFrom((file) => read.get(file.id));
}

function bytesOf(file: FilePart, folder: string): Uint8Array {
  // a name is not a path: nothing outside of the folder is read
  const named = /[/\\]|^\.\.?$/.test(file.name) ? null : join(folder, file.name);
  const hashed = /^[0-9a-f]{64}$/.test(file.sha256)
    ? join(folder, `${file.sha256}.${endingOf(file.name)}`)
    : null;
  const path = [hashed, named].find((p) => p !== null && existsSync(p));
  if (!path)
    throw new Error(
      `${file.name} is not in the folder ${resolve(folder)}. Put it there, or say with --files where it is.`,
    );
  const bytes = readFileSync(path);
  if (file.sha256 !== '' && sha256(bytes) !== file.sha256)
    throw new Error(
      `${path} is not the file that the recipe was made with: its content differs. Empty the recipe’s ` +
        '“content” of it to take it all the same.',
    );
  return bytes;
}
