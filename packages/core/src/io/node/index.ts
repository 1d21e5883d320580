// The door of core for Node.js: everything of its surface, with threads and files of this machine.
import type { Recipe } from '../../recipe/types';
import type { Look } from '../../look/look';
import { renderWith, type RenderedFrame, type RenderOptions, type Volume } from '../../look/render';
import { simulateWith, type SimulatedFrame, type SimulateOptions } from '../../run/simulate';
import { defaultThreads, startThreadPool } from './thread-pool';

export * from '../../index';
export { loadAssets } from './assets';
export { bake } from './bake';
export { openCache } from './cache';

/** Runs a recipe frame by frame, on all cores unless it is told otherwise; see simulateWith. */
export const simulate = (
  recipe: Recipe,
  { threads = defaultThreads(), ...options }: SimulateOptions = {},
): Generator<SimulatedFrame, void, void> => simulateWith(startThreadPool, recipe, { threads, ...options });

/** Renders a density as a look says, on all cores unless it is told otherwise. */
export const render = (
  volume: Volume,
  look: Look,
  { threads = defaultThreads(), ...options }: RenderOptions = {},
): RenderedFrame => renderWith(startThreadPool, volume, look, { threads, ...options });
