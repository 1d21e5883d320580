// Which frames can be shown now, and from where.
import { useMemo } from 'react';
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import { voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { live, liveThreads, useLive } from '../live/use-live';
import { goTo, play, usePlayhead } from '../data/playhead';

/** What plays: the live run while the shot is set up or nothing is baked, else the bake. */
export type Source = 'live' | 'bake';

/**
 * Starts the live run again.
 * @param from the first frame that differs from what is there; the first of all without
 */
export function playAgain(recipe: Recipe, size: Size, from = recipe.space.firstFrame): void {
  // who stays at a frame goes on seeing that frame
  const { follow, playing } = usePlayhead.getState();
  if (follow || playing)
    usePlayhead.setState({ frame: Math.min(from, recipe.space.lastFrame), follow: true, playing: false });
  live.start(recipe, voxelSizeAt(recipe, size), liveThreads(), from);
}

/** Play and pause mean the live run while it is followed, and the playhead otherwise. */
export function setPlaying(on: boolean): void {
  if (useLive.getState().status === 'paused' && on) {
    live.pause(false);
    usePlayhead.setState({ follow: true, playing: false });
  } else if (usePlayhead.getState().follow && useLive.getState().status === 'running') live.pause(true);
  else play(on);
}

/** A frame on or back among those that are there; on from the end of a paused run it computes one more. */
export function stepBy(by: 1 | -1): void {
  const { frame, follow } = usePlayhead.getState();
  const { status, newest } = useLive.getState();
  if (by > 0 && status === 'paused' && frame === newest) {
    usePlayhead.setState({ follow: true, playing: false });
    return live.step();
  }

  if (follow && status === 'running') live.pause(true);
  goTo(Math.max(0, frame + by));
}

/** The frames that can be shown now. */
export function useThere(source: Source, bake: BakeInfo | null): readonly number[] {
  const frames = useLive((s) => s.frames);
  return useMemo(
    () =>
      source === 'live' ? [...frames.keys()].sort((a, b) => a - b) : (bake?.frames.map((f) => f.frame) ?? []),
    [source, frames, bake],
  );
}
