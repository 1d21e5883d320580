// How different two pictures look: FLIP for what a screen shows (Andersson et al. 2020). Both are blurred as
// the eye blurs them, compared as colours, and edges and points that only one of them has count for more.

/** Pixels for each degree of what is seen: a usual screen at 0.7 m. */
const PER_DEGREE = 67;
/** Exponents and the knee of the paper. */
const COLOUR_POWER = 0.7;
const FEATURE_POWER = 0.5;
const KNEE = 0.4;
const AT_KNEE = 0.95;
/** Width of an edge or a point, degrees. */
const FEATURE = 0.082;

/**
 * Contrast sensitivity of lightness, red–green and blue–yellow: sums of Gaussians a · √(π/b) · exp(−π² x² /
 * b).
 */
const SENSITIVITY = [
  [{ a: 1, b: 0.0047 }],
  [{ a: 1, b: 0.0053 }],
  [
    { a: 34.1, b: 0.04 },
    { a: 13.5, b: 0.025 },
  ],
] as const;

/** D65. */
const WHITE = [0.950428545, 1, 1.088900371] as const;
const TO_XYZ = [
  [0.41238656, 0.35759149, 0.18045049],
  [0.21263682, 0.71518298, 0.0721802],
  [0.01933062, 0.11919716, 0.95037259],
] as const;
const TO_RGB = [
  [3.241003232, -1.537398969, -0.498615882],
  [-0.969224252, 1.875929984, 0.041554226],
  [0.055639419, -0.20401119, 1.057148933],
] as const;

type Planes = readonly Float64Array[];

export interface ColourPicture {
  readonly width: number;
  readonly height: number;
  /** Red, green, blue and alpha, linear light; seen over black, what is brighter than white as white. */
  readonly rgba: Float32Array;
}

export interface Difference {
  /** 0: alike; 1: as different as can be; a value a pixel. */
  readonly map: Float32Array;
  readonly mean: number;
}

/** @throws RangeError where they differ in size */
export function differenceOf(a: ColourPicture, b: ColourPicture): Difference {
  const { width, height } = a;
  if (b.width !== width || b.height !== height) throw new RangeError('The pictures differ in size');
  const [first, second] = [a, b].map(opponents);
  const [labA, labB] = [first, second].map((planes) => toLab(blurred(planes, width, height)));
  const features = featureDifference(first[0], second[0], width, height);
  const most = hyab(huntLab([0, 1, 0]), huntLab([0, 0, 1])) ** COLOUR_POWER;
  const map = new Float32Array(width * height);
  let sum = 0;
  for (let p = 0; p < map.length; p++) {
    const at = (planes: Planes): number[] => [planes[0][p], planes[1][p], planes[2][p]];
    const raw = hyab(at(labA), at(labB)) ** COLOUR_POWER;
    const knee = KNEE * most;
    const colour =
      raw < knee ? (AT_KNEE * raw) / knee : AT_KNEE + ((1 - AT_KNEE) * (raw - knee)) / (most - knee);
    map[p] = Math.min(1, colour) ** (1 - features[p]);
    sum += map[p];
  }

  return { map, mean: sum / map.length };
}

const times = (m: readonly (readonly number[])[], v: readonly number[]): number[] =>
  m.map((row) => row[0] * v[0] + row[1] * v[1] + row[2] * v[2]);

/** Lightness and two opponent colours, linear in light. */
function opponents({ rgba }: ColourPicture): Planes {
  const planes = [0, 1, 2].map(() => new Float64Array(rgba.length / 4));
  for (let p = 0; p < rgba.length / 4; p++) {
    const rgb = [0, 1, 2].map((c) => Math.min(1, Math.max(0, rgba[4 * p + c])));
    const [x, y, z] = times(TO_XYZ, rgb).map((v, n) => v / WHITE[n]);
    planes[0][p] = 116 * y - 16;
    planes[1][p] = 500 * (x - y);
    planes[2][p] = 200 * (y - z);
  }

  return planes;
}

/** As the eye blurs them, back in linear light. */
function blurred(planes: Planes, width: number, height: number): Planes {
  const seen = planes.map((plane, n) => seenBy(plane, SENSITIVITY[n], width, height));
  const out = [0, 1, 2].map(() => new Float64Array(width * height));
  for (let p = 0; p < width * height; p++) {
    const y = (seen[0][p] + 16) / 116;
    const xyz = [y + seen[1][p] / 500, y, y - seen[2][p] / 200].map((v, n) => v * WHITE[n]);
    times(TO_RGB, xyz).forEach((v, c) => (out[c][p] = Math.min(1, Math.max(0, v))));
  }

  return out;
}

