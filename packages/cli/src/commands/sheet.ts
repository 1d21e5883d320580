import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { readJson } from '@bramblemist/core/io/node/files';
import { runSheet } from '@bramblemist/core/io/node/sheet';
import { LOOK } from '@bramblemist/core/look/look';
import { cellsOf, captionOf, type Varied } from '@bramblemist/core/analysis/sheet';
import { cameraFor } from '@bramblemist/core/presets/starting-points';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { askedVoxel, filesFor, loadRecipe } from './bake';

export interface SheetArguments {
  out: string;
  vary: string[];
  files?: string;
  look?: string;
  last?: string;
  voxel?: string;
  size?: string;
  width?: string;
  json?: boolean;
}

/** `turbulence/strength=0.2,0.4`. */
function parseVaried(text: string): Varied {
  const match = /^([\w/.-]+)=([-\d.,eE+]+)$/.exec(text.trim());
  const values = match?.[2].split(',').map(Number) ?? [];
  if (!match || values.some((v) => !Number.isFinite(v)))
    throw new UsageError(`--vary must be like turbulence/strength=0.2,0.4,0.8, not “${text}”.`);
  return { path: match[1], values };
}

export async function sheetCommand(path: string, args: SheetArguments): Promise<void> {
  const recipe = loadRecipe(path);
  const varied = args.vary.map(parseVaried);
  const { firstFrame, lastFrame } = recipe.space;
  const last = args.last === undefined ? lastFrame : Number(args.last);
  const width = Number(args.width ?? 320);
  if (!Number.isInteger(last) || last < firstFrame || last > lastFrame)
    throw new UsageError(`--last must be a frame of ${firstFrame}-${lastFrame}, not “${args.last}”.`);
  if (!Number.isInteger(width) || width < 16 || width > 1920)
    throw new UsageError(`--width must be from 16 to 1920 pixels, not “${args.width}”.`);
  if (existsSync(join(args.out, 'sheet.json')))
    throw new UsageError(
      `${args.out}: already holds a trial sheet. Nothing is overwritten: choose another folder.`,
    );
  let cells;
  let look;
  try {
    cells = cellsOf(recipe, varied);
    look = LOOK.parse(args.look === undefined ? { camera: cameraFor(recipe) } : readJson(args.look));
  } catch (error) {
    throw new UsageError((error as Error).message);
  }

  const voxelSizeM = askedVoxel(recipe, args) ?? recipe.space.voxelSize;
  const assets = await filesFor(recipe, path, args.files);
  const show = progress(args.json ?? false);
  const start = performance.now();
  show.start(cells.length * (last - firstFrame + 1), {
    cells: cells.map((c) => captionOf(recipe, varied, c.values)),
  });
  const said = runSheet(cells, {
    folder: args.out,
    look,
    voxelSizeM,
    last,
    width,
    assets,
    onFrame: (cell, frame, done, total) => show.frame(done, total, { cell, frame }),
  });
  const seconds = (performance.now() - start) / 1000;
  const wrong = said.filter((c) => c.trouble !== null).length;
  show.end(
    { cells: said.length, trouble: wrong, seconds },
    `${said.length} runs in ${args.out}, ${seconds.toFixed(1)} ` +
      `s.${wrong ? ` ${wrong} ended early; sheet.json says why.` : ''}`,
  );
}
