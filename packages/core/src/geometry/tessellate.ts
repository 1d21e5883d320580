// Shapes as triangles, for programs that know meshes alone: in the shape's own axes, metres.
import { cosine, sine } from '../math/exact';
import { boxMesh, type Mesh } from './mesh';
import { KIND, type CellShape } from './shape';

/** Edges of a circle. */
const ROUND = 48;
/** Half an edge of a level ground without an end, m. */
const GROUND_M = 50;

/** @returns null where a shape is told by its distances alone */
export function meshOfShape({ kind, half }: CellShape, cellM: number): Mesh | null {
  const [x, y, z] = half.map((v) => v * cellM);
  if (kind === KIND.sphere) return x > 0 ? turned(arc(0, 0, x)) : null;
  if (kind === KIND.box) return boxMesh([-x, -y, -z], [x, y, z]);
  if (kind === KIND.cylinder)
    return turned([
      [0, -y],
      [x, -y],
      [x, y],
      [0, y],
    ]);
  if (kind === KIND.ring) return turned(ringAround(x, y));
  if (kind === KIND.ground)
    return {
      positions: Float32Array.from([-1, 0, -1, -1, 0, 1, 1, 0, 1, 1, 0, -1], (v) => v * GROUND_M),
      triangles: Uint32Array.of(0, 1, 2, 0, 2, 3),
      colours: null,
    };
  return null;
}

type Outline = readonly (readonly [radius: number, height: number])[];

/** From the lower pole to the upper one. */
function arc(radius: number, height: number, r: number): Outline {
  const steps = ROUND / 2;
  return Array.from({ length: steps + 1 }, (_, n) => {
    const angle = (Math.PI * n) / steps - Math.PI / 2;
    const isPole = n === 0 || n === steps;
    return [radius + (isPole ? 0 : r * cosine(angle)), height + r * sine(angle)] as const;
  });
}

/** A tube's outline, all round and back to where it began. */
function ringAround(radius: number, tubeRadius: number): Outline {
  const steps = ROUND / 2;
  return Array.from({ length: steps + 1 }, (_, n) => {
    const angle = (2 * Math.PI * (n % steps)) / steps;
    return [radius + tubeRadius * cosine(angle), tubeRadius * sine(angle)] as const;
  });
}

/** An outline turned about the upright axis; its outside is on the right as it goes up. */
function turned(outline: Outline): Mesh {
  const positions: number[] = [];
  const triangles: number[] = [];
  for (const [radius, height] of outline)
    for (let n = 0; n < ROUND; n++) {
      const angle = (2 * Math.PI * n) / ROUND;
      positions.push(radius * cosine(angle), height, radius * sine(angle));
    }

  for (let row = 0; row + 1 < outline.length; row++)
    for (let n = 0; n < ROUND; n++) {
      const [a, b] = [row * ROUND + n, row * ROUND + ((n + 1) % ROUND)];
      const [c, d] = [a + ROUND, b + ROUND];
      // at a pole all corners of a row are one
      if (outline[row][0] !== 0) triangles.push(a, c, b);
      if (outline[row + 1][0] !== 0) triangles.push(b, c, d);
    }

  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles), colours: null };
}
