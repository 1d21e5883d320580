// Which particles of a file are taken: by speed, height, crowding and age. Spray that flies fast and thin
// makes mist; grains that lie still make none.
import { CoreError } from '../base/error';
import { square } from '../math/exact';
import type { MovedPoints } from './timed-point-clouds';
import type { ParticlesPart } from '../recipe/types';

export const PICKED_BY = ['speed', 'height', 'crowding', 'age'] as const;
export type PickedBy = (typeof PICKED_BY)[number];
type Pick = ParticlesPart['pick'];

/** Settings that hold the bounds of a measure; at these values they bound nothing. */
export const BOUNDS = {
  speed: { low: 'slowest', high: 'fastest', none: [0, 1000] },
  height: { low: 'lowest', high: 'highest', none: [-1000, 1000] },
  crowding: { low: 'fewest', high: 'most', none: [0, 100000] },
  age: { low: 'youngest', high: 'oldest', none: [0, 100000] },
} as const satisfies Record<PickedBy, { low: keyof Pick; high: keyof Pick; none: readonly [number, number] }>;

export const bounded = (pick: Pick, by: PickedBy): boolean => {
  const { low, high, none } = BOUNDS[by];
  return pick[low] > none[0] || pick[high] < none[1];
};

/**
 * One number a particle: m/s, m over the world's origin, others within `near`, s.
 * @param lastedS time from the earlier places to these, s: where the file has no velocities
 * @returns null where it cannot be told: a file without ages
 */
export function measureOf(
  flown: MovedPoints,
  by: PickedBy,
  near: number,
  lastedS: number,
): Float32Array | null {
  const { count, positions: p, earlier, velocities: v, ages } = flown;
  if (by === 'age') return ages;
  if (by === 'crowding') return crowding(p, count, near);
  const out = new Float32Array(count);
  if (by === 'height') for (let n = 0; n < count; n++) out[n] = p[3 * n + 1];
  else
    for (let n = 0, o = 0; n < count; n++, o += 3)
      out[n] = v
        ? Math.sqrt(v[o] * v[o] + v[o + 1] * v[o + 1] + v[o + 2] * v[o + 2])
        : Math.sqrt(
            square(p[o] - earlier[o]) + square(p[o + 1] - earlier[o + 1]) + square(p[o + 2] - earlier[o + 2]),
          ) / lastedS;
  return out;
}

/**
 * Those that lie within all bounds, in their order. @throws Error where a bound asks for what the file does
 * not have
 */
export function filterParticles(flown: MovedPoints, part: Picking, lastedS: number): MovedPoints {
  const by = PICKED_BY.filter((b) => bounded(part.pick, b));
  if (by.length === 0 || flown.count === 0) return flown;
  const keep = new Uint8Array(flown.count).fill(1);
  for (const b of by) {
    const values = measureOf(flown, b, part.pick.near, lastedS);
    if (!values)
      throw new CoreError(
        'asset',
        `${part.name} picks particles by their age, but the file has no column age. Leave age at any.`,
      );
    const { low, high } = BOUNDS[b];
    const from = part.pick[low];
    const to = part.pick[high];
    for (let n = 0; n < keep.length; n++) if (values[n] < from || values[n] > to) keep[n] = 0;
  }

  const list: number[] = [];
  for (let n = 0; n < keep.length; n++) if (keep[n]) list.push(n);
  const three = (from: Float32Array): Float32Array => {
    const out = new Float32Array(3 * list.length);
    for (let m = 0; m < list.length; m++) for (let a = 0; a < 3; a++) out[3 * m + a] = from[3 * list[m] + a];
    return out;
  };

  return {
    count: list.length,
    positions: three(flown.positions),
    earlier: three(flown.earlier),
    velocities: flown.velocities && three(flown.velocities),
    radii: flown.radii && Float32Array.from(list, (n) => flown.radii![n]),
    ages: flown.ages && Float32Array.from(list, (n) => flown.ages![n]),
    ids: Float64Array.from(list, (n) => flown.ids[n]),
  };
}

type Picking = Readonly<{ name: string; pick: Pick }>;

/**
 * How many others lie within a distance of each: sorted into cells of that edge, so that 27 of them are
 * looked at.
 */
function crowding(p: Float32Array, count: number, near: number): Float32Array {
  const cell = (v: number): number => Math.floor(v / near);
  const size = 1 << Math.max(4, 32 - Math.clz32(2 * count));
  const hash = (x: number, y: number, z: number): number =>
    ((Math.imul(x, 0x8da6b343) ^ Math.imul(y, 0xd8163841) ^ Math.imul(z, 0xcb1ab31f)) >>> 0) & (size - 1);
  const heads = new Int32Array(size).fill(-1);
  const next = new Int32Array(count);
  const out = new Float32Array(count);
  const most = near * near;
  for (let n = 0; n < count; n++) {
    const h = hash(cell(p[3 * n]), cell(p[3 * n + 1]), cell(p[3 * n + 2]));
    next[n] = heads[h];
    heads[h] = n;
  }

  for (let n = 0; n < count; n++) {
    const x = p[3 * n];
    const y = p[3 * n + 1];
    const z = p[3 * n + 2];
    const i = cell(x);
    const j = cell(y);
    const k = cell(z);
    let found = -1; // itself
    const seen = new Set<number>();
    for (let c = -1; c <= 1; c++)
      for (let b = -1; b <= 1; b++)
        for (let a = -1; a <= 1; a++) {
          const h = hash(i + a, j + b, k + c);
          if (seen.has(h)) continue; // two cells may share a list
          seen.add(h);
          for (let m = heads[h]; m >= 0; m = next[m])
            if (square(p[3 * m] - x) + square(p[3 * m + 1] - y) + square(p[3 * m + 2] - z) <= most) found++;
        }

    out[n] = found;
  }

  return out;
}

export interface Histogram {
  readonly from: number;
  readonly to: number;
  /** Particles in each of the even steps from `from` to `to`. */
  readonly counts: readonly number[];
}

/** @returns null without values */
export function histogramOf(values: Float32Array, bins = 32): Histogram | null {
  if (values.length === 0) return null;
  let from = Infinity;
  let to = -Infinity;
  for (const v of values) {
    if (v < from) from = v;
    if (v > to) to = v;
  }

  const counts = new Array<number>(bins).fill(0);
  const width = to - from || 1;
  for (const v of values) counts[Math.min(bins - 1, Math.floor(((v - from) / width) * bins))]++;
  return { from, to, counts };
}
