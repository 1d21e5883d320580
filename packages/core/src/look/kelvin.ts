// Colours of a black body as linear light.
import type { Triple } from '../math/vector';

/**
 * Linear red, green and blue (the sRGB primaries) of a black body, its luminance 1: chromaticities by the
 * cubic fit of Kim et al. (2002), 1667–25 000 K; below that straight on from its end.
 * @param kelvin 1000–20 000
 */
export function blackBody(kelvin: number): Triple {
  const t = Math.max(1667, kelvin);
  const x =
    t <= 4000
      ? -0.2661239e9 / t ** 3 - 0.234358e6 / t ** 2 + 0.8776956e3 / t + 0.17991
      : -3.0258469e9 / t ** 3 + 2.1070379e6 / t ** 2 + 0.2226347e3 / t + 0.24039;
  const cubic = ([a, b, c, d]: readonly number[]): number => ((a * x + b) * x + c) * x + d;
  const low = [-1.1063814, -1.3481102, 2.18555832, -0.20219683];
  const middle = [-0.9549476, -1.37418593, 2.09137015, -0.16748867];
  const high = [3.081758, -5.8733867, 3.75112997, -0.37001483];
  const warm = t <= 2222 ? low : middle;
  const y = cubic(t <= 4000 ? warm : high);
  const [X, Z] = [x / y, (1 - x - y) / y];
  const rgb = [
    3.2404542 * X - 1.5371385 - 0.4985314 * Z,
    -0.969266 * X + 1.8760108 + 0.041556 * Z,
    0.0556434 * X - 0.2040259 + 1.0572252 * Z,
  ];
  // candles lie outside of the primaries: their blue would be below nothing
  return rgb.map((v) => Math.max(0, v)) as unknown as Triple;
}
