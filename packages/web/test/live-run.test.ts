// The live run of the page against a worker that is played by the test.
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { FromLive, ToLive } from '@bramblemist/web/live/messages';

const sent: ToLive[] = [];
let worker: { onmessage: ((event: { data: FromLive }) => void) | null };
let paint: (() => void)[] = [];

class PlayedWorker {
  onmessage: ((event: { data: FromLive }) => void) | null = null;
  onerror = null;

  constructor() {
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- the test answers in its place
    worker = this;
  }

  postMessage(message: ToLive): void {
    sent.push(message);
  }

  terminate(): void {}
}

Object.assign(globalThis, {
  Worker: PlayedWorker,
  requestAnimationFrame: (act: () => void) => paint.push(act),
  localStorage: { getItem: () => null },
});
// after the browser's parts are there
const { live } = jest.requireActual<typeof import('@bramblemist/web/live/use-live')>(
  '@bramblemist/web/live/use-live',
);
const recipe = { space: { firstFrame: 1, lastFrame: 144 } } as Recipe;

function frameCame(frame: number): void {
  const room = { voxels: 1, bytes: 1, keptBytes: 1 };
  const brick = { frame, bytes: new Uint8Array(1), colour: null };
  const parts = { brick, light: new Uint8Array(1), dots: null, glimpse: null, readings: {}, incidents: [] };
  const { run } = live.use.getState();
  worker.onmessage!({ data: { type: 'frame', run, room, ...parts } as unknown as FromLive });
}

const asked = (): number | undefined => {
  const last = sent.at(-1)!;
  return last.type === 'run' ? last.from : undefined;
};

beforeEach(() => {
  live.end();
  sent.length = 0;
  paint = [];
});

test('frames that came but were not painted yet stay when the run starts again behind them', () => {
  live.start(recipe, 0.1, 1);
  for (const frame of [1, 2, 3]) frameCame(frame);
  live.start(recipe, 0.1, 1, 4);
  expect([...live.use.getState().frames.keys()]).toEqual([1, 2, 3]);
  expect(asked()).toBe(4);
});

test('a frame that is still on its way when the run starts again is made once more', () => {
  live.start(recipe, 0.1, 1);
  for (const frame of [1, 2]) frameCame(frame);
  // the worker made frame 3 as well, and the page has not heard of it
  live.start(recipe, 0.1, 1, 25);
  expect([...live.use.getState().frames.keys()]).toEqual([1, 2]);
  expect(asked()).toBe(3);
});

test('frames that stay when a run goes on from the middle are still those of earlier settings', () => {
  const changedAt = (frame: number, from: number): number | null => {
    live.start(recipe, 0.1, 1);
    for (const f of [1, 2, 3, 4, 5, 6]) frameCame(f);
    const { run } = live.use.getState();
    worker.onmessage!({ data: { type: 'changed', run, frame, ask: 0 } });
    live.start(recipe, 0.1, 1, from);
    return live.use.getState().changedFrom;
  };

  expect([changedAt(3, 5), changedAt(6, 4), changedAt(6, 1)]).toEqual([3, 4, null]);
});

test('frames behind the change are let go', () => {
  live.start(recipe, 0.1, 1);
  for (const frame of [1, 2, 3, 4]) frameCame(frame);
  for (const act of paint) act();
  live.start(recipe, 0.1, 1, 3);
  expect([...live.use.getState().frames.keys()]).toEqual([1, 2]);
  expect(asked()).toBe(3);
});
