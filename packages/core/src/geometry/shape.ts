// Shapes of sources and obstacles on the lattice, as the kernels read them (shape.ts there), and the same
// distance here.
import { trilinear } from '../math/trilinear';
import { square, norm, lengthOf } from '../math/exact';
import { ShapeKind } from '@bramblemist/kernels/seam';
import type { ShapedPart, RegionPart, StandingPart } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { Mesh } from './mesh';
import type { Pose } from './pose';

/** The kernels' kinds of shapes. */
export const KIND = {
  sphere: ShapeKind.SPHERE,
  box: ShapeKind.BOX,
  cylinder: ShapeKind.CYLINDER,
  ring: ShapeKind.RING,
  ground: ShapeKind.GROUND,
  path: ShapeKind.PATH,
  grid: ShapeKind.GRID,
} as const;
/** A tube or a path is never thinner than this, cells; a thinner one gives off as much from a thicker one. */
const THINNEST = 0.6;

/** Distances at the nodes of a grid in a shape's own axes, cells of the lattice that they were made for. */
export interface DistanceGrid {
  readonly nodes: Triple;
  /** Own place of node (0, 0, 0), cells. */
  readonly first: Triple;
  readonly nodesPerCell: number;
  readonly distances: Float32Array;
}

/** A shape at a moment. Lengths in cells. */
export interface CellShape {
  readonly kind: number;
  /** In the world's lattice. */
  readonly centre: Triple;
  readonly half: Triple;
  readonly toOwn: Pose['toOwn'];
  readonly grow: number;
  readonly facing: 1 | -1;
  readonly corners: readonly Triple[];
  readonly grid: DistanceGrid | null;
  /** Half the box around it in own axes, from its middle; null without an end. */
  readonly reach: readonly [least: Triple, most: Triple] | null;
  /** What is given off times this is what was asked for, where the shape had to be made thicker. */
  readonly gain: number;
}

/** @param h voxel size, m */
export function cellShape(part: ShapedPart, pose: Pose, h: number, grid: DistanceGrid | null): CellShape {
  const r = part.radius / h;
  const size = part.size.map((s) => s / 2 / h) as Triple;
  const tube = Math.max(THINNEST, (part.shape === 'path' ? part.radius : part.tube) / h);
  const thin = Math.min(1, (part.shape === 'path' ? part.radius : part.tube) / h / THINNEST);
  const corners = (part.points ?? []).map((p) => p.map((v) => v / h) as Triple);
  const common = {
    centre: pose.centre.map((c) => c / h) as Triple,
    toOwn: pose.toOwn,
    grow: (part.grow ?? 0) / h,
    facing: (part.facing === 'vessel' ? -1 : 1) as 1 | -1,
    corners: [] as readonly Triple[],
    grid: null,
    gain: 1,
  };
  const nothing: CellShape = {
    ...common,
    kind: KIND.sphere,
    half: [-1, -1, -1],
    reach: [
      [0, 0, 0],
      [0, 0, 0],
    ],
    gain: 0,
  };
  const about = (half: Triple): CellShape['reach'] => [half.map((v) => -v) as Triple, half];
  switch (part.shape) {
    case 'sphere':
      return { ...common, kind: KIND.sphere, half: [r, r, r], reach: about([r, r, r]) };
    case 'box':
    case 'plane':
      return { ...common, kind: KIND.box, half: size, reach: about(size) };
    case 'cylinder':
    case 'disc':
      return { ...common, kind: KIND.cylinder, half: [r, size[1], r], reach: about([r, size[1], r]) };
    case 'ring':
      return {
        ...common,
        kind: KIND.ring,
        half: [r, tube, r],
        reach: about([r + tube, tube, r + tube]),
        gain: square(thin),
      };
    case 'ground':
      return { ...common, kind: KIND.ground, half: [0, 0, 0], reach: null };
    case 'path': {
      const least = [0, 1, 2].map((a) => Math.min(...corners.map((c) => c[a])) - tube) as Triple;
      const most = [0, 1, 2].map((a) => Math.max(...corners.map((c) => c[a])) + tube) as Triple;
      return {
        ...common,
        kind: KIND.path,
        half: [tube, tube, tube],
        corners,
        reach: [least, most],
        gain: square(thin),
      };
    }
    case 'particles': // each of them is a ball of its own, see sources/cover.ts
      return nothing;
    case 'mesh': {
      if (!grid) return nothing;
      const last = grid.first.map((f, a) => f + (grid.nodes[a] - 1) / grid.nodesPerCell) as Triple;
      return { ...common, kind: KIND.grid, half: [0, 0, 0], grid, reach: [grid.first, last] };
    }
  }
}

/**
 * Cells of the window that a shape may touch with so many around, as from and behind the last; all of it for
 * one without an end.
 */
export function boundsOf(
  s: CellShape,
  origin: readonly number[],
  cells: readonly number[],
  around: number,
): readonly [Triple, Triple] {
  if (!s.reach || s.facing < 0) return [[0, 0, 0], [...cells] as unknown as Triple];
  const [least, most] = s.reach;
  const low: number[] = [];
  const high: number[] = [];
  for (let a = 0; a < 3; a++) {
    let from = s.centre[a] - origin[a];
    let to = from;
    for (let m = 0; m < 3; m++) {
      const p = s.toOwn[m][a] * least[m];
      const q = s.toOwn[m][a] * most[m];
      from += Math.min(p, q);
      to += Math.max(p, q);
    }

    const more = around + Math.max(0, s.grow);
    low.push(Math.min(cells[a], Math.max(0, Math.floor(from - more))));
    high.push(Math.min(cells[a], Math.max(0, Math.ceil(to + more))));
  }

  return [low as unknown as Triple, high as unknown as Triple];
}

