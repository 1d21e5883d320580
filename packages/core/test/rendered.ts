// Pictures of small volumes for the checks of light.
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compileLook, type Surroundings } from '@bramblemist/core/look/compile-look';
import type { Volume } from '@bramblemist/core/look/colouring';
import { LOOK } from '@bramblemist/core/look/look';
import { renderPages } from '@bramblemist/core/look/render-layout';
import { LookRenderer } from '@bramblemist/core/look/renderer';
import { TruePicture } from '@bramblemist/core/look/true-picture';
import type { Solid } from '@bramblemist/core/look/solids';
import type { Triple } from '@bramblemist/core/math/vector';

export const FROM_FRONT = { eye: [0, 0, 10], target: [0, 0, 0], focal: 400, width: 16, height: 16 };
export const SUN = { id: 's', name: 'Sun', kind: 'sun', angle: 0, stops: 0, colour: [1, 1, 1] };
export const DARK = { colour: [0, 0, 0] };
export const WHITE = { stops: 0, colour: [1, 1, 1] };
export const pure = (density: number, albedo: number, forward = 0): object => ({
  density,
  scatter: [albedo, albedo, albedo],
  absorb: [1 - albedo, 1 - albedo, 1 - albedo],
  forward,
});

/** A box of density 1. */
export function box(dims: Triple, voxelSizeM: number): Volume {
  return {
    dims,
    density: new Float32Array(dims[0] * dims[1] * dims[2]).fill(1),
    corner: dims.map((d) => (-d * voxelSizeM) / 2) as Triple,
    voxelSizeM,
  };
}

export const SLAB = box([16, 16, 16], 0.125);

export interface Rendered {
  readonly rgba: Float32Array;
  readonly noise: number;
}

export function rendered(
  volume: Volume,
  look: object,
  solids: readonly Solid[] = [],
  threads = 2,
  more: Omit<Surroundings, 'solids'> = {},
): Rendered {
  const compiled = compileLook(LOOK.parse(look), volume, { solids, ...more });
  const threadPool = startThreadPool(renderPages(compiled, threads), threads);
  const renderer = new LookRenderer(threadPool, compiled);
  const picture = new TruePicture(renderer);
  const isTrue = compiled.look.quality.mode === 'true';
  if (isTrue) picture.trace(compiled.look.quality.samples);
  const rgba = isTrue ? picture.rgba() : renderer.march();
  const noise = picture.noise();
  threadPool.close();
  return { rgba, noise };
}

export const meanOf = (rgba: Float32Array): number[] => {
  const sums = [0, 0, 0, 0];
  rgba.forEach((v, n) => (sums[n % 4] += v));
  return sums.map((s) => s / (rgba.length / 4));
};

export const truly = (samples: number, bounces: number): object => ({
  mode: 'true',
  samples,
  bounces,
});
export const quickly = (octaves = 0): object => ({ mode: 'quick', octaves, step: 0.5 });
export const within = (got: number, wanted: number, part: number): void => {
  expect(got / wanted).toBeGreaterThan(1 - part);
  expect(got / wanted).toBeLessThan(1 + part);
};
