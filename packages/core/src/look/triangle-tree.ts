// A mesh's triangles in a tree of boxes, as the kernels walk it: a complete binary tree in an array (children
// of node n at 2n + 1 and 2n + 2), halved at the median along the longest side of the middles.
import type { Mesh } from '../geometry/mesh';

/** Triangles in a leaf at the most. */
const LEAF = 4;
const NODE_WORDS = 8;
const TRIANGLE_FLOATS = 9;

export interface TriangleTree {
  /** A node each: least and greatest corner as floats, first triangle and their number as integers. */
  readonly nodes: ArrayBuffer;
  /** A triangle each: a corner, and the two sides from there. */
  readonly triangles: Float32Array;
}

/** @param perMetre what the mesh's metres are multiplied by */
export function triangleTree({ positions, triangles }: Mesh, perMetre: number): TriangleTree {
  const count = triangles.length / 3;
  let levels = 0;
  while (Math.ceil(count / 2 ** levels) > LEAF) levels++;
  const nodes = new ArrayBuffer((2 ** (levels + 1) - 1) * NODE_WORDS * 4);
  const floats = new Float32Array(nodes);
  const words = new Int32Array(nodes);
  const order = Uint32Array.from({ length: count }, (_, n) => n);
  const corner = (t: number, v: number, a: number): number =>
    positions[3 * triangles[3 * t + v] + a] * perMetre;
  const middle = (t: number, a: number): number => corner(t, 0, a) + corner(t, 1, a) + corner(t, 2, a);
  const place = (node: number, from: number, to: number, level: number): void => {
    const at = NODE_WORDS * node;
    const low = [Infinity, Infinity, Infinity];
    const high = [-Infinity, -Infinity, -Infinity];
    const least = [...low];
    const most = [...high];
    for (let n = from; n < to; n++)
      for (let a = 0; a < 3; a++) {
        for (let v = 0; v < 3; v++) {
          low[a] = Math.min(low[a], corner(order[n], v, a));
          high[a] = Math.max(high[a], corner(order[n], v, a));
        }

        least[a] = Math.min(least[a], middle(order[n], a));
        most[a] = Math.max(most[a], middle(order[n], a));
      }

    // a little wider, so that a face along an axis is not missed by rounding
    for (let a = 0; a < 3; a++) {
      const room = 1e-5 * Math.max(1, Math.abs(low[a]), Math.abs(high[a]));
      floats[at + a] = low[a] - room;
      floats[at + 3 + a] = high[a] + room;
    }

    words[at + 6] = from;
    if (level === levels) {
      words[at + 7] = to - from;
      return;
    }

    const spans = most.map((v, a) => v - least[a]);
    const axis = spans.indexOf(Math.max(...spans));
    order.subarray(from, to).sort((p, q) => middle(p, axis) - middle(q, axis) || p - q);
    const half = from + Math.ceil((to - from) / 2);
    place(2 * node + 1, from, half, level + 1);
    place(2 * node + 2, half, to, level + 1);
  };

  place(0, 0, count, 0);
  const sorted = new Float32Array(count * TRIANGLE_FLOATS);
  order.forEach((t, n) => {
    for (let a = 0; a < 3; a++) {
      sorted[TRIANGLE_FLOATS * n + a] = corner(t, 0, a);
      sorted[TRIANGLE_FLOATS * n + 3 + a] = corner(t, 1, a) - corner(t, 0, a);
      sorted[TRIANGLE_FLOATS * n + 6 + a] = corner(t, 2, a) - corner(t, 0, a);
    }
  });
  return { nodes, triangles: sorted };
}
