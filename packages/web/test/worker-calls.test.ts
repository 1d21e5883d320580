// Calls to workers that answer, refuse, fail, and are made anew; and the latest of many wishes.
import { latestWish } from '@bramblemist/web/data/latest-wish';
import { WorkerCalls, type Call } from '@bramblemist/web/data/worker-calls';

/** A worker in the page's own thread: what it does with a call is said when it is made. */
class Stand {
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: ((event: { message: string; preventDefault: () => void }) => void) | null = null;
  isEnded = false;

  constructor(private readonly act: (wish: string) => unknown) {}

  postMessage({ id, wish }: Call<string>): void {
    queueMicrotask(() => {
      if (wish === 'crash') return this.onerror?.({ message: 'out of memory', preventDefault: () => {} });
      try {
        this.onmessage?.({ data: { id, answer: this.act(wish) } });
      } catch (error) {
        this.onmessage?.({ data: { id, error: (error as Error).message } });
      }
    });
  }

  terminate(): void {
    this.isEnded = true;
  }
}

const calls = (act: (wish: string) => unknown): { made: Stand[]; worker: WorkerCalls<string, string> } => {
  const made: Stand[] = [];
  const worker = new WorkerCalls<string, string>(() => {
    made.push(new Stand(act));
    return made[made.length - 1] as unknown as Worker;
  });
  return { made, worker };
};

test('each call has its own answer, and what the worker refuses is an error', async () => {
  const { made, worker } = calls((wish) => {
    if (wish === 'bad') throw new Error('No such file.');
    return `${wish}!`;
  });
  const all = await Promise.allSettled(['a', 'bad', 'b'].map(worker.call));
  expect(all.map((a) => (a.status === 'fulfilled' ? a.value : (a.reason as Error).message))).toEqual([
    'a!',
    'No such file.',
    'b!',
  ]);
  expect(made).toHaveLength(1);
});

test('a worker that fails takes its calls along; the next call has a new one', async () => {
  const { made, worker } = calls((wish) => wish);
  const lost = worker.call('crash');
  await expect(lost).rejects.toThrow('Its worker failed (out of memory).');
  expect(made[0].isEnded).toBe(true);
  await expect(worker.call('again')).resolves.toBe('again');
  expect(made).toHaveLength(2);
});

test('of many wishes the first and the last are answered, and after a failure the next', async () => {
  const { worker } = calls((wish) => wish);
  const seen: string[] = [];
  const queue = latestWish(
    worker.call,
    (answer) => seen.push(answer),
    (error) => seen.push(error.message),
  );
  for (const wish of ['one', 'two', 'three']) queue.ask(wish);
  await new Promise((done) => setTimeout(done, 5));
  expect(seen).toEqual(['one', 'three']);
  queue.ask('crash');
  queue.ask('after');
  await new Promise((done) => setTimeout(done, 5));
  expect(seen.slice(2)).toEqual(['Its worker failed (out of memory).', 'after']);
  queue.ask('four');
  queue.ask('let go');
  queue.forget();
  await new Promise((done) => setTimeout(done, 5));
  expect(seen.slice(4)).toEqual(['four']);
});
