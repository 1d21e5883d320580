// What differs between recipes, in words; numbers by name.
import { example, EXAMPLES, triesOf } from '@bramblemist/core/presets/examples';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { differencesTold, labelOf, numbersOf, withNumber } from '@bramblemist/core/recipe/tell';

const lip = { id: 'lip', name: 'Lip', density: { amount: 0.8 } };
const base = parseRecipe({ sources: [lip], buoyancy: { lift: 0.02 } });

test('nothing differs from itself', () => {
  expect(differencesTold(base, base)).toEqual([]);
});
test('a number, in its unit, under the name of its part', () => {
  const changed = parseRecipe({
    sources: [{ ...lip, density: { amount: 1.2 }, radius: 0.05 }],
    buoyancy: { lift: 0.02 },
  });
  expect(differencesTold(base, changed)).toEqual(
    expect.arrayContaining([
      {
        path: 'sources/lip/density.amount',
        part: 'Lip',
        setting: expect.any(String) as string,
        from: '0.8',
        to: '1.2',
      },
      expect.objectContaining({ path: 'sources/lip/radius', to: '5 cm' }),
    ]),
  );
});
test('a part that came first leaves the others as they are', () => {
  const more = parseRecipe({ sources: [{ id: 'new', name: 'Sill' }, lip], buoyancy: { lift: 0.02 } });
  expect(differencesTold(base, more)).toEqual([
    { path: 'sources/new', part: 'Sill', setting: '', from: null, to: 'added' },
  ]);
  expect(differencesTold(more, base)).toEqual([
    { path: 'sources/new', part: 'Sill', setting: '', from: 'taken away', to: null },
  ]);
});
test('choices and keys are said in words', () => {
  const keyed = parseRecipe({
    sources: [{ ...lip, motion: 'moves' }],
    buoyancy: { lift: 0.02 },
    curves: [{ path: 'buoyancy/lift', keys: [{ frame: 1, value: 0, ease: 'smooth' }] }],
  });
  const told = differencesTold(base, keyed);
  expect(told.find((d) => d.path === 'sources/lip/motion')).toMatchObject({ part: 'Lip' });
  expect(told.find((d) => d.path.startsWith('curves/'))).toMatchObject({
    part: 'keys of Buoyancy: lift',
    to: 'added',
  });
});
test('the tries of the demo are told without a path in their words', () => {
  for (const name of EXAMPLES)
    for (const { recipe } of triesOf(name)) {
      const told = differencesTold(example(name), recipe);
      expect(told.length).toBeGreaterThan(0);
      for (const d of told)
        expect(`${d.part} ${d.setting} ${d.from} ${d.to}`).not.toMatch(/undefined|\[object|\w\/\w+\//);
    }
});
test('every number has a path of its own and can be set by it', () => {
  const recipe = example('weir-at-dawn');
  const all = numbersOf(recipe);
  expect(all.length).toBeGreaterThan(40);
  expect(new Set(all.map((n) => n.path)).size).toBe(all.length);
  for (const n of all) {
    const changed = withNumber(recipe, n.path, n.value + 1);
    expect(numbersOf(changed).find((m) => m.path === n.path)?.value ?? n.value + 1).toBe(n.value + 1);
    expect(labelOf(recipe, n.path)).toContain(n.setting.label);
  }

  expect(() => withNumber(recipe, 'sources/nobody/radius', 1)).toThrow('nobody');
});
