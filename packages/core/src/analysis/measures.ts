// What a picture of a medium is measured by, so that a run can be held against a reference: how much of the
// frame it covers, how thick it is, how soft its edge, how large its lumps, how fast its front. Lengths are
// parts of the frame's width.
import { luminanceOf } from '../math/luminance';

/** How much of the medium each pixel of a picture shows, 0…1, top row first. */
export interface Opacity {
  readonly width: number;
  readonly height: number;
  readonly values: Float32Array;
}

/** What of a reference picture is medium. */
export type Matte =
  | {
      readonly by: 'luminance';
      /**
       * Luminance that counts as none and as full, 0…1 as the screen shows it; from above to: dark on bright.
       */
      readonly from: number;
      readonly to: number;
    }
  | {
      readonly by: 'outline';
      /** Corners of a closed line, parts of width and height from the upper left. */
      readonly points: readonly (readonly [number, number])[];
      readonly from: number;
      readonly to: number;
    };
export const MATTE: Matte = { by: 'luminance', from: 0.35, to: 0.9 };

export interface Measures {
  /** Part of the frame in which something is seen. */
  readonly coverage: number;
  /** Where something is seen. */
  readonly opacity: number;
  /** From a tenth to a half of the thick parts, across the edge. */
  readonly softness: number;
  /** Half the typical wave length of what is seen inside. */
  readonly lump: number;
  /** Parts of the frame's width a second; null for a picture alone. */
  readonly front: number | null;
}
export type MeasureName = keyof Measures;
export const MEASURES: Readonly<
  Record<MeasureName, { readonly label: string; readonly unit: string; readonly doc: string }>
> = {
  coverage: { label: 'coverage', unit: '%', doc: 'Part of the frame in which the medium is seen.' },
  opacity: { label: 'mean opacity', unit: '%', doc: 'How thick it is where it is seen.' },
  softness: { label: 'edge softness', unit: '%', doc: 'Width of its edge, in parts of the frame’s width.' },
  lump: {
    label: 'lump size',
    unit: '%',
    doc: 'Typical size of what is seen inside, from its spectrum, in parts of the frame’s width.',
  },
  front: {
    label: 'front speed',
    unit: '%/s',
    doc: 'How fast its outermost place moves, in parts of the frame’s width a second.',
  },
};

/** Opacity from which a pixel shows something. */
const SEEN = 0.06;

/** The matte of a picture. @param bytes red, green, blue, opacity as the screen shows them, top row first */
export function matteOf(bytes: ArrayLike<number>, width: number, height: number, matte: Matte): Opacity {
  const values = new Float32Array(width * height);
  const span = matte.to - matte.from || 1e-6;
  for (let n = 0; n < values.length; n++) {
    const v = luminanceOf(bytes[4 * n], bytes[4 * n + 1], bytes[4 * n + 2]) / 255;
    values[n] = Math.min(1, Math.max(0, (v - matte.from) / span)) * (bytes[4 * n + 3] / 255);
  }

  if (matte.by === 'outline')
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        if (!within(matte.points, (x + 0.5) / width, (y + 0.5) / height)) values[y * width + x] = 0;
  return { width, height, values };
}

/** Whether a point lies in a closed line, by how often a ray from it crosses. */
export function within(points: readonly (readonly [number, number])[], x: number, y: number): boolean {
  let is = false;
  for (let n = 0, m = points.length - 1; n < points.length; m = n++) {
    const [ax, ay] = points[n];
    const [bx, by] = points[m];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) is = !is;
  }

  return is;
}

/** @param before where the outermost places were earlier, with how much earlier, s; see frontOf */
export function measure(o: Opacity, front: number | null = null): Measures {
  const { values } = o;
  let seen = 0;
  let sum = 0;
  for (const v of values)
    if (v > SEEN) {
      seen++;
      sum += v;
    }

  return {
    coverage: seen / values.length,
    opacity: seen > 0 ? sum / seen : 0,
    softness: softness(o),
    lump: lumpSize(o),
    front,
  };
}

/** What most of the thickest is as thick as: the 90th percentile of what is seen. */
function thick(values: Float32Array): number {
  const seen = Array.from(values)
    .filter((v) => v > SEEN)
    .sort((a, b) => a - b);
  return seen.length > 0 ? seen[Math.floor(seen.length * 0.9)] : 0;
}

/**
 * The area between two contours over the length of the one between them: their mean distance. The length is
 * by how often it is crossed along rows and columns (Crofton).
 */
function softness({ width, height, values }: Opacity): number {
  const most = thick(values);
  if (most === 0) return 0;
  const low = 0.1 * most;
  const high = 0.5 * most;
  const middle = 0.3 * most;
  let area = 0;
  let crossings = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const v = values[y * width + x];
      if (v > low && v < high) area++;
      if (x + 1 < width && v > middle !== values[y * width + x + 1] > middle) crossings++;
      if (y + 1 < height && v > middle !== values[(y + 1) * width + x] > middle) crossings++;
    }

  return crossings > 0 ? area / (crossings * (Math.PI / 4)) / width : 0;
}

/** Samples along an edge of what is looked at for lumps. */
const SAMPLES = 128;
/** Waves across it below which it is its shape that is seen and not what is in it. */
const SHAPE = 2;

/**
 * Half the wave length at the middle of the spectrum's amplitude: what is seen, on a square around it, less
 * its mean there, as cosines (DCT-II), summed over rings of equal wave number.
 */
