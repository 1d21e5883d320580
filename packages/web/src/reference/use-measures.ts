// Measures of the reference and of the run at the frame that is shown: the latest wish is followed, one at a
// time.
import { useEffect } from 'react';
import { create } from 'zustand';
import type { Measured, ToMeasure } from './messages';

const useMeasured = create<{ readonly measured: Measured | null }>(() => ({ measured: null }));

let worker: Worker | null = null;
let busy = false;
let next: ToMeasure | null = null;
let count = 0;

function ask(wish: ToMeasure): void {
  next = wish;
  if (busy) return;
  if (!worker) {
    worker = new Worker(new URL('./measure-worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Measured>) => {
      busy = false;
      useMeasured.setState({ measured: data });
      if (next) ask(next);
    };
  }

  worker.postMessage(next);
  next = null;
  busy = true;
}

/** @param wish null while nothing is to be measured; the same object for the same wish */
export function useMeasures(wish: Omit<ToMeasure, 'id'> | null): Measured | null {
  useEffect(() => {
    if (wish) ask({ ...wish, id: count++ });
    else {
      next = null;
      useMeasured.setState({ measured: null });
    }
  }, [wish]);
  return useMeasured((s) => s.measured);
}
