// A glimpse: one frame's air and medium on a coarse grid, small enough to keep for every frame that a screen
// shows.
import { trilinear } from '../math/trilinear';
import type { Triple } from '../math/vector';
import { blockMeans } from './preview-volume';
import { cornerOf, type CacheVolume } from './volume';

export const COARSE_FLOW_CHANNELS = [
  'velocityX',
  'velocityY',
  'velocityZ',
  'density',
  'temperature',
] as const;

export interface CoarseFlow {
  readonly frame: number;
  readonly dims: Triple;
  /** World position of the least corner and edge of a cell, m. */
  readonly corner: Triple;
  readonly cellM: number;
  /** As GLIMPSED, one behind the other, at the cells' middles, x fastest; m/s, density, K. */
  readonly values: Float32Array;
}

/** The same of a frame that was read from disk; channels that it does not keep are 0. */
export function coarseFlowOf(v: CacheVolume, longest = 32): CoarseFlow {
  const step = Math.ceil(Math.max(...v.dims) / longest);
  const dims = v.dims.map((n) => Math.ceil(n / step)) as Triple;
  const count = dims[0] * dims[1] * dims[2];
  const values = new Float32Array(COARSE_FLOW_CHANNELS.length * count);
  const parts = [
    ...(v.channels.get('velocity') ?? [null, null, null]),
    v.channels.get('density')![0],
    v.channels.get('temperature')?.[0],
  ];
  parts.forEach((p, n) => p && values.set(blockMeans(p, v.dims, step), n * count));
  return { frame: v.frame, dims, corner: cornerOf(v), cellM: v.voxelSizeM * step, values };
}

/**
 * Reads one of the glimpsed channels anywhere, linear between the cells' middles, level beyond the outermost.
 */
export function coarseFlowAt(
  { dims, corner, cellM, values }: CoarseFlow,
  channel: number,
  x: number,
  y: number,
  z: number,
): number {
  const [nx, ny, nz] = dims;
  const base = channel * nx * ny * nz;
  const at = (p: number, a: number, n: number): [number, number, number] => {
    const t = Math.min(n - 1, Math.max(0, (p - corner[a]) / cellM - 0.5));
    const i = Math.min(Math.max(0, n - 2), Math.floor(t));
    return [i, Math.min(n - 1, i + 1), t - i];
  };

  const [i, i1, a] = at(x, 0, nx);
  const [j, j1, b] = at(y, 1, ny);
  const [k, k1, c] = at(z, 2, nz);
  const v = (u: number, w: number, q: number): number => values[base + (q * ny + w) * nx + u];
  const [v000, v100, v010, v110] = [v(i, j, k), v(i1, j, k), v(i, j1, k), v(i1, j1, k)];
  const [v001, v101, v011, v111] = [v(i, j, k1), v(i1, j, k1), v(i, j1, k1), v(i1, j1, k1)];
  return trilinear(v000, v100, v010, v110, v001, v101, v011, v111, a, b, c);
}
