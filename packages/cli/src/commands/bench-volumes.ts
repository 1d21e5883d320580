// bench volumes: a frame in which every voxel holds medium, to a file and back: how long it takes by each
// packing, and how long what a picture needs of it.
import { writeFileSync } from 'node:fs';
import type { VdbGrid } from '@bramblemist/core/files/vdb/format';
import { toLeaves } from '@bramblemist/core/files/vdb/leaves';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { UsageError } from '../failure';

export interface BenchVolumesOptions {
  /** Voxels along each side. */
  readonly size: number;
  readonly repeats: number;
  /** Where the file that is packed by zip is left, for other readers. */
  readonly keep: string | null;
  readonly json: boolean;
}

const PACKINGS = ['zip', 'lz4'] as const;

/** Whirls of several sizes, with a little of what no packing makes smaller. */
function whirls(size: number, seed: number): Float32Array {
  const out = new Float32Array(size ** 3);
  for (let k = 0, n = 0; k < size; k++)
    for (let j = 0; j < size; j++)
      for (let i = 0; i < size; i++, n++) {
        const large = Math.sin(0.07 * i * seed + 1) * Math.sin(0.05 * j + seed) * Math.sin(0.06 * k);
        out[n] = 0.5 + 0.4 * large + 0.05 * Math.sin(1.7 * i + 2.3 * j * seed + 1.1 * k);
      }

  return out;
}

function grid(name: string, size: number, seeds: readonly number[]): Omit<VdbGrid, 'tiles' | 'askew'> {
  const parts = seeds.map((seed) => whirls(size, seed));
  const dims = [size, size, size] as const;
  return {
    name,
    kind: seeds.length === 3 ? 'vec3' : 'float',
    half: true,
    background: seeds.map(() => 0),
    translation: [0, 0, 0],
    voxelSize: [0.1, 0.1, 0.1],
    metadata: {},
    leaves: toLeaves(parts, new Uint8Array(size ** 3).fill(1), dims, [0, 0, 0]),
  };
}

function least(repeats: number, act: () => void): number {
  let ms = Infinity;
  for (let n = 0; n < repeats; n++) {
    const began = performance.now();
    act();
    ms = Math.min(ms, performance.now() - began);
  }

  return ms;
}

export function benchVolumes({ size, repeats, keep, json }: BenchVolumesOptions): void {
  if (!Number.isInteger(size) || size < 16 || size > 256)
    throw new UsageError(`--size must be a whole number from 16 to 256, not ${size}.`);
  const grids = [
    grid('density', size, [1]),
    grid('temperature', size, [1.3]),
    grid('velocity', size, [0.7, 0.8, 0.9]),
  ];
  const rows = PACKINGS.map((packing) => {
    const options = { zip: nodeZip, packing };
    const data = writeVdb(grids, options);
    if (keep && packing === 'zip') writeFileSync(keep, data);
    const only = new Set(['density']);
    return {
      packing,
      bytes: data.length,
      writeMs: least(repeats, () => void writeVdb(grids, options)),
      readMs: least(repeats, () => void readVdb(data, { zip: nodeZip })),
      densityMs: least(repeats, () => void readVdb(data, { zip: nodeZip, only })),
      // as a page reads it
      pageMs: least(repeats, () => void readVdb(data, { only })),
    };
  });
  if (json) return console.log(JSON.stringify({ size, rows }));
  for (const r of rows)
    console.log(
      `${size}³ by ${r.packing}: ${(r.bytes / 1e6).toFixed(1)} MB, written in ${r.writeMs.toFixed(0)} ms, ` +
        `read in ${r.readMs.toFixed(0)}, its density in ${r.densityMs.toFixed(0)}, by a page in ` +
        r.pageMs.toFixed(0),
    );
}
