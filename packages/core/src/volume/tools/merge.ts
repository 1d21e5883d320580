// Merge: the medium of a second cache laid into the first, on the first one's lattice.
import { CoreError } from '../../base/error';
import { choice, definePart, number, text, type PartValues } from '../../recipe/settings';
import type { Triple } from '../../math/vector';
import {
  cropToBox,
  carried,
  cornerOf,
  countOf,
  facesAbout,
  trilinearSampler,
  cropToActive,
  type CacheVolume,
} from '../volume';
import type { Tool } from './tool';

const PART = definePart({
  key: 'merge',
  title: 'Merge',
  many: false,
  keyable: false,
  sentence: 'With {with} at {amount}: densities {how}.',
  settings: [
    text('with', 'other cache', '', 'The cache that is laid in, frame by frame.'),
    number('amount', 'amount', '%', [0, 1000], 100, 'How much of its density comes.'),
    choice(
      'how',
      'how densities meet',
      [
        ['add', 'are added'],
        ['most', 'keep the greater one'],
      ],
      'Added: both media are there. The greater one: where they overlap it does not get thicker.',
    ),
  ],
});

export const MERGE: Tool<PartValues<typeof PART>> = {
  part: PART,
  apply(frames, { with: name, amount, how }, around) {
    const other = around.other(name);
    const first = Math.max(frames.first, other.first);
    const last = Math.min(frames.last, other.last);
    if (last < first)
      throw new CoreError(
        'settings',
        `The two have no frame in common: ${frames.first}–${frames.last} and ` +
          `${other.first}–${other.last}. Trim one first.`,
      );
    return { ...frames, first, last, read: (f) => merged(frames.read(f), other.read(f), amount / 100, how) };
  },
};

function merged(a: CacheVolume, b: CacheVolume, gain: number, how: 'add' | 'most'): CacheVolume {
  const h = a.voxelSizeM;
  // the box of both on the lattice of the first
  const low = cornerOf(b).map((c, n) => Math.floor((c - a.translation[n]) / h)) as Triple;
  const high = cornerOf(b).map(
    (c, n) => Math.ceil((c + b.dims[n] * b.voxelSizeM - a.translation[n]) / h) + 1,
  );
  const min = a.min.map((m, n) => Math.min(m, low[n])) as Triple;
  const dims = min.map((m, n) => Math.max(a.min[n] + a.dims[n], high[n]) - m) as Triple;
  const own = cropToBox(a, min, dims);
  const count = countOf(dims);
  const [nx, ny] = dims;
  const thick = trilinearSampler(b, b.channels.get('density')![0]);
  const brought = new Float32Array(count);
  const density = own.channels.get('density')![0].slice();
  const active = own.active.slice();
  const at = (n: number, axis: number): Triple =>
    [n % nx, Math.floor(n / nx) % ny, Math.floor(n / (nx * ny))].map(
      (c, q) => a.translation[q] + (min[q] + c - (q === axis ? 0.5 : 0)) * h,
    ) as Triple;
  for (let n = 0; n < count; n++) {
    const d = gain * thick(...at(n, -1));
    if (d <= 0) continue;
    brought[n] = d;
    density[n] = how === 'add' ? density[n] + d : Math.max(density[n], d);
    active[n] = 1;
  }

  const before = own.channels.get('density')![0];
  /** Part of the medium here that the second one brought. */
  const share = (n: number): number => brought[n] / (brought[n] + before[n] || 1);
  const channels = new Map(own.channels).set('density', [density]);
  for (const [name, parts] of own.channels) {
    if (name === 'density' || !b.channels.has(name)) continue;
    if (name === 'deposit') {
      const read = trilinearSampler(b, b.channels.get(name)![0]);
      const out = parts[0].map((v, n) => {
        const theirs = gain * read(...at(n, -1));
        return how === 'add' ? v + theirs : Math.max(v, theirs);
      });
      out.forEach((v, n) => v > 0 && (active[n] = 1));
      channels.set(name, [out]);
      continue;
    }

    const staggered = name === 'velocity';
    const theirs = staggered ? b.channels.get(name)! : carried(b, name);
    channels.set(
      name,
      parts.map((p, c) => {
        const axis = staggered ? c : -1;
        const read = trilinearSampler(b, theirs[c], axis);
        const out = p.slice();
        for (let n = 0; n < count; n++) {
          const s = share(n);
          if (s > 0)
            out[n] = p[n] * (1 - s) + (s * read(...at(n, axis))) / (staggered ? 1 : thick(...at(n, axis)));
        }

        return out;
      }),
    );
  }

  const near = facesAbout(active, dims);
  return cropToActive({ ...own, active, moving: own.moving.map((m, n) => m | near[n]), channels });
}
