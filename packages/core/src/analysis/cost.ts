// What a run will cost, before it is started.
import { compile } from '../plan/compile';
import { planLayout } from '../plan/layout';
import type { Assets } from '../assets/assets';
import type { Recipe } from '../recipe/types';

export interface Cost {
  readonly voxels: number;
  /** Those that the medium lies on: the same, or eight to one. */
  readonly mediumVoxels: number;
  /** Memory of the run with the whole domain in it; a window that fits takes less. */
  readonly bytes: number;
}

/** @throws Error where one run cannot hold so much */
export function costOf(recipe: Recipe, voxelSizeM: number, threads: number, assets?: Assets): Cost {
  const plan = compile(recipe, { voxelSizeM, assets }).plan;
  const { nx, ny, nz } = plan.window.lattice;
  const voxels = nx * ny * nz;
  return {
    voxels,
    mediumVoxels: voxels * (plan.medium?.perCell ?? 1),
    bytes: planLayout(plan.window.lattice, plan, threads).bytes,
  };
}
