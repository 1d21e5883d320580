// The refine pass on a cache on disk.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { previewVolumeOfGrids } from '../../volume/preview-volume';
import { cachedFrames } from '../../volume/frames';
import { coarseFlowOf } from '../../volume/coarse-flow';
import { fileStem, frameName, type Manifest } from '../../cache/manifest';
import { Refiner } from '../../cache/refine';
import type { Refine } from '../../cache/refine-settings';
import type { VdbGrid } from '../../files/vdb/format';
import { readVdb } from '../../files/vdb/reader';
import type { Triple } from '../../math/vector';
import { writeCache, type OpenCache, type WriteOptions } from './cache';
import { nodeZip } from './files';
import { startThreadPool } from './thread-pool';
import { madeOf, only, type FrameRange } from './tool';

/**
 * Of the recipe's threshold: detail thins the rim out, and what is thinner than the coarse cut still belongs
 * to it.
 */
const THINNER = 0.25;
/** Voxels along the longest edge of its previews: more than those of a run, or the detail would not show. */
const SHOWN = 192;

/**
 * @param options frames: only these, and detail begins with the first of them; onApart hears how far each
 * frame's means over the coarse voxels lie from what the coarse cache holds, as a part of it
 * @throws Error in words where the cache cannot be refined
 */
export function refineCache(
  source: OpenCache,
  settings: Refine,
  threads: number,
  options: WriteOptions & {
    readonly frames?: FrameRange;
    readonly onApart?: (frame: number, apart: number) => void;
  },
): Manifest {
  const { recipe, precision, channels } = source.manifest;
  const frames = cachedFrames(only(source, options.frames));
  const threadPool = startThreadPool(32, threads);
  const stem = fileStem(recipe.name);
  let last: { frame: number; density: VdbGrid } | null = null;
  /** As it was made, or from the file where the pass goes on. */
  const previous = (frame: number): VdbGrid => {
    if (last?.frame === frame) return last.density;
    const path = join(options.folder, frameName(stem, frame, 'vdb'));
    return readVdb(readFileSync(path), { zip: nodeZip, only: new Set(['density']) }).grids[0];
  };

  const refiner = new Refiner(
    frames,
    settings,
    threadPool,
    precision === 'half',
    recipe.keep.threshold * THINNER,
    previous,
  );
  try {
    return writeCache(
      source,
      {
        ...frames,
        voxelSizeM: source.voxelSizeM / settings.times,
        channels: channels.filter((c) => c !== 'velocity' || settings.velocity),
        domain: { least: [...source.domain.least] as Triple, most: [...source.domain.most] as Triple },
        make(frame) {
          const { grids, mass, greatestDensity, apart } = refiner.make(frame);
          last = { frame, density: grids[0] };
          options.onApart?.(frame, apart);
          return {
            grids,
            readings: { mass, greatestDensity },
            preview: () => ({
              brick: previewVolumeOfGrids(grids, frame, SHOWN),
              glimpse: coarseFlowOf(frames.read(frame)),
            }),
          };
        },
      },
      [...(source.manifest.made ?? []), madeOf(source, 'refine', settings)],
      options,
    );
  } finally {
    threadPool.close();
  }
}
