// A brick: a small picture of one frame's density for a screen, a byte a voxel, with the colour that it
// carries.
import { cube } from '../math/exact';
import type { Triple } from '../math/vector';
import type { VdbGrid } from '../files/vdb/format';
import { activeBounds } from '../files/vdb/leaves';
import { carried, cornerOf, seenDensity, type CacheVolume } from './volume';

export interface PreviewVolume {
  readonly frame: number;
  readonly dims: Triple;
  /** World position of the least corner and edge of a brick voxel, m. */
  readonly corner: Triple;
  readonly voxelSizeM: number;
  /** The density that the byte 255 stands for. */
  readonly greatest: number;
  /** x fastest. */
  readonly bytes: Uint8Array;
  /** Null where none is carried. */
  readonly colour: PreviewColour | null;
}
/** Carried colour on a grid with the brick's least corner and voxels twice as large. */
export interface PreviewColour {
  readonly dims: Triple;
  /** Red, green, blue and 255; all 0 where there is no medium. x fastest. */
  readonly bytes: Uint8Array;
}

/** Thickest that a deposit may be before it hides the differences of the medium in the air. */
const FULL_DEPOSIT = 1;

/** The density that the byte 255 stands for, by the greatest in the air and of a deposit. */
export const greatestSeen = (inAir: number, deposit: number): number =>
  Math.max(inAir, Math.min(FULL_DEPOSIT, deposit), 1e-6);

/** The same of a frame that was read from disk. */
export function previewVolumeOf(v: CacheVolume, longest: number): PreviewVolume {
  const step = Math.ceil(Math.max(...v.dims) / longest);
  const dims = v.dims.map((n) => Math.ceil(n / step)) as Triple;
  const density = v.channels.get('density')![0];
  const seen = seenDensity(v);
  const greatest = greatestSeen(
    density.reduce((m, d) => Math.max(m, d), 0),
    seen === density ? 0 : seen.reduce((m, d) => Math.max(m, d), 0),
  );
  const corner = cornerOf(v);
  const means = blockMeans(seen, v.dims, step);
  const coloured = v.channels.has('colour');
  const tints = (): PreviewColour => {
    const wide = 2 * step;
    const thick = blockMeans(density, v.dims, wide);
    const sums = carried(v, 'colour').map((c) => blockMeans(c, v.dims, wide));
    const bytes = new Uint8Array(4 * thick.length);
    for (let n = 0; n < thick.length; n++) {
      if (thick[n] < FAINT * greatest) continue;
      sums.forEach((c, a) => (bytes[4 * n + a] = Math.min(255, Math.max(0, (c[n] * 255) / thick[n] + 0.5))));
      bytes[4 * n + 3] = 255;
    }

    return { dims: v.dims.map((n) => Math.ceil(n / wide)) as Triple, bytes };
  };

  return {
    frame: v.frame,
    dims,
    corner,
    voxelSizeM: v.voxelSizeM * step,
    greatest,
    bytes: toBytes(means, 255 / greatest),
    colour: coloured ? tints() : null,
  };
}

