// Profiles: curves over 0…1 that an artist draws by points, as tables for the kernels.

export type Profile = readonly (readonly [at: number, value: number])[];

/** Entries that a table has after its first. */
export const PROFILE_STEPS = 64;

/**
 * Smooth through all points without overshoot (monotone cubic, Fritsch & Carlson 1980), level at both ends:
 * two points give the smooth step. Before the first and behind the last point it goes on level.
 * @param onward at both ends it goes as between the last two points: two points give a straight line
 */
export function valueAt(points: Profile, at: number, onward = false): number {
  const n = points.findIndex((p) => p[0] > at);
  if (n === 0) return points[0][1];
  if (n < 0) return points[points.length - 1][1];
  const [a, b] = [points[n - 1], points[n]];
  const long = b[0] - a[0];
  const t = (at - a[0]) / long;
  const [from, to] = [n - 1, n].map((m) => slopeAt(points, m, onward) * long);
  const u = t * t;
  const v = u * t;
  return a[1] * (2 * v - 3 * u + 1) + from * (v - 2 * u + t) + b[1] * (3 * u - 2 * v) + to * (v - u);
}

function slopeAt(points: Profile, n: number, onward: boolean): number {
  if (n === 0 || n === points.length - 1) {
    const [a, b] = n === 0 ? [points[0], points[1]] : [points[n - 1], points[n]];
    return onward ? (b[1] - a[1]) / (b[0] - a[0]) : 0;
  }

  const before = (points[n][1] - points[n - 1][1]) / (points[n][0] - points[n - 1][0]);
  const after = (points[n + 1][1] - points[n][1]) / (points[n + 1][0] - points[n][0]);
  // the harmonic mean keeps each piece between its ends
  return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
}

export function tableOf(points: Profile): Float32Array {
  return Float32Array.from({ length: PROFILE_STEPS + 1 }, (_, n) => valueAt(points, n / PROFILE_STEPS));
}
