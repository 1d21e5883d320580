// A decoded picture as the sources and lights look it up.

/**
 * A picture as four planes one behind the other, bottom row first: red, green, blue (linear) and brightness.
 */
export interface Texture {
  readonly width: number;
  readonly height: number;
  readonly planes: Float32Array;
}

/** @param value of a channel (0…2) at a pixel, top row first */
export function textureOf(
  width: number,
  height: number,
  value: (channel: number, pixel: number) => number,
): Texture {
  const size = width * height;
  const planes = new Float32Array(4 * size);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (height - 1 - y) * width + x;
      const to = y * width + x;
      const [r, g, b] = [0, 1, 2].map((c) => value(c, from));
      planes[to] = r;
      planes[size + to] = g;
      planes[2 * size + to] = b;
      planes[3 * size + to] = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    }

  return { width, height, planes };
}

/** A picture in linear light: red, green, blue and alpha of each pixel, premultiplied, top row first. */
export interface LinearPicture {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
}
