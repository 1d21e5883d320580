import type { Manifest } from '@bramblemist/core/cache/manifest';
import { existsSync } from 'node:fs';
import { basename, dirname, join, relative } from 'node:path';
import { loadFiles } from '@bramblemist/core/io/node/assets';
import {
  combineFile,
  deepStem,
  readLayer,
  readVolume,
  renderFile,
  sequence,
} from '@bramblemist/core/io/node/pictures';
import { readJson } from '@bramblemist/core/io/node/files';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import type { Texture } from '@bramblemist/core/files/picture';
import { filesOf, LOOK, lookAt, type Look } from '@bramblemist/core/look/look';
import { askedOf } from '@bramblemist/core/look/fields';
import type { Volume } from '@bramblemist/core/look/colouring';
import type { PixelBox } from '@bramblemist/core/look/renderer';
import { solidsAt } from '@bramblemist/core/look/solids';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { filesFor, loadDocument, loadRecipe, parseFrames, parseThreads } from './bake';

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

const stem = (file: string): string => basename(file).replace(/\.[^.]+$/, '');

export interface RenderArguments {
  out: string;
  look?: string;
  recipe?: string;
  files?: string;
  frames?: string;
  threads?: string;
  mode?: string;
  samples?: string;
  noise?: string;
  passes?: string;
  region?: string;
  camera?: string;
  bakes?: string;
  resume?: boolean;
  json?: boolean;
}

