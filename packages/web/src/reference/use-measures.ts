// Measures of the reference and of the run at the frame that is shown: the latest wish is followed, one at a
// time.
import { useEffect } from 'react';
import { latestWish } from '../data/latest-wish';
import { shotStore } from '../data/shot-store';
import { WorkerCalls } from '../data/worker-calls';
import type { Measured, ToMeasure } from './messages';

interface State {
  readonly measured: Measured | null;
  /** Why nothing could be measured. */
  readonly error: string | null;
}
const NOTHING: State = { measured: null, error: null };
const useMeasured = shotStore<State>(() => NOTHING, { returns: false });

const worker = new WorkerCalls<ToMeasure, Measured>(
  () => new Worker(new URL('./measure-worker.ts', import.meta.url), { type: 'module' }),
);
const { ask, forget } = latestWish(
  worker.call,
  (measured) => useMeasured.setState({ measured, error: null }),
  ({ message }) => useMeasured.setState({ measured: null, error: message }),
);

/** @param wish null while nothing is to be measured; the same object for the same wish */
export function useMeasures(wish: ToMeasure | null): State {
  useEffect(() => {
    if (wish) ask(wish);
    else {
      forget();
      useMeasured.setState(NOTHING);
    }
  }, [wish]);
  return useMeasured();
}
