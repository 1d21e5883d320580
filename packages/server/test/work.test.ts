// Frames of a job handed out to slots: each once, in rows, what was not made again.
import { Work, type Part } from '@bramblemist/server/jobs/work';
import type { Job } from '@bramblemist/server/models';

const work = (all: number[], missing = all): Work => {
  const made = new Work({ id: 1 } as Job);
  made.plan({ all, missing });
  return made;
};

const next = (w: Work): Part => {
  const part = w.open('long');
  w.hand(part);
  return part;
};

const make = (part: Part, frames = part.frames!): void => frames.forEach((f) => part.made.add(f));

test('every frame goes to one slot', () => {
  const w = work([1, 2, 3, 4, 5]);
  const [a, b] = [next(w), next(w)];
  expect([a.frames, b.frames]).toEqual([
    [1, 2],
    [3, 4],
  ]);
  expect(w.hasMore).toBe(true);
  expect(w.done).toBe(0);
  make(a);
  expect(w.done).toBe(2);
  expect(w.drop(a)).toEqual([]);
  expect(next(w).frames).toEqual([5]);
  expect(w.hasMore).toBe(false);
});

test('what a slot did not make is handed out again, and a chunk holds nothing that is there', () => {
  const w = work([10, 11, 12, 20, 21], [10, 12, 20, 21]);
  expect(w.done).toBe(1);
  const first = next(w);
  // 11 lies between, and a child is told a range
  expect(first.frames).toEqual([10]);
  const second = next(w);
  expect(second.frames).toEqual([12, 20]);
  make(second, [12]);
  expect(w.drop(second)).toEqual([20]);
  expect(w.drop(first)).toEqual([10]);
  expect(next(w).frames).toEqual([10]);
  expect(next(w).frames!.at(0)).toBe(20);
});

test('quick frames come in larger chunks, slow ones alone', () => {
  const frames = Array.from({ length: 300 }, (_, n) => n + 1);
  const quick = work(frames);
  let part = next(quick);
  make(part);
  quick.drop(part);
  expect(next(quick).frames).toHaveLength(64);
  const slow = work(frames);
  part = next(slow);
  Object.assign(part, { began: Date.now() - 80_000 });
  make(part);
  slow.drop(part);
  expect(next(slow).frames).toEqual([3]);
});

test('after trouble nothing more is handed out; a job of one piece has nothing to hand out', () => {
  const w = work([1, 2, 3]);
  w.outcome = { state: 'failed', message: 'no' };
  expect(w.hasMore).toBe(false);
  const whole = new Work({ id: 2 } as Job);
  const part = next(whole);
  expect(part.frames).toBeNull();
  expect(whole.hasMore).toBe(false);
  expect(whole.drop(part)).toEqual([]);
});
