// A picture of all directions as the kernels look it up: on an octahedron that is unfolded into a square
// (Engelhardt & Dachsbacher 2008), with tables to draw directions by how bright they are; and for quick
// pictures as an even part with a few suns (median cut, Debevec 2005).
import type { Texture } from '../files/picture';
import { luminanceOf } from '../math/luminance';
import type { Triple } from '../math/vector';

// names of their own: they stand in the innermost loops
const { abs, cos, floor, hypot, max, min, sin } = Math;

export interface Environment {
  /** Values along a side of the square. */
  readonly side: number;
  /**
   * Red, green, blue and density of (side + 2)² values, then the parts of all up to the end of each row, and
   * in each row up to the end of each cell: as environment.ts of the kernels reads them.
   */
  readonly table: Float32Array;
  /** What quick pictures are lit by: radiance of the even part, and suns beside it. */
  readonly even: Triple;
  readonly suns: readonly EnvironmentSun[];
}

export interface EnvironmentSun {
  readonly toward: Triple;
  /** What it gives a face square to it: its radiance times its solid angle, by channel. */
  readonly irradiance: Triple;
}

const MOST_SIDE = 1024;
const LEAST_SIDE = 8;
/** Suns that a quick picture may have of an environment. */
const MOST_SUNS = 6;
/** Suns that give less than this part of all are left to the even part. */
const FAINT = 0.01;
/** What is brighter is no light. */
const MOST = 1e30;
/** Parts of pixels that a cell is the mean of, about. */
const PARTS_PER_CELL = 9;

/** Direction of a place of the square −1…1. */
function directionAt(a: number, b: number): Triple {
  const y = 1 - abs(a) - abs(b);
  const x = y < 0 ? (1 - abs(b)) * Math.sign(a || 1) : a;
  const z = y < 0 ? (1 - abs(a)) * Math.sign(b || 1) : b;
  const long = hypot(x, y, z);
  return [x / long, y / long, z / long];
}

/** Solid angle of a place of the square, for its area: 1 / r³ of the point on the octahedron. */
function solidAngle(a: number, b: number): number {
  const y = 1 - abs(a) - abs(b);
  const x = y < 0 ? 1 - abs(b) : a;
  const z = y < 0 ? 1 - abs(a) : b;
  return 1 / hypot(x, y, z) ** 3;
}

/** A constant environment, for scenes that need to draw directions of it. */
export const evenEnvironment = (radiance: Triple): Environment =>
  fromCells(
    LEAST_SIDE,
    Float64Array.from({ length: LEAST_SIDE * LEAST_SIDE * 3 }, (_, n) => radiance[n % 3]),
  );

/** The last of each picture: another look asks for the same again. */
const known = new WeakMap<Texture, { turnDegrees: number; made: Environment }>();

/**
 * @param picture twice as wide as high: left to right a whole turn, top to bottom from zenith to nadir; its
 *   middle lies straight ahead (−z)
 * @param turnDegrees turns it about the upright axis
 */
export function environmentOf(picture: Texture, turnDegrees: number): Environment {
  const last = known.get(picture);
  if (last?.turnDegrees === turnDegrees) return last.made;
  const made = environmentFrom(picture, turnDegrees);
  known.set(picture, { turnDegrees, made });
  return made;
}

