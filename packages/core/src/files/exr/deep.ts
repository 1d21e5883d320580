// Writes deep OpenEXR pictures in lines, packed by ZIPS. Facts: the format's own papers
// (Kainz et al. 2013).
import { ByteWriter } from '../bytes';
import { pureZip, type ZipCodec } from '../zip';
import type { ExrWindow } from './header';
import { beginExr, windowsOf, writeExrHead, type ExrSaid } from './header-writer';
import { packed, putValue } from './writer';

/** Samples of a pixel stand one behind the other, nearest first. */
export interface ExrDeepImage {
  readonly width: number;
  readonly height: number;
  /** Samples of each pixel, top row first. */
  readonly counts: Uint32Array;
  /** Six values a sample: premultiplied red, green, blue, alpha, where it begins and where it ends. */
  readonly samples: Float32Array;
  readonly windows?: { readonly data: ExrWindow; readonly display: ExrWindow };
  readonly pixelAspect?: number;
}

/** In byte order of their names, with where their values stand in a sample. */
const CHANNELS = [
  { name: 'A', type: 'half', at: 3 },
  { name: 'B', type: 'half', at: 2 },
  { name: 'G', type: 'half', at: 1 },
  { name: 'R', type: 'half', at: 0 },
  { name: 'Z', type: 'float', at: 4 },
  { name: 'ZBack', type: 'float', at: 5 },
] as const;
/** Values of a sample. */
export const DEEP_FLOATS = 6;

export function writeDeepExr(image: ExrDeepImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array {
  const { width, height, counts, samples } = image;
  const mostSamples = counts.reduce((a, b) => Math.max(a, b), 0);
  const out = beginExr('deep');
  const head = {
    ...image,
    channels: CHANNELS,
    compression: 'ZIPS' as const,
    mostSamples,
    tile: null,
    part: null,
  };
  writeExrHead(out, head, said);
  const { data } = windowsOf(image);
  const table = out.length;
  for (let y = 0; y < height; y++) out.i64(0);
  let first = 0;
  for (let y = 0; y < height; y++) {
    out.patchI64(table + 8 * y, out.length);
    const own = counts.subarray(y * width, (y + 1) * width);
    const ends = new ByteWriter(4 * width);
    let all = 0;
    for (const count of own) {
      all += count;
      ends.i32(all);
    }

    const raw = new ByteWriter(1 << 16);
    for (const { type, at } of CHANNELS)
      for (let n = first; n < first + all; n++) putValue(raw, type, samples[n * DEEP_FLOATS + at]);
    first += all;
    const plain = raw.done();
    const head = packed(ends.done(), zip);
    const body = packed(plain, zip);
    out.i32(y + data.min[1]);
    out.i64(head.length);
    out.i64(body.length);
    out.i64(plain.length);
    out.bytes(head);
    out.bytes(body);
  }

  return out.done();
}
