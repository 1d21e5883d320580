// Two people's changes of one document, brought together.
import { isSame, merge, settle } from '@bramblemist/core/recipe/merge';
import { random } from './run';

const base = {
  name: 'Weir',
  wind: { speed: 0.3, heading: 0 },
  space: { corner: [0, 0, 0] },
  sources: [
    { id: 'a', density: { amount: 1 }, centre: [0, 0, 0] },
    { id: 'b', density: { amount: 2 }, centre: [1, 1, 1] },
    { id: 'c', density: { amount: 3 }, centre: [2, 2, 2] },
  ],
  curves: [{ path: 'wind/speed', keys: [{ frame: 1, value: 0 }] }],
};
type Doc = typeof base;
const changed = (change: (d: Doc) => void): Doc => {
  const copy = structuredClone(base);
  change(copy);
  return copy;
};

test('settings that each changed alone are both there', () => {
  const mine = changed((d) => void (d.wind.speed = 2));
  const theirs = changed((d) => {
    d.wind.heading = 45;
    d.sources[1].density.amount = 9;
  });
  const { merged, clashes } = merge(base, mine, theirs);
  expect(clashes).toEqual([]);
  expect(merged).toEqual(
    changed((d) => {
      d.wind = { speed: 2, heading: 45 };
      d.sources[1].density.amount = 9;
    }),
  );
});

test('numbers of one place are settings of their own', () => {
  const mine = changed((d) => void (d.sources[0].centre[0] = 5));
  const theirs = changed((d) => void (d.sources[0].centre[2] = 7));
  expect(merge(base, mine, theirs)).toEqual({
    merged: changed((d) => void (d.sources[0].centre = [5, 0, 7])),
    clashes: [],
  });
});

test('parts that were added, taken away and moved', () => {
  const mine = changed((d) => {
    d.sources.splice(1, 0, { id: 'mine', density: { amount: 4 }, centre: [0, 0, 0] });
    d.sources = d.sources.filter((s) => s.id !== 'c');
  });
  const theirs = changed((d) => {
    d.sources.reverse();
    d.sources.push({ id: 'theirs', density: { amount: 5 }, centre: [0, 0, 0] });
  });
  const { merged, clashes } = merge(base, mine, theirs);
  expect(clashes).toEqual([]);
  expect(merged.sources.map((s) => s.id)).toEqual(['b', 'a', 'mine', 'theirs']);
});

test('one setting changed to two values is a clash: mine stands until it is settled', () => {
  const mine = changed((d) => void (d.sources[1].density.amount = 8));
  const theirs = changed((d) => {
    d.sources[1].density.amount = 9;
    d.sources.unshift({ id: 'new', density: { amount: 1 }, centre: [0, 0, 0] });
  });
  const { merged, clashes } = merge(base, mine, theirs);
  expect(clashes).toEqual([{ path: ['sources', 'b', 'density', 'amount'], mine: 8, theirs: 9 }]);
  expect(merged.sources.map((s) => s.density.amount)).toEqual([1, 1, 8, 3]);
  expect(settle(merged, clashes[0].path, 9).sources.map((s) => s.density.amount)).toEqual([1, 1, 9, 3]);
});

test('taken away here and changed there: it stays, and is asked about', () => {
  const mine = changed((d) => void d.sources.splice(1, 1));
  const theirs = changed((d) => void (d.sources[1].density.amount = 9));
  const { merged, clashes } = merge(base, mine, theirs);
  expect(clashes).toEqual([{ path: ['sources', 'b'], mine: undefined, theirs: theirs.sources[1] }]);
  expect(merged.sources.map((s) => s.id)).toEqual(['a', 'b', 'c']);
  expect(settle(merged, clashes[0].path, undefined).sources.map((s) => s.id)).toEqual(['a', 'c']);
});

test('curves are known by what they are over, their keys as a whole', () => {
  const mine = changed((d) => void d.curves.push({ path: 'wind/heading', keys: [] }));
  const theirs = changed((d) => void (d.curves[0].keys[0].value = 3));
  const { merged, clashes } = merge(base, mine, theirs);
  expect(clashes).toEqual([]);
  expect(merged.curves).toEqual([theirs.curves[0], mine.curves[1]]);
});

test('any two sets of changes of different settings commute and lose nothing', () => {
  const next = random(3);
  const leaves = ['wind.speed', 'wind.heading', 'sources.0.density.amount', 'sources.2.density.amount'];
  for (let n = 0; n < 200; n++) {
    const side = leaves.map(() => (next() < 0.5 ? 'mine' : 'theirs'));
    const make = (who: string): Doc =>
      changed((d) =>
        leaves.forEach((leaf, i) => {
          if (side[i] !== who || next() < 0.3) return;
          const keys = leaf.split('.');
          const bag = keys.slice(0, -1).reduce((at: unknown, k) => (at as Record<string, unknown>)[k], d);
          (bag as Record<string, number>)[keys.at(-1)!] = Math.floor(next() * 1000) + 10;
        }),
      );
    const [mine, theirs] = [make('mine'), make('theirs')];
    const one = merge(base, mine, theirs);
    expect(one.clashes).toEqual([]);
    expect(isSame(one.merged, merge(base, theirs, mine).merged)).toBe(true);
    const again = merge(base, one.merged, theirs);
    expect(again).toEqual({ merged: one.merged, clashes: [] });
  }
});
