// Measures of the reference and of the run at the frame that is shown: the latest wish is followed, one at a
// time.
import { useEffect } from 'react';
import { create } from 'zustand';
import { latestWish } from '../data/latest-wish';
import type { Measured, ToMeasure } from './messages';

const useMeasured = create<{ readonly measured: Measured | null }>(() => ({ measured: null }));

let count = 0;
const { ask, forget } = latestWish<ToMeasure, Measured>(
  () => new Worker(new URL('./measure-worker.ts', import.meta.url), { type: 'module' }),
  (measured) => useMeasured.setState({ measured }),
);

/** @param wish null while nothing is to be measured; the same object for the same wish */
export function useMeasures(wish: Omit<ToMeasure, 'id'> | null): Measured | null {
  useEffect(() => {
    if (wish) ask({ ...wish, id: count++ });
    else {
      forget();
      useMeasured.setState({ measured: null });
    }
  }, [wish]);
  return useMeasured((s) => s.measured);
}
