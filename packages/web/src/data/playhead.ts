// Which frame is shown, and whether it moves.
import { useEffect, useState } from 'react';
import { shotStore } from './shot-store';

export interface Playhead {
  readonly frame: number;
  readonly playing: boolean;
  /** Stay on the newest frame of the run or of the bake. */
  readonly follow: boolean;
  /** Play over and over. */
  readonly loop: boolean;
}

export const usePlayhead = shotStore<Playhead>(
  () => ({ frame: 1, playing: false, follow: true, loop: true }),
  { returns: true },
);

/** The frame of a run that is shown while nobody has chosen one: late enough for something to be seen. */
export const tellingFrame = (first: number, last: number): number =>
  Math.round(first + (2 / 3) * (last - first));

export function goTo(frame: number): void {
  usePlayhead.setState({ frame, playing: false, follow: false });
}

export function play(playing: boolean): void {
  usePlayhead.setState({ playing, follow: false });
}

/** The frame at a calm pace, for what is dear to draw: charts. */
export function useCalmFrame(ms = 250): number {
  const [frame, setFrame] = useState(() => usePlayhead.getState().frame);
  useEffect(() => {
    let timer = 0;
    const follow = (): void => {
      if (timer) return;
      timer = window.setTimeout(() => {
        timer = 0;
        setFrame(usePlayhead.getState().frame);
      }, ms);
    };

    const end = usePlayhead.subscribe(follow);
    follow();
    return () => {
      end();
      window.clearTimeout(timer);
    };
  }, [ms]);
  return frame;
}
