// A brought volume where a mesh could stand: as a source its density says how much, as an obstacle it is
// solid where it is more than half as dense as it gets, as a current its velocity is followed.
import { LRUCache } from 'lru-cache';
import { CoreError } from '../base/error';
import { lengthOf } from '../math/exact';
import { extrapolateVelocity } from '../volume/extrapolate-velocity';
import { trilinearSampler, type CacheVolume } from '../volume/volume';
import type { TimedVolumes } from './timed-volumes';
import type { FilePart, SpacePart } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { MeshMoment, MeshShape, DistanceGrid } from '../geometry/shape';
import { ownTime } from './own-time';
import { boundsInMetres } from '../geometry/mesh';

export type VolumeUse = 'source' | 'obstacle' | 'current';

const AROUND = 3;
const MOST_NODES = 2 ** 26;
const MOST_MOMENTS = 2;
/** Thinner than this is no part of it. */
const FAINTEST = 1e-4;
/** Cells; how far off counts as far. */
const FAR_OFF = 3;

const kept = new WeakMap<TimedVolumes, Map<string, MeshShape>>();

/**
 * @param h voxel size of the run, m
 * @throws Error where it is too large for the run's voxels, or has no velocity to be followed
 */
export function volumeShape(
  name: string,
  file: FilePart,
  volumes: TimedVolumes,
  space: SpacePart,
  h: number,
  use: VolumeUse,
): MeshShape {
  if (use === 'current' && !volumes.hasVelocity)
    throw new CoreError('asset', `${name}: ${file.name} holds no velocity that the air could follow.`);
  const moves = volumes.last > volumes.first;
  const times = moves
    ? [file.start, file.rate, file.pace, file.after, space.firstFrame, space.frameRate, space.timeScale]
    : [];
  const key = [file.scale, file.up, h, use, ...times].join();
  const own = kept.get(volumes) ?? new Map<string, MeshShape>();
  const found = own.get(key);
  kept.set(volumes, own);
  if (found) return found;
  const { least, most } = boundsInMetres(volumes.bounds(), file);
  // an obstacle's nodes stand where faces have their corners, all others in the middles of the file's voxels
  const first = least.map((v) => (use === 'obstacle' ? Math.floor(v / h) : v / h + 0.5) - AROUND) as Triple;
  const nodes = most.map((v, a) => Math.ceil(v / h - first[a] - 1e-6) + AROUND + 1) as Triple;
  if (nodes[0] * nodes[1] * nodes[2] > MOST_NODES)
    throw new CoreError(
      'asset',
      `${name}: ${file.name} is too large for voxels of ${h} m. Correct the file’s scale, or use ` +
        'larger voxels.',
    );
  const outline = { nodes, first, nodesPerCell: 1, distances: new Float32Array(0) };
  const moments = new LRUCache<number, MeshMoment>({ max: MOST_MOMENTS });
  const shape: MeshShape = {
    nodes,
    moves,
    outline,
    masked: use === 'source',
    wayBetween: () => 0,
    at: (timeS) => {
      const volume = volumes.at(moves ? ownTime(file, volumes, space, timeS) : volumes.first);
      const known = moments.get(volume.frame);
      if (known) return known;
      const made = momentOf(volume, file, outline, h, use, volumes.greatest);
      moments.set(volume.frame, made);
      return made;
    },
  };
  own.set(key, shape);
  return shape;
}

function momentOf(
  v: CacheVolume,
  file: FilePart,
  outline: DistanceGrid,
  h: number,
  use: VolumeUse,
  greatest: number,
): MeshMoment {
  const { nodes, first } = outline;
  const [nx, ny, nz] = nodes;
  const count = nx * ny * nz;
  const thick = trilinearSampler(v, v.channels.get('density')![0]);
  const values = new Float32Array(count);
  const ways = use === 'current' ? new Float32Array(3 * count) : null;
  const air = ways && airOf(v);
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        // own axes to the file's
        const [a, b, c] = [first[0] + i, first[1] + j, first[2] + k].map((q) => (q * h) / file.scale);
        const [x, y, z] = file.up === 'z' ? [a, -c, b] : [a, b, c];
        if (!air) values[n] = thick(x, y, z);
        else {
          values[n] = air.known(x, y, z);
          const u = air.parts.map((p) => p(x, y, z) * file.scale);
          ways![n] = u[0];
          ways![count + n] = file.up === 'z' ? u[2] : u[1];
          ways![2 * count + n] = file.up === 'z' ? -u[1] : u[2];
        }
      }

  const distances =
    use === 'obstacle'
      ? surface(values, nodes, 0.5 * greatest)
      : values.map((d) => (d > (use === 'current' ? 0.5 : FAINTEST) ? -1 : 1));
  return { grid: { ...outline, distances }, mask: use === 'source' ? values : null, flow: null, ways };
}

/** Velocity of a frame anywhere about its medium, and whether it is known there. */
function airOf(v: CacheVolume): {
  parts: ((x: number, y: number, z: number) => number)[];
  known: (x: number, y: number, z: number) => number;
} {
  const { parts, known, min, dims } = extrapolateVelocity(v, v.channels.get('velocity')!);
  const wide: CacheVolume = { ...v, min, dims };
  return {
    parts: parts.map((p, axis) => trilinearSampler(wide, p, axis)),
    known: trilinearSampler(wide, Float32Array.from(known)),
  };
}

/**
 * Distance to where a field is at a level, cells: its difference over its slope, which is right at the
 * surface.
 */
function surface(values: Float32Array, [nx, ny, nz]: Triple, level: number): Float32Array {
  const out = new Float32Array(values.length);
  const at = (i: number, j: number, k: number): number =>
    values[
      (Math.min(nz - 1, Math.max(0, k)) * ny + Math.min(ny - 1, Math.max(0, j))) * nx +
        Math.min(nx - 1, Math.max(0, i))
    ];
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        const slope =
          0.5 *
          lengthOf(
            at(i + 1, j, k) - at(i - 1, j, k),
            at(i, j + 1, k) - at(i, j - 1, k),
            at(i, j, k + 1) - at(i, j, k - 1),
          );
        const off = level - values[n];
        out[n] = slope > 0 ? Math.min(FAR_OFF, Math.max(-FAR_OFF, off / slope)) : Math.sign(off) * FAR_OFF;
      }

  return out;
}
