// Few directions that stand for all.
import type { Triple } from '../math/vector';

export interface Direction {
  readonly to: Triple;
  readonly weight: number;
}

/** Weights of the faces, edges and corners of a cube: Lebedev's rule (1976) of degree 7. */
const WEIGHTS = [0, 1 / 21, 4 / 105, 9 / 280];

/** 26 directions even over the sphere; weights add up to 1. */
export function directionRule(): Direction[] {
  const all: Direction[] = [];
  for (const x of [-1, 0, 1])
    for (const y of [-1, 0, 1])
      for (const z of [-1, 0, 1]) {
        const sides = Math.abs(x) + Math.abs(y) + Math.abs(z);
        const to = [x, y, z].map((v) => v / Math.sqrt(sides)) as Triple;
        if (sides > 0) all.push({ to, weight: WEIGHTS[sides] });
      }

  return all;
}
