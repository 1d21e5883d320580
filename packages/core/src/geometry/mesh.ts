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

export function boundsOfMesh({ positions: p }: Pick<Mesh, 'positions'>): { least: Triple; most: Triple } {
  const least: Triple = [Infinity, Infinity, Infinity];
  const most: Triple = [-Infinity, -Infinity, -Infinity];
  for (let a = 0; a < 3; a++)
    for (let n = a; n < p.length; n += 3) {
      if (p[n] < least[a]) least[a] = p[n];
      if (p[n] > most[a]) most[a] = p[n];
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
  const one = firstAtPlace(p);
  const { least, most } = boundsOfMesh(mesh);
  const isFlat = new Uint8Array(t.length / 3);
  let flat = 0;
  let volume = 0;
  const cross = [0, 0, 0];
  for (let n = 0; n < t.length; n += 3) {
    const [a, b, c] = [3 * one[t[n]], 3 * one[t[n + 1]], 3 * one[t[n + 2]]];
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    cross[0] = uy * vz - uz * vy;
    cross[1] = uz * vx - ux * vz;
    cross[2] = ux * vy - uy * vx;
    if (norm(cross) === 0) {
      isFlat[n / 3] = 1;
      flat++;
    } else volume += (p[a] * cross[0] + p[a + 1] * cross[1] + p[a + 2] * cross[2]) / 6;
  }

  return {
    vertices: one.length,
    triangles: t.length / 3,
    size: [most[0] - least[0], most[1] - least[1], most[2] - least[2]],
    ...faultsOfEdges(t, one, isFlat),
    flat,
    volume,
  };
}

/** Of each vertex the first at its place, found by a table of open addresses. */
function firstAtPlace(positions: Float32Array): Uint32Array {
  // a place of −0 is that of 0
  const plain = positions.map((v) => v + 0);
  const bits = new Int32Array(plain.buffer, plain.byteOffset, plain.length);
  const count = positions.length / 3;
  let size = 2;
  while (size < 2 * count) size *= 2;
  const mask = size - 1;
  const slots = new Int32Array(size);
  const one = new Uint32Array(count);
  for (let v = 0; v < count; v++) {
    const [x, y, z] = [bits[3 * v], bits[3 * v + 1], bits[3 * v + 2]];
    let hash = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77) ^ Math.imul(z, 0xc2b2ae3d);
    hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d);
    let slot = (hash ^ (hash >>> 13)) & mask;
    for (; ; slot = (slot + 1) & mask) {
      const w = slots[slot] - 1;
      if (w < 0) {
        slots[slot] = v + 1;
        one[v] = v;
        break;
      }

      if (bits[3 * w] !== x || bits[3 * w + 1] !== y || bits[3 * w + 2] !== z) continue;
      one[v] = w;
      break;
    }
  }

  return one;
}

/** Edges are gathered by the lower of their ends: few share one, so that each heap is soon in order. */
function faultsOfEdges(
  t: Uint32Array,
  one: Uint32Array,
  isFlat: Uint8Array,
): Pick<MeshReport, 'openEdges' | 'sharedEdges' | 'flippedEdges'> {
  const starts = new Uint32Array(one.length + 1);
  const eachEdge = (act: (low: number, high: number, down: number) => void): void => {
    for (let n = 0; n < t.length; n += 3) {
      if (isFlat[n / 3]) continue;
      for (let e = 0; e < 3; e++) {
        const a = one[t[n + e]];
        const b = one[t[n + ((e + 1) % 3)]];
        if (a < b) act(a, b, 0);
        else act(b, a, 1);
      }
    }
  };

  eachEdge((low) => void starts[low + 1]++);
  for (let v = 0; v < one.length; v++) starts[v + 1] += starts[v];
  const next = starts.slice();
  // the higher end, and which way it is walked
  const ends = new Uint32Array(starts[one.length]);
  eachEdge((low, high, down) => void (ends[next[low]++] = 2 * high + down));
  let openEdges = 0;
  let sharedEdges = 0;
  let flippedEdges = 0;
  for (let v = 0; v < one.length; v++) {
    sortPart(ends, starts[v], starts[v + 1]);
    for (let n = starts[v]; n < starts[v + 1];) {
      const high = ends[n] >>> 1;
      let count = 0;
      let down = 0;
      for (; n < starts[v + 1] && ends[n] >>> 1 === high; n++, count++) down += ends[n] & 1;
      if (count === 1) openEdges++;
      else if (count > 2) sharedEdges++;
      else if (down !== 1) flippedEdges++;
    }
  }

  return { openEdges, sharedEdges, flippedEdges };
}

const FEW = 24;

/** Sorts a part of a list; most are so short that moving them one by one is quickest. */
function sortPart(list: Uint32Array, from: number, end: number): void {
  if (end - from > FEW) {
    list.subarray(from, end).sort();
    return;
  }

  for (let n = from + 1; n < end; n++) {
    const v = list[n];
    let to = n;
    for (; to > from && list[to - 1] > v; to--) list[to] = list[to - 1];
    list[to] = v;
  }
}
