// Tools on a cache on disk: what they need around them, and the cache that they write.
import type { Plan } from '../../plan/plan';
import { CoreError } from '../../base/error';
import { basename, resolve } from 'node:path';
import { PROGRAM, type Made, type Manifest } from '../../cache/manifest';
import { applySteps, type ToolStep } from '../../volume/tools/tools';
import type { Surroundings } from '../../volume/tools/tool';
import type { Assets } from '../../assets/assets';
import { distanceTo } from '../../geometry/shape';
import { compile } from '../../plan/compile';
import { shapeAt } from '../../plan/placement';
import type { Recipe } from '../../recipe/types';
import { openCache, ready, writeCache, type OpenCache, type WriteOptions } from './cache';

/** @param folderOf where a cache is that the settings name; by default the name is the folder */
export function surroundings(
  recipe: Recipe,
  assets: Assets | undefined,
  folderOf: (name: string) => string = resolve,
): Surroundings {
  let plan: Plan | null = null;
  return {
    other: (name) => openCache(folderOf(name)),
    solid(id, timeS) {
      plan ??= compile(recipe, { assets }).plan;
      const p = plan;
      const wanted = p.obstacles.filter((o) => id === '' || o.part.id === id);
      if (wanted.length === 0)
        throw new CoreError(
          'cache',
          id === ''
            ? 'The recipe of this cache has no obstacles.'
            : `The recipe of this cache has no obstacle ${id}.`,
        );
      const h = p.window.voxelSizeM;
      const shapes = wanted.map((o) => shapeAt(p, 'obstacles', o, timeS, true));
      return (at) =>
        Math.min(
          ...shapes.map((s) =>
            distanceTo(
              s,
              at.map((c) => c / h),
            ),
          ),
        ) * h;
    },
  };
}

/** What the manifest says of caches that are made of this one. */
export function madeOf(source: OpenCache, by: string, settings: unknown): Made {
  const { manifestSha256, manifest } = source;
  return {
    by,
    settings,
    program: PROGRAM,
    of: { name: basename(resolve(source.folder)), recipeSha256: manifest.recipeSha256, manifestSha256 },
  };
}

/** Some of the frames. @throws Error where there are none of them */
export function only<T extends { readonly first: number; readonly last: number }>(
  frames: T,
  range: FrameRange | undefined,
): T {
  if (!range) return frames;
  const first = Math.max(frames.first, range.first);
  const last = Math.min(frames.last, range.last);
  if (last < first)
    throw new CoreError('cache', `There is no such frame: they go from ${frames.first} to ${frames.last}.`);
  return { ...frames, first, last };
}

export interface FrameRange {
  readonly first: number;
  readonly last: number;
}

/**
 * Does steps to a cache and writes what comes out as a cache of its own.
 * @param options frames: only these of what comes out
 * @throws Error in words where a step does not fit, or the folder holds something else
 */
export function runSteps(
  source: OpenCache,
  steps: readonly ToolStep[],
  around: Surroundings,
  options: WriteOptions & { readonly frames?: FrameRange },
): Manifest {
  const made = [
    ...(source.manifest.made ?? []),
    ...steps.map(({ tool, settings }) => madeOf(source, tool, settings)),
  ];
  const frames = only(applySteps(source, steps, around), options.frames);
  return writeCache(source, ready(frames, source, made), made, options);
}
