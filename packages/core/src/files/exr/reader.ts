// OpenEXR images, in lines or tiles, of one part or several: packed by none, RLE, ZIPS, ZIP or PXR24. Facts:
// the format's own papers. How the others are packed is left to a library (colours.ts).
import { ByteReader, FileError } from '../bytes';
import { halfTable } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import {
  LINES,
  readExrHead,
  sizeOf,
  type ExrCompression,
  type ExrPart,
  type ExrType,
  type ExrWindow,
} from './header';

export interface ExrChannel {
  readonly name: string;
  readonly type: ExrType;
  /** width · height values of the data window, top row first. */
  readonly values: Float32Array;
}
export interface ExrImage {
  /** Of the data window. */
  readonly width: number;
  readonly height: number;
  readonly channels: readonly ExrChannel[];
  /** Where its pixels are, and what of that is to be seen; undefined: all of it, from 0, 0. */
  readonly windows?: { readonly data: ExrWindow; readonly display: ExrWindow };
  /** Width of a pixel for each height of it. */
  readonly pixelAspect?: number;
}

/** Whether `readExr` unpacks it. */
export const isPlain = (part: ExrPart): boolean =>
  ['none', 'RLE', 'ZIPS', 'ZIP', 'PXR24'].includes(part.compression) &&
  part.channels.every((c) => c.sampling === 1);

/** What a file is, in the trade's words. */
export const kindOf = (part: ExrPart): string =>
  `${part.isDeep ? 'deep, ' : ''}${part.tile ? 'in tiles' : 'in lines'}, packed by ${part.compression}`;

/** Which part of a file, by its number, and which of its channels. */
export interface ExrWanted {
  readonly part?: number;
  readonly isWanted?: (channel: string) => boolean;
  /** Where a channel's values go, as many as pixels; asked once the head was found sound. */
  readonly room?: (channel: string, pixels: number) => Float32Array;
}

/**
 * A part of a file, the first where none is told.
 * @throws FileError naming what is wrong, or what it is that cannot be read
 */
export function readExr(
  data: Uint8Array,
  zip: ZipCodec = pureZip,
  { part: own = 0, isWanted = () => true, room = (_, pixels) => new Float32Array(pixels) }: ExrWanted = {},
): ExrImage {
  const { parts, isMultiPart, at: tables } = readExrHead(data);
  const part = parts[own];
  // tables of parts stand one behind the other, eight bytes a chunk
  const at = parts.slice(0, own).reduce((n, { chunks }) => n + 8 * Math.max(0, chunks), tables);
  if (part.isDeep) throw new FileError('It is a deep picture; flatten it, or save the flat one beside it');
  const sub = part.channels.find((c) => c.sampling > 1);
  if (sub) throw new FileError(`Its channel ${sub.name} is subsampled; save it with whole colours`);
  if (!isPlain(part)) throw new FileError(`It is ${kindOf(part)}; save it with ZIP`);
  const [width, height] = sizeOf(part.data);
  const bytes = (type: ExrType): number => (type === 'half' ? 2 : 4);
  const stride = part.channels.reduce((n, c) => n + bytes(c.type), 0);
  // zlib packs at most about a thousand times, so a small file cannot claim a huge picture
  if (stride * width * height > data.length * 1100 + 65536)
    throw new FileError('The picture is larger than the file can hold');
  const channels = part.channels.map(({ name, type }) => ({
    name,
    type,
    values: isWanted(name) ? room(name, width * height) : null,
  }));
  const lines = LINES[part.compression];
  const [tw, th] = part.tile ?? [width, lines];
  const across = Math.ceil(width / tw);
  // of pictures in several sizes the whole one comes first
  const count = across * Math.ceil(height / th);
  if (count * 8 > data.length - at) throw new FileError('The file ends inside the offset table', at);
  const halves = halfTable();
  const r = new ByteReader(data, at);
  const offsets = Array.from({ length: count }, () => r.i64('an offset'));
  for (const offset of offsets) {
    r.jump(offset, 'A block');
    if (isMultiPart && r.i32('a block') !== own) throw new FileError('A block is of another part', offset);
    let x0 = 0;
    let y0: number;
    if (part.tile) {
      const [tx, ty, level] = [r.i32('a tile'), r.i32('a tile'), r.i32('a tile'), r.i32('a tile')];
      if (tx < 0 || ty < 0 || level !== 0) throw new FileError('A tile is not in the picture', offset);
      [x0, y0] = [tx * tw, ty * th];
    } else y0 = r.i32('a block') - part.data.min[1];
    if (x0 >= width || y0 < 0 || y0 >= height || y0 % th !== 0)
      throw new FileError('A block has a line that is not in the picture', offset);
    const w = Math.min(tw, width - x0);
    const h = Math.min(th, height - y0);
    const block = r.bytes(r.i32('a block size'), 'a block');
    const raw = unpacked(part.compression, block, channels, w, h, zip, r.at - block.length);
    const v = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    let from = 0;
    for (let y = y0; y < y0 + h; y++)
      for (const { type, values } of channels) {
        const to = y * width + x0;
        if (!values) {
          from += w * bytes(type);
          continue;
        }

        if (type === 'half')
          for (let x = 0, b = from; x < w; x++, b += 2) values[to + x] = halves[raw[b] | (raw[b + 1] << 8)];
        else if (type === 'float')
          for (let x = 0; x < w; x++) values[to + x] = v.getFloat32(from + 4 * x, true);
        else for (let x = 0; x < w; x++) values[to + x] = v.getUint32(from + 4 * x, true);
        from += w * bytes(type);
      }
  }

  return {
    width,
    height,
    channels: channels.flatMap(({ values, ...c }) => (values ? [{ ...c, values }] : [])),
    windows: { data: part.data, display: part.display },
    pixelAspect: part.pixelAspect,
  };
}

