// What numbers of files mean as light, and what a screen shows of light. Names: IEC 61966-2-1 (sRGB), ITU-R
// BT.709 (its camera curve, both ways, so that what is read and written again stays as it is).
import { decodeSrgb, displayed, encodeSrgb } from '../look/picture';
import { throughTable, type ColourTable } from '../files/cube/cube';
import type { LinearPicture } from '../files/picture';
import type { Combine, CompFile } from './combine';

export type Encoding = Exclude<CompFile['encoding'], 'told'>;
export type CompDisplay = Combine['frame']['display'];

/** Where both parts of the curve of BT.709 meet, with the digits of BT.2020. */
const KNEE = 0.018053968510807;
const RISE = 1.09929682680944;
const encode709 = (v: number): number => (v < KNEE ? 4.5 * v : RISE * v ** 0.45 - (RISE - 1));
const decode709 = (v: number): number => (v < 4.5 * KNEE ? v / 4.5 : ((v + RISE - 1) / RISE) ** (1 / 0.45));

/** Light of a value; without a table. */
export function decoded(v: number, encoding: Encoding): number {
  switch (encoding) {
    case 'linear':
      return v;
    case 'rec709':
      return decode709(v);
    case 'srgb':
    case 'table':
      return decodeSrgb(v);
  }
}

const WORDS = 65536;
const tables = new Map<Encoding, Float32Array>();

function wordsOf(encoding: Encoding): Float32Array {
  const known = tables.get(encoding);
  if (known) return known;
  const made = Float32Array.from({ length: WORDS }, (_, n) => decoded(n / (WORDS - 1), encoding));
  tables.set(encoding, made);
  return made;
}

/**
 * A picture of 16-bit words, four a pixel, as premultiplied linear light.
 * @param table what a file's numbers go through first, where its encoding is a table
 */
export function linearOf(
  words: Uint16Array,
  width: number,
  height: number,
  encoding: Encoding,
  alpha: 'multiplied' | 'straight' | 'none',
  table: ColourTable | null = null,
): LinearPicture {
  const light = wordsOf(encoding);
  const rgba = new Float32Array(width * height * 4);
  const most = WORDS - 1;
  const byTable = encoding === 'table' ? table : null;
  for (let n = 0; n < rgba.length; n += 4) {
    const a = alpha === 'none' ? 1 : words[n + 3] / most;
    // multiplied values mean light only when they are freed first
    const free = alpha === 'multiplied' && a > 0 ? 1 / a : 1;
    for (let c = 0; c < 3; c++) {
      const word = words[n + c] * free;
      rgba[n + c] = light[word < most ? Math.round(word) : most] * a;
    }

    if (byTable) {
      const own = [0, 1, 2].map((c) => Math.min(1, (words[n + c] / most) * free));
      throughTable(byTable, own).forEach((v, c) => (rgba[n + c] = decodeSrgb(v) * a));
    }

    rgba[n + 3] = a;
  }

  return { width, height, rgba };
}

/** Steps of the square root of light, up to so much of it. */
const STEPS = 65536;
const BRIGHTEST = 16;
const shown = new Map<CompDisplay, Float32Array>();

function shownOf(display: CompDisplay): Float32Array {
  const known = shown.get(display);
  if (known) return known;
  const made = Float32Array.from({ length: STEPS + 1 }, (_, n) => {
    const v = BRIGHTEST * (n / STEPS) ** 2;
    if (display === 'rec709') return encode709(Math.min(1, v));
    return display === 'table' ? encodeSrgb(v) : displayed(v, display);
  });
  shown.set(display, made);
  return made;
}

/** How light is shown: values of red, green and blue from 0 to 1 as a screen takes them. */
export function viewOf(
  display: CompDisplay,
  table: ColourTable | null,
): (r: number, g: number, b: number, to: Float32Array | number[]) => void {
  const curve = shownOf(display);
  const one = (v: number): number => {
    const place = STEPS * Math.sqrt(Math.min(1, Math.max(0, v / BRIGHTEST)));
    const step = Math.min(STEPS - 1, Math.floor(place));
    return curve[step] + (place - step) * (curve[step + 1] - curve[step]);
  };

  if (display !== 'table' || !table)
    return (r, g, b, to) => {
      to[0] = one(r);
      to[1] = one(g);
      to[2] = one(b);
    };

  return (r, g, b, to) => {
    const out = throughTable(table, [one(r), one(g), one(b)]);
    for (let c = 0; c < 3; c++) to[c] = Math.min(1, Math.max(0, out[c]));
  };
}

/** Bytes of what a screen shows, by the square root of light: for the eye, not for files. */
export function bytesOf(display: CompDisplay): { readonly table: Uint8Array; readonly perRoot: number } {
  const curve = shownOf(display);
  return { table: Uint8Array.from(curve, (v) => Math.round(255 * v)), perRoot: STEPS / Math.sqrt(BRIGHTEST) };
}

/**
 * Words as a screen takes them, straight alpha.
 * @param greatest what stands for 1: words of 8 bits or of 16
 */
export function wordsFor(
  { width, height, rgba }: LinearPicture,
  display: CompDisplay,
  table: ColourTable | null,
  greatest: 255 | 65535 = 65535,
): Uint16Array {
  const view = viewOf(display, table);
  const out = new Uint16Array(width * height * 4);
  const own = [0, 0, 0];
  for (let n = 0; n < out.length; n += 4) {
    const a = Math.min(1, Math.max(0, rgba[n + 3]));
    // light without alpha is kept as it is: it has no other place in such a file
    const free = a > 0 ? 1 / a : 1;
    view(rgba[n] * free, rgba[n + 1] * free, rgba[n + 2] * free, own);
    for (let c = 0; c < 3; c++) out[n + c] = Math.round(greatest * own[c]);
    out[n + 3] = Math.round(greatest * a);
  }

  return out;
}
