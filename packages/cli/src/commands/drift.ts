// `drift`: a recipe at two sizes, and what of the coarser one may be trusted.
import { driftCheck } from '@bramblemist/core/analysis/drift-check';
import { simulate } from '@bramblemist/core/io/node';
import { SIZES, voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
import type { Read } from '@bramblemist/core/record/reading-curves';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { filesFor, loadRecipe, parseThreads } from './bake';

export interface DriftArguments {
  sizes: string;
  files?: string;
  last?: string;
  threads?: string;
  json?: boolean;
}

export async function driftCommand(path: string, args: DriftArguments): Promise<void> {
  const recipe = loadRecipe(path);
  const { firstFrame, lastFrame } = recipe.space;
  const last = args.last === undefined ? lastFrame : Number(args.last);
  if (!Number.isInteger(last) || last < firstFrame || last > lastFrame)
    throw new UsageError(`--last must be a frame of ${firstFrame}-${lastFrame}, not “${args.last}”.`);
  const sizes = args.sizes.split(',').map((s) => s.trim());
  if (sizes.length !== 2 || !sizes.every((s) => SIZES.includes(s as Size)))
    throw new UsageError(`--sizes must be two of ${SIZES.join(', ')}, such as rough,working.`);
  const [coarse, fine] = (sizes as Size[]).sort((a, b) => voxelSizeAt(recipe, b) - voxelSizeAt(recipe, a));
  if (voxelSizeAt(recipe, coarse) === voxelSizeAt(recipe, fine))
    throw new UsageError(`${coarse} and ${fine} size have the same voxels in this recipe: choose others.`);
  const assets = await filesFor(recipe, path, args.files);
  const threads = parseThreads(args.threads);
  const frames = last - firstFrame + 1;
  const show = !args.json && process.stdout.isTTY ? progress(false) : null;
  show?.start(2 * frames, {});
  let done = 0;
  const run = (size: Size): Read[] => {
    const read: Read[] = [];
    for (const { frame, readings } of simulate(recipe, {
      assets,
      threads,
      last,
      voxelSizeM: voxelSizeAt(recipe, size),
    })) {
      read.push({ frame, readings });
      show?.frame(++done, 2 * frames, {});
    }

    return read;
  };

  const check = driftCheck(run(coarse), run(fine), coarse);
  if (args.json) return void console.log(JSON.stringify({ coarse, fine, ...check }));
  show?.end({}, '');
  console.log(check.verdict);
  for (const d of check.drifts)
    console.log(
      `  ${d.label.padEnd(26)} ${(100 * d.mean).toFixed(1).padStart(6)} %  ${d.trust}, at most ` +
        `${(100 * d.most).toFixed(0)} % at frame ${d.frame}`,
    );
}
