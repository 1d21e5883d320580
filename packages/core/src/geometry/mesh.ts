// A triangle mesh as flat arrays, and what is wrong with it.

import { norm } from '../math/exact';
import type { Triple } from '../math/vector';

export interface Mesh {
  /** Three floats a vertex. */
  readonly positions: Float32Array;
  /** Three vertices a triangle, anticlockwise from outside. */
  readonly triangles: Uint32Array;
  /** Red, green, blue of each vertex, 0…1; null without any. */
  readonly colours: Float32Array | null;
}

/** A mesh over its own time: seconds of an animation, frames of a sequence. A still one has one moment. */
export interface TimedMesh {
  readonly unit: 'seconds' | 'frames';
  readonly first: number;
  readonly last: number;
  /**
   * At a time of its own; the same object for the same time as just before. Triangles are the same at all
   * times where `keepsShape`.
   */
  at(time: number): Mesh;
  /** Whether its vertices go from place to place; else one frame's have nothing to do with the next one's. */
  readonly keepsShape: boolean;
  /** Over all of its time. */
  bounds(): { least: Triple; most: Triple };
}
export function stillMesh(mesh: Mesh): TimedMesh {
  return {
    unit: 'frames',
    first: 0,
    last: 0,
    keepsShape: true,
    at: () => mesh,
    bounds: () => boundsOfMesh(mesh),
  };
}

/** The box between two corners. */
export function boxMesh(least: Triple, most: Triple): Mesh {
  const positions = Float32Array.from(
    { length: 24 },
    (_, n) => ((Math.floor(n / 3) >> (n % 3)) & 1 ? most : least)[n % 3],
  );
  const faces = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ];
  return {
    positions,
    triangles: Uint32Array.from(faces.flatMap(([a, b, c, d]) => [a, b, c, a, c, d])),
    colours: null,
  };
}

/** Moments at which a moving mesh is looked at for its bounds. */
const LOOKS = 64;
/** What it may reach beyond them between two looks, of its size. */
const BETWEEN = 0.02;

/** @param make the mesh at a time between first and last */
export function timed(
  what: Pick<TimedMesh, 'unit' | 'first' | 'last' | 'keepsShape'>,
  make: (time: number) => Mesh,
): TimedMesh {
  const { first, last } = what;
  let kept: { time: number; mesh: Mesh } | null = null;
  let bounds: ReturnType<TimedMesh['bounds']> | null = null;
  const at = (time: number): Mesh => {
    const within = Math.min(last, Math.max(first, time));
    if (kept?.time !== within) kept = { time: within, mesh: make(within) };
    return kept.mesh;
  };

  const look = (): ReturnType<TimedMesh['bounds']> => {
    const looks = what.unit === 'frames' ? last - first : LOOKS;
    const all = Array.from({ length: looks + 1 }, (_, n) =>
      boundsOfMesh(at(first + ((last - first) * n) / looks)),
    );
    const least = [0, 1, 2].map((a) => Math.min(...all.map((b) => b.least[a])));
    const most = [0, 1, 2].map((a) => Math.max(...all.map((b) => b.most[a])));
    const more = what.unit === 'frames' ? 0 : BETWEEN * Math.max(...most.map((v, a) => v - least[a]));
    return { least: least.map((v) => v - more) as Triple, most: most.map((v) => v + more) as Triple };
  };

  return { ...what, at, bounds: () => (bounds ??= look()) };
}

export const movesByItself = (mesh: TimedMesh): boolean => mesh.last > mesh.first;

/** In metres, y up. */
export function inMetres(
  mesh: Mesh,
  { scale, up }: { readonly scale: number; readonly up: 'y' | 'z' },
): Mesh {
  const positions = new Float32Array(mesh.positions.length);
  for (let n = 0; n < positions.length; n += 3) {
    const [x, y, z] = [mesh.positions[n], mesh.positions[n + 1], mesh.positions[n + 2]];
    positions[n] = x * scale;
    positions[n + 1] = (up === 'z' ? z : y) * scale;
    positions[n + 2] = (up === 'z' ? -y : z) * scale;
  }

  return { ...mesh, positions };
}

/** Of bounds in the file's units and axes. */
export function boundsInMetres(
  { least, most }: { readonly least: Triple; readonly most: Triple },
  as: { readonly scale: number; readonly up: 'y' | 'z' },
): { least: Triple; most: Triple } {
  const corners = {
    positions: Float32Array.of(...least, ...most),
    triangles: new Uint32Array(0),
    colours: null,
  };
  return boundsOfMesh(inMetres(corners, as));
}

export function boundsOfMesh({ positions }: Pick<Mesh, 'positions'>): { least: Triple; most: Triple } {
  const least: Triple = [Infinity, Infinity, Infinity];
  const most: Triple = [-Infinity, -Infinity, -Infinity];
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
  /**
   * Edges that belong to one triangle only, to more than two, and to two that disagree on which side is out.
   */
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
  const same = new Map<string, number>();
  const one = new Uint32Array(p.length / 3);
  const least = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
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
  let flat = 0;
  let volume = 0;
  for (let n = 0; n < t.length; n += 3) {
    const c = [one[t[n]], one[t[n + 1]], one[t[n + 2]]];
    const at = (i: number, a: number): number => p[3 * c[i] + a];
    const [ux, uy, uz] = [0, 1, 2].map((a) => at(1, a) - at(0, a));
    const [vx, vy, vz] = [0, 1, 2].map((a) => at(2, a) - at(0, a));
    const cross = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    if (norm(cross) === 0) {
      flat++;
      continue;
    }

    volume += (at(0, 0) * cross[0] + at(0, 1) * cross[1] + at(0, 2) * cross[2]) / 6;
    for (let e = 0; e < 3; e++) {
      const a = c[e];
      const b = c[(e + 1) % 3];
      const key = Math.min(a, b) * one.length + Math.max(a, b);
      const edge = edges.get(key) ?? { up: 0, down: 0 };
      if (a < b) edge.up++;
      else edge.down++;
      edges.set(key, edge);
    }
  }

  let openEdges = 0;
  let sharedEdges = 0;
  let flippedEdges = 0;
  for (const { up, down } of edges.values()) {
    if (up + down === 1) openEdges++;
    else if (up + down > 2) sharedEdges++;
    else if (up !== down) flippedEdges++;
  }

  return {
    vertices: one.length,
    triangles: t.length / 3,
    size: [most[0] - least[0], most[1] - least[1], most[2] - least[2]],
    openEdges,
    sharedEdges,
    flippedEdges,
    flat,
    volume,
  };
}
