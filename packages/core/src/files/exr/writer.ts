// Writes OpenEXR images in lines, packed by ZIP. Facts: the format's own papers.
import { ByteWriter } from '../bytes';
import { toHalf } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import { LINES as LINES_OF, type ExrType } from './header';
import { windowsOf, writeExrHead, type ExrSaid } from './header-writer';
import type { ExrImage } from './reader';

const COMPRESSION = 'ZIP';
const LINES = LINES_OF[COMPRESSION];

export function writeExr(image: ExrImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array {
  const { width, height } = image;
  const channels = [...image.channels].sort((a, b) => (a.name < b.name ? -1 : 1));
  const { data } = windowsOf(image);
  const out = writeExrHead({ ...image, channels, compression: COMPRESSION, mostSamples: null }, said);
  const blocks = Math.ceil(height / LINES);
  const table = out.length;
  for (let b = 0; b < blocks; b++) out.i64(0);
  for (let b = 0; b < blocks; b++) {
    out.patchI64(table + 8 * b, out.length);
    const y0 = b * LINES;
    const y1 = Math.min(height, y0 + LINES);
    const raw = new ByteWriter(1 << 16);
    for (let y = y0; y < y1; y++) {
      for (const c of channels) {
        for (let x = 0; x < width; x++) putValue(raw, c.type, c.values[y * width + x]);
      }
    }

    const block = packed(raw.done(), zip);
    out.i32(y0 + data.min[1]);
    out.i32(block.length);
    out.bytes(block);
  }

  return out.done();
}

export function putValue(to: ByteWriter, type: ExrType, v: number): void {
  if (type === 'half') to.u16(toHalf(v));
  else if (type === 'float') to.f32(v);
  else to.u32(v);
}

/** A block as files hold it: packed, or as it is where that would not make it smaller. */
export function packed(plain: Uint8Array, zip: ZipCodec): Uint8Array {
  const small = zip.deflate(predict(plain));
  return small.length < plain.length ? small : plain;
}

/** Even bytes first, then odd ones, each as its difference to the one before. */
function predict(raw: Uint8Array): Uint8Array {
  const n = raw.length;
  const half = (n + 1) >> 1;
  const out = new Uint8Array(n);
  for (let i = 0; i < n; i++) out[(i & 1 ? half : 0) + (i >> 1)] = raw[i];
  for (let i = n - 1; i > 0; i--) out[i] = out[i] - out[i - 1] + 128;
  return out;
}
