// Resample: other voxels for the same medium. Coarser ones take the means of what they cover, so that mass
// stays; finer ones are looked up linearly.
import type { ChannelName } from '../../base/channels';
import { cube } from '../../math/exact';
import { definePart, number, type PartValues } from '../../recipe/settings';
import type { Triple } from '../../math/vector';
import {
  carried,
  checkBox,
  cornerOf,
  countOf,
  facesAbout,
  trilinearSampler,
  cropToActive,
  type CacheVolume,
} from '../volume';
import type { Tool } from './tool';

const PART = definePart({
  key: 'resample',
  title: 'Resample',
  many: false,
  keyable: false,
  sentence: 'Voxels {times} as large.',
  settings: [
    number(
      'times',
      'size',
      '%',
      [10, 1000],
      200,
      'Edge of the new voxels, of the old ones: 200 % takes an eighth of the disk, 50 % eight times as much.',
    ),
  ],
});

export const RESAMPLE: Tool<PartValues<typeof PART>> = {
  part: PART,
  apply: (frames, { times }) => {
    const voxelSizeM = (frames.voxelSizeM * times) / 100;
    return { ...frames, voxelSizeM, read: (f) => resampled(frames.read(f), voxelSizeM) };
  },
};

/** @param to edge of the new voxels, m; their lattice has a corner in the world's origin */
export function resampled(v: CacheVolume, to: number): CacheVolume {
  const h = v.voxelSizeM;
  const corner = cornerOf(v);
  const min = corner.map((c) => Math.floor(c / to + 1e-6)) as Triple;
  const dims = min.map((m, a) =>
    Math.max(1, Math.ceil((corner[a] + v.dims[a] * h) / to - 1e-6) - m),
  ) as Triple;
  checkBox(dims);
  const head = { frame: v.frame, voxelSizeM: to, translation: [to / 2, to / 2, to / 2] as Triple, min, dims };
  const density =
    to > h
      ? meansOf(v, v.channels.get('density')![0], head)
      : lookedUp(v, v.channels.get('density')![0], -1, head);
  const deposit = v.channels.get('deposit')?.[0];
  // what lies on a floor does so by the area, whatever the height of its voxels
  const lies =
    deposit && (to > h ? meansOf(v, deposit, head) : lookedUp(v, deposit, -1, head)).map((x) => (x * to) / h);
  const active = Uint8Array.from(density, (d, n) => Number(d > FAINTEST || (lies?.[n] ?? 0) > FAINTEST));
  const moving = facesAbout(active, dims);
  const channels = new Map<ChannelName, Float32Array[]>([
    ['density', [density.map((d, n) => (active[n] ? d : 0))]],
  ]);
  for (const [name, parts] of v.channels) {
    if (name === 'density') continue;
    if (name === 'deposit') {
      channels.set(name, [lies!]);
      continue;
    }

    const mask = name === 'velocity' ? moving : active;
    channels.set(
      name,
      (name === 'velocity' ? parts : carried(v, name)).map((p, axis) => {
        if (name === 'velocity') return lookedUp(v, p, axis, head).map((x, n) => (mask[n] ? x : 0));
        const sums = to > h ? meansOf(v, p, head) : lookedUp(v, p, -1, head);
        const values = sums.map((x, n) => (density[n] > 0 ? x / density[n] : 0));
        return values.map((x, n) => (mask[n] ? x : 0));
      }),
    );
  }

  return cropToActive({ ...head, active, moving, channels });
}

const FAINTEST = 1e-5;
type Head = Pick<CacheVolume, 'voxelSizeM' | 'translation' | 'min' | 'dims'>;

/** Means over the new voxels: each old one is shared out by how much of it lies in each. */
function meansOf(v: CacheVolume, values: Float32Array, { voxelSizeM: to, min, dims }: Head): Float32Array {
  const out = new Float32Array(countOf(dims));
  const corner = cornerOf(v);
  const h = v.voxelSizeM;
  const [nx, ny, nz] = v.dims;
  /**
   * For each old index along an axis: the first new one it meets, and its share there; the rest lies in the
   * next.
   */
  const shares = [0, 1, 2].map((a) =>
    Array.from({ length: v.dims[a] }, (_, i) => {
      const low = (corner[a] + i * h) / to - min[a];
      const high = low + h / to;
      const first = Math.floor(low + 1e-9);
      const inFirst = Math.min(high, first + 1) - low;
      return { first, part: Math.min(1, inFirst / (high - low)) };
    }),
  );
  const per = cube(h / to);
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        if (values[n] === 0) continue;
        const [x, y, z] = [shares[0][i], shares[1][j], shares[2][k]];
        for (let c = 0; c < 8; c++) {
          const [dx, dy, dz] = [c & 1, (c >> 1) & 1, c >> 2];
          const w = (dx ? 1 - x.part : x.part) * (dy ? 1 - y.part : y.part) * (dz ? 1 - z.part : z.part);
          if (w > 1e-12)
            out[((z.first + dz) * dims[1] + y.first + dy) * dims[0] + x.first + dx] += values[n] * w * per;
        }
      }

  return out;
}

function lookedUp(
  v: CacheVolume,
  values: Float32Array,
  axis: number,
  { voxelSizeM: to, translation, min, dims }: Head,
): Float32Array {
  const read = trilinearSampler(v, values, axis);
  const [nx, ny, nz] = dims;
  const out = new Float32Array(countOf(dims));
  const at = (c: number, a: number): number => translation[a] + (min[a] + c - (a === axis ? 0.5 : 0)) * to;
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) out[n] = read(at(i, 0), at(j, 1), at(k, 2));
  return out;
}
