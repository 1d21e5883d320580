// PNG pictures as linear light, decoded by a library that runs in every home of the core.
import { power } from '../../math/exact';
import { convertIndexedToRgb, decode } from 'fast-png';
import { type Texture, textureOf } from '../picture';
import { FileError } from '../bytes';

const MOST_PIXELS = 2 ** 26;
/** zlib packs at most about a thousand times. */
const MOST_PACKED = 1040;
/** The kind of picture that has a palette. */
const INDEXED = 3;
/** Rec. ITU-T H.273. */
const SRGB_TRANSFER = 13;
const LINEAR_TRANSFER = 8;

/** @throws FileError */
export function readPngPicture(bytes: Uint8Array): { picture: Texture; remarks: string[] } {
  const { width, height, bits, isIndexed, gamma, remarks } = headOf(bytes);
  // before anything of that size is made
  if (width * height > MOST_PIXELS || (width * height * bits) / 8 > bytes.length * MOST_PACKED)
    throw new FileError(`Its head says ${width} × ${height} pixels, more than it can hold or than is taken.`);
  let png: ReturnType<typeof decode>;
  let data: ArrayLike<number>;
  try {
    png = decode(bytes, { checkCrc: true });
    if (isIndexed && !png.palette) throw new FileError('its palette is not there');
    data = png.palette ? convertIndexedToRgb(png) : wholeSamples(png);
  } catch (error) {
    throw new FileError(`It is no PNG picture that can be read: ${(error as Error).message}`);
  }

  const { depth } = png;
  const channels = png.palette ? data.length / (width * height) : png.channels;
  const most = png.palette ? 255 : 2 ** depth - 1;
  // in single precision, so that the last digit of an engine's power does not show
  const linear = new Float32Array(most + 1).map((_, n) => {
    const v = n / most;
    if (gamma !== null) return power(v, gamma);
    // IEC 61966-2-1
    return v <= 0.04045 ? v / 12.92 : power((v + 0.055) / 1.055, 2.4);
  });
  const picture = textureOf(width, height, (y, rgb) => {
    let from = y * width * channels;
    for (let n = 0; n < rgb.length; n += 3, from += channels)
      for (let c = 0; c < 3; c++) rgb[n + c] = linear[data[from + (channels >= 3 ? c : 0)]];
  });
  return { picture, remarks };
}

/** Grey of 1, 2 or 4 bits comes several to a byte, each line beginning with a byte of its own. */
function wholeSamples({
  data,
  depth,
  width,
  height,
  channels,
}: ReturnType<typeof decode>): ArrayLike<number> {
  if (depth >= 8) return data;
  const stride = Math.ceil((width * channels * depth) / 8);
  if (data.length !== stride * height) return data;
  const perByte = 8 / depth;
  return Uint8Array.from({ length: width * height * channels }, (_, n) => {
    const [x, y] = [n % (width * channels), Math.floor(n / (width * channels))];
    const byte = data[y * stride + Math.floor(x / perByte)];
    return (byte >> (8 - depth * ((x % perByte) + 1))) & (2 ** depth - 1);
  });
}

interface Head {
  readonly width: number;
  readonly height: number;
  /** Of a pixel. */
  readonly bits: number;
  /** Its pixels are places in a palette. */
  readonly isIndexed: boolean;
  /** What its values are raised to for linear light; null: by the curve of sRGB. */
  readonly gamma: number | null;
  readonly remarks: string[];
}

/** Size and light, from the chunks before the pixels. */
function headOf(bytes: Uint8Array): Head {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const word = (at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 33 || view.getUint32(0) !== 0x89504e47 || word(12) !== 'IHDR')
    throw new FileError('It is no PNG picture.');
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  if (width === 0 || height === 0) throw new FileError('Its head says that it has no pixels.');
  const samples: Readonly<Record<number, number>> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };
  const bits = bytes[24] * (samples[bytes[25]] ?? 4);
  if (bytes[28] === 1 && bytes[24] < 8)
    throw new FileError('It is interlaced with less than 8 bits a value; save it without interlacing.');
  const remarks: string[] = [];
  let gamma: number | null = null;
  let isSaid = false;
  for (let at = 33; at + 12 <= bytes.length;) {
    const length = view.getUint32(at);
    const kind = word(at + 4);
    const fits = at + 12 + length <= bytes.length;
    if (kind === 'IDAT' || !fits) break;
    if (kind === 'cICP') {
      const transfer = bytes[at + 9];
      if (transfer !== SRGB_TRANSFER && transfer !== LINEAR_TRANSFER)
        throw new FileError(
          `Its light is kept by the curve ${transfer} of H.273 (such as HDR video has); save it as sRGB.`,
        );
      gamma = transfer === LINEAR_TRANSFER ? 1 : null;
      isSaid = true;
    } else if (kind === 'sRGB') isSaid = true;
    else if (kind === 'iCCP') {
      remarks.push('it has a colour profile, which is not followed: its colours are taken as sRGB');
      isSaid = true;
    } else if (kind === 'gAMA' && length === 4 && !isSaid) {
      const told = view.getUint32(at + 8) / 100_000;
      // 0.45455 is what programs write for sRGB
      if (told > 0 && Math.abs(told - 0.45455) > 1e-4) gamma = 1 / told;
    }

    at += 12 + length;
  }

  if (isSaid && gamma !== 1) gamma = null;
  if (gamma !== null) remarks.push(`its gamma of ${Number((1 / gamma).toPrecision(4))} is followed`);
  return { width, height, bits, isIndexed: bytes[25] === INDEXED, gamma, remarks };
}
