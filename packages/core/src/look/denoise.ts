// Noise taken out of a true picture by its quick one, which has none: around each pixel the true picture is
// taken to be a plane over what the quick one shows and covers (first-order regression by features: He, Sun &
// Tang 2010; Bitterli et al. 2016). Detail of the medium is in the quick picture, so that windows may be
// wide.
import type { PictureLayer } from './passes';
import { colourOf } from './passes';

/**
 * Pixels from a window's middle to its edge, wide ones first, and the part of the pixels' noise that is left
 * in what narrower ones find; the last are the pixels themselves.
 */
const SCALES = [
  { radius: 8, part: 0 },
  { radius: 4, part: 0.015 },
  { radius: 2, part: 0.05 },
  { radius: 0, part: 1 },
] as const;
/** The same of the windows in which what is left over is compared with the noise. */
const SMALL = 3;
/** What is left over counts as a difference from so many times the noise on. */
const SURE = 1.5;
/** How little guides may differ, and what is not divided by. */
const ALIKE = 1e-4;
const LEAST = 1e-10;
/** Rows that are filtered at a time: bounds the memory. */
const ROWS = 128;
const APRON = 2 * SCALES[0].radius + 3 * SMALL;

export interface Noisy {
  readonly rgba: Float32Array;
  readonly layers: readonly PictureLayer[];
}

export interface PictureSize {
  readonly width: number;
  readonly height: number;
}

/**
 * @param quick the same picture by the quick estimator, with the same lights apart
 * @param variance of the noisy picture's luminance at each pixel
 */
export function denoised(
  { rgba, layers }: Noisy,
  quick: Noisy,
  variance: Float32Array,
  size: PictureSize,
): Noisy {
  const cover = quick.rgba.filter((_, n) => n % 4 === 3);
  const apart = layers.map((layer) => {
    const guide = quick.layers.find(({ name }) => name === layer.name);
    if (!guide) return layer;
    return { ...layer, values: filtered(layer.values, guide.values, 3, cover, variance, size) };
  });
  const whole = filtered(rgba, quick.rgba, 4, cover, variance, size);
  const lights = apart.filter(({ name }) => name.startsWith('lights.'));
  if (lights.length > 0) {
    // lights are the beauty together
    const sums = lights.map(({ values }) => values);
    for (let n = 0; n < whole.length; n++)
      if (n % 4 < 3) whole[n] = sums.reduce((sum, values) => sum + values[3 * (n >> 2) + (n % 4)], 0);
  }

  for (let n = 3; n < whole.length; n += 4) whole[n] = Math.min(1, Math.max(0, whole[n]));
  const orders = apart.find(({ name }) => name === 'single');
  if (!orders) return { rgba: whole, layers: apart };
  const beauty = colourOf(whole);
  return {
    rgba: whole,
    layers: apart.map((layer) =>
      layer.name === 'multiple' ? { ...layer, values: beauty.map((v, n) => v - orders.values[n]) } : layer,
    ),
  };
}

/** All channels of a picture. */
function filtered(
  noisy: Float32Array,
  guide: Float32Array,
  channels: number,
  cover: Float32Array,
  variance: Float32Array,
  { width, height }: PictureSize,
): Float32Array {
  const out = new Float32Array(noisy.length);
  for (let y0 = 0; y0 < height; y0 += ROWS) {
    const [from, end] = [Math.max(0, y0 - APRON), Math.min(height, y0 + ROWS + APRON)];
    const rows = end - from;
    const plane = (values: Float32Array, each: number, c: number): Float64Array =>
      Float64Array.from({ length: rows * width }, (_, p) => values[(from * width + p) * each + c]);
    const second = plane(cover, 1, 0);
    const noise = plane(variance, 1, 0);
    for (let c = 0; c < channels; c++) {
      const result = regressed(
        plane(noisy, channels, c),
        [plane(guide, channels, c), second],
        noise,
        width,
        rows,
      );
      const last = Math.min(height, y0 + ROWS);
      for (let y = y0; y < last; y++)
        for (let x = 0; x < width; x++) out[(y * width + x) * channels + c] = result[(y - from) * width + x];
    }
  }

  return out;
}

