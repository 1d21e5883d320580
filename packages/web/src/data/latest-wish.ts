// A worker that is asked for one thing at a time, and always for the newest: what was wished for in between
// is let go.

/** @param makeWorker called when it is first asked */
export function latestWish<Wish, Answer>(
  makeWorker: () => Worker,
  onAnswer: (answer: Answer) => void,
): { readonly ask: (wish: Wish) => void; readonly forget: () => void } {
  let worker: Worker | null = null;
  let busy = false;
  let next: Wish | null = null;

  const send = (): void => {
    if (next === null || busy) return;
    worker ??= started();
    busy = true;
    worker.postMessage(next);
    next = null;
  };

  const started = (): Worker => {
    const made = makeWorker();
    made.onmessage = (e: MessageEvent<Answer>) => {
      busy = false;
      onAnswer(e.data);
      send();
    };

    return made;
  };

  return {
    ask: (wish) => {
      next = wish;
      send();
    },
    /** Lets go of what was not begun. */
    forget: () => void (next = null),
  };
}
