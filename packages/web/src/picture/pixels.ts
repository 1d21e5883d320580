// Linear light to what a screen shows, and what stands under the pointer.
import { displayed, type Display } from '@bramblemist/core/look/picture';
import type { PictureLayer } from '@bramblemist/core/look/passes';
import type { PictureNews } from './messages';

/** Values up to this much light, by their roots: dark ones need the finest steps. */
const BRIGHTEST = 16;
const STEPS = 65536;
const tables = new Map<Display, Uint8ClampedArray>();

/** Bytes by the square root of light. */
function tableOf(how: Display): Uint8ClampedArray {
  const known = tables.get(how);
  if (known) return known;
  const made = Uint8ClampedArray.from({ length: STEPS + 1 }, (_, n) =>
    Math.round(255 * displayed(BRIGHTEST * (n / STEPS) ** 2, how)),
  );
  tables.set(how, made);
  return made;
}

/** Squares behind what is clear: their greys and size in pixels. */
const SQUARES = [0.06, 0.045] as const;
const SQUARE = 12;

export type Pixels = Pick<PictureNews, 'width' | 'height' | 'rgba'>;

/**
 * The picture over squares, in bytes.
 * @param exposure stops
 * @param how linear light becomes what is shown
 * @param against another picture of the same size: the difference of both, four times as bright
 */
export function display(
  { width, height, rgba }: Pixels,
  exposure: number,
  how: Display = 'srgb',
  against?: Pixels,
): ImageData {
  const table = tableOf(how);
  const out = new ImageData(width, height);
  const gain = 2 ** exposure * (against ? 4 : 1);
  const other = against?.width === width && against.height === height ? against.rgba : null;
  for (let y = 0, n = 0; y < height; y++)
    for (let x = 0; x < width; x++, n += 4) {
      const clear = other ? 0 : 1 - rgba[n + 3];
      const behind = SQUARES[(Math.floor(x / SQUARE) + Math.floor(y / SQUARE)) & 1] * clear;
      for (let c = 0; c < 3; c++) {
        const v = other ? Math.abs(rgba[n + c] - other[n + c]) : rgba[n + c];
        out.data[n + c] =
          table[Math.round(STEPS * Math.sqrt(Math.min(1, Math.max(0, (v * gain + behind) / BRIGHTEST))))];
      }

      out.data[n + 3] = 255;
    }

  return out;
}

/** Values under a place of the picture; null beside it. */
export function valuesAt({ width, height, rgba }: Pixels, x: number, y: number): readonly number[] | null {
  if (x < 0 || y < 0 || x >= width || y >= height) return null;
  const n = 4 * (Math.floor(y) * width + Math.floor(x));
  return [...rgba.subarray(n, n + 4)];
}

/** What a layer holds under a place of its picture, channel by channel. */
export function layerValuesAt(
  { width }: Pixels,
  { channels, values }: PictureLayer,
  x: number,
  y: number,
): readonly number[] {
  const n = channels.length * (Math.floor(y) * width + Math.floor(x));
  return [...values.subarray(n, n + channels.length)];
}