/** The look with what the command line says otherwise. */
function lookFor({ look: path, mode, samples, noise, passes }: RenderArguments): Look {
  const look = loadDocument(LOOK, path);
  const isTrue = samples !== undefined || noise !== undefined;
  const quality = {
    ...look.quality,
    ...(isTrue ? { mode: 'true' } : {}),
    ...(mode === undefined ? {} : { mode }),
    ...(samples === undefined ? {} : { samples: Number(samples), until: 'samples' }),
    ...(noise === undefined ? {} : { noise: parseNoise(noise), until: 'noise' }),
  };
  try {
    return LOOK.parse({ ...look, quality, passes: passes === undefined ? look.passes : passesOf(passes) });
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

/** Passes by their names, such as depth,motion; “all” for every one and “none”. */
function passesOf(text: string): Look['passes'] {
  const known = Object.keys(LOOK.parse({}).passes) as (keyof Look['passes'])[];
  const asked = text === 'none' ? [] : text.split(',').map((name) => name.trim());
  const unknown = asked.find((name) => name !== 'all' && !known.some((k) => k === name));
  if (unknown !== undefined)
    throw new UsageError(`--passes knows ${known.join(', ')}, all and none, not “${unknown}”.`);
  const all = asked.includes('all');
  return Object.fromEntries(known.map((name) => [name, all || asked.includes(name)])) as Look['passes'];
}

function parseRegion(text: string | undefined, { camera }: Look): PixelBox | undefined {
  if (text === undefined) return undefined;
  const [x0, y0, x1, y1] = text.split(',').map(Number);
  const isInside = x0 >= 0 && y0 >= 0 && x1 <= camera.width && y1 <= camera.height && x1 > x0 && y1 > y0;
  if (!isInside || text.split(',').length !== 4)
    throw new UsageError(
      `--region must be left,top,right,bottom within ${camera.width} × ${camera.height} pixels, not ` +
        `“${text}”.`,
    );
  return { from: [x0, y0], end: [x1, y1] };
}

function parseNoise(text: string): number {
  const noise = Number(text);
  if (!(noise > 0)) throw new UsageError(`--noise must be above 0, not “${text}”.`);
  return noise;
}

/** Volumes of a folder to EXR and PNG. Obstacles of the recipe (or of the cache's manifest) are held out. */
export async function renderCommand(folder: string, args: RenderArguments): Promise<void> {
  const look = lookFor(args);
  const region = parseRegion(args.region, look);
  const threads = parseThreads(args.threads);
  const all = pick(folder, 'vdb', args.frames);
  const manifest = join(folder, 'manifest.json');
  let recipe: Recipe | null = null;
  const made = existsSync(manifest) ? (readJson(manifest) as Manifest) : null;
  if (args.recipe) recipe = loadRecipe(args.recipe);
  else if (made) recipe = parseRecipe(made.recipe);
  // of a cache that was retimed or numbered anew the manifest knows the moment of a frame
  const times = new Map(made?.frames.map((f) => [f.frame, f.timeS]));
  const plan =
    recipe && compile(recipe, { assets: await filesFor(recipe, args.recipe ?? manifest, args.files) }).plan;
  const pictures = await picturesOf(look, args);
  const volumesAt = furtherVolumes(look, args.bakes ?? dirname(folder));
  const cameras = camerasOf(look, args.camera);
  // each picture is whole or absent
  const isThere = (stemPath: string): boolean =>
    [`${stemPath}.exr`, `${stemPath}.png`, ...(look.passes.deep ? [`${deepStem(stemPath)}.exr`] : [])].every(
      (path) => existsSync(path),
    );
  const outOf = (folderName: string, file: string): string => join(args.out, folderName, stem(file));
  const files = args.resume
    ? all.filter((f) => !cameras.every((c) => isThere(outOf(c.folder, f.file))))
    : all;
  const show = progress(args.json ?? false);
  const start = performance.now();
  show.start(files.length, {});
  files.forEach((f, i) => {
    // a frame shows the moment at its end
    const byNumber = recipe && plan ? (f.frame - recipe.space.firstFrame + 1) * plan.frameS : 0;
    const timeS = times.get(f.frame) ?? byNumber;
    const solids = plan ? solidsAt(plan, timeS) : [];
    const volume = readVolume(f.path, askedOf(look.medium, look));
    const volumes = volumesAt(f.frame);
    const written = cameras
      .filter((c) => !args.resume || !isThere(outOf(c.folder, f.file)))
      .map((c) =>
        renderFile(volume, outOf(c.folder, f.file), lookAt(look, f.frame, c.id), {
          threads,
          solids,
          region,
          pictures,
          volumes,
          timing:
            recipe && plan
              ? {
                  frame: f.frame,
                  frameRate: recipe.space.frameRate,
                  frameS: plan.frameS,
                  later: (frames) => ({
                    look: lookAt(look, f.frame + frames, c.id),
                    solids: solidsAt(plan, timeS + frames * plan.frameS),
                  }),
                }
              : undefined,
        }),
      );
    const [first] = written;
    show.frame(i + 1, files.length, {
      frame: f.frame,
      exr: relative(args.out, first.exr),
      png: relative(args.out, first.png),
    });
  });
  const count = files.length * cameras.length;
  show.end(
    { frames: files.length, seconds: (performance.now() - start) / 1000 },
    `${count} ${count === 1 ? 'picture' : 'pictures'} in ${args.out}.`,
  );
}

interface RenderedCamera {
  /** Of a further camera; without, it is the shot's. */
  readonly id?: string;
  /** Under the folder of pictures. */
  readonly folder: string;
}

/** The shot's camera, and the further ones in folders of their names; or the one that is asked for. */
function camerasOf({ cameras }: Look, asked: string | undefined): RenderedCamera[] {
  if (asked !== undefined) {
    if (asked === 'shot') return [{ folder: '' }];
    const found = cameras.find(({ id, name }) => name === asked || id === asked);
    if (!found)
      throw new UsageError(
        `--camera: the look has no camera called “${asked}”. It has: ` +
          `${['shot', ...cameras.map(({ name }) => name)].join(', ')}.`,
      );
    return [{ id: found.id, folder: '' }];
  }

  const taken = new Set<string>();
  const further = cameras
    .filter(({ on }) => on)
    .map(({ id, name }) => {
      const plain = name.replace(/[^\p{L}\p{N}_-]+/gu, '-').replace(/^-+|-+$/g, '') || id;
      const folder = taken.has(plain) ? `${plain}-${id}` : plain;
      taken.add(folder);
      return { id, folder };
    });
  return [{ folder: '' }, ...further];
}

/** Pictures that a look is made with, by the ids of its files. */
async function picturesOf(
  look: Look,
  { look: path, files: folder }: RenderArguments,
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

export interface CombineArguments {
  out: string;
  plate?: string;
  settings?: string;
  frames?: string;
  json?: boolean;
}

/** Pictures of a folder over a plate (one still) to EXR and PNG. */
export async function combineCommand(folder: string, args: CombineArguments): Promise<void> {
  const settings: Combine = loadDocument(COMBINE, args.settings);
  const files = pick(folder, 'exr', args.frames);
  let plate = null;
  try {
    plate = args.plate ? await readLayer(args.plate) : null;
  } catch (error) {
    throw new UsageError((error as Error).message);
  }

  const show = progress(args.json ?? false);
  const start = performance.now();
  show.start(files.length, {});
  for (const [i, f] of files.entries()) {
    await combineFile(f.path, plate, join(args.out, stem(f.file)), settings);
    show.frame(i + 1, files.length, {
      frame: f.frame,
      exr: `${stem(f.file)}.exr`,
      png: `${stem(f.file)}.png`,
    });
  }

  show.end(
    { frames: files.length, seconds: (performance.now() - start) / 1000 },
    `${files.length} pictures in ${args.out}.`,
  );
}
