import { textureOf, type Texture } from '@bramblemist/core/files/picture';

/** A picture by its values. @param value of a channel (0…2) at a pixel, top row first */
export const textureBy = (
  width: number,
  height: number,
  value: (channel: number, pixel: number) => number,
): Texture =>
  textureOf(width, height, (y, rgb) => {
    for (let n = 0; n < rgb.length; n++) rgb[n] = value(n % 3, y * width + Math.floor(n / 3));
  });
