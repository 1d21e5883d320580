// The sizes at which a shot is run, the same wherever one is chosen: in the window, for bakes and trial
// sheets, at the command line.
import type { Recipe } from './types';

export const SIZES = ['live', 'rough', 'working', 'final'] as const;
export type Size = (typeof SIZES)[number];

/** Voxels along the domain's longest side at live size. */
const LIVE_VOXELS = 64;

export const SIZE_DOCS: Readonly<Record<Size, string>> = {
  live: `Plays at once: at most ${LIVE_VOXELS} voxels along the longest side, not finer than working.`,
  rough: 'For a first look at all frames: voxels larger than at working size, as Space says.',
  working: 'The voxels that Space says: what the shot is judged by.',
  final: 'What is delivered: voxels smaller than at working size, as Space says.',
};

/** Edges of a voxel that a run may have, m. */
const LEAST_VOXEL = 0.001;
const MOST_VOXEL = 10;

/** Edge of a voxel at a size, m. */
export function voxelSizeAt({ space }: Pick<Recipe, 'space'>, size: Size): number {
  switch (size) {
    case 'live':
      return Math.max(space.voxelSize, Math.max(...space.size) / LIVE_VOXELS);
    case 'rough':
      return Math.min(MOST_VOXEL, space.voxelSize * space.rough);
    case 'working':
      return space.voxelSize;
    case 'final':
      return Math.max(LEAST_VOXEL, space.voxelSize * space.final);
  }
}

/** What a voxel size is called; null where it is of no size of this recipe. */
export function sizeOf(recipe: Pick<Recipe, 'space'>, voxelSizeM: number): Size | null {
  const near = (size: Size): boolean => Math.abs(voxelSizeAt(recipe, size) / voxelSizeM - 1) < 1e-6;
  // a domain that is small enough plays at working size
  return (['working', 'rough', 'final', 'live'] as const).find(near) ?? null;
}
