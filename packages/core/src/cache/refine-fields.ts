// What the refine pass works on, made of a coarse frame: its air and the strength of the noise as the kernel
// reads them; and what comes back from it as leaves.
import type { ChannelName } from '../base/channels';
import { square } from '../math/exact';
import { CURL_NOISE_RMS } from '../step/forces/turbulence';
import { LEAF, LEAF_VOXELS, type Leaf, type VdbGrid } from '../files/vdb/format';
import type { Triple } from '../math/vector';
import { extrapolateVelocity } from '../volume/extrapolate-velocity';
import type { Refine } from './refine-settings';
import { blurred } from '../volume/tools/filter';
import { cropToBox, carried, countOf, cropToActive, type CacheVolume } from '../volume/volume';

/** Coarse voxels of clear air around the medium in which detail may go. */
const AROUND = 3;
/** Of a coarse voxel, as the kernel reads it. */
const FLOATS = 12;

/** The box of a frame's medium with room around it. */
export function widened(v: CacheVolume): CacheVolume {
  const own = cropToActive({ ...v, moving: v.active });
  return cropToBox(
    { ...v, moving: v.active },
    own.min.map((m) => m - AROUND) as Triple,
    own.dims.map((d) => d + 2 * AROUND) as Triple,
  );
}

/** Velocity at the middles of a box's voxels, voxels a frame, carried on beyond the medium. */
export function centred(v: CacheVolume, box: CacheVolume, scale: number): Float32Array[] {
  const { parts, min, dims } = extrapolateVelocity(v, v.channels.get('velocity')!);
  const [nx, ny, nz] = box.dims;
  const steps = [1, dims[0], dims[0] * dims[1]];
  const off = box.min.map((m, q) => m - min[q]);
  return parts.map((p, a) => {
    const out = new Float32Array(countOf(box.dims));
    for (let k = 0, n = 0; k < nz; k++)
      for (let j = 0; j < ny; j++)
        for (let i = 0; i < nx; i++, n++) {
          const x = i + off[0];
          const y = j + off[1];
          const z = k + off[2];
          if (x < 0 || y < 0 || z < 0 || x >= dims[0] || y >= dims[1] || z >= dims[2]) continue;
          if ([x, y, z][a] === dims[a] - 1) continue;
          const m = x + y * steps[1] + z * steps[2];
          out[n] = 0.5 * (p[m] + p[m + steps[a]]) * scale;
        }

    return out;
  });
}

/**
 * How strong the noise is: the speed that the flow has at its smallest scale, and the shear across a voxel.
 */
export function strengthOf(
  u: readonly Float32Array[],
  box: CacheVolume,
  { strength, strain }: Refine,
): Float32Array {
  const { dims } = box;
  const [nx, ny, nz] = dims;
  const steps = [1, nx, nx * ny];
  const smooth = u.map((p) => blurred(p, dims, 1));
  const out = new Float32Array(countOf(dims));
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        const inside = i > 0 && j > 0 && k > 0 && i < nx - 1 && j < ny - 1 && k < nz - 1;
        if (!inside) continue;
        let fast = 0;
        let sheared = 0;
        for (let a = 0; a < 3; a++) {
          fast += square(u[a][n] - smooth[a][n]);
          for (let b = 0; b < 3; b++) {
            const s =
              0.25 * (u[a][n + steps[b]] - u[a][n - steps[b]] + u[b][n + steps[a]] - u[b][n - steps[a]]);
            sheared += s * s;
          }
        }

        out[n] =
          ((strength / 100) * (Math.sqrt(fast) + (strain / 100) * Math.sqrt(2 * sheared))) / CURL_NOISE_RMS;
      }

  return blurred(out, dims, 1);
}

/** As the kernel reads it: twelve floats a voxel. */
export function pack(
  box: CacheVolume,
  u: readonly Float32Array[],
  strength: Float32Array,
  sets: readonly (readonly Float32Array[])[],
): Float32Array {
  const count = countOf(box.dims);
  const out = new Float32Array(FLOATS * count);
  const near = grown(box.active, box.dims, 2);
  for (let n = 0; n < count; n++) {
    const o = FLOATS * n;
    for (let a = 0; a < 3; a++) {
      out[o + a] = u[a][n];
      out[o + 4 + a] = sets[0][a][n];
      out[o + 8 + a] = sets[1][a][n];
    }

    out[o + 3] = strength[n];
    out[o + 7] = near[n];
  }

  return out;
}

/** 1 within so many voxels, along the axes in turn. */
function grown(active: Uint8Array, [nx, ny, nz]: Triple, by: number): Float32Array {
  let from = Float32Array.from(active);
  for (const [stride, length] of [
    [1, nx],
    [nx, ny],
    [nx * ny, nz],
  ] as const) {
    const to = new Float32Array(from.length);
    for (let n = 0; n < from.length; n++) {
      if (from[n] === 0) continue;
      const at = Math.floor(n / stride) % length;
      for (let o = Math.max(-by, -at); o <= Math.min(by, length - 1 - at); o++) to[n + o * stride] = 1;
    }

    from = to;
  }

  return from;
}

