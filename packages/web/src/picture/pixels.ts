// Linear light to what a screen shows, and what stands under the pointer.
import { encodeSrgb } from '@bramblemist/core/look/picture';
import type { PictureNews } from './messages';

const STEPS = 4096;
const TABLE = Uint8ClampedArray.from({ length: STEPS + 1 }, (_, n) =>
  Math.round(255 * encodeSrgb(n / STEPS)),
);
/** Squares behind what is clear: their greys and size in pixels. */
const SQUARES = [0.06, 0.045] as const;
const SQUARE = 12;

export type Pixels = Pick<PictureNews, 'width' | 'height' | 'rgba'>;

/**
 * The picture over squares, in bytes.
 * @param exposure stops
 * @param against another picture of the same size: the difference of both, four times as bright
 */
export function display({ width, height, rgba }: Pixels, exposure: number, against?: Pixels): ImageData {
  const out = new ImageData(width, height);
  const gain = 2 ** exposure * (against ? 4 : 1);
  const other = against?.width === width && against.height === height ? against.rgba : null;
  for (let y = 0, n = 0; y < height; y++)
    for (let x = 0; x < width; x++, n += 4) {
      const clear = other ? 0 : 1 - rgba[n + 3];
      const behind = SQUARES[(Math.floor(x / SQUARE) + Math.floor(y / SQUARE)) & 1] * clear;
      for (let c = 0; c < 3; c++) {
        const v = other ? Math.abs(rgba[n + c] - other[n + c]) : rgba[n + c];
        out.data[n + c] = TABLE[Math.min(STEPS, Math.max(0, Math.round((v * gain + behind) * STEPS)))];
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
