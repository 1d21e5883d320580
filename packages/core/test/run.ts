// Small runs for tests: a recipe in few words, a thread pool of one or more.
import type { Recipe } from '@bramblemist/core/recipe/types';
import { frameVolume } from '@bramblemist/core/cache/frame';
import type { VdbGrid } from '@bramblemist/core/files/vdb/format';
import { gridsOf } from '@bramblemist/core/volume/volume';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { start, still } from './physics/kit';

export { ALL_OPEN, ALL_WALLS, greatest, sum } from './physics/kit';

/** A cube of 1.6 m in voxels of 0.1 m, without any force, unless said otherwise. */
export function recipeOf(parts: Record<string, unknown> = {}): Recipe {
  const { space, ...rest } = parts as { space?: object };
  return still({
    space: {
      size: [1.6, 1.6, 1.6],
      corner: [-0.8, 0, -0.8],
      voxelSize: 0.1,
      frameRate: 25,
      lastFrame: 1000,
      ...space,
    },
    ...rest,
  });
}

/** A frame as grids, by its dense volume. */
export const gridsFrom = (s: Simulation): VdbGrid[] => gridsOf(frameVolume(s), s.plan.recipe.keep.precision);

export function simulate(recipe: Recipe, threads = 1): Simulation {
  return start(recipe, threads);
}

/** Numbers in a fixed order that look random, 0…1. */
export function random(seed: number): () => number {
  let s = seed >>> 0;
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s / 2 ** 32;
  };
}

/** Something warm that is given off in such a cube, and a plate that turns on its way through. */
export const PUFF = {
  id: 's',
  centre: [0, 0.4, 0],
  radius: 0.2,
  density: { amount: 2 },
  temperature: { amount: 40 },
};
export const PADDLE = {
  id: 'o',
  name: 'Paddle',
  shape: 'box',
  centre: [0, 0.9, 0],
  size: [0.5, 0.15, 0.5],
  motion: 'moves',
  velocity: [0.2, 0, 0],
  spin: 90,
};
