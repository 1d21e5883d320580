import { estimate } from '@bramblemist/core/io/node/cost';
import { askedVoxel, filesFor, loadRecipe, parseThreads } from './bake';

export interface CostArguments {
  files?: string;
  voxel?: string;
  size?: string;
  threads?: string;
  json?: boolean;
}

/** What a bake will cost, before it is started. */
export async function costCommand(path: string, args: CostArguments): Promise<void> {
  const recipe = loadRecipe(path);
  const { firstFrame, lastFrame, voxelSize } = recipe.space;
  const assets = await filesFor(recipe, path, args.files);
  const e = estimate(
    recipe,
    askedVoxel(recipe, args) ?? voxelSize,
    parseThreads(args.threads),
    lastFrame - firstFrame + 1,
    assets,
  );
  if (args.json) return void console.log(JSON.stringify(e));
  const size = (bytes: number): string =>
    bytes < 1e9 ? `${(bytes / 1e6).toFixed(0)} MB` : `${(bytes / 1e9).toFixed(2)} GB`;
  const finer =
    e.mediumVoxels > e.voxels ? ` (${(e.mediumVoxels / 1e6).toFixed(1)} million of the medium)` : '';
  console.log(
    `${(e.voxels / 1e6).toFixed(2)} million voxels${finer}, ${e.frames} frames, about ${e.substeps} substeps`,
  );
  console.log(`memory  ${size(e.bytes)}`);
  console.log(
    `time    about ${e.seconds < 90 ? `${e.seconds.toFixed(0)} s` : `${(e.seconds / 60).toFixed(1)} min`}`,
  );
  console.log(`disk    about ${size(e.diskBytes)}`);
  for (const [name, bytes] of Object.entries(e.channels)) {
    const kept = name === 'density' || recipe.keep[name as 'velocity'];
    console.log(`        ${name.padEnd(12)} ${size(bytes)}${kept ? '' : ' if it were kept'}`);
  }
}
