// What a tool is: described settings, and frames made of frames. It is lazy: a frame is worked on when it is
// asked for.
import type { Part } from '../../recipe/settings';
import type { Triple } from '../../math/vector';
import type { FrameSource } from '../frames';

/** What some tools need beside the frames. */
export interface Surroundings {
  /** Another cache by the name that the settings give it. @throws Error where there is none */
  other(name: string): FrameSource;
  /**
   * Distance in metres to an obstacle of the recipe that made the cache, negative inside.
   * @param id of the obstacle; '' for all of them
   * @param timeS simulated time since the start of the first frame
   * @throws Error where the recipe has none
   */
  solid(id: string, timeS: number): (at: Triple) => number;
}

export interface Tool<S = Record<string, unknown>> {
  readonly part: Part;
  /** @throws Error in words where the settings do not fit these frames */
  apply(frames: FrameSource, settings: S, around: Surroundings): FrameSource;
}

/** The channels that a tool may be let loose on, as options of a choice. */
export const WHICH = [
  ['density', 'the density'],
  ['temperature', 'the temperature'],
  ['colour', 'the colour'],
  ['age', 'the age'],
  ['velocity', 'the velocity'],
] as const;
export type Which = (typeof WHICH)[number][0];
