// Small runs for tests: a recipe in few words, a team of one or more.
import { startTeam } from '@bramblemist/core/io/node/team';
import { parseRecipe, type Recipe } from '@bramblemist/core/recipe/recipe';
import { compile } from '@bramblemist/core/step/compile';
import { Simulation } from '@bramblemist/core/step/simulation';

export const ALL_WALLS = { floor: 'wall', top: 'wall', left: 'wall', right: 'wall', back: 'wall', front: 'wall' };
export const ALL_OPEN = { floor: 'open', top: 'open', left: 'open', right: 'open', back: 'open', front: 'open' };

/** A cube of 1.6 m in voxels of 0.1 m, without any force, unless said otherwise. */
export function recipeOf(parts: Record<string, unknown> = {}): Recipe {
  const { space, ...rest } = parts as { space?: object };
  return parseRecipe({
    name: 'Test',
    space: { size: [1.6, 1.6, 1.6], corner: [-0.8, 0, -0.8], voxelSize: 0.1, frameRate: 25, lastFrame: 1000, ...space },
    buoyancy: { lift: 0, weight: 0 },
    fading: { density: 0, temperature: 0 },
    ...rest,
  });
}

export function simulate(recipe: Recipe, threads = 1): Simulation {
  const plan = compile(recipe);
  return new Simulation(plan, startTeam(Simulation.pages(plan, threads), threads));
}

export function sum(values: Float32Array): number {
  return values.reduce((s, v) => s + v, 0);
}
export function greatest(values: Float32Array): number {
  return values.reduce((m, v) => Math.max(m, Math.abs(v)), 0);
}

/** Numbers in a fixed order that look random, 0…1. */
export function random(seed: number): () => number {
  let s = seed >>> 0;
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s / 2 ** 32;
  };
}
