// A cache as frames that are read one at a time: from disk, or made of another's by a tool. Nothing is kept
// but the last few.
import { memoize } from '../base/memoize';
import type { Triple } from '../math/vector';
import type { CacheVolume } from './volume';

export interface FrameSource {
  readonly first: number;
  readonly last: number;
  readonly frameRate: number;
  readonly voxelSizeM: number;
  /** Height of the domain's floor, m. */
  readonly floorM: number;
  /** The least box that holds what any frame may hold, m: where tools that ask for a place begin. */
  readonly domain: { readonly least: Triple; readonly most: Triple };
  /** Simulated time since the start of the run's first frame that a frame shows, s. */
  timeS(frame: number): number;
  /** @throws Error naming the frame where there is none */
  read(frame: number): CacheVolume;
}

const KEPT = 3;

/** The same frames, the last few of which are remembered: tools look at neighbours. */
export const cachedFrames = (frames: FrameSource): FrameSource => ({
  ...frames,
  read: memoize(KEPT, (frame: number) => frames.read(frame)),
});
