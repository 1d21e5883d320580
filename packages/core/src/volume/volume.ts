// One frame of a cache, dense over the box that holds its active voxels: what tools, refining and particles
// work on.
import { CHANNEL_NAMES, CHANNELS, isVector, partsOf, type ChannelName } from '../base/channels';
import { cube, square } from '../math/exact';
import { FileError } from '../files/bytes';
import type { VdbFile, VdbGrid } from '../files/vdb/format';
import { activeBounds, toDense, toLeaves, toMask } from '../files/vdb/leaves';
import type { Readings, SixSides } from '../record/readings';
import type { Triple } from '../math/vector';

export interface CacheVolume {
  readonly frame: number;
  readonly voxelSizeM: number;
  /** World position of the middle of voxel (0, 0, 0) of the lattice, m. */
  readonly translation: Triple;
  /** Index of the box's least voxel, and voxels along its edges. */
  readonly min: Triple;
  readonly dims: Triple;
  /** A byte a voxel, x fastest: 1 where there is medium. */
  readonly active: Uint8Array;
  /** The same for velocity, which is known on the far faces of the medium too, or everywhere. */
  readonly moving: Uint8Array;
  /**
   * An array for each component, 0 where inactive; velocity lies on the voxels' lower faces (staggered), all
   * else in their middles.
   */
  readonly channels: ReadonlyMap<ChannelName, readonly Float32Array[]>;
}

/** A dense box holds every channel of all its voxels; larger ones are refused before they are made. */
const MOST_VOXELS = 2 ** 28;

export const countOf = (dims: Triple): number => dims[0] * dims[1] * dims[2];

/** World position of the box's least corner, m. */
export function cornerOf(v: Pick<CacheVolume, 'translation' | 'min' | 'voxelSizeM'>): Triple {
  return v.min.map((m, a) => v.translation[a] + (m - 0.5) * v.voxelSizeM) as Triple;
}

/** @throws FileError where the box is too large */
export function checkBox(dims: Triple): void {
  if (countOf(dims) > MOST_VOXELS)
    throw new FileError(
      `A box of ${dims.join(' × ')} voxels is too large to work on at once (${MOST_VOXELS / 1e6} ` +
        'million are the most). Crop it, or make its voxels larger',
    );
}

/** A frame without medium. */
export function emptyVolume(
  like: Pick<CacheVolume, 'frame' | 'voxelSizeM' | 'translation' | 'channels'>,
): CacheVolume {
  const { frame, voxelSizeM, translation } = like;
  const dims: Triple = [1, 1, 1];
  const channels = new Map([...like.channels.keys()].map((name) => [name, emptyChannel(name, 1)]));
  return {
    frame,
    voxelSizeM,
    translation,
    min: [0, 0, 0],
    dims,
    active: new Uint8Array(1),
    moving: new Uint8Array(1),
    channels,
  };
}

export function emptyChannel(name: ChannelName, count: number): Float32Array[] {
  return Array.from({ length: partsOf(name) }, () => new Float32Array(count));
}

/**
 * @param file a file of ours, or of another program with the same names
 * @throws FileError where its grids do not fit together
 */
export function volumeFrom(file: Pick<VdbFile, 'grids' | 'others'>, frame: number): CacheVolume {
  const grids = CHANNEL_NAMES.flatMap((name) => {
    const grid = file.grids.find((g) => g.name === name);
    return grid ? [[name, grid] as const] : [];
  });
  const density = grids.find(([name]) => name === 'density')?.[1];
  if (!density || density.kind !== 'float')
    throw new FileError(
      'It holds no float grid called density (it holds: ' +
        `${[...file.grids, ...file.others].map((g) => g.name).join(', ') || 'none'})`,
    );
  const [h] = density.voxelSize;
  const translation: Triple = [...density.translation];
  for (const [name, g] of grids) {
    if ((g.kind === 'vec3') !== isVector(name))
      throw new FileError(`Its grid ${name} is of another type than ours`);
    const far = Math.max(
      ...g.voxelSize.map((s) => Math.abs(s - h)),
      ...g.translation.map((t, a) => Math.abs(t - translation[a])),
    );
    if (far > 1e-6 * h)
      throw new FileError(
        `Its grids lie on different lattices (${name} is not as density is). Resample them first`,
      );
  }

  const bounds = grids.map(([, g]) => activeBounds(g)).filter((b) => b !== null);
  const empty = { frame, voxelSizeM: h, translation, channels: new Map(grids.map(([name]) => [name, []])) };
  if (bounds.length === 0) return emptyVolume(empty);
  const min = [0, 1, 2].map((a) => Math.min(...bounds.map((b) => b.min[a]))) as Triple;
  const dims = min.map((m, a) => Math.max(...bounds.map((b) => b.max[a])) - m + 1) as Triple;
  checkBox(dims);
  const velocity = grids.find(([name]) => name === 'velocity')?.[1];
  return {
    frame,
    voxelSizeM: h,
    translation,
    min,
    dims,
    active: toMask(density, min, dims),
    moving: velocity ? toMask(velocity, min, dims) : new Uint8Array(countOf(dims)),
    channels: new Map(
      grids.map(([name, g]) => [name, toDense({ ...g, background: g.background.map(() => 0) }, min, dims)]),
    ),
  };
}