/**
 * Wide windows first; what narrower ones find besides is added by how far it stands out from the noise that
 * they leave (Wiener), and at last what the pixels themselves have.
 */
function regressed(
  noisy: Float64Array,
  guides: readonly [Float64Array, Float64Array],
  noise: Float64Array,
  width: number,
  height: number,
): Float64Array {
  const local = (values: Float64Array): Float64Array => boxMean(values, width, height, SMALL);
  const unsure = local(noise);
  let now: Float64Array | null = null;
  for (const { radius, part } of SCALES) {
    const fit: Float64Array = radius === 0 ? noisy : fitted(noisy, guides, width, height, radius);
    if (now === null) {
      now = fit;
      continue;
    }

    const before: Float64Array = now;
    const off = local(fit.map((v, n) => (v - before[n]) ** 2));
    now = before.map((v, n) => {
      const keep = off[n] > 0 ? Math.max(0, 1 - (SURE * part * unsure[n]) / off[n]) : 0;
      return v + keep * (fit[n] - v);
    });
  }

  return now!;
}

/** Of a plane of values: the mean of planes over two guides, in all windows that a pixel is in. */
function fitted(
  noisy: Float64Array,
  [first, second]: readonly [Float64Array, Float64Array],
  width: number,
  height: number,
  radius: number,
): Float64Array {
  const mean = (values: Float64Array): Float64Array => boxMean(values, width, height, radius);
  const product = (a: Float64Array, b: Float64Array): Float64Array => mean(a.map((v, n) => v * b[n]));
  const [p, g, h] = [mean(noisy), mean(first), mean(second)];
  const [gg, gh, hh] = [product(first, first), product(first, second), product(second, second)];
  const [gp, hp] = [product(first, noisy), product(second, noisy)];
  // slopes along both guides, and what is left; where both say the same, one slope serves
  for (let n = 0; n < p.length; n++) {
    const cov = gh[n] - g[n] * h[n];
    const covG = gp[n] - g[n] * p[n];
    const covH = hp[n] - h[n] * p[n];
    const a = Math.max(0, gg[n] - g[n] * g[n]) * (1 + ALIKE) + LEAST;
    const b = Math.max(0, hh[n] - h[n] * h[n]) * (1 + ALIKE) + LEAST;
    const det = a * b - cov * cov;
    gp[n] = (covG * b - covH * cov) / det;
    hp[n] = (covH * a - covG * cov) / det;
    p[n] -= gp[n] * g[n] + hp[n] * h[n];
  }

  const [slope, other, rest] = [mean(gp), mean(hp), mean(p)];
  return rest.map((v, n) => v + slope[n] * first[n] + other[n] * second[n]);
}

/** Means over squares, smaller ones at the picture's edges. */
function boxMean(values: Float64Array, width: number, height: number, radius: number): Float64Array {
  const rows = new Float64Array(values.length);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    let sum = 0;
    for (let x = 0; x < Math.min(radius, width); x++) sum += values[at + x];
    for (let x = 0; x < width; x++) {
      if (x + radius < width) sum += values[at + x + radius];
      if (x - radius > 0) sum -= values[at + x - radius - 1];
      rows[at + x] = sum / (Math.min(width - 1, x + radius) - Math.max(0, x - radius) + 1);
    }
  }

  const out = new Float64Array(values.length);
  const sums = new Float64Array(width);
  for (let y = 0; y < Math.min(radius, height); y++)
    for (let x = 0; x < width; x++) sums[x] += rows[y * width + x];
  for (let y = 0; y < height; y++) {
    const [enters, leaves] = [y + radius, y - radius - 1];
    const count = Math.min(height - 1, y + radius) - Math.max(0, y - radius) + 1;
    for (let x = 0; x < width; x++) {
      if (enters < height) sums[x] += rows[enters * width + x];
      if (leaves >= 0) sums[x] -= rows[leaves * width + x];
      out[y * width + x] = sums[x] / count;
    }
  }

  return out;
}