function seenBy(
  plane: Float64Array,
  gaussians: readonly { readonly a: number; readonly b: number }[],
  width: number,
  height: number,
): Float64Array {
  const widest = Math.max(...gaussians.map(({ b }) => b));
  const radius = Math.ceil(3 * Math.sqrt(widest / (2 * Math.PI ** 2)) * PER_DEGREE);
  const kernels = gaussians.map(({ a, b }) => {
    const values = Float64Array.from({ length: 2 * radius + 1 }, (_, n) =>
      Math.exp((-(Math.PI ** 2) * ((n - radius) / PER_DEGREE) ** 2) / b),
    );
    const all = values.reduce((sum, v) => sum + v, 0);
    return { values: values.map((v) => v / all), weight: a * Math.sqrt(Math.PI / b) * all * all };
  });
  const whole = kernels.reduce((sum, { weight }) => sum + weight, 0);
  const out = new Float64Array(plane.length);
  for (const { values, weight } of kernels)
    filtered(plane, values, values, width, height).forEach((v, p) => (out[p] += (v * weight) / whole));
  return out;
}

/** A plane through a kernel along x and one along y; beyond its edge it is as at the edge. */
function filtered(
  plane: Float64Array,
  alongX: Float64Array,
  alongY: Float64Array,
  width: number,
  height: number,
): Float64Array {
  const across = new Float64Array(plane.length);
  const out = new Float64Array(plane.length);
  const line = (
    kernel: Float64Array,
    from: Float64Array,
    to: Float64Array,
    first: number,
    n: number,
    step: number,
  ): void => {
    const radius = (kernel.length - 1) / 2;
    const padded = new Float64Array(n + 2 * radius);
    for (let i = 0; i < padded.length; i++) {
      const at = i - radius;
      const within = at < 0 ? 0 : at;
      padded[i] = from[first + (within < n ? within : n - 1) * step];
    }

    for (let i = 0; i < n; i++) {
      let sum = 0;
      for (let d = 0; d < kernel.length; d++) sum += kernel[d] * padded[i + d];
      to[first + i * step] = sum;
    }
  };

  for (let y = 0; y < height; y++) line(alongX, plane, across, y * width, width, 1);
  for (let x = 0; x < width; x++) line(alongY, across, out, x, height, width);
  return out;
}

/** CIELAB with colours that fade in the dark (Hunt 1952). */
function huntLab(rgb: readonly number[]): number[] {
  const [x, y, z] = times(TO_XYZ, rgb).map((v, n) => {
    const t = v / WHITE[n];
    return t > (6 / 29) ** 3 ? Math.cbrt(t) : t / (3 * (6 / 29) ** 2) + 4 / 29;
  });
  const lightness = 116 * y - 16;
  return [lightness, 0.01 * lightness * 500 * (x - y), 0.01 * lightness * 200 * (y - z)];
}

function toLab(rgb: Planes): Planes {
  const out = [0, 1, 2].map(() => new Float64Array(rgb[0].length));
  for (let p = 0; p < rgb[0].length; p++)
    huntLab([rgb[0][p], rgb[1][p], rgb[2][p]]).forEach((v, c) => (out[c][p] = v));
  return out;
}

const hyab = (a: readonly number[], b: readonly number[]): number =>
  Math.abs(a[0] - b[0]) + Math.hypot(a[1] - b[1], a[2] - b[2]);

/** How much edges and points of lightness differ, 0…1. */
function featureDifference(a: Float64Array, b: Float64Array, width: number, height: number): Float64Array {
  const sigma = 0.5 * FEATURE * PER_DEGREE;
  const radius = Math.ceil(3 * sigma);
  const at = (shape: (x: number) => number): Float64Array =>
    Float64Array.from({ length: 2 * radius + 1 }, (_, n) => shape(n - radius));
  const bell = (x: number): number => Math.exp(-(x * x) / (2 * sigma * sigma));
  const flat = at(bell);
  const even = flat.map((v) => v / flat.reduce((sum, w) => sum + w, 0));
  // what is above 0 adds up to 1, and what is below to −1
  const balanced = (values: Float64Array): Float64Array => {
    const up = values.reduce((sum, v) => sum + Math.max(0, v), 0);
    const down = values.reduce((sum, v) => sum - Math.min(0, v), 0);
    return values.map((v) => v / (v > 0 ? up : down));
  };

  const edge = balanced(at((x) => -x * bell(x)));
  const point = balanced(at((x) => ((x * x) / (sigma * sigma) - 1) * bell(x)));
  const sizes = (plane: Float64Array, kernel: Float64Array): Float64Array => {
    const light = plane.map((v) => (v + 16) / 116);
    const along = filtered(light, kernel, even, width, height);
    const down = filtered(light, even, kernel, width, height);
    return along.map((v, p) => Math.hypot(v, down[p]));
  };

  const differ = (kernel: Float64Array): Float64Array => {
    const other = sizes(b, kernel);
    return sizes(a, kernel).map((v, p) => Math.abs(v - other[p]));
  };

  const points = differ(point);
  return differ(edge).map((v, p) => Math.min(1, (Math.max(v, points[p]) / Math.SQRT2) ** FEATURE_POWER));
}
