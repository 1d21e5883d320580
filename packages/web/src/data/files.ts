// Files on the shelf as the page and its live worker use them: fetched once by content, decoded here.
import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import { readMesh, readPicture } from '@bramblemist/core/files/brought';
import type { Assets, Picture } from '@bramblemist/core/geometry/assets';
import type { Mesh } from '@bramblemist/core/geometry/mesh';
import type { FilePart, Recipe } from '@bramblemist/core/recipe/recipe';
import { routes } from '@bramblemist/contracts/routes';

type Decoded = Mesh | Picture;
/** What was fetched, by content; an error stays as its message. */
export const useDecoded = create<{ readonly kept: ReadonlyMap<string, Decoded | Error> }>(() => ({ kept: new Map() }));
const asked = new Map<string, Promise<Decoded>>();

function decoded(file: FilePart): Promise<Decoded> {
  const known = asked.get(file.sha256);
  if (known) return known;
  const coming = (async () => {
    const response = await fetch(routes.fileData(file.sha256));
    if (!response.ok) throw new Error(`${file.name} is not on the shelf of files. Bring it in again.`);
    const bytes = new Uint8Array(await response.arrayBuffer());
    return file.kind === 'mesh' ? readMesh(file.name, bytes) : readPicture(file.name, bytes);
  })();
  asked.set(file.sha256, coming);
  const keep = (value: Decoded | Error): void => useDecoded.setState(({ kept }) => ({ kept: new Map(kept).set(file.sha256, value) }));
  coming.then(keep, (error: Error) => {
    asked.delete(file.sha256);
    keep(error);
  });
  return coming;
}

function ask<T extends Decoded>(kept: ReadonlyMap<string, Decoded | Error>, file: FilePart, kind: FilePart['kind']): T {
  const value = kept.get(file.sha256);
  if (value instanceof Error) throw value;
  if (!value) throw new Error(`${file.name} is not here yet.`);
  if (file.kind !== kind) throw new Error(`${file.name} is used as a ${kind}, but is a ${file.kind}.`);
  return value as T;
}

/** What is here of a recipe's files; what is not yet throws when it is asked for. */
export function assetsOf(kept: ReadonlyMap<string, Decoded | Error>): Assets {
  return { mesh: (file) => ask<Mesh>(kept, file, 'mesh'), picture: (file) => ask<Picture>(kept, file, 'picture') };
}

/** Fetches all files of a recipe. */
export async function fetchAssets(recipe: Pick<Recipe, 'files'>): Promise<Assets> {
  const all = await Promise.all(recipe.files.map(async (f) => [f.sha256, await decoded(f)] as const));
  return assetsOf(new Map(all));
}

/** What is here of a recipe's files; asks for the rest. */
export function useAssets(recipe: Recipe): Assets {
  const kept = useDecoded((s) => s.kept),
    { files } = recipe;
  useEffect(() => {
    void fetchAssets({ files }).catch(() => {}); // what went wrong is kept with the file
  }, [files]);
  return useMemo(() => assetsOf(kept), [kept]);
}
