// What follows from a recipe, made by a worker: the latest wish is followed, and what was found stays until
// there is something newer.
import { useEffect, useState } from 'react';
import { latestWish } from '../data/latest-wish';
import { WorkerCalls } from '../data/worker-calls';
import type { PlanAnswers, PlanWish } from './messages';

const worker = new WorkerCalls<PlanWish, PlanAnswers[PlanWish['of']]>(
  () => new Worker(new URL('./plan-worker.ts', import.meta.url), { type: 'module' }),
);

interface Planned<Answer> {
  /** Null before the first answer, and where there is none. */
  readonly answer: Answer | null;
  /** Why there is none: a file is missing, or it is too large. */
  readonly error: string | null;
}

/** @param wish null asks nothing; the same object for the same wish */
export function usePlanned<Of extends PlanWish['of']>(
  wish: Extract<PlanWish, { of: Of }> | null,
): Planned<PlanAnswers[Of]> {
  const [planned, setPlanned] = useState<Planned<PlanAnswers[Of]>>({ answer: null, error: null });
  const [queue] = useState(() =>
    latestWish(
      (w: PlanWish) => worker.call(w),
      (answer) => setPlanned({ answer: answer as PlanAnswers[Of], error: null }),
      ({ message }) => setPlanned({ answer: null, error: message }),
    ),
  );
  useEffect(() => {
    if (wish) queue.ask(wish);
    return queue.forget;
  }, [queue, wish]);
  return planned;
}
