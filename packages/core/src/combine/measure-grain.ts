// The grain of a plate, so that what lies over it can have the same: how strong it is in the dark and in the
// light, and how soft.
import { luminanceOf } from '../math/luminance';
import type { LinearPicture } from '../files/picture';

/** As the operation has it. */
export interface MeasuredGrain {
  /** Deviation of red, green and blue at a light of 1. */
  readonly grain: readonly [number, number, number];
  /** Part of it that black has, %. */
  readonly dark: number;
  /** Deviation by which it is softened, pixels. */
  readonly size: number;
}

/** Edge of the squares that are looked at, pixels. */
const EDGE = 16;
/** Part of the squares that counts: the flattest ones show the grain and not the picture. */
const FLATTEST = 0.4;
/** Groups of like light that they are taken from. */
const GROUPS = 6;
/** Squares that are darker or brighter say nothing of grain: it is cut off there. */
const LEAST_LIGHT = 0.002;
const MOST_LIGHT = 0.9;
/** Roots of light must differ by so much to tell the dark from the light. */
const SPREAD = 0.15;
const USUAL_DARK = 0.2;

interface Square {
  /** Root of its light, and the deviations of its colours from a plane. */
  readonly root: number;
  readonly deviations: readonly number[];
  /** How much alike neighbours are: the correlation of pixels beside each other. */
  readonly alike: number;
}

/** @returns null where nothing of the picture is flat enough to tell */
export function measureGrain(picture: LinearPicture): MeasuredGrain | null {
  const squares: Square[] = [];
  for (let y = 0; y + EDGE <= picture.height; y += EDGE)
    for (let x = 0; x + EDGE <= picture.width; x += EDGE) {
      const square = squareAt(picture, x, y);
      if (square && square.root > Math.sqrt(LEAST_LIGHT) && square.root < Math.sqrt(MOST_LIGHT))
        squares.push(square);
    }

  if (squares.length < 4) return null;
  const flat = flattest(squares);
  const mean = (value: (s: Square) => number): number =>
    flat.reduce((sum, s) => sum + value(s), 0) / flat.length;
  const dark = darkOf(mean);
  const grain = [0, 1, 2].map((c) => mean((s) => s.deviations[c] / (dark + (1 - dark) * s.root)));
  const alike = mean((s) => s.alike);
  // neighbours of softened noise: exp(−1 / 4σ²)
  const size = alike > 0.03 ? Math.min(5, 1 / (2 * Math.sqrt(-Math.log(Math.min(0.99, alike))))) : 0;
  return { grain: [grain[0], grain[1], grain[2]], dark: 100 * dark, size };
}

/** The flattest squares among those of like light: grain differs with light, and must not choose by it. */
function flattest(squares: readonly Square[]): Square[] {
  const byLight = [...squares].sort((a, b) => a.root - b.root);
  const size = Math.ceil(byLight.length / GROUPS);
  return Array.from({ length: GROUPS }, (_, n) => byLight.slice(n * size, (n + 1) * size)).flatMap((group) =>
    group.sort((a, b) => a.deviations[1] - b.deviations[1]).slice(0, Math.ceil(group.length * FLATTEST)),
  );
}

/** The part of the grain that black has, by a straight line through deviation over the root of light. */
function darkOf(mean: (value: (s: Square) => number) => number): number {
  const root = mean((s) => s.root);
  const spread = mean((s) => (s.root - root) ** 2);
  if (Math.sqrt(spread) < SPREAD / 2) return USUAL_DARK;
  const strength = mean((s) => s.deviations[1]);
  const slope = mean((s) => (s.root - root) * (s.deviations[1] - strength)) / spread;
  const inBlack = strength - slope * root;
  return Math.min(1, Math.max(0, inBlack / Math.max(1e-9, inBlack + slope)));
}

function squareAt({ width, rgba }: LinearPicture, x0: number, y0: number): Square | null {
  const at = (x: number, y: number): number => 4 * ((y0 + y) * width + x0 + x);
  const means = [0, 0, 0];
  for (let y = 0; y < EDGE; y++)
    for (let x = 0; x < EDGE; x++) {
      if (rgba[at(x, y) + 3] < 0.999) return null;
      for (let c = 0; c < 3; c++) means[c] += rgba[at(x, y) + c] / (EDGE * EDGE);
    }

  const left = [0, 1, 2].map((c) => leftOver((x, y) => rgba[at(x, y) + c] - means[c]));
  const light = luminanceOf(means[0], means[1], means[2]);
  return {
    root: Math.sqrt(Math.max(0, light)),
    deviations: left.map((values) => Math.sqrt(meanOf(values, 0))),
    alike: meanOf(left[1], 1) / Math.max(1e-12, meanOf(left[1], 0)),
  };
}

/** What a plane does not explain of a square. @param value about its mean */
function leftOver(value: (x: number, y: number) => number): Float64Array {
  const out = new Float64Array(EDGE * EDGE);
  const middle = (EDGE - 1) / 2;
  const squared = (EDGE * EDGE * (EDGE * EDGE - 1)) / 12;
  let [across, down] = [0, 0];
  for (let y = 0; y < EDGE; y++)
    for (let x = 0; x < EDGE; x++) {
      const v = value(x, y);
      out[y * EDGE + x] = v;
      across += (v * (x - middle)) / squared;
      down += (v * (y - middle)) / squared;
    }

  for (let y = 0; y < EDGE; y++)
    for (let x = 0; x < EDGE; x++) out[y * EDGE + x] -= across * (x - middle) + down * (y - middle);
  return out;
}

/** Mean product of values so many pixels apart, to the right and down. */
function meanOf(values: Float64Array, apart: number): number {
  let [sum, count] = [0, 0];
  for (let y = 0; y < EDGE - apart; y++)
    for (let x = 0; x < EDGE - apart; x++) {
      const v = values[y * EDGE + x];
      sum += v * (values[y * EDGE + x + apart] + values[(y + apart) * EDGE + x]);
      count += 2;
    }

  return sum / count;
}
