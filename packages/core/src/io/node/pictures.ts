// Volumes on disk to pictures on disk, and pictures over a plate.
import { CoreError } from '../../base/error';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { readExrColours } from '../../files/exr/colours';
import { writeExr } from '../../files/exr/writer';
import { readVdb } from '../../files/vdb/reader';
import { combine, type Combine, type Layer } from '../../combine/combine';
import type { Look } from '../../look/look';
import { toExr } from '../../look/picture';
import { renderWith, type RenderOptions, type Volume } from '../../look/render';
import { volumeOf } from '../../look/volume-of';
import { encodePng, readPng } from './png';
import { nodeZip, writeWhole } from './files';
import { startThreadPool } from './thread-pool';

/** @throws CoreError prefixed with the path */
export function readVolume(path: string, look: Look): Volume {
  try {
    return volumeOf(readVdb(readFileSync(path), { zip: nodeZip }), look);
  } catch (error) {
    throw new CoreError('file', `${path}: ${(error as Error).message}`);
  }
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
  options: RenderOptions,
): { exr: string; png: string } {
  const picture = renderWith(startThreadPool, readVolume(volumePath, look), look, options);
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
