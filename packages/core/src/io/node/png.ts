// PNG through pngjs.
import { CoreError } from '../../base/error';
import { readFileSync } from 'node:fs';
import { PNG } from 'pngjs';
import { fromBytes, toBytes } from '../../look/picture';
import type { LinearPicture } from '../../files/picture';

/** sRGB with straight alpha, from premultiplied linear light. */
export function encodePng(layer: LinearPicture): Uint8Array {
  const png = new PNG({ width: layer.width, height: layer.height });
  png.data = Buffer.from(toBytes(layer.rgba));
  return PNG.sync.write(png);
}

/** @param words of 8 or of 16 bits, straight alpha */
export function encodePngWords(words: Uint16Array, width: number, height: number, bits: 8 | 16): Uint8Array {
  const png = new PNG({ width, height });
  png.data = bits === 16 ? Buffer.from(words.buffer, words.byteOffset, words.byteLength) : Buffer.from(words);
  return PNG.sync.write(png, { bitDepth: bits });
}

const MOST_PIXELS = 2 ** 26;

/** @throws Error naming the file */
export function readPng(path: string): LinearPicture {
  let data: Buffer;
  try {
    data = readFileSync(path);
  } catch (error) {
    throw new CoreError(
      'file',
      `${path}: cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)}).`,
    );
  }

  try {
    // the header's size is looked at before anything of that size is allocated
    if (data.length < 24 || data.readUInt32BE(16) * data.readUInt32BE(20) > MOST_PIXELS)
      throw new CoreError('file', 'it is too short or too large');
    const png = PNG.sync.read(data);
    return { width: png.width, height: png.height, rgba: fromBytes(png.data) };
  } catch (error) {
    throw new CoreError(
      'file',
      `${path}: is not a PNG picture that can be read (${(error as Error).message}).`,
    );
  }
}
