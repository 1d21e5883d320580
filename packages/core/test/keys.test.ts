import {
  moveKeys,
  recipeAt,
  scaleKeys,
  targetOf,
  valueOf,
  withKey,
  type KeyedCurve,
} from '@bramblemist/core/recipe/keys';
import type { Ease } from '@bramblemist/core/recipe/settings';
import { DocumentError } from '@bramblemist/core/recipe/document';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';

const curve = (keys: [number, number, Ease?][], after: KeyedCurve['after'] = 'hold'): KeyedCurve => ({
  id: 'c',
  path: 'wind/speed',
  keys: keys.map(([frame, value, ease]) => ({ frame, value, ease: ease ?? 'even' })),
  after,
});

describe('curves', () => {
  test.each<[Ease, number]>([
    ['even', 0.25],
    ['hold', 0],
    ['smooth', 0.15625],
    ['slow start', 0.0625],
    ['slow end', 0.4375],
  ])('%s: a quarter of the way', (ease, at) => {
    expect(
      valueOf(
        curve([
          [10, 0, ease],
          [20, 1],
        ]),
        12.5,
      ),
    ).toBeCloseTo(at, 10);
  });
  test('before the first and after the last key', () => {
    const keys: [number, number][] = [
      [10, 1],
      [14, 5],
    ];
    expect(valueOf(curve(keys), 0)).toBe(1);
    expect(valueOf(curve(keys), 99)).toBe(5);
    expect([15, 17, 18, 19].map((f) => valueOf(curve(keys, 'loop'), f))).toEqual([2, 4, 1, 2]);
    expect([15, 17, 18, 19].map((f) => valueOf(curve(keys, 'swing'), f))).toEqual([4, 2, 1, 2]);
    expect(valueOf(curve([[10, 3]]), 5)).toBe(3);
    expect(valueOf(curve([[10, 3]], 'loop'), 50)).toBe(3);
  });
  test('keys are added, replaced, moved onto others, stretched', () => {
    const c = curve([
      [1, 0],
      [10, 5, 'hold'],
      [20, 7],
    ]);
    expect(withKey(c, 10, 9).keys[1]).toEqual({ frame: 10, value: 9, ease: 'hold' });
    expect(withKey(c, 5, 2).keys.map((k) => k.frame)).toEqual([1, 5, 10, 20]);
    expect(moveKeys(c, new Set([10]), 10, 1).keys.map((k) => [k.frame, k.value])).toEqual([
      [1, 0],
      [20, 6],
    ]);
    expect(scaleKeys(c, 0.5, 2).keys.map((k) => [k.frame, k.value])).toEqual([
      [1, 0],
      [6, 10],
      [11, 14],
    ]);
    expect(scaleKeys(c, 0, 1).keys).toHaveLength(1);
  });
});

describe('keyed recipes', () => {
  const source = { id: 'lip', name: 'Lip' };
  test('numbers follow their curves; what is not keyed is the same object', () => {
    const recipe = parseRecipe({
      sources: [source],
      curves: [
        {
          path: 'sources/lip/density.amount',
          keys: [
            { frame: 1, value: 0, ease: 'even' },
            { frame: 11, value: 10, ease: 'even' },
          ],
        },
      ],
    });
    expect(recipeAt(recipe, 4).sources[0].density.amount).toBe(3);
    expect(recipeAt(recipe, 4).wind).toBe(recipe.wind);
    const plain = parseRecipe({ sources: [source] });
    expect(recipeAt(plain, 4)).toBe(plain);
  });
  test('what a curve moves is told by name', () => {
    const recipe = parseRecipe({ sources: [source] });
    expect(targetOf(recipe, 'sources/lip/push.speed')).toMatchObject({
      name: 'Lip: speed',
      at: 'sources.0.push.speed',
    });
    expect(targetOf(recipe, 'space/voxelSize')).toMatchObject({
      wrong: expect.stringMatching(/takes no keys/) as string,
    });
    expect(targetOf(recipe, 'sources/x/density.amount')).toMatchObject({
      wrong: expect.stringMatching(/id x/) as string,
    });
  });
  test.each<[string, object[], RegExp]>([
    ['a setting that is not there', [{ path: 'wind/sped' }], /no setting called sped/],
    ['one that sizes memory', [{ path: 'space/size.0' }], /takes no keys/],
    [
      'keys out of order',
      [
        {
          path: 'wind/speed',
          keys: [
            { frame: 5, value: 1, ease: 'even' },
            { frame: 5, value: 2, ease: 'even' },
          ],
        },
      ],
      /later/,
    ],
    [
      'a value out of range',
      [{ path: 'wind/speed', keys: [{ frame: 5, value: -1, ease: 'even' }] }],
      /from 0 to 100 m\/s/,
    ],
    [
      'an ease that is not known',
      [{ path: 'wind/speed', keys: [{ frame: 5, value: 1, ease: 'wild' }] }],
      /smooth, even/,
    ],
    ['two curves for one setting', [{ path: 'wind/speed' }, { path: 'wind/speed' }], /two curves/],
  ])('refused: %s', (_name, curves, words) => {
    expect(() => parseRecipe({ curves })).toThrow(DocumentError);
    expect(() => parseRecipe({ curves })).toThrow(words);
  });
  test('references must hold', () => {
    expect(() => parseRecipe({ window: { travel: 'x' } })).toThrow(
      /window.travel: is the id of nothing in obstacles or sources/,
    );
    expect(() => parseRecipe({ obstacles: [{ shape: 'mesh', file: 'x' }] })).toThrow(/obstacles\[0\].file/);
  });
});

test('a recipe of the first version is read as it was meant', () => {
  const recipe = parseRecipe({
    version: 1,
    name: 'Old',
    window: { mode: 'whole', threshold: 0.002, margin: 8, shrinkFrom: 1, travel: 'Cart' },
    sources: [{ id: 'a', rate: 3, temperature: -8, colour: [1, 0, 0], from: 4 }],
    obstacles: [{ id: 'c', name: 'Cart' }],
  });
  expect(recipe.version).toBe(4);
  expect(recipe.window.travel).toBe('c');
  expect(recipe.sources[0]).toMatchObject({
    density: { how: 'add', amount: 3 },
    temperature: { how: 'replace', amount: -8 },
    colour: { how: 'add', amount: [1, 0, 0] },
    from: 4,
  });
  expect(parseRecipe({ version: 1, name: 'Old', window: { travel: 'nothing' } }).window.travel).toBe('');
});
