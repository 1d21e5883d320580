// Review: which frame of a version is shown, how lines that are drawn are kept, in which order notes stand.
import type { ReviewNoteInfo, ReviewVersion } from '@bramblemist/contracts/payloads/review';
import {
  keyOf,
  notesOf,
  pathOf,
  pictureOf,
  rangeOf,
  shownFrame,
  strokeOf,
} from '@bramblemist/web/review/versions';

const version = (id: number, frames: number[]): ReviewVersion => ({
  kind: 'render',
  id,
  name: `Render ${id}`,
  about: '',
  frames,
  rate: 24,
  picture: `/api/renders/${id}/frames/{frame}/png`,
  createdAt: '',
});
const note = (id: number, of: number): ReviewNoteInfo => ({
  id,
  kind: 'render',
  of,
  frame: 1,
  author: '',
  text: 'thinner',
  strokes: [],
  done: false,
  createdAt: '',
});

test('the last frame that is there up to the one that is wanted, else the first', () => {
  const v = version(1, [10, 12, 20]);
  expect([1, 10, 11, 12, 19, 20, 90].map((f) => shownFrame(v, f))).toEqual([10, 10, 10, 12, 12, 20, 20]);
  expect(pictureOf(v, 12)).toBe('/api/renders/1/frames/12/png');
  expect(rangeOf([v, version(2, [4, 15])])).toEqual([4, 20]);
});

test('notes are those of the version, by its kind and number', () => {
  const review = { status: 'work', versions: [], notes: [note(1, 1), note(2, 2), note(3, 1)] } as const;
  expect(notesOf(review, version(1, [1])).map((n) => n.id)).toEqual([1, 3]);
  expect(notesOf(review, { kind: 'comp', id: 1 })).toEqual([]);
  expect(keyOf(version(7, [1]))).toBe('render:7');
});

test('a line keeps within the picture, without points that nobody could tell apart', () => {
  expect(
    strokeOf([
      [-0.2, 0.5],
      [0.5, 0.123456],
      [0.5005, 0.1236],
      [2, 1],
    ]),
  ).toEqual([0, 0.5, 0.5, 0.1235, 1, 1]);
  // a dab is a line too
  expect(
    strokeOf([
      [0.5, 0.5],
      [0.5001, 0.5],
    ]),
  ).toEqual([0.5, 0.5, 0.5001, 0.5]);
  expect(pathOf([0, 0.5, 0.25, 1])).toBe('M0 0.5L0.25 1');
});
