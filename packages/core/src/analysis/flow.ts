// How the air goes at a frame, out of its glimpse: arrows, streamlines, planes of a channel, values at a
// place.
import { coarseFlowAt, COARSE_FLOW_CHANNELS, type CoarseFlow } from '../volume/coarse-flow';
import type { PreviewVolume } from '../volume/preview-volume';
import type { Triple } from '../math/vector';
import type { Arrows, Slice } from './seeing';

/** Channels of a frame that a plane can show, with their units. */
export const SHOWN = { density: '', temperature: 'K', speed: 'm/s', 'speed upward': 'm/s' } as const;
export type Shown = keyof typeof SHOWN;

const ARROWS = 14;

/** Value of one of the shown channels at a place. */
export function shownAt(g: CoarseFlow, channel: Shown, x: number, y: number, z: number): number {
  const at = (name: (typeof COARSE_FLOW_CHANNELS)[number]): number =>
    coarseFlowAt(g, COARSE_FLOW_CHANNELS.indexOf(name), x, y, z);
  if (channel === 'speed') return Math.hypot(at('velocityX'), at('velocityY'), at('velocityZ'));
  return at(channel === 'speed upward' ? 'velocityY' : channel);
}

/** One of the shown channels in all cells of a glimpse. */
export function channelOf({ dims, values }: CoarseFlow, channel: Shown): Float32Array {
  const count = dims[0] * dims[1] * dims[2];
  const own = (name: (typeof COARSE_FLOW_CHANNELS)[number]): Float32Array => {
    const n = COARSE_FLOW_CHANNELS.indexOf(name);
    return values.subarray(n * count, (n + 1) * count);
  };

  if (channel !== 'speed') return own(channel === 'speed upward' ? 'velocityY' : channel);
  const [u, v, w] = [own('velocityX'), own('velocityY'), own('velocityZ')];
  return u.map((x, n) => Math.hypot(x, v[n], w[n]));
}

/** The air's speed as arrows, under the name `air`, m/s. */
export function airArrows(g: CoarseFlow): Arrows {
  const every = Math.max(1, Math.round(Math.max(...g.dims) / ARROWS));
  const places: number[] = [];
  const air: number[] = [];
  const [nx, ny, nz] = g.dims;
  const count = nx * ny * nz;
  for (let k = every >> 1; k < nz; k += every)
    for (let j = every >> 1; j < ny; j += every)
      for (let i = every >> 1; i < nx; i += every) {
        const n = (k * ny + j) * nx + i;
        places.push(...[i, j, k].map((c, a) => g.corner[a] + (c + 0.5) * g.cellM));
        air.push(g.values[n], g.values[n + count], g.values[n + 2 * count]);
      }

  return {
    places: Float32Array.from(places),
    spacingM: every * g.cellM,
    pushes: { air: Float32Array.from(air) },
  };
}

export interface Streamlines {
  /** Ends of pieces, x y z each, two by two. */
  readonly pieces: Float32Array;
  /** Speed at each end, m/s. */
  readonly speeds: Float32Array;
}
const SEEDS = 9;
const STEPS = 48;
/** Air slower than this part of the fastest draws no line. */
const STILL = 0.02;

/**
 * Lines along the air as it goes at this moment, from places spread evenly over the domain, half of each line
 * before its place and half behind it: fourth-order Runge–Kutta, steps of half a cell.
 */
export function streamlines(g: CoarseFlow): Streamlines {
  const [nx, ny, nz] = g.dims;
  const count = nx * ny * nz;
  const high = g.corner.map((c, a) => c + g.dims[a] * g.cellM);
  let fastest = 0;
  for (let n = 0; n < count; n++)
    fastest = Math.max(fastest, Math.hypot(g.values[n], g.values[n + count], g.values[n + 2 * count]));
  const pieces: number[] = [];
  const speeds: number[] = [];
  if (fastest === 0) return { pieces: new Float32Array(0), speeds: new Float32Array(0) };
  const speedAt = ([x, y, z]: Triple): Triple => [0, 1, 2].map((c) => coarseFlowAt(g, c, x, y, z)) as Triple;
  const size = (v: Triple): number => Math.hypot(...v);
  /** The direction of the air there. */
  const way = (p: Triple): Triple => {
    const v = speedAt(p);
    const s = size(v) || 1;
    return v.map((c) => c / s) as Triple;
  };

  const on = (p: Triple, d: Triple, by: number): Triple => p.map((c, a) => c + d[a] * by) as Triple;
  const follow = (seed: Triple, step: number): void => {
    let p = seed;
    for (let n = 0; n < STEPS / 2; n++) {
      const a = way(p);
      const b = way(on(p, a, step / 2));
      const c = way(on(p, b, step / 2));
      const d = way(on(p, c, step));
      const next = p.map((v, i) => v + (step * (a[i] + 2 * b[i] + 2 * c[i] + d[i])) / 6) as Triple;
      if (next.some((v, i) => v < g.corner[i] || v > high[i]) || size(speedAt(next)) < STILL * fastest)
        return;
      pieces.push(...p, ...next);
      speeds.push(size(speedAt(p)), size(speedAt(next)));
      p = next;
    }
  };

  const every = (Math.max(nx, ny, nz) * g.cellM) / SEEDS;
  for (let z = g.corner[2] + every / 2; z < high[2]; z += every)
    for (let y = g.corner[1] + every / 2; y < high[1]; y += every)
      for (let x = g.corner[0] + every / 2; x < high[0]; x += every) {
        if (size(speedAt([x, y, z])) < STILL * fastest) continue;
        follow([x, y, z], g.cellM / 2);
        follow([x, y, z], -g.cellM / 2);
      }

  return { pieces: Float32Array.from(pieces), speeds: Float32Array.from(speeds) };
}

/** A channel over a plane across an axis; density from the brick, which is finer. */
export function sliceShown(
  g: CoarseFlow,
  brick: PreviewVolume | null,
  channel: Shown,
  axis: 0 | 1 | 2,
  atM: number,
): Slice {
  const fine = channel === 'density' && brick !== null;
  const { dims, corner } = fine ? brick : g;
  const cellM = fine ? brick.voxelSizeM : g.cellM;
  const [a, b] = ([0, 1, 2] as const).filter((x) => x !== axis);
  const fixed = Math.min(dims[axis] - 1, Math.max(0, Math.floor((atM - corner[axis]) / cellM)));
  const values = new Float32Array(dims[a] * dims[b]);
  const place: Triple = [0, 0, 0];
  const cell: Triple = [0, 0, 0];
  cell[axis] = fixed;
  for (let q = 0, n = 0; q < dims[b]; q++)
    for (let p = 0; p < dims[a]; p++) {
      cell[a] = p;
      cell[b] = q;
      if (fine)
        values[n++] = (brick.bytes[(cell[2] * dims[1] + cell[1]) * dims[0] + cell[0]] * brick.greatest) / 255;
      else {
        for (let x = 0; x < 3; x++) place[x] = corner[x] + (cell[x] + 0.5) * cellM;
        values[n++] = shownAt(g, channel, ...place);
      }
    }

  return {
    axis,
    atM: corner[axis] + (fixed + 0.5) * cellM,
    dims: [dims[a], dims[b]],
    corner: [corner[a], corner[b]],
    cellM,
    values,
    unit: SHOWN[channel],
  };
}
