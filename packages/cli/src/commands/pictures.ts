import type { Manifest } from '@bramblemist/core/cache/manifest';
import { existsSync } from 'node:fs';
import { basename, join } from 'node:path';
import { combineFile, readLayer, renderFile, sequence } from '@bramblemist/core/io/node/pictures';
import { readJson } from '@bramblemist/core/io/node/files';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import type { PixelBox } from '@bramblemist/core/look/renderer';
import { solidsAt } from '@bramblemist/core/look/solids';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { filesFor, loadDocument, loadRecipe, parseFrames, parseThreads } from './bake';

function pick(folder: string, extension: string, frames: string | undefined): ReturnType<typeof sequence> {
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
  region?: string;
  resume?: boolean;
  json?: boolean;
}

/** The look with what the command line says otherwise. */
function lookFor({ look: path, mode, samples }: RenderArguments): Look {
  const look = loadDocument(LOOK, path);
  if (mode === undefined && samples === undefined) return look;
  const asked = mode ?? (samples === undefined ? look.quality.mode : 'true');
  const quality = { ...look.quality, mode: asked, ...(samples ? { samples: Number(samples) } : {}) };
  try {
    return LOOK.parse({ ...look, quality });
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
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

function parseNoise(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const noise = Number(text);
  if (!(noise > 0)) throw new UsageError(`--noise must be above 0, not “${text}”.`);
  return noise;
}

/** Volumes of a folder to EXR and PNG. Obstacles of the recipe (or of the cache's manifest) are held out. */
export async function renderCommand(folder: string, args: RenderArguments): Promise<void> {
  const look = lookFor(args);
  const region = parseRegion(args.region, look);
  const noise = parseNoise(args.noise);
  const threads = parseThreads(args.threads);
  const all = pick(folder, 'vdb', args.frames);
  // each picture is whole or absent
  const isThere = (file: string): boolean =>
    ['exr', 'png'].every((kind) => existsSync(join(args.out, `${stem(file)}.${kind}`)));
  const files = args.resume ? all.filter((f) => !isThere(f.file)) : all;
  const manifest = join(folder, 'manifest.json');
  let recipe: Recipe | null = null;
  const made = existsSync(manifest) ? (readJson(manifest) as Manifest) : null;
  if (args.recipe) recipe = loadRecipe(args.recipe);
  else if (made) recipe = parseRecipe(made.recipe);
  // of a cache that was retimed or numbered anew the manifest knows the moment of a frame
  const times = new Map(made?.frames.map((f) => [f.frame, f.timeS]));
  const plan =
    recipe && compile(recipe, { assets: await filesFor(recipe, args.recipe ?? manifest, args.files) }).plan;
  const show = progress(args.json ?? false);
  const start = performance.now();
  show.start(files.length, {});
  files.forEach((f, i) => {
    // a frame shows the moment at its end
    const byNumber = recipe && plan ? (f.frame - recipe.space.firstFrame + 1) * plan.frameS : 0;
    const timeS = times.get(f.frame) ?? byNumber;
    const solids = plan ? solidsAt(plan, timeS) : [];
    const out = renderFile(f.path, join(args.out, stem(f.file)), look, { threads, solids, region, noise });
    show.frame(i + 1, files.length, { frame: f.frame, exr: basename(out.exr), png: basename(out.png) });
  });
  show.end(
    { frames: files.length, seconds: (performance.now() - start) / 1000 },
    `${files.length} pictures in ${args.out}.`,
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
