// Volumes on disk to pictures on disk, and pictures over a plate.
import { CoreError } from '../../base/error';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { readExrColours } from '../../files/exr/colours';
import { writeExr } from '../../files/exr/writer';
import { activeBounds, toDense } from '../../files/vdb/leaves';
import { readVdb } from '../../files/vdb/reader';
import type { VdbGrid } from '../../files/vdb/format';
import { combine, type Combine, type Layer } from '../../combine/combine';
import type { Look } from '../../look/look';
import { toExr } from '../../look/picture';
import { renderWith, type Holdout, type Volume } from '../../look/render';
import type { Triple } from '../../math/vector';
import { encodePng, readPng } from './png';
import { nodeZip, writeWhole } from './files';
import { startThreadPool } from './thread-pool';

/** A render keeps a dense copy of what is active; larger ones are refused before they are made. */
const MOST_RENDER_VOXELS = 2 ** 28;

/** @throws FileError prefixed with the path */
export function readVolume(path: string, gridName = 'density'): Volume {
  let grid: VdbGrid | undefined;
  let names: string[];
  try {
    const file = readVdb(readFileSync(path), { zip: nodeZip });
    names = [...file.grids, ...file.others].map((g) => g.name);
    grid = file.grids.find((g) => g.name === gridName && g.kind === 'float');
  } catch (error) {
    throw new CoreError('file', `${path}: ${(error as Error).message}`);
  }

  if (!grid)
    throw new CoreError(
      'file',
      `${path}: holds no float grid called ${gridName} (it holds: ${names.join(', ') || 'none'}).`,
    );
  const h = grid.voxelSize[0];
  const bounds = activeBounds(grid);
  const min = bounds ? bounds.min : ([0, 0, 0] as Triple);
  // rows in fours for the vector kernels
  const dims = (bounds ? bounds.max.map((m, a) => m - min[a] + 1) : [4, 1, 1]) as Triple;
  dims[0] = Math.ceil(dims[0] / 4) * 4;
  if (dims[0] * dims[1] * dims[2] > MOST_RENDER_VOXELS)
    throw new CoreError(
      'file',
      `${path}: its active voxels span ${dims.join(' × ')}, too large to render at once.`,
    );
  return {
    dims,
    density: toDense(grid, min, dims)[0],
    corner: min.map((m, a) => grid.translation[a] + (m - 0.5) * h) as Triple,
    voxelSizeM: h,
  };
}

/** Sequence files NAME.0001.EXT of a folder with their frame numbers, in order. */
export function sequence(folder: string, extension: string): { frame: number; path: string; file: string }[] {
  let names: string[];
  try {
    names = readdirSync(folder);
  } catch (error) {
    throw new CoreError(
      'file',
      `${folder}: cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)}).`,
    );
  }

  return framesAmong(names, extension).map((f) => ({ ...f, path: join(folder, f.file) }));
}

/** Which of these names are NAME.0001.EXT, by their frames. */
export function framesAmong(names: readonly string[], extension: string): { frame: number; file: string }[] {
  const pattern = new RegExp(`^.+\\.(\\d{1,9})\\.${extension}$`);
  return names
    .flatMap((file) => {
      const match = pattern.exec(file);
      return match ? [{ frame: Number(match[1]), file }] : [];
    })
    .sort((a, b) => a.frame - b.frame);
}

/** Renders one volume and writes EXR and PNG with this path stem. */
export function renderFile(
  volumePath: string,
  outStem: string,
  look: Look,
  threads: number,
  holdout: Holdout | null,
  seed: number,
): { exr: string; png: string } {
  const picture = renderWith(startThreadPool, readVolume(volumePath), look, { threads, holdout, seed });
  writeWhole(`${outStem}.exr`, writeExr(toExr(picture), nodeZip));
  writeWhole(`${outStem}.png`, encodePng(picture));
  return { exr: `${outStem}.exr`, png: `${outStem}.png` };
}

/** A picture file as premultiplied linear light. */
export async function readLayer(path: string): Promise<Layer> {
  if (!path.toLowerCase().endsWith('.exr')) return readPng(path);
  try {
    return await readExrColours(readFileSync(path), nodeZip);
  } catch (error) {
    throw new CoreError('file', `${path}: ${(error as Error).message}`);
  }
}

/** Combines one element with a plate and writes EXR and PNG with this path stem. */
export async function combineFile(
  elementPath: string,
  plate: Layer | null,
  outStem: string,
  settings: Combine,
): Promise<void> {
  const result = combine(await readLayer(elementPath), plate, settings);
  const { width, height, rgba } = result;
  const channel = (name: string, c: number) => ({
    name,
    type: 'half' as const,
    values: Float32Array.from({ length: width * height }, (_, p) => rgba[4 * p + c]),
  });
  writeWhole(
    `${outStem}.exr`,
    writeExr({ width, height, channels: ['R', 'G', 'B', 'A'].map(channel) }, nodeZip),
  );
  writeWhole(`${outStem}.png`, encodePng(result));
}
