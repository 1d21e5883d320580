// How the medium is spread over its densities, and over what a ramp runs over: for the page's histograms.
import type { Volume } from './colouring';

export interface Spread {
  readonly least: number;
  readonly most: number;
  /** Voxels that hold something, by their value from least to most, in even steps. */
  readonly voxels: readonly number[];
  /** What they hold of all the medium, 0…1. */
  readonly parts: readonly number[];
}

const STEPS = 128;

/** Of the density itself, or of a channel where there is density. */
export function spreadOf({ density }: Pick<Volume, 'density'>, channel: Float32Array = density): Spread {
  let least = Infinity;
  let most = -Infinity;
  let all = 0;
  for (let n = 0; n < density.length; n++) {
    if (!(density[n] > 0)) continue;
    if (channel[n] < least) least = channel[n];
    if (channel[n] > most) most = channel[n];
    all += density[n];
  }

  if (!(all > 0) || !Number.isFinite(most - least)) return { least: 0, most: 0, voxels: [], parts: [] };
  if (channel === density) least = 0;
  const voxels = new Array<number>(STEPS).fill(0);
  const parts = new Array<number>(STEPS).fill(0);
  const scale = most > least ? STEPS / (most - least) : 0;
  for (let n = 0; n < density.length; n++) {
    if (!(density[n] > 0)) continue;
    const at = Math.min(STEPS - 1, Math.floor((channel[n] - least) * scale));
    voxels[at]++;
    parts[at] += density[n] / all;
  }

  return { least, most, voxels, parts };
}

/** Parts of the voxels and of the medium that lie below a value; steps are taken as even in themselves. */
export function below(
  { least, most, voxels, parts }: Spread,
  value: number,
): { voxels: number; medium: number } {
  const place = most > least ? ((value - least) / (most - least)) * voxels.length : 0;
  const sum = (list: readonly number[]): number =>
    list.reduce((all, v, n) => all + v * Math.min(1, Math.max(0, place - n)), 0);
  const count = voxels.reduce((all, v) => all + v, 0);
  return { voxels: count > 0 ? sum(voxels) / count : 0, medium: sum(parts) };
}
