// Particles of a file or a sequence over its frames: those that are in two frames go straight from one to the
// other.
import type { PointCloud } from '../files/point-cloud';
import { aroundNumber, remembered, type Sequence } from '../files/sequence/sequence';

/** Particles over their own time, in frames of the sequence. */
export interface TimedPointClouds {
  readonly first: number;
  readonly last: number;
  /** The most of any frame. */
  readonly most: number;
  /** Particles are known again from frame to frame by their ids. */
  readonly hasIds: boolean;
  /**
   * Of those that are there at a time, where they are then and where they were at an earlier one. Places in
   * the file's units.
   */
  at(time: number, earlier: number): MovedPoints;
}
export interface MovedPoints {
  readonly count: number;
  readonly positions: Float32Array;
  readonly earlier: Float32Array;
  /** What the file says, units a second; null where it says nothing. */
  readonly velocities: Float32Array | null;
  readonly radii: Float32Array | null;
  /** Seconds. */
  readonly ages: Float32Array | null;
  readonly ids: ArrayLike<number>;
}

export function cloudSequence(
  sequence: Sequence,
  decode: (bytes: Uint8Array) => PointCloud,
): TimedPointClouds {
  const { numbers } = sequence;
  const frame = remembered(sequence, decode);
  let most = 0;
  for (let n = 0; n < numbers.length; n++) most = Math.max(most, frame(n).count);
  return clouds(numbers, most, frame);
}

/** A single frame stands still, unless its particles have a speed. */
export function oneCloud(cloud: PointCloud): TimedPointClouds {
  return clouds([0], cloud.count, () => cloud);
}

function clouds(
  numbers: readonly number[],
  most: number,
  frame: (place: number) => PointCloud,
): TimedPointClouds {
  const matches = new WeakMap<PointCloud, Int32Array>();
  return {
    first: numbers[0],
    last: numbers[numbers.length - 1],
    most,
    hasIds: frame(0).ids !== null,
    at: (time, earlier) => {
      const { before, after } = aroundNumber(numbers, time);
      const span = numbers[after] - numbers[before];
      const a = frame(before);
      const b = frame(after);
      let match = span > 0 ? matches.get(a) : undefined;
      if (span > 0 && !match) matches.set(a, (match = matched(a, b)));
      const along = (number: number): Float32Array => {
        // before the first and behind the last frame they stand
        const t =
          span > 0
            ? (Math.min(numbers[numbers.length - 1], Math.max(numbers[0], number)) - numbers[before]) / span
            : 0;
        if (t === 0 || !match) return a.positions;
        return a.positions.map((v, n) => {
          const other = match[Math.floor(n / 3)];
          return other < 0 ? v : v + t * (b.positions[3 * other + (n % 3)] - v);
        });
      };

      return {
        count: a.count,
        positions: along(time),
        earlier: along(earlier),
        velocities: a.velocities,
        radii: a.radii,
        ages: a.ages,
        ids: a.ids ?? Float64Array.from({ length: a.count }, (_, n) => n),
      };
    },
  };
}

/**
 * For each particle of a its place in b, by their ids, or by their order where both hold as many; −1: it is
 * gone there.
 */
function matched(a: PointCloud, b: PointCloud): Int32Array {
  const out = new Int32Array(a.count).fill(-1);
  if (a.ids && b.ids) {
    const places = new Map<number, number>();
    for (let n = 0; n < b.count; n++) places.set(b.ids[n], n);
    for (let n = 0; n < a.count; n++) out[n] = places.get(a.ids[n]) ?? -1;
  } else if (!a.ids && !b.ids && a.count === b.count) for (let n = 0; n < a.count; n++) out[n] = n;
  return out;
}
