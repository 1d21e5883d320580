// The worker's side of WorkerCalls: calls are answered one after the other.
import type { Answered, Call } from './worker-calls';

/**
 * @param act what it throws is told to whoever called
 * @param moved buffers of an answer that need not be copied
 */
export function answerCalls<Wish, Answer>(
  act: (wish: Wish) => Answer | Promise<Answer>,
  moved: (answer: Answer) => (ArrayBufferLike | undefined)[] = () => [],
): void {
  let last: Promise<void> = Promise.resolve();
  const post = (message: Answered<Answer>, transfer: Transferable[] = []): void =>
    self.postMessage(message, { transfer });
  const answer = async ({ id, wish }: Call<Wish>): Promise<void> => {
    try {
      const found = await act(wish);
      const own = moved(found).filter((b): b is ArrayBuffer => b instanceof ArrayBuffer);
      post({ id, answer: found }, [...new Set(own)]);
    } catch (error) {
      post({ id, error: (error as Error).message });
    }
  };

  self.onmessage = ({ data }: MessageEvent<Call<Wish>>) => {
    last = last.then(() => answer(data));
  };
}