/** The same of grids, where the frame is too large to be made dense. @param grids that of density first */
export function previewVolumeOfGrids(
  grids: readonly VdbGrid[],
  frame: number,
  longest: number,
): PreviewVolume {
  const [density] = grids;
  const bounds = activeBounds(density);
  const min: Triple = bounds?.min ?? [0, 0, 0];
  const size = (bounds?.max ?? [0, 0, 0]).map((m, a) => m - min[a] + 1);
  const step = Math.ceil(Math.max(...size) / longest);
  const h = density.voxelSize[0];
  let greatest = 1e-6;
  /** Sums over cubes of voxels, of density times a component of another grid. */
  const sums = (cube: number, of: VdbGrid | null, part: number): { dims: Triple; values: Float32Array } => {
    const dims = size.map((n) => Math.ceil(n / cube)) as Triple;
    const values = new Float32Array(dims[0] * dims[1] * dims[2]);
    density.leaves.forEach((leaf, n) => {
      for (let v = 0; v < 512; v++) {
        if (!((leaf.active[v >> 3] >> (v & 7)) & 1)) continue;
        const i = Math.floor((leaf.origin[0] + (v >> 6) - min[0]) / cube);
        const j = Math.floor((leaf.origin[1] + ((v >> 3) & 7) - min[1]) / cube);
        const k = Math.floor((leaf.origin[2] + (v & 7) - min[2]) / cube);
        values[(k * dims[1] + j) * dims[0] + i] +=
          leaf.values[v] * (of ? of.leaves[n].values[3 * v + part] : 1);
        if (leaf.values[v] > greatest) greatest = leaf.values[v];
      }
    });
    return { dims, values };
  };

  const { dims, values } = sums(step, null, 0);
  const per = 255 / (greatest * cube(step));
  const colour = grids.find((g) => g.name === 'colour');
  const tints = (of: VdbGrid): PreviewColour => {
    const thick = sums(2 * step, null, 0);
    const bytes = new Uint8Array(4 * thick.values.length);
    for (let c = 0; c < 3; c++) {
      const own = sums(2 * step, of, c).values;
      for (let n = 0; n < own.length; n++) {
        if (thick.values[n] <= 0) continue;
        bytes[4 * n + c] = Math.min(255, Math.max(0, (255 * own[n]) / thick.values[n] + 0.5));
        bytes[4 * n + 3] = 255;
      }
    }

    return { dims: thick.dims, bytes };
  };

  return {
    frame,
    dims,
    voxelSizeM: h * step,
    greatest,
    colour: colour ? tints(colour) : null,
    corner: min.map((m, a) => density.translation[a] + (m - 0.5) * h) as Triple,
    bytes: toBytes(values, per),
  };
}

function toBytes(values: Float32Array, times: number): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let n = 0; n < out.length; n++) out[n] = Math.min(255, values[n] * times + 0.5);
  return out;
}

/** Means over cubes of `step` voxels; those at the far sides reach beyond the box, into nothing. */
export function blockMeans(values: Float32Array, [nx, ny, nz]: Triple, step: number): Float32Array {
  const [mx, my, mz] = [nx, ny, nz].map((n) => Math.ceil(n / step));
  const out = new Float32Array(mx * my * mz);
  const per = 1 / cube(step);
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++) {
      const row = (Math.floor(k / step) * my + Math.floor(j / step)) * mx;
      for (let i = 0; i < nx; i++, n++)
        if (values[n] !== 0) out[row + Math.floor(i / step)] += values[n] * per;
    }

  return out;
}

/** Density below this part of the greatest has no colour of its own. */
export const FAINT = 1e-4;

/**
 * How much of two frames' media lies where the other has none, 0…1: one less twice what both have over the
 * sum of them. The second is looked up at the middles of the first one's voxels.
 */
export function mediumDifference(a: PreviewVolume, b: PreviewVolume): number {
  const volume = (x: PreviewVolume): number => cube(x.voxelSizeM);
  const mass = (x: PreviewVolume): number =>
    (x.bytes.reduce((s, v) => s + v, 0) * x.greatest * volume(x)) / 255;
  const all = mass(a) + mass(b);
  if (all === 0) return 0;
  const [nx, ny, nz] = a.dims;
  const [mx, my, mz] = b.dims;
  const at = (n: number, axis: number): number =>
    Math.floor((a.corner[axis] + (n + 0.5) * a.voxelSizeM - b.corner[axis]) / b.voxelSizeM);
  let both = 0;
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        if (a.bytes[n] === 0) continue;
        const x = at(i, 0);
        const y = at(j, 1);
        const z = at(k, 2);
        if (x < 0 || y < 0 || z < 0 || x >= mx || y >= my || z >= mz) continue;
        both += Math.min(a.bytes[n] * a.greatest, b.bytes[(z * my + y) * mx + x] * b.greatest);
      }

  return Math.max(0, 1 - (2 * both * volume(a)) / 255 / all);
}
