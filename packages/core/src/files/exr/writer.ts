// Writes OpenEXR images in lines or tiles, packed by ZIP. Facts: the format's own papers.
import { ByteWriter } from '../bytes';
import { toHalf } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import { LINES as LINES_OF, type ExrType } from './header';
import { beginExr, windowsOf, writeExrHead, type ExrSaid } from './header-writer';
import type { ExrChannel, ExrImage } from './reader';

const COMPRESSION = 'ZIP';
const LINES = LINES_OF[COMPRESSION];

export function writeExr(image: ExrImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array {
  return writeOne(image, zip, said, null);
}

/** Pixels along an edge of a tile. */
const TILE = 64;

/** A picture in tiles: of a large one a program reads the piece that it shows. */
export const writeTiledExr = (image: ExrImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array =>
  writeOne(image, zip, said, TILE);

function writeOne(image: ExrImage, zip: ZipCodec, said: ExrSaid, tile: number | null): Uint8Array {
  const out = beginExr(tile === null ? 'flat' : 'tiles');
  const channels = inOrder(image);
  const head = { ...image, channels, compression: COMPRESSION, mostSamples: null, tile, part: null } as const;
  writeExrHead(out, head, said);
  const blocks = blocksOf(image, tile);
  const table = roomForTable(out, blocks.length);
  writeBlocks(out, { ...image, channels }, { blocks, table, part: null }, zip);
  return out.done();
}

/**
 * A picture whose layers are parts of one file: each is read without the others. What is said stands in all.
 */
export function writeExrParts(image: ExrImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array {
  const out = beginExr('parts');
  const blocks = blocksOf(image, null);
  const parts = partsOf(image);
  for (const { name, channels } of parts) {
    const own = { ...image, channels, mostSamples: null, tile: null, part: { name, chunks: blocks.length } };
    writeExrHead(out, { ...own, compression: COMPRESSION }, said);
  }

  out.u8(0);
  const tables = parts.map(() => roomForTable(out, blocks.length));
  parts.forEach(({ channels }, part) =>
    writeBlocks(out, { ...image, channels }, { blocks, table: tables[part], part }, zip),
  );
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

/** Pixels that are packed together. */
interface Block {
  /** What stands before it: its first line, or the place of a tile and its size among several. */
  readonly place: readonly number[];
  readonly from: readonly [number, number];
  readonly end: readonly [number, number];
}

function blocksOf(image: ExrImage, tile: number | null): Block[] {
  const { width, height } = image;
  const [wide, high] = tile === null ? [width, LINES] : [tile, tile];
  const firstLine = windowsOf(image).data.min[1];
  const out: Block[] = [];
  for (let y = 0; y < height; y += high)
    for (let x = 0; x < width; x += wide)
      out.push({
        place: tile === null ? [y + firstLine] : [x / wide, y / high, 0, 0],
        from: [x, y],
        end: [Math.min(width, x + wide), Math.min(height, y + high)],
      });
  return out;
}

/** @returns where the table stands */
function roomForTable(out: ByteWriter, blocks: number): number {
  const table = out.length;
  for (let b = 0; b < blocks; b++) out.i64(0);
  return table;
}

/** @param to where their table is, and the number of the part among several; null: there is but one */
function writeBlocks(
  out: ByteWriter,
  { width, channels }: ExrImage,
  to: { readonly blocks: readonly Block[]; readonly table: number; readonly part: number | null },
  zip: ZipCodec,
): void {
  to.blocks.forEach(({ place, from, end }, b) => {
    out.patchI64(to.table + 8 * b, out.length);
    const raw = new ByteWriter(1 << 16);
    for (let y = from[1]; y < end[1]; y++) {
      for (const c of channels) {
        for (let x = from[0]; x < end[0]; x++) putValue(raw, c.type, c.values[y * width + x]);
      }
    }

    const block = packed(raw.done(), zip);
    if (to.part !== null) out.i32(to.part);
    for (const p of place) out.i32(p);
    out.i32(block.length);
    out.bytes(block);
  });
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