function environmentFrom({ width, height, planes }: Texture, turnDegrees: number): Environment {
  const side = min(MOST_SIDE, max(LEAST_SIDE, 2 ** Math.ceil(Math.log2(1.3 * height))));
  const size = width * height;
  const turn = (turnDegrees * Math.PI) / 180;
  // each pixel in so many parts along both sides that no cell goes without
  const parts = max(1, Math.ceil(Math.sqrt((PARTS_PER_CELL * side * side) / size)));
  const sums = new Float64Array(side * side * 4);
  // each part goes to the cell where its middle lies, by the solid angle that it covers: a small sun keeps
  // all of its light
  const across = width * parts;
  const sines = new Float64Array(across);
  const cosines = new Float64Array(across);
  for (let i = 0; i < across; i++) {
    const heading = ((i + 0.5) / across - 0.5) * 2 * Math.PI + turn;
    sines[i] = sin(heading);
    cosines[i] = cos(heading);
  }

  const cellOf = (place: number): number => min(side - 1, floor(((place + 1) / 2) * side));
  for (let j = 0; j < height * parts; j++) {
    const upward = ((j + 0.5) / height / parts - 0.5) * Math.PI;
    const row = floor(j / parts) * width;
    const weight = cos(upward);
    const y = sin(upward);
    for (let i = 0; i < across; i++) {
      const x = weight * sines[i];
      const z = -weight * cosines[i];
      const long = abs(x) + abs(y) + abs(z);
      const u = x / long;
      const v = z / long;
      // the lower half is folded out
      const a = y < 0 ? (1 - abs(v)) * (u < 0 ? -1 : 1) : u;
      const b = y < 0 ? (1 - abs(u)) * (v < 0 ? -1 : 1) : v;
      const at = 4 * (cellOf(b) * side + cellOf(a));
      const from = row + floor(i / parts);
      for (let c = 0; c < 3; c++) {
        const value = planes[c * size + from];
        if (value > 0 && value < MOST) sums[at + c] += weight * value;
      }

      sums[at + 3] += weight;
    }
  }

  return fromCells(
    side,
    Float64Array.from({ length: side * side * 3 }, (_, n) => {
      const cell = 4 * floor(n / 3);
      return sums[cell + (n % 3)] / max(1e-12, sums[cell + 3]);
    }),
  );
}

function fromCells(side: number, cells: Float64Array): Environment {
  const wide = side + 2;
  const table = new Float32Array(wide * wide * 4 + side + side * side);
  const cellSize = 2 / side;
  const angles = new Float64Array(side * side);
  const weights = new Float64Array(side * side);
  for (let j = 0, n = 0; j < side; j++)
    for (let i = 0; i < side; i++, n++) {
      angles[n] = solidAngle((i + 0.5) * cellSize - 1, (j + 0.5) * cellSize - 1) * cellSize * cellSize;
      // light goes evenly from cell to cell: beside a bright one there is light too
      let most = 0;
      for (let q = max(0, j - 1); q <= min(side - 1, j + 1); q++)
        for (let p = max(0, i - 1); p <= min(side - 1, i + 1); p++) {
          const at = 3 * (q * side + p);
          most = max(most, luminanceOf(cells[at], cells[at + 1], cells[at + 2]));
        }

      const at = 3 * n;
      weights[n] = (luminanceOf(cells[at], cells[at + 1], cells[at + 2]) + 0.05 * most) * angles[n];
    }

  const total = weights.reduce((sum, w) => sum + w, 0);
  // beyond an edge of the square lies what its other half has there
  const inside = (i: number, j: number): number => {
    let [p, q] = [i, j];
    if (q < 0 || q >= side) [p, q] = [side - 1 - p, q < 0 ? 0 : side - 1];
    if (p < 0 || p >= side) [p, q] = [p < 0 ? 0 : side - 1, side - 1 - q];
    return min(side - 1, max(0, q)) * side + min(side - 1, max(0, p));
  };

  for (let j = -1; j <= side; j++)
    for (let i = -1; i <= side; i++) {
      const from = inside(i, j);
      const to = 4 * ((j + 1) * wide + i + 1);
      for (let c = 0; c < 3; c++) table[to + c] = cells[3 * from + c];
      table[to + 3] = total > 0 ? weights[from] / total / (cellSize * cellSize) : 0;
    }

  const rows = wide * wide * 4;
  let before = 0;
  for (let j = 0; j < side; j++) {
    const row = weights.subarray(j * side, (j + 1) * side);
    const sum = row.reduce((all, w) => all + w, 0);
    let part = 0;
    for (let i = 0; i < side; i++) {
      part += row[i];
      table[rows + side + j * side + i] = sum > 0 ? part / sum : (i + 1) / side;
    }

    before += sum;
    table[rows + j] = total > 0 ? before / total : (j + 1) / side;
  }

  return { side, table, ...split(side, cells, angles) };
}

