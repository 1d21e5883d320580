// Reads deep OpenEXR pictures in lines. Facts: the format's own papers (Kainz et al. 2013).
import { ByteReader, FileError } from '../bytes';
import { exponential, logarithm } from '../../math/exact';
import { halfTable } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import { DEEP_FLOATS, type ExrDeepImage } from './deep';
import { readExrHead, sizeOf, type ExrPart } from './header';
import { kindOf, unpackedBlock } from './reader';

/** Samples of a picture, of 24 bytes each: bounds what a hostile table can make us allocate. */
const MOST_SAMPLES = 2 ** 26;
/** What is infinitely far, m: files have their own ways to say so. */
const FAR = 1e6;
const ROUNDED = 1e-4;

/** Where a channel's values go in a sample. */
const PLACES: Readonly<Record<string, readonly number[]>> = {
  R: [0],
  G: [1],
  B: [2],
  Y: [0, 1, 2],
  A: [3],
  Z: [4],
  ZBack: [5],
};

/**
 * The first part of a file, in its display window; samples nearest first, none reaching into the next.
 * @throws FileError naming what is wrong, or what it is that cannot be read
 */
export function readDeepExr(data: Uint8Array, zip: ZipCodec = pureZip): ExrDeepImage {
  const { parts, isMultiPart, at } = readExrHead(data);
  const [part] = parts;
  if (!part.isDeep) throw new FileError('It is not a deep picture');
  if (part.tile) throw new FileError(`It is ${kindOf(part)}; save it in lines`);
  if (!['none', 'RLE', 'ZIPS'].includes(part.compression))
    throw new FileError(`It is ${kindOf(part)}; save it with ZIPS`);
  const missing = ['A', 'Z'].find((name) => !part.channels.some((c) => c.name === name));
  if (missing)
    throw new FileError(
      `It is deep, but has no channel ${missing} (it has: ${part.channels.map((c) => c.name).join(', ')})`,
    );
  const [, lines] = sizeOf(part.data);
  if (lines * 8 > data.length - at) throw new FileError('The file ends inside the offset table', at);
  const r = new ByteReader(data, at);
  const offsets = Array.from({ length: lines }, () => r.i64('an offset'));
  const [width, height] = sizeOf(part.display);
  if (width < 1 || height < 1 || width * height > 2 ** 27)
    throw new FileError(`A picture of ${width} × ${height} is absurd`);
  const counts = new Uint32Array(width * height);
  const rows: Float32Array[] = Array.from({ length: height }, () => new Float32Array(0));
  let all = 0;
  for (const offset of offsets) {
    r.jump(offset, 'A block');
    if (isMultiPart && r.i32('a block') !== 0) throw new FileError('A block is of another part', offset);
    const y = r.i32('a block') - part.data.min[1];
    if (y < 0 || y >= lines) throw new FileError('A block has a line that is not in the picture', offset);
    const [headSize, size, plainSize] = [r.i64('a table'), r.i64('a block'), r.i64('a block')];
    const ends = countsOf(r.bytes(headSize, 'a table'), part, zip, offset);
    const own = ends.length === 0 ? 0 : ends[ends.length - 1];
    all += own;
    if (all > MOST_SAMPLES) throw new FileError(`It has more than ${MOST_SAMPLES} samples`, offset);
    const due = own * part.channels.reduce((n, c) => n + (c.type === 'half' ? 2 : 4), 0);
    if (plainSize !== due) throw new FileError('A block has another size than its table says', offset);
    const line = y + part.data.min[1] - part.display.min[1];
    const block = r.bytes(size, 'a block');
    if (line < 0 || line >= height) continue;
    const raw = unpackedBlock(part.compression, block, due, zip, r.at - size);
    rows[line] = putLine(raw, part, ends, counts.subarray(line * width, (line + 1) * width));
  }

  const samples = new Float32Array(rows.reduce((n, row) => n + row.length, 0));
  let to = 0;
  for (const row of rows) {
    samples.set(row, to);
    to += row.length;
  }

  return { width, height, counts, samples, pixelAspect: part.pixelAspect };
}

/** How many samples the pixels of a line have up to each. */
function countsOf(block: Uint8Array, part: ExrPart, zip: ZipCodec, at: number): Int32Array {
  const [width] = sizeOf(part.data);
  const raw = unpackedBlock(part.compression, block, 4 * width, zip, at);
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  const ends = Int32Array.from({ length: width }, (_, x) => view.getInt32(4 * x, true));
  if (ends.some((end, x) => end < (x === 0 ? 0 : ends[x - 1]) || end > MOST_SAMPLES))
    throw new FileError('A table of samples counts back', at);
  return ends;
}

