// A triangle mesh as flat arrays, and what is wrong with it.

import type { Triple } from '../recipe/recipe';

export interface Mesh {
  /** Three floats a vertex. */
  readonly positions: Float32Array;
  /** Three vertices a triangle, anticlockwise from outside. */
  readonly triangles: Uint32Array;
  /** Red, green, blue of each vertex, 0…1; null without any. */
  readonly colours: Float32Array | null;
}

/** In metres, y up. */
export function inMetres(mesh: Mesh, { scale, up }: { readonly scale: number; readonly up: 'y' | 'z' }): Mesh {
  const positions = new Float32Array(mesh.positions.length);
  for (let n = 0; n < positions.length; n += 3) {
    const [x, y, z] = [mesh.positions[n], mesh.positions[n + 1], mesh.positions[n + 2]];
    positions[n] = x * scale;
    positions[n + 1] = (up === 'z' ? z : y) * scale;
    positions[n + 2] = (up === 'z' ? -y : z) * scale;
  }
  return { ...mesh, positions };
}

export function boundsOfMesh({ positions }: Mesh): { least: Triple; most: Triple } {
  const least: Triple = [Infinity, Infinity, Infinity],
    most: Triple = [-Infinity, -Infinity, -Infinity];
  for (let n = 0; n < positions.length; n++) {
    least[n % 3] = Math.min(least[n % 3], positions[n]);
    most[n % 3] = Math.max(most[n % 3], positions[n]);
  }
  return { least, most };
}

/** What a look over a mesh finds. */
export interface MeshReport {
  readonly vertices: number;
  readonly triangles: number;
  /** Edges, in the file's units. */
  readonly size: readonly [number, number, number];
  /** Edges that belong to one triangle only, to more than two, and to two that disagree on which side is out. */
  readonly openEdges: number;
  readonly sharedEdges: number;
  readonly flippedEdges: number;
  /** Triangles without area. */
  readonly flat: number;
  /** Positive where most of it faces outward; of a closed mesh its volume. */
  readonly volume: number;
}

/** Vertices at the same place count as one, as many files keep them apart. */
export function checkMesh(mesh: Mesh): MeshReport {
  const { positions: p, triangles: t } = mesh;
  const same = new Map<string, number>(),
    one = new Uint32Array(p.length / 3);
  const least = [Infinity, Infinity, Infinity],
    most = [-Infinity, -Infinity, -Infinity];
  for (let v = 0; v < one.length; v++) {
    const key = `${p[3 * v]},${p[3 * v + 1]},${p[3 * v + 2]}`;
    let found = same.get(key);
    if (found === undefined) same.set(key, (found = v));
    one[v] = found;
    for (let a = 0; a < 3; a++) {
      least[a] = Math.min(least[a], p[3 * v + a]);
      most[a] = Math.max(most[a], p[3 * v + a]);
    }
  }
  // an edge by its two ends; how often it is walked each way
  const edges = new Map<number, { up: number; down: number }>();
  let flat = 0,
    volume = 0;
  for (let n = 0; n < t.length; n += 3) {
    const c = [one[t[n]], one[t[n + 1]], one[t[n + 2]]];
    const at = (i: number, a: number): number => p[3 * c[i] + a];
    const [ux, uy, uz] = [0, 1, 2].map((a) => at(1, a) - at(0, a)),
      [vx, vy, vz] = [0, 1, 2].map((a) => at(2, a) - at(0, a));
    const cross = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    if (Math.hypot(...cross) === 0) {
      flat++;
      continue;
    }
    volume += (at(0, 0) * cross[0] + at(0, 1) * cross[1] + at(0, 2) * cross[2]) / 6;
    for (let e = 0; e < 3; e++) {
      const a = c[e],
        b = c[(e + 1) % 3],
        key = Math.min(a, b) * one.length + Math.max(a, b);
      const edge = edges.get(key) ?? { up: 0, down: 0 };
      if (a < b) edge.up++;
      else edge.down++;
      edges.set(key, edge);
    }
  }
  let openEdges = 0,
    sharedEdges = 0,
    flippedEdges = 0;
  for (const { up, down } of edges.values()) {
    if (up + down === 1) openEdges++;
    else if (up + down > 2) sharedEdges++;
    else if (up !== down) flippedEdges++;
  }
  return {
    vertices: one.length,
    triangles: t.length / 3,
    size: [most[0] - least[0], most[1] - least[1], most[2] - least[2]],
    ...{ openEdges, sharedEdges, flippedEdges, flat, volume },
  };
}
