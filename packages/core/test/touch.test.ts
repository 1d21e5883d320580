// From which frame on recipes differ, held against runs.
import { valueOf } from '@bramblemist/core/recipe/keys';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { firstTouched } from '@bramblemist/core/recipe/touch';
import { recipeOf, simulate } from './run';

const BASE = recipeOf({
  space: { lastFrame: 24 },
  sources: [
    { id: 'a', name: 'A', from: 1, until: 12, centre: [0, 0.6, 0], radius: 0.3 },
    { id: 'b', name: 'B', from: 9, until: 100000, centre: [0.3, 0.9, 0], radius: 0.2 },
  ],
  patterns: [{ id: 'p', source: 'b', size: 0.2 }],
  currents: [{ id: 'c', does: 'jet', from: 6, centre: [0, 0.8, 0] }],
  wind: { speed: 0.5, grip: 0.3 },
  formulas: [{ id: 'f', text: 'density *= 0.99', from: 15 }],
  curves: [
    {
      id: 'k',
      path: 'wind/speed',
      keys: [
        { frame: 4, value: 0.5, ease: 'even' },
        { frame: 8, value: 1, ease: 'even' },
        { frame: 12, value: 1, ease: 'even' },
        { frame: 20, value: 0, ease: 'even' },
      ],
    },
  ],
});
const but = (change: (r: Recipe) => object): Recipe =>
  parseRecipe({ ...BASE, ...change(structuredClone(BASE)) });
const inList =
  (key: 'sources' | 'currents' | 'formulas' | 'patterns', n: number, parts: object) => (r: Recipe) => ({
    [key]: r[key].map((p, m) => (m === n ? { ...p, ...parts } : p)),
  });

const CASES: [string, (r: Recipe) => object, number][] = [
  ['nothing', () => ({}), Infinity],
  ['a longer shot', (r) => ({ space: { ...r.space, lastFrame: 40 } }), Infinity],
  ['finer voxels', (r) => ({ space: { ...r.space, voxelSize: 0.05 } }), 1],
  ['another domain', (r) => ({ space: { ...r.space, cfl: 2 } }), 1],
  ['a source that begins later', inList('sources', 1, { radius: 0.25 }), 9],
  ['its pattern', inList('patterns', 0, { contrast: 3 }), 9],
  ['where a source ends', inList('sources', 0, { until: 18 }), 13],
  ['where it ends and begins', inList('sources', 0, { until: 18, from: 3 }), 1],
  ['a current', inList('currents', 0, { speed: 2 }), 6],
  ['a formula', inList('formulas', 0, { text: 'density *= 0.9' }), 15],
  ['one more source', (r) => ({ sources: [...r.sources, { ...r.sources[0], id: 'n', from: 11 }] }), 11],
  ['one less', (r) => ({ sources: [r.sources[0]], patterns: [] }), 9],
  ['another order', (r) => ({ sources: [...r.sources].reverse() }), 1],
  ['the turbulence', () => ({ turbulence: { strength: 1 } }), 1],
  ['an obstacle', () => ({ obstacles: [{ id: 'o' }] }), 1],
  [
    'a later key',
    (r) => ({
      curves: r.curves.map((c) => ({
        ...c,
        keys: c.keys.map((k) => (k.frame === 20 ? { ...k, value: 2 } : k)),
      })),
    }),
    13,
  ],
  [
    'an ease',
    (r) => ({
      curves: r.curves.map((c) => ({
        ...c,
        keys: c.keys.map((k) => (k.frame === 4 ? { ...k, ease: 'smooth' } : k)),
      })),
    }),
    5,
  ],
  ['no keys any more', () => ({ curves: [] }), 5],
];

test.each(CASES)('%s', (_, change, frame) => {
  expect(firstTouched(BASE, but(change))).toBe(frame);
  expect(firstTouched(but(change), BASE)).toBe(frame);
});

test.each(CASES.filter(([, , frame]) => frame > 1 && frame < 24))(
  'what comes before is the same to the bit: %s',
  (_, change, frame) => {
    const [a, b] = [BASE, but(change)].map((r) => simulate(r));
    for (let f = 1; f < frame; f++) {
      a.advanceFrame();
      b.advanceFrame();
    }

    expect(b.checksum()).toBe(a.checksum());
    for (let f = 0; f < 2; f++) {
      a.advanceFrame();
      b.advanceFrame();
    }

    expect(b.checksum()).not.toBe(a.checksum());
  },
);

test('the keys are as these cases suppose', () => {
  expect([4, 6, 12, 16].map((f) => valueOf(BASE.curves[0], f))).toEqual([0.5, 0.75, 1, 0.5]);
});