/** Columns and rows from a cell to behind another. */
type Region = readonly [x0: number, y0: number, x1: number, y1: number];

/** The even part, and suns of what is brighter than the mean. */
function split(side: number, cells: Float64Array, angles: Float64Array): Pick<Environment, 'even' | 'suns'> {
  const sphere = angles.reduce((sum, a) => sum + a, 0);
  const luminance = Float64Array.from({ length: side * side }, (_, n) =>
    luminanceOf(cells[3 * n], cells[3 * n + 1], cells[3 * n + 2]),
  );
  const mean = luminance.reduce((sum, l, n) => sum + l * angles[n], 0) / sphere;
  const even: [number, number, number] = [0, 0, 0];
  const rest = cells.slice();
  for (let n = 0; n < luminance.length; n++) {
    const kept = min(1, luminance[n] > 0 ? mean / luminance[n] : 1);
    for (let c = 0; c < 3; c++) {
      even[c] += (cells[3 * n + c] * kept * angles[n]) / sphere;
      rest[3 * n + c] *= 1 - kept;
    }
  }

  const regions: Region[] = [[0, 0, side, side]];
  /** What each column of a region gives, or each row. */
  const marginal = ([x0, y0, x1, y1]: Region, isWide: boolean): Float64Array => {
    const sums = new Float64Array(isWide ? x1 - x0 : y1 - y0);
    for (let j = y0; j < y1; j++)
      for (let i = x0; i < x1; i++) {
        const n = j * side + i;
        const gives = luminanceOf(rest[3 * n], rest[3 * n + 1], rest[3 * n + 2]) * angles[n];
        sums[isWide ? i - x0 : j - y0] += gives;
      }

    return sums;
  };

  const powerOf = (region: Region): number => marginal(region, true).reduce((sum, v) => sum + v, 0);
  const all = powerOf(regions[0]);
  while (regions.length < MOST_SUNS && all > 0) {
    const spread = regions.map((r) => powerOf(r) * max(r[2] - r[0], r[3] - r[1]));
    const most = spread.indexOf(max(...spread));
    const [x0, y0, x1, y1] = regions[most];
    const isWide = x1 - x0 >= y1 - y0;
    if (max(x1 - x0, y1 - y0) < 2) break;
    const sums = marginal(regions[most], isWide);
    const half = sums.reduce((sum, v) => sum + v, 0) / 2;
    let first = 1;
    for (let before = sums[0]; first < sums.length - 1 && before < half; first++) before += sums[first];
    const cut = first + (isWide ? x0 : y0);
    const halves: Region[] = isWide
      ? [
          [x0, y0, cut, y1],
          [cut, y0, x1, y1],
        ]
      : [
          [x0, y0, x1, cut],
          [x0, cut, x1, y1],
        ];
    regions.splice(most, 1, ...halves);
  }

  const suns: EnvironmentSun[] = [];
  for (const [x0, y0, x1, y1] of all > 0 ? regions : []) {
    const toward = [0, 0, 0];
    const irradiance: [number, number, number] = [0, 0, 0];
    for (let j = y0; j < y1; j++)
      for (let i = x0; i < x1; i++) {
        const n = j * side + i;
        const way = directionAt((2 * (i + 0.5)) / side - 1, (2 * (j + 0.5)) / side - 1);
        const weight = luminanceOf(rest[3 * n], rest[3 * n + 1], rest[3 * n + 2]) * angles[n];
        for (let a = 0; a < 3; a++) {
          toward[a] += way[a] * weight;
          irradiance[a] += rest[3 * n + a] * angles[n];
        }
      }

    const long = hypot(...toward);
    if (long > 0 && luminanceOf(...irradiance) > FAINT * mean * sphere)
      suns.push({ toward: toward.map((v) => v / long) as Triple, irradiance });
    else for (let c = 0; c < 3; c++) even[c] += irradiance[c] / sphere;
  }

  return { even, suns };
}
