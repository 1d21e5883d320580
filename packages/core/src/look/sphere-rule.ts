// Few directions that stand for all.
import type { Triple } from '../math/vector';

export interface Direction {
  readonly to: Triple;
  readonly weight: number;
}

/** Weights of the corners of a cube with its faces and edges: Lebedev's rules (1976) of degree 3, 5 and 7. */
const RULES = {
  6: [1 / 6, 0, 0],
  14: [1 / 15, 0, 3 / 40],
  26: [1 / 21, 4 / 105, 9 / 280],
} as const;

/** Directions even over the sphere; weights add up to 1. */
export function directionRule(count: keyof typeof RULES): Direction[] {
  const [faces, edges, corners] = RULES[count];
  const all: Direction[] = [];
  for (const x of [-1, 0, 1])
    for (const y of [-1, 0, 1])
      for (const z of [-1, 0, 1]) {
        const sides = Math.abs(x) + Math.abs(y) + Math.abs(z);
        const weight = [0, faces, edges, corners][sides];
        if (weight > 0) all.push({ to: [x, y, z].map((v) => v / Math.sqrt(sides)) as Triple, weight });
      }

  return all;
}
