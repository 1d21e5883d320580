// Writes OpenEXR images in lines, packed by ZIP. Facts: the format's own papers.
import { ByteWriter } from '../bytes';
import { toHalf } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import { LINES as LINES_OF, type ExrType } from './header';
import { beginExr, windowsOf, writeExrHead, type ExrSaid } from './header-writer';
import type { ExrChannel, ExrImage } from './reader';

const COMPRESSION = 'ZIP';
const LINES = LINES_OF[COMPRESSION];

export function writeExr(image: ExrImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array {
  const out = beginExr('flat');
  const channels = inOrder(image);
  writeExrHead(out, { ...image, channels, compression: COMPRESSION, mostSamples: null, part: null }, said);
  const table = roomForTable(out, image);
  writeBlocks(out, { ...image, channels }, table, zip, null);
  return out.done();
}

/**
 * A picture whose layers are parts of one file: each is read without the others. What is said stands in all.
 */
export function writeExrParts(image: ExrImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array {
  const out = beginExr('parts');
  const chunks = blocksOf(image);
  const parts = partsOf(image);
  for (const { name, channels } of parts) {
    const own = { ...image, channels, mostSamples: null, part: { name, chunks } };
    writeExrHead(out, { ...own, compression: COMPRESSION }, said);
  }

  out.u8(0);
  const tables = parts.map(() => roomForTable(out, image));
  parts.forEach(({ channels }, n) => writeBlocks(out, { ...image, channels }, tables[n], zip, n));
  return out.done();
}

const inOrder = ({ channels }: ExrImage): ExrChannel[] =>
  [...channels].sort((a, b) => (a.name < b.name ? -1 : 1));

/** Channels by what stands before the last dot of their names; those of the beauty come first. */
function partsOf(image: ExrImage): { name: string; channels: ExrChannel[] }[] {
  const parts = new Map<string, ExrChannel[]>([['beauty', []]]);
  for (const channel of inOrder(image)) {
    const dot = channel.name.lastIndexOf('.');
    const name = dot < 0 ? 'beauty' : channel.name.slice(0, dot);
    parts.set(name, [...(parts.get(name) ?? []), channel]);
  }

  return [...parts]
    .filter(([, channels]) => channels.length > 0)
    .map(([name, channels]) => ({ name, channels }));
}

const blocksOf = ({ height }: ExrImage): number => Math.ceil(height / LINES);

/** @returns where the table stands */
function roomForTable(out: ByteWriter, image: ExrImage): number {
  const table = out.length;
  for (let b = 0; b < blocksOf(image); b++) out.i64(0);
  return table;
}

/** @param part its number among several; null: there is but one */
function writeBlocks(
  out: ByteWriter,
  image: ExrImage,
  table: number,
  zip: ZipCodec,
  part: number | null,
): void {
  const { width, height, channels } = image;
  const { data } = windowsOf(image);
  for (let b = 0; b < blocksOf(image); b++) {
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
    if (part !== null) out.i32(part);
    out.i32(y0 + data.min[1]);
    out.i32(block.length);
    out.bytes(block);
  }
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
