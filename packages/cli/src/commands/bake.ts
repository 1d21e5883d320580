import { loadAssets } from '@bramblemist/core/io/node/assets';
import type { Assets } from '@bramblemist/core/assets/assets';
import { dirname } from 'node:path';
import { bake } from '@bramblemist/core/io/node/bake';
import { readJson } from '@bramblemist/core/io/node/files';
import { defaultThreads } from '@bramblemist/core/io/node/thread-pool';
import { DocumentError, type DocumentKind } from '@bramblemist/core/recipe/document';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { SIZES, voxelSizeAt } from '@bramblemist/core/recipe/sizes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { UsageError } from '../failure';
import { progress } from '../progress';

export function loadRecipe(path: string): Recipe {
  try {
    return parseRecipe(readJson(path));
  } catch (error) {
    if (error instanceof DocumentError)
      throw new UsageError(
        error.faults.map((f) => `${path}: ${f.path ? `${f.path} ` : ''}${f.message}.`).join('\n'),
      );
    throw new UsageError((error as Error).message);
  }
}

/** What the recipe's files hold: from a folder, by default that of the recipe. */
export async function filesFor(recipe: Recipe, path: string, folder: string | undefined): Promise<Assets> {
  try {
    return await loadAssets(recipe, folder ?? dirname(path));
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

/** How frames are pictured as they come; nothing without. */
export function lookFor(path: string | undefined): Look | undefined {
  return path === undefined ? undefined : loadDocument(LOOK, path);
}

/** A look, a combine or the like; its defaults without a file. */
export function loadDocument<T extends object>(kind: DocumentKind<T>, path: string | undefined): T {
  try {
    return kind.parse(path === undefined ? {} : readJson(path));
  } catch (error) {
    if (error instanceof DocumentError)
      throw new UsageError(
        error.faults.map((f) => `${path}: ${f.path ? `${f.path} ` : ''}${f.message}.`).join('\n'),
      );
    throw new UsageError((error as Error).message);
  }
}

/** `A-B` or `A`. */
export function parseFrames(text: string): { first: number; last: number } {
  const match = /^(\d+)(?:-(\d+))?$/.exec(text.trim());
  const first = match ? Number(match[1]) : NaN;
  const last = match ? Number(match[2] ?? match[1]) : NaN;
  if (!match || last < first) throw new UsageError(`--frames must be like 1-48 or 12, not “${text}”.`);
  return { first, last };
}

export function parseThreads(text: string | undefined): number {
  const threads = text === undefined ? defaultThreads() : Number(text);
  if (!Number.isInteger(threads) || threads < 1 || threads > 64)
    throw new UsageError(`--threads must be a whole number from 1 to 64, not “${text}”.`);
  return threads;
}

export function parseVoxel(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const size = Number(text);
  if (!(size >= 0.001 && size <= 10))
    throw new UsageError(`--voxel must be a length in metres from 0.001 to 10, not “${text}”.`);
  return size;
}

/** The voxel size by --voxel or by --size. */
export function askedVoxel(
  recipe: Recipe,
  { voxel, size }: { voxel?: string; size?: string },
): number | undefined {
  if (size === undefined) return parseVoxel(voxel);
  if (voxel !== undefined) throw new UsageError('--voxel and --size say the same thing: give one of them.');
  const known = SIZES.find((s) => s === size);
  if (!known) throw new UsageError(`--size must be ${SIZES.join(', ')}, not “${size}”.`);
  return voxelSizeAt(recipe, known);
}

export interface BakeArguments {
  out: string;
  size?: string;
  files?: string;
  frames?: string;
  voxel?: string;
  threads?: string;
  json?: boolean;
  bricks?: boolean;
  checkpoint?: string;
  look?: string;
  resume?: boolean;
  otherSubsteps?: boolean;
}

export async function bakeCommand(path: string, args: BakeArguments): Promise<void> {
  const recipe = loadRecipe(path);
  const threads = parseThreads(args.threads);
  const frames = args.frames === undefined ? undefined : parseFrames(args.frames);
  if (frames && (frames.first < recipe.space.firstFrame || frames.last > recipe.space.lastFrame)) {
    throw new UsageError(
      `--frames ${args.frames} is outside of the recipe's ` +
        `${recipe.space.firstFrame}-${recipe.space.lastFrame}.`,
    );
  }

  const voxelSizeM = askedVoxel(recipe, args);
  const checkpointEvery = Number(args.checkpoint ?? 10);
  if (!Number.isInteger(checkpointEvery) || checkpointEvery < 0)
    throw new UsageError(
      `--checkpoint must be a whole number of frames, or 0 for none, not “${args.checkpoint}”.`,
    );
  const assets = await filesFor(recipe, path, args.files);
  const show = progress(args.json ?? false);
  const start = performance.now();
  let times = {};
  const manifest = bake(recipe, {
    folder: args.out,
    frames,
    voxelSizeM,
    assets,
    threads,
    bricks: args.bricks ?? false,
    look: lookFor(args.look),
    checkpointEvery,
    resume: args.resume ?? false,
    otherSubsteps: args.otherSubsteps ?? false,
    onTimes: (t) => (times = t),
    onStart: ({ total, done, voxels, bytes }) =>
      show.start(total, { voxels, memoryBytes: bytes, threads, done }),
    onFrame: (frame, done, total) =>
      show.frame(done, total, {
        frame: frame.frame,
        file: frame.file,
        bytes: frame.bytes,
        sha256: frame.sha256,
        readings: frame.readings,
        state: frame.state,
        incidents: frame.incidents,
      }),
  });
  const seconds = (performance.now() - start) / 1000;
  show.end(
    { frames: manifest.frames.length, seconds, ...times },
    `${manifest.frames.length} frames in ${args.out}, ${seconds.toFixed(1)} s.`,
  );
}
