// A decoded picture as the sources and lights look it up.
import { luminanceOf } from '../math/luminance';

/**
 * A picture as four planes one behind the other, bottom row first: red, green, blue (linear) and brightness.
 */
export interface Texture {
  readonly width: number;
  readonly height: number;
  readonly planes: Float32Array;
}

/** @param line writes the red, green and blue of a line's pixels; line 0 is the top one */
export function textureOf(
  width: number,
  height: number,
  line: (y: number, rgb: Float32Array) => void,
): Texture {
  const size = width * height;
  const planes = new Float32Array(4 * size);
  const rgb = new Float32Array(3 * width);
  for (let y = 0; y < height; y++) {
    line(y, rgb);
    let to = (height - 1 - y) * width;
    for (let n = 0; n < rgb.length; n += 3, to++) {
      planes[to] = rgb[n];
      planes[size + to] = rgb[n + 1];
      planes[2 * size + to] = rgb[n + 2];
    }
  }

  return { width, height, planes: withBrightness(planes) };
}

/** Fills the fourth plane from the three before it, by Rec. ITU-R BT.709. */
export function withBrightness(planes: Float32Array): Float32Array {
  const size = planes.length / 4;
  for (let n = 0; n < size; n++)
    planes[3 * size + n] = luminanceOf(planes[n], planes[size + n], planes[2 * size + n]);
  return planes;
}

/** A picture in linear light: red, green, blue and alpha of each pixel, premultiplied, top row first. */
export interface LinearPicture {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
}
