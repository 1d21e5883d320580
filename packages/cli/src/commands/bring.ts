// Volumes from elsewhere into a cache.
import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import type { VolumesReport } from '@bramblemist/core/volume/adopt';
import { bringVolumes, lookAtVolumes } from '@bramblemist/core/io/node/bring';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { loadRecipe, lookFor } from './bake';
import { asUsage, tell } from './tool';

export interface BringArguments {
  out?: string;
  name?: string;
  recipe?: string;
  look?: string;
  bricks?: boolean;
  json?: boolean;
}

/** Without --out the sequence is only looked over. */
export function bringCommand(path: string, args: BringArguments): void {
  if (!existsSync(path)) throw new UsageError(`${path}: there is no such file or folder.`);
  if (args.out === undefined) {
    const { report } = asUsage(() => lookAtVolumes(path, args.name));
    if (args.json) return void console.log(JSON.stringify(report));
    return print(report);
  }

  const recipe = args.recipe === undefined ? parseRecipe({}) : loadRecipe(args.recipe);
  const show = progress(args.json ?? false);
  const start = performance.now();
  const { manifest, report } = asUsage(() =>
    bringVolumes(path, args.name ?? basename(path), recipe, {
      folder: args.out!,
      bricks: args.bricks ?? false,
      look: lookFor(args.look),
      onFrame: tell(show),
      onStart: ({ total, done }) => show.start(total, { done }),
    }),
  );
  const seconds = (performance.now() - start) / 1000;
  show.end(
    { frames: manifest.frames.length, seconds, notes: report.notes },
    [`${manifest.frames.length} frames in ${args.out}, ${seconds.toFixed(1)} s.`, ...report.notes].join('\n'),
  );
}

function print({ first, last, grids, notes }: VolumesReport): void {
  console.log(`frames ${first}–${last}`);
  const short = (v: number): string => String(Number(v.toPrecision(4)));
  for (const g of grids) {
    console.log(
      `  ${g.name}: ${g.type}${g.voxels ? `, voxels of ${short(g.voxelSizeM)} m, ${g.voxels} active` : ''}`,
    );
    if (g.box && g.range)
      console.log(
        `    from ${g.box.least.map(short).join(' ')} to ${g.box.most.map(short).join(' ')} m, values ` +
          `${g.range.map(short).join(' to ')}`,
      );
  }

  for (const n of notes) console.log(`  ${n}`);
}
