// bench bake: an example, or a cube full of medium, onto disk and back: what of a bake's time goes into
// simulating, and how long a frame takes to read.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { bake } from '@bramblemist/core/io/node/bake';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { example } from '@bramblemist/core/presets/examples';
import { volumeFrom } from '@bramblemist/core/volume/volume';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { UsageError } from '../failure';

export interface BenchBakeOptions {
  /** Voxels along the domain's longest side. */
  readonly size: number;
  readonly threads: number;
  readonly frames: number;
  /** Whether the medium is twice as fine as the air. */
  readonly finer: boolean;
  /** Whether there is medium in every voxel of a cube, in place of an example. */
  readonly dense: boolean;
  readonly json: boolean;
}

const EXAMPLE = 'weir-at-dawn';
const READS = 7;

/** A cube full of medium that is stirred. */
const denseRecipe = (): Recipe =>
  parseRecipe({
    name: 'Dense',
    space: { size: [1, 1, 1], corner: [0, 0, 0], voxelSize: 0.01 },
    sources: [
      {
        id: 's',
        shape: 'box',
        centre: [0.5, 0.5, 0.5],
        size: [1, 1, 1],
        until: 1,
        density: { amount: 1 },
        temperature: { amount: 2 },
      },
    ],
    turbulence: { strength: 1, size: 0.3 },
    dissipation: { density: 0 },
  });

export function benchBake({ size, threads, frames, finer, dense, json }: BenchBakeOptions): void {
  if (!Number.isInteger(size) || size < 16 || size > 512)
    throw new UsageError(`--size must be a whole number from 16 to 512, not ${size}.`);
  const recipe = dense ? denseRecipe() : example(EXAMPLE);
  const { space } = recipe;
  const medium = finer ? 'finer' : 'air';
  const lastFrame = space.firstFrame + frames - 1;
  const folder = mkdtempSync(join(tmpdir(), 'bramblemist-bench-'));
  try {
    let times = { solverSeconds: 0, waitedSeconds: 0 };
    const began = performance.now();
    const manifest = bake(
      { ...recipe, space: { ...space, medium, lastFrame } },
      {
        folder,
        voxelSizeM: Math.max(...space.size) / size,
        threads,
        bricks: true,
        checkpointEvery: 10,
        onFrame: () => undefined,
        onTimes: (t) => (times = t),
      },
    );
    const seconds = (performance.now() - began) / 1000;
    const last = manifest.frames[manifest.frames.length - 1];
    const data = readFileSync(join(folder, last.file));
    let readMs = Infinity;
    let voxels = 0;
    for (let n = 0; n < READS; n++) {
      const from = performance.now();
      const { active } = volumeFrom(readVdb(data, { zip: nodeZip }), last.frame);
      readMs = Math.min(readMs, performance.now() - from);
      voxels = active.reduce((sum, a) => sum + a, 0);
    }

    const result = {
      ...{ size, threads, frames, medium, dense, seconds, ...times },
      solverShare: times.solverSeconds / seconds,
      fileBytes: data.length,
      activeVoxels: voxels,
      readMs,
    };
    if (json) console.log(JSON.stringify(result));
    else
      console.log(
        `${size} voxels, medium ${medium}, ${threads} thread${threads > 1 ? 's' : ''}: ${frames} frames in ` +
          `${seconds.toFixed(1)} s, ${(100 * result.solverShare).toFixed(0)} % of it simulating; the last ` +
          `frame, ${(data.length / 1e6).toFixed(2)} MB, read in ${readMs.toFixed(1)} ms`,
      );
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
