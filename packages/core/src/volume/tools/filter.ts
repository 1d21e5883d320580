// Smooth and sharpen: a Gaussian in metres, and what it took away put on top once more.
import { CoreError } from '../../base/error';
import { exponential, square } from '../../math/exact';
import { choice, definePart, number, type PartValues } from '../../recipe/settings';
import type { Triple } from '../../math/vector';
import { cropToBox, facesAbout, cropToActive, withActive, type CacheVolume } from '../volume';
import { WHICH, type Tool, type Which } from './tool';

/** Thinner than this is nothing: the far tail of the Gaussian. */
const FAINTEST = 1e-4;

const channel = choice('channel', 'channel', WHICH, 'What is worked on; all else stays as it is.');
const SMOOTH_PART = definePart({
  key: 'smooth',
  title: 'Smooth',
  many: false,
  keyable: false,
  sentence: 'Smooth {channel} over {radius}.',
  settings: [
    channel,
    number(
      'radius',
      'radius',
      'm',
      [0.0001, 10],
      0.05,
      'Standard deviation of the Gaussian: details much smaller than it go.',
    ),
  ],
});
const SHARPEN_PART = definePart({
  key: 'sharpen',
  title: 'Sharpen',
  many: false,
  keyable: false,
  sentence: 'Sharpen {channel} by {amount} over {radius}.',
  settings: [
    channel,
    number(
      'amount',
      'amount',
      '%',
      [0, 500],
      60,
      'How much of what lies above the smoothed picture is added.',
    ),
    number('radius', 'radius', 'm', [0.0001, 10], 0.05, 'Size of the details that are lifted.'),
  ],
});

export const SMOOTH: Tool<PartValues<typeof SMOOTH_PART>> = {
  part: SMOOTH_PART,
  apply: (frames, { channel: name, radius }) => ({
    ...frames,
    read: (f) => filtered(frames.read(f), name, radius, (_v, smooth) => smooth),
  }),
};
export const SHARPEN: Tool<PartValues<typeof SHARPEN_PART>> = {
  part: SHARPEN_PART,
  apply: (frames, { channel: name, amount, radius }) => ({
    ...frames,
    read: (f) => filtered(frames.read(f), name, radius, (v, smooth) => v + (amount / 100) * (v - smooth)),
  }),
};

function filtered(
  v: CacheVolume,
  name: Which,
  radius: number,
  mix: (value: number, smooth: number) => number,
): CacheVolume {
  if (!v.channels.has(name)) throw new CoreError('settings', `The cache does not keep ${name}.`);
  const sigma = radius / v.voxelSizeM;
  const reach = Math.ceil(3 * sigma);
  if (name !== 'density') {
    const mask = name === 'velocity' ? v.moving : v.active;
    const weight = blurred(Float32Array.from(mask), v.dims, sigma);
    // means over what is known, so that the edge does not fade to 0
    const parts = v.channels.get(name)!.map((p) => {
      const smooth = blurred(p, v.dims, sigma);
      return p.map((x, n) => (mask[n] ? mix(x, smooth[n] / weight[n]) : 0));
    });
    return { ...v, channels: new Map(v.channels).set(name, parts) };
  }

  // the medium spreads out of its box
  const wide = cropToBox(
    v,
    v.min.map((m) => m - reach) as Triple,
    v.dims.map((d) => d + 2 * reach) as Triple,
  );
  const density = wide.channels.get('density')![0];
  const smooth = blurred(density, wide.dims, sigma);
  const made = density.map((d, n) => Math.max(0, mix(d, smooth[n])));
  const deposit = wide.channels.get('deposit')?.[0];
  const active = Uint8Array.from(made, (d, n) => Number(d > FAINTEST || (deposit?.[n] ?? 0) > 0));
  const near = facesAbout(active, wide.dims);
  const moving = wide.moving.map((m, n) => m | near[n]);
  return cropToActive(
    withActive({ ...wide, moving, channels: new Map(wide.channels).set('density', [made]) }, active),
  );
}

/** A Gaussian along each axis in turn, cut at three deviations; 0 outside. @param sigma in voxels */
export function blurred(values: Float32Array, dims: Triple, sigma: number): Float32Array {
  const reach = Math.max(1, Math.ceil(3 * sigma));
  const kernel = Float64Array.from({ length: 2 * reach + 1 }, (_, n) =>
    exponential(-0.5 * square((n - reach) / Math.max(sigma, 1e-6))),
  );
  const sum = kernel.reduce((a, b) => a + b, 0);
  let from = values;
  for (let axis = 0; axis < 3; axis++) {
    const to = new Float32Array(values.length);
    const stride = [1, dims[0], dims[0] * dims[1]][axis];
    const length = dims[axis];
    for (let n = 0; n < from.length; n++) {
      const x = from[n];
      if (x === 0) continue;
      const at = Math.floor(n / stride) % length;
      const low = Math.max(-reach, -at);
      const high = Math.min(reach, length - 1 - at);
      for (let o = low; o <= high; o++) to[n + o * stride] += (x * kernel[o + reach]) / sum;
    }

    from = to;
  }

  return from;
}
