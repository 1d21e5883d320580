// Which frame is shown, and whether it moves.
import { create } from 'zustand';

export interface Playhead {
  readonly frame: number;
  readonly playing: boolean;
  /** Stay on the newest frame of the run or of the bake. */
  readonly follow: boolean;
}

export const usePlayhead = create<Playhead>(() => ({ frame: 1, playing: false, follow: true }));

export function goTo(frame: number): void {
  usePlayhead.setState({ frame, playing: false, follow: false });
}
export function play(playing: boolean): void {
  usePlayhead.setState({ playing, follow: false });
}
