// A worker that is replaced where it fails, but not again and again.
import { SturdyWorker } from '@bramblemist/web/data/sturdy-worker';

class Played {
  onmessage: ((event: { data: string }) => void) | null = null;
  onerror: ((event: { message: string; preventDefault: () => void }) => void) | null = null;
  isEnded = false;
  readonly got: string[] = [];

  postMessage(message: string): void {
    this.got.push(message);
  }

  terminate(): void {
    this.isEnded = true;
  }

  fail(message = 'out of memory'): void {
    this.onerror!({ message, preventDefault: () => {} });
  }
}

const made: Played[] = [];
const told: string[] = [];
let worker: SturdyWorker<string, string>;

beforeEach(() => {
  jest.useFakeTimers();
  made.length = told.length = 0;
  worker = new SturdyWorker<string, string>({
    makeWorker: () => {
      made.push(new Played());
      return made[made.length - 1] as unknown as Worker;
    },
    hear: (news) => told.push(news),
    again: (why) => {
      told.push(`again: ${why}`);
      worker.send('once more');
    },
    failed: (why) => told.push(`failed: ${why}`),
  });
});
afterEach(() => jest.useRealTimers());

test('is made when it is first needed, and heard as often as it speaks', () => {
  expect([worker.isThere, made.length]).toEqual([false, 0]);
  worker.send('a');
  worker.send('b');
  made[0].onmessage!({ data: 'one' });
  made[0].onmessage!({ data: 'two' });
  expect([made.length, made[0].got, told]).toEqual([1, ['a', 'b'], ['one', 'two']]);
});

test('one that fails is replaced and asked again; a second failure within a minute is told of', () => {
  worker.send('a');
  made[0].fail();
  expect([made[0].isEnded, made[1].got]).toEqual([true, ['once more']]);
  jest.advanceTimersByTime(59_000);
  made[1].fail('');
  expect(told).toEqual(['again: out of memory', 'failed: it could not be loaded']);
  expect([worker.isThere, made.length]).toEqual([false, 2]);
});

test('failures that lie further apart are each made good', () => {
  worker.send('a');
  made[0].fail();
  jest.advanceTimersByTime(61_000);
  made[1].fail();
  expect(told).toEqual(['again: out of memory', 'again: out of memory']);
  expect(made[2].got).toEqual(['once more']);
});

test('after its end the next message has another one', () => {
  worker.send('a');
  worker.end();
  expect([made[0].isEnded, worker.isThere]).toEqual([true, false]);
  worker.send('b');
  expect(made[1].got).toEqual(['b']);
});
