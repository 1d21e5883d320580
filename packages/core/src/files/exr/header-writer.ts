// The head of an OpenEXR file that is written: what its channels are, and what a picture says of itself.
import { ByteWriter } from '../bytes';
import { COMPRESSIONS, TYPES, type ExrCompression, type ExrType, type ExrWindow } from './header';

const MAGIC = 20000630;
const VERSION = 2;
const TILED = 0x200;
const DEEP = 0x800;
const MULTI_PART = 0x1000;

/** What a picture says of itself besides its pixels, by the names and types of the format's papers. */
export interface ExrSaid {
  readonly text?: Readonly<Record<string, string>>;
  readonly float?: Readonly<Record<string, number>>;
  /** Numerator and denominator. */
  readonly rational?: Readonly<Record<string, readonly [number, number]>>;
  /** As SMPTE packs hours, minutes, seconds and frames. */
  readonly timeCode?: number;
  /** Four by four, row by row, for vectors that stand before it. */
  readonly matrix?: Readonly<Record<string, readonly number[]>>;
}

/** Rec. ITU-R BT.709: red, green, blue, white. */
const CHROMATICITIES = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329];

/** What a head is written from. */
export interface ExrHeadWanted {
  readonly width: number;
  readonly height: number;
  readonly windows?: { readonly data: ExrWindow; readonly display: ExrWindow };
  readonly pixelAspect?: number;
  /** In byte order of their names. */
  readonly channels: readonly { readonly name: string; readonly type: ExrType }[];
  readonly compression: ExrCompression;
  /** Of a deep picture: samples of a pixel at the most; null: it is flat. */
  readonly mostSamples: number | null;
  /** Edge of a tile, pixels; null: in lines. */
  readonly tile: number | null;
  /** Of one part of several: what it is called and its chunks; null: it is the only one. */
  readonly part: { readonly name: string; readonly chunks: number } | null;
}

/** What a file begins with. */
export function beginExr(kind: 'flat' | 'tiles' | 'deep' | 'parts'): ByteWriter {
  const out = new ByteWriter(1 << 18);
  out.i32(MAGIC);
  out.i32(VERSION | { flat: 0, tiles: TILED, deep: DEEP, parts: MULTI_PART }[kind]);
  return out;
}

/** Windows of a picture; all of it is data and seen where nothing is said. */
export function windowsOf({
  width,
  height,
  windows,
}: Pick<ExrHeadWanted, 'width' | 'height' | 'windows'>): NonNullable<ExrHeadWanted['windows']> {
  const whole = { min: [0, 0], max: [width - 1, height - 1] } as const;
  return windows ?? { data: whole, display: whole };
}

/** Writes the head of a picture or of a part; tables of chunks come after the last. */
export function writeExrHead(out: ByteWriter, wanted: ExrHeadWanted, said: ExrSaid): void {
  const { channels, compression, mostSamples, tile, part } = wanted;
  const attribute = (name: string, type: string, size: number): void => {
    out.ascii(`${name}\0${type}\0`);
    out.i32(size);
  };

  const text = (name: string, value: string): void => {
    const bytes = new TextEncoder().encode(value);
    attribute(name, 'string', bytes.length);
    out.bytes(bytes);
  };

  attribute(
    'channels',
    'chlist',
    channels.reduce((n, c) => n + c.name.length + 17, 1),
  );
  for (const c of channels) {
    out.ascii(`${c.name}\0`);
    out.i32(TYPES.indexOf(c.type));
    out.i32(0); // not perceptually linear
    out.i32(1);
    out.i32(1);
  }

  out.u8(0);
  if (part) {
    text('name', part.name);
    text('type', 'scanlineimage');
    attribute('chunkCount', 'int', 4);
    out.i32(part.chunks);
  }

  if (tile !== null) {
    attribute('tiles', 'tiledesc', 9);
    out.u32(tile);
    out.u32(tile);
    out.u8(0); // in one size
  }

  if (mostSamples !== null) {
    text('type', 'deepscanline');
    attribute('version', 'int', 4);
    out.i32(1);
    attribute('maxSamplesPerPixel', 'int', 4);
    out.i32(mostSamples);
    attribute('chunkCount', 'int', 4);
    out.i32(wanted.height);
  }

  attribute('compression', 'compression', 1);
  out.u8(COMPRESSIONS.indexOf(compression));
  attribute('chromaticities', 'chromaticities', 32);
  for (const v of CHROMATICITIES) out.f32(v);
  for (const [name, value] of Object.entries(said.text ?? {})) text(name, value);
  for (const [name, value] of Object.entries(said.float ?? {})) {
    attribute(name, 'float', 4);
    out.f32(value);
  }

  for (const [name, [above, below]] of Object.entries(said.rational ?? {})) {
    attribute(name, 'rational', 8);
    out.i32(above);
    out.u32(below);
  }

  if (said.timeCode !== undefined) {
    attribute('timeCode', 'timecode', 8);
    out.u32(said.timeCode);
    out.u32(0);
  }

  for (const [name, values] of Object.entries(said.matrix ?? {})) {
    attribute(name, 'm44f', 64);
    for (const v of values) out.f32(v);
  }

  const { data, display } = windowsOf(wanted);
  for (const [name, { min, max }] of [['dataWindow', data] as const, ['displayWindow', display] as const]) {
    attribute(name, 'box2i', 16);
    for (const v of [...min, ...max]) out.i32(v);
  }

  attribute('lineOrder', 'lineOrder', 1);
  out.u8(0);
  attribute('pixelAspectRatio', 'float', 4);
  out.f32(wanted.pixelAspect ?? 1);
  attribute('screenWindowCenter', 'v2f', 8);
  out.f32(0);
  out.f32(0);
  attribute('screenWindowWidth', 'float', 4);
  out.f32(1);
  out.u8(0);
}
