// Writes OpenEXR images in lines, packed by ZIP. Facts: the format's own papers.
import { ByteWriter } from '../bytes';
import { toHalf } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import { COMPRESSIONS, LINES as LINES_OF, TYPES } from './header';
import type { ExrImage } from './reader';

const MAGIC = 20000630;
const COMPRESSION = 'ZIP';
const LINES = LINES_OF[COMPRESSION];

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

export function writeExr(image: ExrImage, zip: ZipCodec = pureZip, said: ExrSaid = {}): Uint8Array {
  const { width, height } = image;
  const channels = [...image.channels].sort((a, b) => (a.name < b.name ? -1 : 1));
  const out = new ByteWriter(1 << 18);
  const attribute = (name: string, type: string, size: number): void => {
    out.ascii(`${name}\0${type}\0`);
    out.i32(size);
  };

  out.i32(MAGIC);
  out.i32(2);
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
  attribute('compression', 'compression', 1);
  out.u8(COMPRESSIONS.indexOf(COMPRESSION));
  attribute('chromaticities', 'chromaticities', 32);
  for (const v of CHROMATICITIES) out.f32(v);
  for (const [name, text] of Object.entries(said.text ?? {})) {
    const bytes = new TextEncoder().encode(text);
    attribute(name, 'string', bytes.length);
    out.bytes(bytes);
  }

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

  const whole = { min: [0, 0], max: [width - 1, height - 1] } as const;
  const { data, display } = image.windows ?? { data: whole, display: whole };
  for (const [name, { min, max }] of [['dataWindow', data] as const, ['displayWindow', display] as const]) {
    attribute(name, 'box2i', 16);
    for (const v of [...min, ...max]) out.i32(v);
  }

  attribute('lineOrder', 'lineOrder', 1);
  out.u8(0);
  attribute('pixelAspectRatio', 'float', 4);
  out.f32(image.pixelAspect ?? 1);
  attribute('screenWindowCenter', 'v2f', 8);
  out.f32(0);
  out.f32(0);
  attribute('screenWindowWidth', 'float', 4);
  out.f32(1);
  out.u8(0);
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
        for (let x = 0; x < width; x++) {
          const v = c.values[y * width + x];
          if (c.type === 'half') raw.u16(toHalf(v));
          else if (c.type === 'float') raw.f32(v);
          else raw.u32(v);
        }
      }
    }

    const plain = raw.done();
    const packed = zip.deflate(predict(plain));
    const smaller = packed.length < plain.length;
    out.i32(y0 + data.min[1]);
    out.i32(smaller ? packed.length : plain.length);
    out.bytes(smaller ? packed : plain);
  }

  return out.done();
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
