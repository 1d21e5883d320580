// What an OpenEXR file says of its parts, before any pixel is looked at.
import { ByteReader, FileError } from '../bytes';

export const TYPES = ['uint', 'half', 'float'] as const;
export type ExrType = (typeof TYPES)[number];
/** In the order of the numbers that stand for them. */
export const COMPRESSIONS = [
  'none',
  'RLE',
  'ZIPS',
  'ZIP',
  'PIZ',
  'PXR24',
  'B44',
  'B44A',
  'DWAA',
  'DWAB',
] as const;
export type ExrCompression = (typeof COMPRESSIONS)[number];
/** Lines that are packed together where they are not in tiles. */
export const LINES: Readonly<Record<ExrCompression, number>> = {
  none: 1,
  RLE: 1,
  ZIPS: 1,
  ZIP: 16,
  PIZ: 32,
  PXR24: 16,
  B44: 32,
  B44A: 32,
  DWAA: 32,
  DWAB: 256,
};

/** Both ends included, as the format has it. */
export interface ExrWindow {
  readonly min: readonly [number, number];
  readonly max: readonly [number, number];
}

export interface ExrPart {
  readonly name: string;
  readonly channels: readonly { readonly name: string; readonly type: ExrType; readonly sampling: number }[];
  readonly compression: ExrCompression;
  /** Where pixels are, and what is to be seen. */
  readonly data: ExrWindow;
  readonly display: ExrWindow;
  readonly pixelAspect: number;
  /** Edges of a tile; null: in lines. */
  readonly tile: readonly [number, number] | null;
  readonly isDeep: boolean;
  /** Chunks of a part of several; −1 where it is not said. */
  readonly chunks: number;
}

export interface ExrHead {
  readonly parts: readonly ExrPart[];
  readonly isMultiPart: boolean;
  /** Byte of the first offset table. */
  readonly at: number;
}

const MAGIC = 20000630;
const VERSION = 2;
const TILED = 0x200;
const LONG_NAMES = 0x400;
const DEEP = 0x800;
const MULTI_PART = 0x1000;
const MOST_PARTS = 1000;
/** No honest picture is larger; bounds what a hostile header can make us allocate. */
const MOST_PIXELS = 2 ** 27;

export const sizeOf = ({ min, max }: ExrWindow): [number, number] => [
  max[0] - min[0] + 1,
  max[1] - min[1] + 1,
];

/** @throws FileError naming what is wrong */
export function readExrHead(data: Uint8Array): ExrHead {
  const r = new ByteReader(data);
  if (r.size < 8 || r.i32() !== MAGIC) throw new FileError('This is not an OpenEXR file');
  const version = r.i32();
  if ((version & 0xff) !== VERSION)
    throw new FileError(`It is of OpenEXR file version ${version & 0xff}; version ${VERSION} is read`);
  const flags = version & ~0xff;
  const unknown = flags & ~(TILED | LONG_NAMES | DEEP | MULTI_PART);
  if (unknown)
    throw new FileError(`Its flags ${unknown.toString(16)} are not known: it is of a later kind`, 4);
  const isMultiPart = (flags & MULTI_PART) !== 0;
  const parts: ExrPart[] = [];
  for (;;) {
    const part = readPart(r, flags);
    if (!part) break;
    parts.push(part);
    if (!isMultiPart) break;
    if (parts.length > MOST_PARTS) throw new FileError(`It has more than ${MOST_PARTS} parts`, r.at);
  }

  if (parts.length === 0) throw new FileError('The header lacks its channels or its data window');
  return { parts, isMultiPart, at: r.at };
}

/** A part's attributes; null at the end of the parts. */
function readPart(r: ByteReader, flags: number): ExrPart | null {
  let name = '';
  let type = '';
  let compression: ExrCompression | undefined;
  let data: ExrWindow | null = null;
  let display: ExrWindow | null = null;
  let pixelAspect = 1;
  let tile: [number, number] | null = null;
  let chunks = -1;
  const channels: { name: string; type: ExrType; sampling: number }[] = [];
  let attribute = word(r);
  if (attribute === '') return null;
  for (; attribute !== ''; attribute = word(r)) {
    word(r);
    const size = r.i32('an attribute size');
    const end = r.at + size;
    if (size < 0 || size > r.left) throw new FileError(`Attribute ${attribute} has an absurd size`, r.at - 4);
    if (attribute === 'channels') readChannels(r, channels);
    else if (attribute === 'compression') {
      const found = r.u8();
      compression = COMPRESSIONS[found];
      if (!compression) throw new FileError(`It is packed in the way ${found}, which is not known`, r.at - 1);
    } else if (attribute === 'dataWindow') data = box(r);
    else if (attribute === 'displayWindow') display = box(r);
    else if (attribute === 'pixelAspectRatio') pixelAspect = r.f32();
    else if (attribute === 'chunkCount') chunks = r.i32();
    else if (attribute === 'tiles') tile = [r.u32(), r.u32()];
    else if (attribute === 'name') name = new TextDecoder().decode(r.bytes(size));
    else if (attribute === 'type') type = new TextDecoder().decode(r.bytes(size));
    r.jump(end, `The end of attribute ${attribute}`);
  }

  if (!data || channels.length === 0 || !compression)
    throw new FileError('The header lacks its channels or its data window');
  const [width, height] = sizeOf(data);
  if (width < 1 || height < 1 || width * height > MOST_PIXELS)
    throw new FileError(`A picture of ${width} × ${height} is absurd`);
  const isTiled = type === '' ? (flags & TILED) !== 0 : type.startsWith('tiled') || type === 'deeptile';
  if (isTiled && !(tile && tile[0] > 0 && tile[1] > 0 && tile[0] * tile[1] <= MOST_PIXELS))
    throw new FileError('It is tiled, but does not say how large its tiles are');
  const isDeep = (flags & DEEP) !== 0 || type.startsWith('deep');
  return {
    name,
    channels,
    compression,
    data,
    display: display ?? data,
    pixelAspect: pixelAspect > 0 ? pixelAspect : 1,
    tile: isTiled ? tile : null,
    isDeep,
    chunks,
  };
}

function readChannels(r: ByteReader, into: { name: string; type: ExrType; sampling: number }[]): void {
  for (let c = word(r); c !== ''; c = word(r)) {
    const type = TYPES[r.i32('a channel type')];
    if (!type) throw new FileError(`Channel ${c} has an unknown type`, r.at - 4);
    r.i32();
    const [x, y] = [r.i32(), r.i32()];
    if (x < 1 || y < 1) throw new FileError(`Channel ${c} is sampled every ${x} × ${y} pixels`, r.at - 8);
    into.push({ name: c, type, sampling: Math.max(x, y) });
  }
}

const box = (r: ByteReader): ExrWindow => ({ min: [r.i32(), r.i32()], max: [r.i32(), r.i32()] });

function word(r: ByteReader): string {
  let s = '';
  for (let c = r.u8('a name'); c !== 0; c = r.u8('a name')) {
    s += String.fromCharCode(c);
    if (s.length > 255) throw new FileError('A name in the header is too long', r.at);
  }

  return s;
}