function lumpSize(o: Opacity): number {
  const box = boundsOf(o);
  if (!box) return 0;
  const [x0, y0, x1, y1] = box;
  const edge = Math.max(x1 - x0, y1 - y0);
  const grid = new Float32Array(SAMPLES * SAMPLES);
  const mask = new Uint8Array(SAMPLES * SAMPLES);
  let sum = 0;
  let many = 0;
  for (let j = 0; j < SAMPLES; j++)
    for (let i = 0; i < SAMPLES; i++) {
      const v = meanOver(
        o,
        (x0 + x1 - edge) / 2 + (i * edge) / SAMPLES,
        (y0 + y1 - edge) / 2 + (j * edge) / SAMPLES,
        edge / SAMPLES,
      );
      grid[j * SAMPLES + i] = v;
      if (v <= SEEN) continue;
      mask[j * SAMPLES + i] = 1;
      sum += v;
      many++;
    }

  if (many === 0) return 0;
  for (let n = 0; n < grid.length; n++) grid[n] = mask[n] ? grid[n] - sum / many : 0;
  const spectrum = cosines(grid);
  let all = 0;
  let moment = 0;
  for (let q = 0; q < SAMPLES; q++)
    for (let p = 0; p < SAMPLES; p++) {
      // of p half waves across; a ring holds as many as it is round
      const waves = Math.hypot(p, q) / 2;
      if (waves < SHAPE || waves > SAMPLES / 3) continue;
      const power = spectrum[q * SAMPLES + p] ** 2;
      all += power;
      moment += power * waves;
    }

  return all > 0 ? edge / (2 * (moment / all)) / o.width : 0;
}

/** Rows, then columns. */
function cosines(grid: Float32Array): Float32Array {
  const wave = Float32Array.from({ length: SAMPLES * SAMPLES }, (_, n) =>
    Math.cos((Math.PI * Math.floor(n / SAMPLES) * (2 * (n % SAMPLES) + 1)) / (2 * SAMPLES)),
  );
  const turned = (from: Float32Array): Float32Array => {
    const out = new Float32Array(SAMPLES * SAMPLES);
    for (let r = 0; r < SAMPLES; r++)
      for (let p = 0; p < SAMPLES; p++) {
        let s = 0;
        for (let i = 0; i < SAMPLES; i++) s += from[r * SAMPLES + i] * wave[p * SAMPLES + i];
        out[p * SAMPLES + r] = s;
      }

    return out;
  };

  return turned(turned(grid));
}

/** Over a square of a picture; beside it nothing is seen. */
function meanOver({ width, height, values }: Opacity, x: number, y: number, edge: number): number {
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const x1 = Math.max(x0 + 1, Math.floor(x + edge));
  const y1 = Math.max(y0 + 1, Math.floor(y + edge));
  let s = 0;
  for (let j = y0; j < y1; j++)
    for (let i = x0; i < x1; i++) if (i >= 0 && j >= 0 && i < width && j < height) s += values[j * width + i];
  return s / ((x1 - x0) * (y1 - y0));
}

/** Left, top, right, bottom of what is seen, pixels; null where nothing is. */
export function boundsOf({
  width,
  height,
  values,
}: Opacity): readonly [number, number, number, number] | null {
  let x0 = width;
  let y0 = height;
  let x1 = -1;
  let y1 = -1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (values[y * width + x] > SEEN) {
        x0 = Math.min(x0, x);
        x1 = Math.max(x1, x);
        y0 = Math.min(y0, y);
        y1 = Math.max(y1, y);
      }

  return x1 < 0 ? null : [x0, y0, x1 + 1, y1 + 1];
}

/**
 * How fast what is seen spreads outward at the side where it does so fastest, by least squares over pictures,
 * in parts of the frame's width a second. Null for fewer than three that show something.
 */
export function frontOf(pictures: readonly Opacity[], secondsApart: number): number | null {
  const seen = pictures.flatMap((o, n) => {
    const box = boundsOf(o);
    return box
      ? [
          {
            s: n * secondsApart,
            box: box.map((v) => v / o.width),
            touches: [box[0] === 0, box[1] === 0, box[2] === o.width, box[3] === o.height],
          },
        ]
      : [];
  });
  if (seen.length < 3) return null;
  const mean = seen.reduce((a, p) => a + p.s, 0) / seen.length;
  const spread = seen.reduce((a, p) => a + (p.s - mean) ** 2, 0);
  let most = 0;
  for (const side of [0, 1, 2, 3]) {
    // where it leaves the frame nothing can be said
    if (seen.some((p) => p.touches[side])) continue;
    const slope = seen.reduce((a, p) => a + (p.s - mean) * p.box[side], 0) / spread;
    most = Math.max(most, side < 2 ? -slope : slope);
  }

  return most;
}

/** How alike two measures are, 0…1: the smaller over the larger. */
export function likeness(a: number, b: number): number {
  const low = Math.min(Math.abs(a), Math.abs(b));
  const high = Math.max(Math.abs(a), Math.abs(b));
  if (high < 1e-6) return 1;
  return Math.sign(a) !== Math.sign(b) && low > 1e-6 ? 0 : low / high;
}

export interface Match {
  readonly name: MeasureName;
  readonly reference: number;
  readonly run: number;
  readonly score: number;
}
/** Each measure that both have, and all of them as one: their geometric mean. */
export function match(
  reference: Measures,
  run: Measures,
): { readonly parts: readonly Match[]; readonly score: number } {
  const parts = (Object.keys(MEASURES) as MeasureName[]).flatMap((name): Match[] => {
    const a = reference[name];
    const b = run[name];
    return a === null || b === null ? [] : [{ name, reference: a, run: b, score: likeness(a, b) }];
  });
  return { parts, score: parts.reduce((p, m) => p * m.score, 1) ** (1 / Math.max(1, parts.length)) };
}

/** How a measure answers to a knob: doublings of the measure for one doubling of the knob. */
export interface Sensitivity {
  readonly mean: number;
  /** Standard deviation over the shots that it was tried on. */
  readonly spread: number;
  readonly shots: number;
}
