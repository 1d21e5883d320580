// Three numbers along x, y, z.

export type Triple = [number, number, number];

/** A direction at length 1; one without a length stays none. Only exact arithmetic, so equal everywhere. */
export function directionOf(v: Triple): Triple {
  const long = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  return long > 0 ? [v[0] / long, v[1] / long, v[2] / long] : [0, 0, 0];
}
