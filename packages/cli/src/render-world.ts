// What a render needs besides its look: the volumes of a folder, and what stands around them.
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import type { Texture } from '@bramblemist/core/files/picture';
import { loadFiles } from '@bramblemist/core/io/node/assets';
import { readJson } from '@bramblemist/core/io/node/files';
import { readVolume, sequence, type RenderFileOptions } from '@bramblemist/core/io/node/pictures';
import type { Volume } from '@bramblemist/core/look/colouring';
import { askedOf } from '@bramblemist/core/look/fields';
import { filesOf, lookAt, type Look } from '@bramblemist/core/look/look';
import { solidsAt } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { filesFor, loadRecipe, parseFrames } from './commands/bake';
import { UsageError } from './failure';

/** The numbered files of a folder, or those of them in a range. */
export function pick(
  folder: string,
  extension: string,
  frames: string | undefined,
): ReturnType<typeof sequence> {
  const all = sequence(folder, extension);
  if (all.length === 0)
    throw new UsageError(`${folder}: holds no sequence of .${extension} files (NAME.0001.${extension}).`);
  if (frames === undefined) return all;
  const range = parseFrames(frames);
  const some = all.filter((f) => f.frame >= range.first && f.frame <= range.last);
  if (some.length === 0)
    throw new UsageError(
      `${folder}: has no frame in ${frames} (it has ${all[0].frame}-${all[all.length - 1].frame}).`,
    );
  return some;
}

/** What the command line says of it. */
export interface WorldArguments {
  look?: string;
  recipe?: string;
  files?: string;
  frames?: string;
  bakes?: string;
}

export type NumberedFile = ReturnType<typeof sequence>[number];

/** Volumes to be rendered, and what surrounds each. */
export interface RenderWorld {
  readonly files: readonly NumberedFile[];
  readonly volumeOf: (file: NumberedFile) => Volume;
  /** @param camera id of the further camera that it is seen by */
  readonly around: (file: NumberedFile, camera?: string) => Omit<RenderFileOptions, 'threads' | 'region'>;
}

/** Obstacles are those of the recipe that is named, or of the one that the cache was made from. */
export async function openWorld(folder: string, look: Look, args: WorldArguments): Promise<RenderWorld> {
  const files = pick(folder, 'vdb', args.frames);
  const manifest = join(folder, 'manifest.json');
  const made = existsSync(manifest) ? (readJson(manifest) as Manifest) : null;
  let recipe: Recipe | null = null;
  if (args.recipe) recipe = loadRecipe(args.recipe);
  else if (made) recipe = parseRecipe(made.recipe);
  // of a cache that was retimed or numbered anew the manifest knows the moment of a frame
  const times = new Map(made?.frames.map((f) => [f.frame, f.timeS]));
  const plan =
    recipe && compile(recipe, { assets: await filesFor(recipe, args.recipe ?? manifest, args.files) }).plan;
  const pictures = await picturesOf(look, args);
  const volumesAt = furtherVolumes(look, args.bakes ?? dirname(folder));
  return {
    files,
    volumeOf: (file) => readVolume(file.path, askedOf(look.medium, look)),
    around: ({ frame, file }, camera) => {
      const bake = made ? toldOf(made, file) : undefined;
      if (!recipe || !plan) return { solids: [], pictures, volumes: volumesAt(frame), bake };
      // a frame shows the moment at its end
      const timeS = times.get(frame) ?? (frame - recipe.space.firstFrame + 1) * plan.frameS;
      return {
        solids: solidsAt(plan, timeS),
        pictures,
        volumes: volumesAt(frame),
        bake,
        timing: {
          frame,
          frameRate: recipe.space.frameRate,
          frameS: plan.frameS,
          later: (frames) => ({
            look: lookAt(look, frame + frames, camera),
            solids: solidsAt(plan, timeS + frames * plan.frameS),
          }),
        },
      };
    },
  };
}

/** Which bake a frame is of, for the pictures that are made of it. */
function toldOf({ program, recipe, recipeSha256, voxelSizeM, frames }: Manifest, file: string): string {
  const sha256 = frames.find((f) => f.file === file)?.sha256;
  return JSON.stringify({ program, recipe: recipe.name, recipeSha256, voxelSizeM, file, sha256 });
}

/** Pictures that a look is made with, by the ids of its files. */
async function picturesOf(
  look: Look,
  { look: path, files: folder }: WorldArguments,
): Promise<ReadonlyMap<string, Texture>> {
  const files = filesOf(look);
  if (files.length === 0) return new Map();
  try {
    const assets = await loadFiles(files, folder ?? dirname(path!));
    return new Map(files.map((file) => [file.id, assets.picture(file)]));
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

/**
 * Volumes of further media at a frame; other bakes stand beside the one that is rendered, under their
 * numbers.
 */
function furtherVolumes(look: Look, folder: string): (frame: number) => ReadonlyMap<string, Volume> {
  const found = look.media
    .filter(({ on, bake }) => on && bake > 0)
    .map((medium) => {
      const files = sequence(join(folder, String(medium.bake)), 'vdb');
      return { medium, paths: new Map(files.map((f) => [f.frame, f.path])) };
    });
  return (frame) =>
    new Map(
      found.flatMap(({ medium, paths }) => {
        const path = paths.get(frame - medium.shift);
        return path === undefined ? [] : [[medium.id, readVolume(path, askedOf(medium, look))] as const];
      }),
    );
}
