// Between dense fields (x fastest) and leaves (z fastest, active voxels only).
import { cube } from '../../math/exact';
import { LEAF, LEAF_VOXELS, type Leaf, type Tile, type VdbGrid } from './format';

/**
 * Cuts dense components into leaves; leaves without an active voxel are left out, inactive voxels hold 0.
 * @param parts one array for each component, nx·ny·nz values, x fastest
 * @param active a byte a voxel, 0 = inactive
 * @param origin index of the voxel (0,0,0) of the arrays; any integers
 */
export function toLeaves(
  parts: readonly Float32Array[],
  active: Uint8Array,
  dims: readonly [number, number, number],
  origin: readonly [number, number, number],
): Leaf[] {
  const [nx, ny] = dims;
  const n = parts.length;
  const first = origin.map((o) => Math.floor(o / LEAF));
  const last = origin.map((o, a) => Math.floor((o + dims[a] - 1) / LEAF));
  const leaves: Leaf[] = [];
  const mask = new Uint8Array(LEAF_VOXELS / 8);
  for (let X = first[0]; X <= last[0]; X++) {
    for (let Y = first[1]; Y <= last[1]; Y++) {
      for (let Z = first[2]; Z <= last[2]; Z++) {
        const at: [number, number, number] = [X * LEAF, Y * LEAF, Z * LEAF];
        const lo = at.map((c, a) => Math.max(0, c - origin[a]));
        const hi = at.map((c, a) => Math.min(dims[a], c - origin[a] + LEAF));
        mask.fill(0);
        let values: Float32Array | null = null;
        for (let k = lo[2]; k < hi[2]; k++) {
          for (let j = lo[1]; j < hi[1]; j++) {
            for (let i = lo[0]; i < hi[0]; i++) {
              const from = (k * ny + j) * nx + i;
              if (!active[from]) continue;
              values ??= new Float32Array(LEAF_VOXELS * n);
              const to =
                ((i + origin[0] - at[0]) << 6) | ((j + origin[1] - at[1]) << 3) | (k + origin[2] - at[2]);
              mask[to >> 3] |= 1 << (to & 7);
              for (let c = 0; c < n; c++) values[to * n + c] = parts[c][from];
            }
          }
        }

        if (values) leaves.push({ origin: at, active: mask.slice(), values });
      }
    }
  }

  return leaves;
}

/** The least box of active voxels, both ends included; null where there are none. */
export function activeBounds({
  leaves,
  tiles = [],
}: {
  readonly leaves: readonly Pick<Leaf, 'origin' | 'active'>[];
  readonly tiles?: readonly Tile[];
}): { min: [number, number, number]; max: [number, number, number]; voxels: number } | null {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  let voxels = 0;
  const grow = (p: readonly number[], span: number): void => {
    for (let a = 0; a < 3; a++) {
      min[a] = Math.min(min[a], p[a]);
      max[a] = Math.max(max[a], p[a] + span - 1);
    }
  };

  for (const { origin, active } of leaves) {
    // bytes of the mask are rows along z; which bits are in any row, and the first and last rows
    let any = 0;
    let [x0, x1, y0, y1] = [LEAF, -1, LEAF, -1];
    for (let row = 0; row < active.length; row++) {
      const bits = active[row];
      if (bits === 0) continue;
      any |= bits;
      for (let b = bits; b; b &= b - 1) voxels++;
      const x = row >> 3;
      const y = row & 7;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
    }

    if (any === 0) continue;
    const z0 = 31 - Math.clz32(any & -any);
    const z1 = 31 - Math.clz32(any);
    grow([origin[0] + x0, origin[1] + y0, origin[2] + z0], 1);
    grow([origin[0] + x1, origin[1] + y1, origin[2] + z1], 1);
  }

  for (const t of tiles) {
    if (!t.active) continue;
    voxels += cube(t.span);
    grow(t.origin, t.span);
  }

  return voxels
    ? { min: min as [number, number, number], max: max as [number, number, number], voxels }
    : null;
}

/** Dense values of a box (x fastest), background where nothing is stored. One array a component. */
export function toDense(
  grid: Pick<VdbGrid, 'kind' | 'background' | 'tiles' | 'leaves'>,
  min: readonly [number, number, number],
  dims: readonly [number, number, number],
): Float32Array[] {
  const n = grid.kind === 'vec3' ? 3 : 1;
  const [nx, ny, nz] = dims;
  const out = Array.from({ length: n }, (_, c) => {
    const part = new Float32Array(nx * ny * nz);
    return grid.background[c] === 0 ? part : part.fill(grid.background[c]);
  });
  for (const t of grid.tiles)
    fillTile(t, min, dims, (from, to) => out.forEach((f, c) => f.fill(t.value[c], from, to)));

  for (const { origin, values } of grid.leaves) {
    const [x0, y0, z0] = origin.map((o, a) => o - min[a]);
    const [i0, i1] = [Math.max(0, -x0), Math.min(LEAF, nx - x0)];
    for (let k = Math.max(0, -z0), kEnd = Math.min(LEAF, nz - z0); k < kEnd; k++)
      for (let j = Math.max(0, -y0), jEnd = Math.min(LEAF, ny - y0); j < jEnd; j++) {
        const row = ((z0 + k) * ny + y0 + j) * nx + x0;
        const line = (j << 3) | k;
        for (let c = 0; c < n; c++) {
          const part = out[c];
          for (let i = i0; i < i1; i++) part[row + i] = values[((i << 6) | line) * n + c];
        }
      }
  }

  return out;
}

/** A byte a voxel of a box (x fastest): 1 where the grid is active. */
export function toMask(
  grid: Pick<VdbGrid, 'tiles' | 'leaves'>,
  min: readonly [number, number, number],
  dims: readonly [number, number, number],
): Uint8Array {
  const [nx, ny, nz] = dims;
  const out = new Uint8Array(nx * ny * nz);
  for (const t of grid.tiles) fillTile(t, min, dims, (from, to) => out.fill(Number(t.active), from, to));
  for (const { origin, active } of grid.leaves) {
    const [x0, y0, z0] = origin.map((o, a) => o - min[a]);
    // a byte of the mask is a row along z
    for (let i = Math.max(0, -x0), iEnd = Math.min(LEAF, nx - x0); i < iEnd; i++)
      for (let j = Math.max(0, -y0), jEnd = Math.min(LEAF, ny - y0); j < jEnd; j++)
        for (let bits = active[(i << 3) | j]; bits; bits &= bits - 1) {
          const k = z0 + 31 - Math.clz32(bits & -bits);
          if (k >= 0 && k < nz) out[(k * ny + y0 + j) * nx + x0 + i] = 1;
        }
  }

  return out;
}

/** Visits the rows of a box that a tile fills, as ranges of its places. */
function fillTile(
  { origin, span }: Tile,
  min: readonly number[],
  dims: readonly number[],
  fill: (from: number, to: number) => void,
): void {
  const lo = origin.map((o, a) => Math.max(0, o - min[a]));
  const hi = origin.map((o, a) => Math.min(dims[a], o - min[a] + span));
  if (hi[0] <= lo[0]) return;
  for (let k = lo[2]; k < hi[2]; k++)
    for (let j = lo[1]; j < hi[1]; j++) {
      const row = (k * dims[1] + j) * dims[0];
      fill(row + lo[0], row + hi[0]);
    }
}