/**
 * Distance to a shape's surface, cells, negative inside; the place in the world's lattice, cells. As the
 * kernels compute it.
 */
export function distanceTo(s: CellShape, place: readonly number[]): number {
  const d = [place[0] - s.centre[0], place[1] - s.centre[1], place[2] - s.centre[2]];
  const [x, y, z] = s.toOwn.map((r) => r[0] * d[0] + r[1] * d[1] + r[2] * d[2]);
  return s.facing * (ownDistance(s, x, y, z) - s.grow);
}

/** The same in the shape's own axes, before it is grown or turned inside-out. */
export function ownDistance(s: CellShape, x: number, y: number, z: number): number {
  const [hx, hy, hz] = s.half;
  switch (s.kind) {
    case KIND.box: {
      const q = [Math.abs(x) - hx, Math.abs(y) - hy, Math.abs(z) - hz];
      return norm(q.map((v) => Math.max(0, v))) + Math.min(0, Math.max(...q));
    }
    case KIND.cylinder: {
      const q = [lengthOf(x, z) - hx, Math.abs(y) - hy];
      return lengthOf(Math.max(0, q[0]), Math.max(0, q[1])) + Math.min(0, Math.max(...q));
    }
    case KIND.ring:
      return lengthOf(lengthOf(x, z) - hx, y) - hy;
    case KIND.ground:
      return y;
    case KIND.grid:
      return inGrid(s.grid!, x, y, z);
    case KIND.path: {
      let least = Infinity;
      for (let n = 0; n + 1 < s.corners.length; n++) {
        const a = s.corners[n];
        const b = s.corners[n + 1];
        const along = b.map((v, c) => v - a[c]);
        const from = [x - a[0], y - a[1], z - a[2]];
        const long = along.reduce((sum, v) => sum + v * v, 0);
        const t =
          long > 0 ? Math.min(1, Math.max(0, from.reduce((sum, v, c) => sum + v * along[c], 0) / long)) : 0;
        least = Math.min(least, norm(from.map((v, c) => v - t * along[c])));
      }

      return least - hx;
    }

    default:
      return lengthOf(x, y, z) - hx;
  }
}

function inGrid(
  { nodes, first, nodesPerCell, distances }: DistanceGrid,
  x: number,
  y: number,
  z: number,
): number {
  const [nx, ny, nz] = nodes;
  const u = (x - first[0]) * nodesPerCell;
  const v = (y - first[1]) * nodesPerCell;
  const w = (z - first[2]) * nodesPerCell;
  const cu = Math.min(nx - 1, Math.max(0, u));
  const cv = Math.min(ny - 1, Math.max(0, v));
  const cw = Math.min(nz - 1, Math.max(0, w));
  const out = lengthOf(u - cu, v - cv, w - cw) / nodesPerCell;
  const i = Math.min(Math.floor(cu), nx - 2);
  const j = Math.min(Math.floor(cv), ny - 2);
  const k = Math.min(Math.floor(cw), nz - 2);
  const o = (k * ny + j) * nx + i;
  const up = o + nx * ny;
  const d = distances;
  const [v000, v100, v010, v110] = [d[o], d[o + 1], d[o + nx], d[o + nx + 1]];
  const [v001, v101, v011, v111] = [d[up], d[up + 1], d[up + nx], d[up + nx + 1]];
  return trilinear(v000, v100, v010, v110, v001, v101, v011, v111, cu - i, cv - j, cw - k) + out;
}

/** A mesh on the lattice. What it takes in memory is known before it is made. */
export interface MeshShape {
  readonly nodes: Triple;
  /** It has an animation of its own, or is a sequence. */
  readonly moves: boolean;
  readonly masked: boolean;
  /**
   * Its grid's place without distances, the same at all times: enough for bounds and for what kernels read
   * from memory.
   */
  readonly outline: DistanceGrid;
  /**
   * At a simulated time; lengthS: the stretch before it over which the speed of its surface is wanted, 0: not
   * wanted.
   */
  readonly at: (timeS: number, lengthS?: number) => MeshMoment;
  /** Its triangles at a simulated time, in metres of its own axes; a volume has none. */
  readonly surfaceAt?: (timeS: number) => Mesh;
  /** The longest way of any vertex between two times, cells. */
  readonly wayBetween: (fromS: number, toS: number) => number;
}

export interface MeshMoment {
  readonly grid: DistanceGrid;
  /** The mask over its surface at the grid's nodes, 0…1; null without one. */
  readonly mask: Float32Array | null;
  /**
   * Speed of its surface at the grid's nodes, m/s in own axes: x, y, z one behind the other; null where it is
   * rigid.
   */
  readonly flow: Float32Array | null;
  /** Of a volume whose air is followed: its velocity at the grid's nodes, in the same way; null else. */
  readonly ways: Float32Array | null;
}

/** A region with a shape, as something that stands. */
export function solid(part: RegionPart): StandingPart {
  return { ...part, facing: undefined } as unknown as StandingPart;
}