/**
 * The farthest that anything goes in the frame, coarse voxels along an axis: all octaves of both sets at
 * their greatest are less than eight of the noise's mean.
 */
export function greatest(u: readonly Float32Array[], packed: Float32Array): number {
  let fast = 0;
  let noise = 0;
  for (const p of u) for (let n = 0; n < p.length; n++) fast = Math.max(fast, Math.abs(p[n]));
  for (let n = 3; n < packed.length; n += FLOATS) noise = Math.max(noise, packed[n]);
  return fast + 8 * noise;
}

/** Fills a dense box from leaves and cubes of equal value; 0 where there are none. */
export function unpack(grid: VdbGrid, min: Triple, [nx, ny, nz]: Triple, out: Float32Array): void {
  out.fill(0);
  for (const { origin, span, value, active } of grid.tiles) {
    if (!active) continue;
    const [i0, j0, k0] = origin.map((o, a) => Math.max(0, o - min[a]));
    const [i1, j1, k1] = [nx, ny, nz].map((n, a) => Math.min(n, origin[a] + span - min[a]));
    for (let k = k0; k < k1; k++)
      for (let j = j0; j < j1; j++)
        if (i1 > i0) out.fill(value[0], (k * ny + j) * nx + i0, (k * ny + j) * nx + i1);
  }

  for (const { origin, values, active } of grid.leaves) {
    const at = origin.map((o, a) => o - min[a]);
    if (at[0] <= -LEAF || at[1] <= -LEAF || at[2] <= -LEAF || at[0] >= nx || at[1] >= ny || at[2] >= nz)
      continue;
    for (let v = 0; v < LEAF_VOXELS; v++) {
      if (!((active[v >> 3] >> (v & 7)) & 1)) continue;
      const i = at[0] + (v >> 6);
      const j = at[1] + ((v >> 3) & 7);
      const k = at[2] + (v & 7);
      if (i >= 0 && j >= 0 && k >= 0 && i < nx && j < ny && k < nz) out[(k * ny + j) * nx + i] = values[v];
    }
  }
}

/** Middles to lower faces, m/s. */
export function faced(middles: Float32Array, dims: Triple, axis: number, speed: number): Float32Array {
  const step = [1, dims[0], dims[0] * dims[1]][axis];
  const length = dims[axis];
  const out = new Float32Array(middles.length);
  for (let n = 0; n < out.length; n++)
    out[n] =
      speed * (Math.floor(n / step) % length === 0 ? middles[n] : 0.5 * (middles[n] + middles[n - step]));
  return out;
}

/** A channel that the medium carries, at the fine voxels, linear and by mass. */
export function lookedUp(box: CacheVolume, name: ChannelName, leaves: readonly Leaf[], hf: number): Leaf[] {
  const density = box.channels.get('density')![0];
  const sums = carried(box, name);
  const parts = sums.length;
  const mix = new Mixer(box.dims);
  const per = hf / box.voxelSizeM;
  return leaves.map(({ origin, active }) => {
    const values = new Float32Array(LEAF_VOXELS * parts);
    for (let v = 0; v < LEAF_VOXELS; v++) {
      if (!((active[v >> 3] >> (v & 7)) & 1)) continue;
      mix.at(
        (origin[0] + (v >> 6) + 0.5) * per - 0.5 - box.min[0],
        (origin[1] + ((v >> 3) & 7) + 0.5) * per - 0.5 - box.min[1],
        (origin[2] + (v & 7) + 0.5) * per - 0.5 - box.min[2],
      );
      const d = mix.of(density);
      if (d > 0) for (let c = 0; c < parts; c++) values[v * parts + c] = mix.of(sums[c]) / d;
    }

    return { origin, active, values };
  });
}

/** Linear look-ups of several arrays at one place, in indices of their box; 0 outside. */
export class Mixer {
  private readonly at8 = new Int32Array(8);
  private readonly weight8 = new Float64Array(8);
  constructor(private readonly dims: Triple) {}

  at(x: number, y: number, z: number): void {
    const [nx, ny, nz] = this.dims;
    const i = Math.floor(x);
    const j = Math.floor(y);
    const k = Math.floor(z);
    for (let c = 0; c < 8; c++) {
      const p = i + (c & 1);
      const q = j + ((c >> 1) & 1);
      const r = k + (c >> 2);
      const inside = p >= 0 && q >= 0 && r >= 0 && p < nx && q < ny && r < nz;
      this.at8[c] = inside ? (r * ny + q) * nx + p : 0;
      this.weight8[c] = inside
        ? (c & 1 ? x - i : 1 - x + i) * (c & 2 ? y - j : 1 - y + j) * (c & 4 ? z - k : 1 - z + k)
        : 0;
    }
  }

  of(values: Float32Array): number {
    let sum = 0;
    for (let c = 0; c < 8; c++) sum += this.weight8[c] * values[this.at8[c]];
    return sum;
  }
}

export function above(values: Float32Array, threshold: number): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let n = 0; n < out.length; n++) out[n] = values[n] > threshold ? 1 : 0;
  return out;
}
