// Crop and mask: what lies outside of a box, or on one side of an obstacle, goes.
import { CoreError } from '../../base/error';
import { choice, definePart, number, reference, type PartValues, position } from '../../recipe/settings';
import type { Triple } from '../../math/vector';
import { cropToBox, countOf, cropToActive, withActive, type CacheVolume } from '../volume';
import type { Tool } from './tool';

const CROP_PART = definePart({
  key: 'crop',
  title: 'Crop',
  many: false,
  keyable: false,
  sentence: 'What lies from {least.0}, {least.1}, {least.2} to {most.0}, {most.1}, {most.2} alone.',
  settings: [
    ...position('least', 'least', [-1, 0, -1], 'Least corner of the box that stays.'),
    ...position('most', 'greatest', [1, 1, 1], 'Greatest corner of it.'),
  ],
});

export const CROP: Tool<PartValues<typeof CROP_PART>> = {
  part: CROP_PART,
  apply(frames, { least, most }) {
    if (least.some((v, a) => v >= most[a]))
      throw new CoreError(
        'settings',
        'The box is empty: its least corner has to lie below its greatest one.',
      );
    return {
      ...frames,
      read(frame) {
        const v = frames.read(frame);
        const h = v.voxelSizeM;
        const index = (m: number, a: number): number => Math.ceil((m - v.translation[a]) / h - 1e-6);
        const lo = least.map((m, a) => Math.max(v.min[a], index(m, a))) as Triple;
        const hi = most.map((m, a) => Math.min(v.min[a] + v.dims[a], index(m, a))) as Triple;
        if (lo.some((m, a) => hi[a] <= m)) return withActive(v, new Uint8Array(countOf(v.dims)));
        return cropToActive(cropToBox(v, lo, hi.map((m, a) => m - lo[a]) as Triple));
      },
    };
  },
};

const MASK_PART = definePart({
  key: 'mask',
  title: 'Mask by an obstacle',
  many: false,
  keyable: false,
  sentence: 'What lies {side} {obstacle} alone, over an edge of {soft}.',
  settings: [
    choice(
      'side',
      'side',
      [
        ['outside', 'outside of'],
        ['inside', 'inside of'],
      ],
      'Which side of the obstacle’s surface stays.',
    ),
    {
      ...reference(
        'obstacle',
        'obstacle',
        ['obstacles'],
        'The obstacle of the recipe that made the cache, where it is in each frame.',
      ),
      none: 'all obstacles',
    },
    number(
      'soft',
      'soft edge',
      'm',
      [0, 100],
      0,
      'Width over which density fades, half of it on either side.',
    ),
  ],
});

export const MASK: Tool<PartValues<typeof MASK_PART>> = {
  part: MASK_PART,
  apply: (frames, { side, obstacle, soft }, around) => ({
    ...frames,
    read(frame) {
      const v = frames.read(frame);
      const distance = around.solid(obstacle, frames.timeS(frame));
      const width = Math.max(soft, 1e-9);
      return weighted(v, (at) => {
        const d = side === 'outside' ? distance(at) : -distance(at);
        return Math.min(1, Math.max(0, d / width + 0.5));
      });
    },
  }),
};

/** Density times a weight of each place; where nothing is left the medium ends. */
function weighted(v: CacheVolume, weight: (at: Triple) => number): CacheVolume {
  const [nx, ny] = v.dims;
  const active = v.active.slice();
  const density = v.channels.get('density')![0].slice();
  const deposit = v.channels.get('deposit')?.[0].slice();
  for (let n = 0; n < active.length; n++) {
    if (!active[n]) continue;
    const w = weight(
      [n % nx, Math.floor(n / nx) % ny, Math.floor(n / (nx * ny))].map(
        (c, a) => v.translation[a] + (v.min[a] + c) * v.voxelSizeM,
      ) as Triple,
    );
    density[n] *= w;
    if (deposit) deposit[n] *= w;
    if (w === 0) active[n] = 0;
  }

  const channels = new Map(v.channels).set('density', [density]);
  if (deposit) channels.set('deposit', [deposit]);
  return cropToActive(withActive({ ...v, channels }, active));
}
