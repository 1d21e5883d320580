// Frames of a live run within their budget.
import { keepWithin } from '@bramblemist/web/live/budget';
import type { ShownBrick } from '@bramblemist/web/live/use-live';

const frame = (n: number): ShownBrick => ({
  brick: {
    frame: n,
    dims: [10, 10, 5],
    corner: [0, 0, 0],
    voxelSizeM: 1,
    greatest: 1,
    bytes: new Uint8Array(500),
    colour: null,
  },
  light: new Uint8Array(500),
  dots: null,
  glimpse: null,
});
const frames = (last: number): Map<number, ShownBrick> =>
  new Map(Array.from({ length: last }, (_, n) => [n + 1, frame(n + 1)]));

test('all stay while they fit', () => {
  const kept = frames(10);
  expect(keepWithin(kept, 10_000, 1)).toBe(10_000);
  expect(kept.size).toBe(10);
});
test('those farthest from where one looks go first, and the newest stays', () => {
  const kept = frames(20);
  expect(keepWithin(kept, 6000, 3)).toBe(6000);
  expect([...kept.keys()]).toEqual([1, 2, 3, 4, 5, 20]);
});
test('the frame that is shown and the newest stay, however small the budget', () => {
  const kept = frames(20);
  keepWithin(kept, 1, 7);
  expect([...kept.keys()]).toEqual([7, 20]);
});