/** A line's samples in the frame; `counts` is filled in. */
function putLine(raw: Uint8Array, part: ExrPart, ends: Int32Array, counts: Uint32Array): Float32Array {
  const all = ends[ends.length - 1];
  const values = new Float32Array(DEEP_FLOATS * all);
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  const halves = halfTable();
  let from = 0;
  for (const { name, type } of part.channels) {
    const places = PLACES[name] ?? [];
    const bytes = type === 'half' ? 2 : 4;
    for (let n = 0; n < all; n++) {
      const at = from + bytes * n;
      let value: number;
      if (type === 'half') value = halves[raw[at] | (raw[at + 1] << 8)];
      else value = type === 'float' ? view.getFloat32(at, true) : view.getUint32(at, true);
      for (const place of places) values[DEEP_FLOATS * n + place] = value;
    }

    from += bytes * all;
  }

  const hasBack = part.channels.some(({ name }) => name === 'ZBack');
  const off = part.data.min[0] - part.display.min[0];
  const pixels: Float32Array[] = [];
  for (let x = 0; x < counts.length; x++) {
    const n = x - off;
    if (n < 0 || n >= ends.length) continue;
    const own = values.subarray(DEEP_FLOATS * (n === 0 ? 0 : ends[n - 1]), DEEP_FLOATS * ends[n]);
    const tidy = tidied(own, hasBack);
    counts[x] = tidy.length / DEEP_FLOATS;
    pixels.push(tidy);
  }

  const out = new Float32Array(pixels.reduce((sum, p) => sum + p.length, 0));
  let to = 0;
  for (const pixel of pixels) {
    out.set(pixel, to);
    to += pixel.length;
  }

  return out;
}

/** A pixel's samples with sound values, nearest first, none reaching into the next. */
function tidied(samples: Float32Array, hasBack: boolean): Float32Array {
  const count = samples.length / DEEP_FLOATS;
  let isSorted = true;
  for (let n = 0; n < count; n++) {
    const own = samples.subarray(DEEP_FLOATS * n, DEEP_FLOATS * (n + 1));
    for (let c = 0; c < 3; c++) if (!Number.isFinite(own[c])) own[c] = 0;
    own[3] = Math.min(1, Math.max(0, own[3] || 0));
    own[4] = Math.min(FAR, Math.max(0, Number.isNaN(own[4]) ? FAR : own[4]));
    own[5] = hasBack && !Number.isNaN(own[5]) ? Math.min(FAR, Math.max(own[4], own[5])) : own[4];
    if (n === 0) continue;
    const before = DEEP_FLOATS * (n - 1);
    const overlap = samples[before + 5] - own[4];
    if (overlap <= 0) continue;
    // as much as numbers are rounded, which needs no parting
    if (overlap <= ROUNDED * own[4] && own[4] >= samples[before + 4]) samples[before + 5] = own[4];
    else isSorted = false;
  }

  return isSorted ? samples : parted(samples, count);
}

/** Samples that overlap, parted where another one begins or ends, and mixed. */
function parted(samples: Float32Array, count: number): Float32Array {
  const all = Array.from({ length: count }, (_, n) => [
    ...samples.subarray(DEEP_FLOATS * n, DEEP_FLOATS * (n + 1)),
  ]).sort((a, b) => a[4] - b[4] || a[5] - b[5]);
  const bounds = [...new Set(all.flatMap(([, , , , near, far]) => [near, far]))].sort((a, b) => a - b);
  const out: number[] = [];
  bounds.forEach((bound, n) => {
    for (const s of all) if (s[4] === bound && s[5] === bound) out.push(...s);
    const next = bounds[n + 1];
    if (next === undefined) return;
    const here = all.filter(([, , , , near, far]) => near <= bound && far >= next);
    if (here.length === 0) return;
    let thickness = 0;
    const sum = [0, 0, 0];
    for (const [r, g, b, alpha, near, far] of here) {
      const share = (next - bound) / (far - near);
      const own = -logarithm(1 - Math.min(alpha, 1 - 1e-7)) * share;
      thickness += own;
      [r, g, b].forEach((v, c) => (sum[c] += v * (alpha > 1e-9 ? own / alpha : share)));
    }

    const hides = 1 - exponential(-thickness);
    const gives = thickness > 1e-9 ? hides / thickness : 1;
    out.push(...sum.map((v) => v * gives), hides, bound, next);
  });
  return Float32Array.from(out);
}