/** A block's bytes, line by line, channel by channel. */
function unpacked(
  compression: ExrCompression,
  block: Uint8Array,
  channels: readonly Pick<ExrChannel, 'type'>[],
  width: number,
  height: number,
  zip: ZipCodec,
  at: number,
): Uint8Array {
  const size = channels.reduce((n, c) => n + (c.type === 'half' ? 2 : 4), 0) * width * height;
  const isPlainBlock = compression !== 'PXR24' || block.length === size;
  if (isPlainBlock) return unpackedBlock(compression, block, size, zip, at);
  return orSaid(at, () => fromPxr24(block, channels, width, height, zip));
}

/** A block of so many bytes, packed by none, RLE, ZIPS or ZIP. @param at where it stands, for what is said */
export function unpackedBlock(
  compression: ExrCompression,
  block: Uint8Array,
  size: number,
  zip: ZipCodec,
  at: number,
): Uint8Array {
  // what would not get smaller is written as it is
  if (block.length === size) return block;
  return orSaid(at, () => {
    if (compression === 'ZIP' || compression === 'ZIPS') return unpredict(zip.inflate(block, size));
    if (compression === 'RLE') return unpredict(runs(block, size));
    throw new FileError(`it has ${block.length} bytes where ${size} are due`);
  });
}

function orSaid<T>(at: number, unpack: () => T): T {
  try {
    return unpack();
  } catch (error) {
    throw new FileError(`A block cannot be unpacked: ${(error as Error).message}`, at);
  }
}

/** Even bytes first, then odd ones, each as its difference to the one before. */
function unpredict(data: Uint8Array): Uint8Array {
  const n = data.length;
  const half = (n + 1) >> 1;
  const out = new Uint8Array(n);
  let value = 128;
  for (let i = 0, to = 0; i < half; i++, to += 2) out[to] = value = (value + data[i] + 128) & 255;
  for (let i = half, to = 1; i < n; i++, to += 2) out[to] = value = (value + data[i] + 128) & 255;
  return out;
}

/** A count below 0: so many bytes as they are; else one byte, once more than the count. */
function runs(block: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let to = 0;
  for (let at = 0; at < block.length;) {
    const count = (block[at++] << 24) >> 24;
    const length = count < 0 ? -count : count + 1;
    if (to + length > size || (count < 0 ? at + length : at + 1) > block.length)
      throw new FileError('its runs are longer than it');
    if (count < 0) out.set(block.subarray(at, at + length), to);
    else out.fill(block[at], to, to + length);
    at += count < 0 ? length : 1;
    to += length;
  }

  if (to !== size) throw new FileError('its runs are shorter than it');
  return out;
}

/** Differences along a line, a byte of all values after the other; floats have lost their last eight bits. */
function fromPxr24(
  block: Uint8Array,
  channels: readonly Pick<ExrChannel, 'type'>[],
  width: number,
  height: number,
  zip: ZipCodec,
): Uint8Array {
  const kept = { half: 2, float: 3, uint: 4 } as const;
  const packed = zip.inflate(block, channels.reduce((n, c) => n + kept[c.type], 0) * width * height);
  const out = new Uint8Array(channels.reduce((n, c) => n + (c.type === 'half' ? 2 : 4), 0) * width * height);
  const view = new DataView(out.buffer);
  let from = 0;
  let to = 0;
  for (let y = 0; y < height; y++)
    for (const { type } of channels) {
      const bytes = kept[type];
      let value = 0;
      for (let x = 0; x < width; x++) {
        let difference = 0;
        for (let b = 0; b < bytes; b++) difference = (difference << 8) | packed[from + b * width + x];
        value = (value + (type === 'float' ? difference << 8 : difference)) | 0;
        if (type === 'half') view.setUint16(to, value & 0xffff, true);
        else view.setUint32(to, value >>> 0, true);
        to += type === 'half' ? 2 : 4;
      }

      from += bytes * width;
    }

  return out;
}
