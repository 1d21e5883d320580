// Noise that pictures of the demo are painted with.
import type { Triple } from '@bramblemist/core/math/vector';

export function hash(x: number, y: number): number {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1);
  h = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
  return ((h ^ (h >>> 13)) >>> 0) / 2 ** 32;
}

function noise(x: number, y: number): number {
  const i = Math.floor(x);
  const j = Math.floor(y);
  const s = (t: number): number => t * t * (3 - 2 * t);
  const fx = s(x - i);
  const fy = s(y - j);
  const a = hash(i, j) * (1 - fx) + hash(i + 1, j) * fx;
  const b = hash(i, j + 1) * (1 - fx) + hash(i + 1, j + 1) * fx;
  return a * (1 - fy) + b * fy;
}

export function fbm(x: number, y: number, octaves = 5): number {
  let sum = 0;
  let weight = 0.5;
  for (let o = 0; o < octaves; o++, weight /= 2)
    sum += weight * noise(x * 2 ** o + 17 * o, y * 2 ** o - 9 * o);
  return sum;
}

/** Between two colours. */
export const mix = (a: Triple, b: Triple, t: number): Triple =>
  a.map((v, c) => v + (b[c] - v) * Math.min(1, Math.max(0, t))) as Triple;
