// Something that is asked for one thing at a time, and always for the newest: what was wished for in between
// is let go.

export interface LatestWish<Wish> {
  readonly ask: (wish: Wish) => void;
  /** Lets go of what was not begun. */
  readonly forget: () => void;
}

export function latestWish<Wish, Answer>(
  call: (wish: Wish) => Promise<Answer>,
  onAnswer: (answer: Answer) => void,
  onFailure: (error: Error) => void,
): LatestWish<Wish> {
  let busy = false;
  let next: { readonly wish: Wish } | null = null;

  const send = (): void => {
    if (next === null || busy) return;
    const { wish } = next;
    busy = true;
    next = null;
    void call(wish)
      .then(onAnswer, onFailure)
      .finally(() => {
        busy = false;
        send();
      });
  };

  return {
    ask: (wish) => {
      next = { wish };
      send();
    },
    forget: () => void (next = null),
  };
}