/** The frame as OpenVDB grids: active voxels only. */
export function gridsOf(v: CacheVolume, precision: 'half' | 'float'): VdbGrid[] {
  return CHANNEL_NAMES.filter((name) => v.channels.has(name)).map((name) => ({
    ...gridHead(name, v.voxelSizeM, v.translation, precision),
    tiles: [],
    leaves: toLeaves(v.channels.get(name)!, maskFor(v, name), v.dims, v.min),
  }));
}

/** What the grid of a channel says of itself. */
export const gridHead = (
  name: ChannelName,
  h: number,
  translation: Triple,
  precision: 'half' | 'float',
): Omit<VdbGrid, 'leaves' | 'tiles'> => ({
  name,
  kind: isVector(name) ? 'vec3' : 'float',
  half: precision === 'half',
  background: new Array<number>(partsOf(name)).fill(0),
  translation,
  voxelSize: [h, h, h],
  metadata: CHANNELS[name].grid,
});

/** Where a channel has something to say: velocity where it is known, others where they are not 0. */
function maskFor(v: CacheVolume, name: ChannelName): Uint8Array {
  if (name === 'velocity') return v.moving;
  if (name === 'density') return v.active;
  const parts = v.channels.get(name)!;
  return v.active.map((a, n) => a & Number(parts.some((p) => p[n] !== 0)));
}

/**
 * Where velocity is kept about the medium: voxel (i,j,k) holds its lower faces, so those behind the medium
 * hold its upper ones.
 */
export function facesAbout(active: Uint8Array, dims: Triple): Uint8Array {
  const out = new Uint8Array(active.length);
  const [nx, ny, nz] = dims;
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const n = (k * ny + j) * nx + i;
        out[n] =
          active[n] |
          (i > 0 ? active[n - 1] : 0) |
          (j > 0 ? active[n - nx] : 0) |
          (k > 0 ? active[n - nx * ny] : 0);
      }

  return out;
}

/** The least box around what is active or moving, and nothing else of the frame. */
export function cropToActive(v: CacheVolume): CacheVolume {
  const [nx, ny, nz] = v.dims;
  const min = [nx, ny, nz];
  const max = [-1, -1, -1];
  const isThere = (n: number): boolean => v.active[n] !== 0 || v.moving[n] !== 0;
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++) {
      const row = (k * ny + j) * nx;
      let first = 0;
      while (first < nx && !isThere(row + first)) first++;
      if (first === nx) continue;
      let last = nx - 1;
      while (!isThere(row + last)) last--;
      min[0] = Math.min(min[0], first);
      max[0] = Math.max(max[0], last);
      min[1] = Math.min(min[1], j);
      max[1] = Math.max(max[1], j);
      min[2] = Math.min(min[2], k);
      max[2] = k;
    }

  if (max[0] < 0) return emptyVolume(v);
  const dims = max.map((m, a) => m - min[a] + 1) as Triple;
  if (dims.every((d, a) => d === v.dims[a])) return v;
  return cropToBox(v, v.min.map((m, a) => m + min[a]) as Triple, dims);
}

/** Another box of the same lattice; what lies outside of the old one is empty. */
export function cropToBox(v: CacheVolume, min: Triple, dims: Triple): CacheVolume {
  checkBox(dims);
  const off = min.map((m, a) => m - v.min[a]);
  const [nx, ny, nz] = dims;
  const [ox, oy] = v.dims;
  const i0 = Math.max(0, -off[0]);
  const i1 = Math.min(nx, v.dims[0] - off[0]);
  const move = <T extends Float32Array | Uint8Array>(from: T, to: T): T => {
    for (let k = Math.max(0, -off[2]); k < Math.min(nz, v.dims[2] - off[2]); k++)
      for (let j = Math.max(0, -off[1]); j < Math.min(ny, v.dims[1] - off[1]); j++) {
        if (i1 <= i0) continue;
        const row = ((k + off[2]) * oy + j + off[1]) * ox + off[0];
        to.set(from.subarray(row + i0, row + i1), (k * ny + j) * nx + i0);
      }

    return to;
  };

  const count = countOf(dims);
  return {
    ...v,
    min,
    dims,
    active: move(v.active, new Uint8Array(count)),
    moving: move(v.moving, new Uint8Array(count)),
    channels: new Map(
      [...v.channels].map(([name, parts]) => [name, parts.map((p) => move(p, new Float32Array(count)))]),
    ),
  };
}

