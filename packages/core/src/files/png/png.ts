// PNG pictures as linear light, decoded by a library that runs in every home of the core.
import { power } from '../../math/exact';
import { convertIndexedToRgb, decode } from 'fast-png';
import { type Texture, textureOf } from '../picture';
import { FileError } from '../bytes';

/** @throws FileError */
export function readPngPicture(bytes: Uint8Array): Texture {
  let png: ReturnType<typeof decode>;
  try {
    png = decode(bytes, { checkCrc: true });
  } catch (error) {
    throw new FileError(`It is no PNG picture that can be read: ${(error as Error).message}`);
  }

  const { width, height, depth } = png;
  const data = png.palette ? convertIndexedToRgb(png) : png.data;
  const channels = png.palette ? data.length / (width * height) : png.channels;
  const most = png.palette ? 255 : 2 ** depth - 1;
  // IEC 61966-2-1; in single precision, so that the last digit of an engine's power does not show
  const linear = new Float32Array(most + 1).map((_, n) => {
    const v = n / most;
    return v <= 0.04045 ? v / 12.92 : power((v + 0.055) / 1.055, 2.4);
  });
  return textureOf(width, height, (c, n) => linear[data[n * channels + (channels >= 3 ? c : 0)]]);
}
