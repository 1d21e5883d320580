import type { Checkpoint } from '@bramblemist/core/run/simulation';
import { States } from '@bramblemist/web/live/states';

/** A state of four arrays of so many floats. */
const state = (frame: number, floats = 100): Checkpoint => {
  const a = (): Float32Array => new Float32Array(floats);
  return {
    frame,
    topSpeeds: [0, 0, 0],
    snapshot: {
      window: null as never,
      velocity: [a(), a()],
      channels: [a()],
      pressure: a(),
      medium: null,
      rooms: null,
      pools: [],
    },
  };
};

const run = (states: States, last: number): void => {
  for (let f = 1; f <= last; f++) if (states.wants(f)) states.add(state(f));
};

test('the latest state before a frame, and nothing behind it any more', () => {
  const states = new States(1e6);
  run(states, 20);
  expect(states.before(18)?.frame).toBe(16);
  expect(states.before(100)?.frame).toBe(16);
  expect(states.before(16)?.frame).toBe(12);
  expect(states.before(3)).toBeNull();
  expect(states.bytes).toBe(0);
});
test('within its budget it keeps fewer, spread over the run, and the newest', () => {
  const states = new States(5 * 1600);
  run(states, 200);
  expect(states.bytes).toBeLessThanOrEqual(5 * 1600);
  const frames = [200, 150, 100, 60].map((f) => states.before(f)?.frame ?? 0);
  expect(frames[0]).toBeGreaterThan(150);
  expect(frames[2]).toBeGreaterThan(30);
});
test('cleared, it starts dense again', () => {
  const states = new States(2 * 1600);
  run(states, 64);
  states.clear();
  expect([states.bytes, states.before(1000)]).toEqual([0, null]);
  expect(states.wants(4)).toBe(true);
});
