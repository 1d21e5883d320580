// Pictures as files' channels and as bytes for a screen.
import type { ExrChannel, ExrImage } from '../files/exr/reader';
import { DEEP_FLOATS } from '../files/exr/deep';
import type { DeepPicture } from './deep';
import type { PictureLayer } from './passes';
import type { RenderedFrame } from './render';
import type { PixelBox } from './rendered-frame';

/** Beauty as half R G B A, premultiplied, and its layers. */
export function toExr({ width, height, rgba, layers }: RenderedFrame): ExrImage {
  const channels = ({
    name,
    channels: own,
    type,
    values,
  }: Omit<PictureLayer, 'name'> & { readonly name?: string }): ExrChannel[] =>
    own.map((channel, c) => ({
      name: name === undefined ? channel : `${name}.${channel}`,
      type,
      values: Float32Array.from({ length: width * height }, (_, p) => values[own.length * p + c]),
    }));
  const beauty = { channels: ['R', 'G', 'B', 'A'], type: 'half', values: rgba } as const;
  return { width, height, channels: [beauty, ...layers].flatMap(channels) };
}

/** A part of a picture as one of its own. */
export function cut(picture: RenderedFrame, { from, end }: PixelBox): RenderedFrame {
  const width = end[0] - from[0];
  const height = end[1] - from[1];
  if (width === picture.width && height === picture.height) return picture;
  const part = (values: Float32Array, perPixel: number): Float32Array => {
    const out = new Float32Array(width * height * perPixel);
    for (let y = 0; y < height; y++) {
      const at = ((y + from[1]) * picture.width + from[0]) * perPixel;
      out.set(values.subarray(at, at + width * perPixel), y * width * perPixel);
    }

    return out;
  };

  return {
    width,
    height,
    rgba: part(picture.rgba, 4),
    layers: picture.layers.map((layer) => ({
      ...layer,
      values: part(layer.values, layer.channels.length),
    })),
  };
}

/** A part of a deep picture as one of its own. */
export function cutDeep(picture: DeepPicture, { from, end }: PixelBox): DeepPicture {
  const [width, height] = [end[0] - from[0], end[1] - from[1]];
  if (width === picture.width && height === picture.height) return picture;
  const counts = new Uint32Array(width * height);
  const pieces: Float32Array[] = [];
  let at = 0;
  picture.counts.forEach((count, p) => {
    const x = (p % picture.width) - from[0];
    const y = Math.floor(p / picture.width) - from[1];
    if (x >= 0 && y >= 0 && x < width && y < height) {
      counts[y * width + x] = count;
      pieces.push(picture.samples.subarray(at * DEEP_FLOATS, (at + count) * DEEP_FLOATS));
    }

    at += count;
  });
  const samples = new Float32Array(pieces.reduce((n, piece) => n + piece.length, 0));
  let to = 0;
  for (const piece of pieces) {
    samples.set(piece, to);
    to += piece.length;
  }

  return { width, height, counts, samples };
}

/** The sRGB curve (IEC 61966-2-1). */
export function encodeSrgb(v: number): number {
  const x = Math.min(1, Math.max(0, v));
  return x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055;
}

/** How linear light becomes what a screen shows. */
export const DISPLAYS = [
  { value: 'srgb', label: 'sRGB' },
  { value: 'soft', label: 'sRGB with soft highlights' },
  { value: 'linear', label: 'linear' },
] as const;
export type Display = (typeof DISPLAYS)[number]['value'];

/** Light of this much becomes white where highlights are soft. */
const WHITE = 8;

/** A channel of light as a part of the screen's full one, encoded (soft highlights: Reinhard et al. 2002). */
export function displayed(v: number, display: Display): number {
  if (display === 'linear') return Math.min(1, Math.max(0, v));
  return encodeSrgb(display === 'soft' && v > 0 ? (v * (1 + v / WHITE ** 2)) / (1 + v) : v);
}

export function decodeSrgb(v: number): number {
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
}

/** sRGB bytes with straight alpha, as PNG wants them, from premultiplied linear light. */
export function toBytes(rgba: Float32Array): Uint8Array {
  const out = new Uint8Array(rgba.length);
  for (let p = 0; p < rgba.length; p += 4) {
    const a = Math.min(1, Math.max(0, rgba[p + 3]));
    for (let c = 0; c < 3; c++) out[p + c] = Math.round(255 * encodeSrgb(a > 0 ? rgba[p + c] / a : 0));
    out[p + 3] = Math.round(255 * a);
  }

  return out;
}

/** The reverse: premultiplied linear light from sRGB bytes with straight alpha. */
export function fromBytes(bytes: Uint8Array): Float32Array {
  const table = Float32Array.from({ length: 256 }, (_, v) => decodeSrgb(v / 255));
  const out = new Float32Array(bytes.length);
  for (let p = 0; p < bytes.length; p += 4) {
    const a = bytes[p + 3] / 255;
    for (let c = 0; c < 3; c++) out[p + c] = table[bytes[p + c]] * a;
    out[p + 3] = a;
  }

  return out;
}
