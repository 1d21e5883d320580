// Calls to a worker, each answered once. A worker that fails takes the calls that are under way with it, and
// the next call has a new one: the page goes on.

export interface Call<Wish> {
  readonly id: number;
  readonly wish: Wish;
}
export type Answered<Answer> =
  { readonly id: number; readonly answer: Answer } | { readonly id: number; readonly error: string };

interface Waiting<Answer> {
  readonly done: (answer: Answer) => void;
  readonly fail: (error: Error) => void;
}

export class WorkerCalls<Wish, Answer> {
  private worker: Worker | null = null;
  private count = 0;
  private readonly waiting = new Map<number, Waiting<Answer>>();

  /** @param makeWorker called when it is first needed, and after a failure; it answers with `answerCalls` */
  constructor(private readonly makeWorker: () => Worker) {}

  /** @throws Error with what the worker said, or that it failed */
  readonly call = (wish: Wish): Promise<Answer> =>
    new Promise((done, fail) => {
      const id = this.count++;
      this.waiting.set(id, { done, fail });
      this.worker ??= this.start();
      this.worker.postMessage({ id, wish } satisfies Call<Wish>);
    });

  private start(): Worker {
    const worker = this.makeWorker();
    worker.onmessage = ({ data }: MessageEvent<Answered<Answer>>) => {
      const waiting = this.waiting.get(data.id);
      this.waiting.delete(data.id);
      if ('error' in data) waiting?.fail(new Error(data.error));
      else waiting?.done(data.answer);
    };

    worker.onerror = (event) => {
      event.preventDefault();
      worker.terminate();
      this.worker = null;
      const error = new Error(`Its worker failed (${event.message || 'it could not be loaded'}).`);
      const lost = [...this.waiting.values()];
      this.waiting.clear();
      for (const { fail } of lost) fail(error);
    };

    return worker;
  }
}
