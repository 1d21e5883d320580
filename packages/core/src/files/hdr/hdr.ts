// Radiance HDR pictures, decoded by a library; its head is looked at first, so that a false one does not make
// it reserve memory.
import parseHdr from 'parse-hdr';
import { type Texture, textureOf } from '../picture';
import { FileError } from '../bytes';

const MOST_PIXELS = 2 ** 26;
/** A run of equal values takes two bytes for up to 127. */
const MOST_PER_BYTE = 64;

/** @throws FileError */
export function readHdr(bytes: Uint8Array): Texture {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  const size = /-Y (\d+) \+X (\d+)\n/.exec(head);
  if (!head.startsWith('#?') || !size)
    throw new FileError('It is no Radiance HDR picture: its head does not say so, or gives no size.');
  const pixels = Number(size[1]) * Number(size[2]);
  if (pixels === 0 || pixels > MOST_PIXELS || pixels > bytes.length * MOST_PER_BYTE)
    throw new FileError(`Its head says ${size[2]} × ${size[1]} pixels, more than the file can hold.`);
  try {
    const {
      shape: [width, height],
      data,
    } = parseHdr(bytes);
    return textureOf(width, height, (c, n) => data[4 * n + c]);
  } catch (error) {
    throw new FileError(`It is no Radiance HDR picture that can be read: ${(error as Error).message}`);
  }
}
