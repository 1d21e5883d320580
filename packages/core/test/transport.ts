// Light in a plane-parallel slab by adding and doubling (van de Hulst 1980): an answer that owes nothing to
// the renderer.

/** Nodes and weights of Gauss–Legendre on 0…1. */
function gauss(count: number): { x: number[]; w: number[] } {
  const x: number[] = [];
  const w: number[] = [];
  for (let n = 0; n < count; n++) {
    let z = Math.cos((Math.PI * (n + 0.75)) / (count + 0.5));
    let slope = 0;
    for (let turn = 0; turn < 50; turn++) {
      let [p, before] = [1, 0];
      for (let l = 1; l <= count; l++) [p, before] = [((2 * l - 1) * z * p - (l - 1) * before) / l, p];
      slope = (count * (z * p - before)) / (z * z - 1);
      z -= p / slope;
    }

    x.push((1 + z) / 2);
    w.push(1 / ((1 - z * z) * slope * slope));
  }

  return { x, w };
}

/** Henyey & Greenstein's phase function averaged over azimuth; its mean over a cosine is 1. */
function phaseRow(g: number, a: number, b: number): number {
  let sum = 0;
  let [pa, qa, pb, qb] = [1, 0, 1, 0];
  for (let l = 0; l < 400; l++) {
    const part = (2 * l + 1) * g ** l * pa * pb;
    sum += part;
    if (l > 4 && Math.abs(g) ** l < 1e-14) break;
    [pa, qa] = [((2 * l + 1) * a * pa - l * qa) / (l + 1), pa];
    [pb, qb] = [((2 * l + 1) * b * pb - l * qb) / (l + 1), pb];
  }

  return sum;
}

type Matrix = number[][];

/**
 * Radiance straight back and straight on (without what was not scattered) from a slab that is lit from
 * straight above with irradiance 1.
 */
export function slabRadiance(
  depth: number,
  albedo: number,
  g: number,
): { readonly back: number; readonly on: number } {
  const { x, w } = gauss(24);
  // the direction that is looked along and lit from carries no weight of its own
  const mu = [...x, 1];
  const weight = [...w, 0];
  const n = mu.length;
  const make = (f: (i: number, j: number) => number): Matrix => mu.map((_, i) => mu.map((__, j) => f(i, j)));
  const times = (a: Matrix, b: Matrix): Matrix =>
    make((i, j) => {
      let sum = 0;
      for (let k = 0; k < n; k++) sum += a[i][k] * weight[k] * b[k][j];
      return sum;
    });
  const plus = (...all: Matrix[]): Matrix => make((i, j) => all.reduce((s, m) => s + m[i][j], 0));
  const doublings = 24;
  const thin = depth / 2 ** doublings;
  let R = make((i, j) => (albedo * thin * phaseRow(g, -mu[i], mu[j])) / (2 * mu[i]));
  let D = make((i, j) => (albedo * thin * phaseRow(g, mu[i], mu[j])) / (2 * mu[i]));
  let E = mu.map((m) => 1 - thin / m + thin ** 2 / (2 * m * m));
  for (let turn = 0; turn < doublings; turn++) {
    // all rounds between the halves: S = Q + Q·Q + …
    const Q = times(R, R);
    let S = Q;
    for (let k = 0, power = Q; k < 60; k++) {
      power = times(power, Q);
      S = plus(S, power);
      if (power.every((row) => row.every((v) => Math.abs(v) < 1e-13))) break;
    }

    const down = plus(
      D,
      make((i, j) => S[i][j] * E[j]),
      times(S, D),
    );
    const up = plus(
      make((i, j) => R[i][j] * E[j]),
      times(R, down),
    );
    R = plus(
      R,
      make((i, j) => E[i] * up[i][j]),
      times(D, up),
    );
    D = plus(
      make((i, j) => E[i] * down[i][j]),
      make((i, j) => D[i][j] * E[j]),
      times(D, down),
    );
    E = E.map((e) => e * e);
  }

  const last = n - 1;
  return { back: R[last][last] / (2 * Math.PI), on: D[last][last] / (2 * Math.PI) };
}
