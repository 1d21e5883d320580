import type { Manifest } from '@bramblemist/core/cache/manifest';
import { existsSync } from 'node:fs';
import { basename, join } from 'node:path';
import { combineFile, readLayer, renderFile, sequence } from '@bramblemist/core/io/node/pictures';
import { readJson } from '@bramblemist/core/io/node/files';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { LOOK } from '@bramblemist/core/look/look';
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
  json?: boolean;
}

/** Volumes of a folder to EXR and PNG. Obstacles of the recipe (or of the cache's manifest) are held out. */
export async function renderCommand(folder: string, args: RenderArguments): Promise<void> {
  const look = loadDocument(LOOK, args.look);
  const threads = parseThreads(args.threads);
  const files = pick(folder, 'vdb', args.frames);
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
    const out = renderFile(f.path, join(args.out, stem(f.file)), look, threads, solids);
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
