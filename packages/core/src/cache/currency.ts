// Which channels of a cache a changed setting would have come out otherwise in.
import { CHANNEL_NAMES } from '../base/channels';
import { RECIPE } from '../recipe/recipe';
import type { Recipe } from '../recipe/types';
import { keptChannels } from '../recipe/kept';
import { differences } from '../recipe/paths';

/** What is the bake's own, or says what else might be baked. */
const OF_NO_VOXEL = ['space.voxelSize', 'space.rough', 'space.final', 'keep.packing', 'name'];

/**
 * @returns what differs, but for what is the bake's own or changes no voxel, with the channels that it
 * reaches; in their order
 */
export function changedSince(
  baked: Recipe,
  now: Recipe,
): { path: string; from: unknown; to: unknown; channels: string[] }[] {
  const kept = keptChannels(baked);
  return differences(RECIPE.filled(baked), RECIPE.filled(now))
    .filter((d) => !OF_NO_VOXEL.includes(d.path))
    .map((d) => ({ ...d, channels: reached(d.path, baked, kept) }));
}

function reached(path: string, recipe: Recipe, kept: readonly string[]): string[] {
  const own = CHANNEL_NAMES.find((name) => path === `keep.${name}`);
  if (own) return [own];
  if (path === 'keep.air') return ['velocity'];
  // colour and age ride on the medium and move nothing, unless a formula reads them
  const read = recipe.formulas.some((f) => f.on && /\b(red|green|blue|colour|age)\b/.test(f.text));
  if (!read && /^(sources|patterns)\.\d+\.colour\b/.test(path)) return kept.filter((c) => c === 'colour');
  return [...kept];
}