/**
 * With every channel set to 0 where the medium was taken away, and velocity kept about what is left of it.
 */
export function withActive(v: CacheVolume, active: Uint8Array): CacheVolume {
  const everywhere = v.moving.every((m) => m === 1);
  const moving = everywhere ? v.moving : facesAbout(active, v.dims).map((m, n) => m & v.moving[n]);
  const channels = new Map(
    [...v.channels].map(([name, parts]) => {
      const mask = name === 'velocity' ? moving : active;
      return [name, parts.map((p) => p.map((x, n) => (mask[n] ? x : 0)))] as const;
    }),
  );
  return { ...v, active, moving, channels };
}

/**
 * Reads a component anywhere, linear between where its values lie, 0 outside of the box.
 * @param axis of a velocity component, which lies half a voxel lower along it; −1 for all else
 * @returns a function of world positions, m
 */
export function trilinearSampler(
  v: CacheVolume,
  values: Float32Array,
  axis = -1,
): (x: number, y: number, z: number) => number {
  const [nx, ny, nz] = v.dims;
  const h = v.voxelSizeM;
  const base = v.min.map((m, a) => v.translation[a] + (m - (a === axis ? 0.5 : 0)) * h);
  const at = (i: number, j: number, k: number): number =>
    i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz ? 0 : values[(k * ny + j) * nx + i];
  return (x, y, z) => {
    const u = (x - base[0]) / h;
    const w = (y - base[1]) / h;
    const q = (z - base[2]) / h;
    const i = Math.floor(u);
    const j = Math.floor(w);
    const k = Math.floor(q);
    if (i < -1 || j < -1 || k < -1 || i >= nx || j >= ny || k >= nz) return 0;
    const a = u - i;
    const b = w - j;
    const c = q - k;
    const line = (jj: number, kk: number): number => at(i, jj, kk) * (1 - a) + at(i + 1, jj, kk) * a;
    return (
      (line(j, k) * (1 - b) + line(j + 1, k) * b) * (1 - c) +
      (line(j, k + 1) * (1 - b) + line(j + 1, k + 1) * b) * c
    );
  };
}

/** Whether a channel says something of the medium in the air, and is mixed by how much of it there is. */
export const isCarried = (name: ChannelName): boolean =>
  name !== 'density' && name !== 'velocity' && name !== 'deposit';

/**
 * A channel times density, as the medium carries it: means and look-ups of it over those of density do not
 * fade at the edge.
 */
export function carried(v: CacheVolume, name: ChannelName): Float32Array[] {
  const density = v.channels.get('density')![0];
  return v.channels.get(name)!.map((p) => p.map((x, n) => x * density[n]));
}

/** Density with what lies in its voxels, as it is seen: a deposit is as thick as when it was in the air. */
export function seenDensity(v: CacheVolume): Float32Array {
  const density = v.channels.get('density')![0];
  const deposit = v.channels.get('deposit')?.[0];
  return deposit ? density.map((d, n) => d + deposit[n] / v.voxelSizeM) : density;
}

/** What can be measured of the frame alone. @param floorM height of the domain's floor */
export function measureVolume(v: CacheVolume, floorM: number, threshold: number): Partial<Readings> {
  const density = v.channels.get('density')![0];
  const [nx, ny] = v.dims;
  const h = v.voxelSizeM;
  const cell = cube(h);
  const least = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
  let mass = 0;
  let greatestDensity = 0;
  let voxels = 0;
  for (let n = 0; n < density.length; n++) {
    const d = density[n];
    if (d === 0) continue;
    mass += d;
    if (d > greatestDensity) greatestDensity = d;
    if (d <= threshold) continue;
    voxels++;
    const at = [n % nx, Math.floor(n / nx) % ny, Math.floor(n / (nx * ny))];
    for (let a = 0; a < 3; a++) {
      if (at[a] < least[a]) least[a] = at[a];
      if (at[a] > most[a]) most[a] = at[a];
    }
  }

  const corner = cornerOf(v);
  const sides = [0, 1, 2].flatMap((a) => [
    corner[a] + least[a] * h,
    corner[a] + (most[a] + 1) * h,
  ]) as unknown as SixSides;
  let fastest = 0;
  let energy = 0;
  const u = v.channels.get('velocity');
  if (u)
    for (let n = 0; n < density.length; n++) {
      const s = square(u[0][n]) + square(u[1][n]) + square(u[2][n]);
      energy += s;
      if (s > fastest) fastest = s;
    }

  return {
    mass: mass * cell,
    greatestDensity,
    volume: voxels * cell,
    extent: voxels ? sides : null,
    riseHeight: voxels ? sides[3] - floorM : 0,
    ...(u ? { topSpeed: Math.sqrt(fastest), kineticEnergy: 0.5 * energy * cell } : {}),
  };
}
