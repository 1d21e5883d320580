// The refine pass from a command line.
import { refineCache } from '@bramblemist/core/io/node/refine';
import { readJson } from '@bramblemist/core/io/node/files';
import { REFINE } from '@bramblemist/core/cache/refine-settings';
import { progress } from '../progress';
import { parseThreads } from './bake';
import { asUsage, open, parseSettings, writing, type MadeCacheArguments } from './tool';

export interface RefineArguments extends MadeCacheArguments {
  set: string[];
  settings?: string;
  threads?: string;
}

export function refineCommand(folder: string, args: RefineArguments): void {
  const source = open(folder);
  const threads = parseThreads(args.threads);
  const settings = asUsage(() =>
    REFINE.parse(
      parseSettings(args.set, args.settings ? (readJson(args.settings) as object) : REFINE.start()),
    ),
  );
  const show = progress(args.json ?? false);
  const start = performance.now();
  let worst = 0;
  const made = asUsage(() =>
    refineCache(source, settings, threads, {
      ...writing(args, show),
      onApart: (_frame, apart) => (worst = Math.max(worst, apart)),
    }),
  );
  const seconds = (performance.now() - start) / 1000;
  show.end(
    { frames: made.frames.length, seconds, apart: worst },
    `${made.frames.length} frames in ${args.out}, ${seconds.toFixed(1)} s; over the coarse voxels they ` +
      `differ by at most ${(100 * worst).toFixed(2)} % of the density.`,
  );
}
