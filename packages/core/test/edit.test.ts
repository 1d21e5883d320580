import {
  added,
  withoutOtherForces,
  moved,
  pasted,
  textOf,
  withFile,
  without,
} from '@bramblemist/core/presets/edit';
import { STARTERS } from '@bramblemist/core/presets/new-parts';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { recipeOf, simulate, sum } from './run';

let count = 0;
const newId = (): string => `new-${count++}`;
const FULL = parseRecipe({
  name: 'Full',
  window: { travel: 'cart' },
  files: [{ id: 'f', name: 'lip.obj', sha256: 'a'.repeat(64) }],
  sources: [
    { id: 'lip', name: 'Lip', shape: 'mesh', file: 'f' },
    { id: 'other', name: 'Other' },
  ],
  patterns: [
    { id: 'p', name: 'Billows', source: 'lip' },
    { id: 'q', source: 'other' },
  ],
  obstacles: [{ id: 'cart', name: 'Cart' }],
  curves: [{ path: 'sources/lip/density.amount' }, { path: 'patterns/p/strength' }, { path: 'wind/speed' }],
});

describe('adding by name', () => {
  const thrown = added(recipeOf(), 'particles', STARTERS.particles[0], 'throw');
  const simple = (list: 'sources' | 'obstacles' | 'particles', name: string): Recipe =>
    added(
      thrown,
      list,
      STARTERS[list].find((s) => s.name === name)!,
      'new',
    );
  test.each(STARTERS.sources.filter((s) => !['Mesh', 'Volume'].includes(s.name)).map((s) => [s.name]))(
    '%s does something at once',
    (name) => {
      const s = simulate(parseRecipe(simple('sources', name)));
      for (let f = 0; f < (name === 'Off particles' ? 3 : 1); f++) s.advanceFrame();
      if (name === 'Draught') expect(Math.max(...s.read('velocityX'))).toBeGreaterThan(0.01);
      else expect(sum(s.read('density'))).toBeGreaterThan(0.01);
    },
  );
  test.each(STARTERS.obstacles.filter((s) => s.name !== 'Mesh').map((s) => [s.name]))(
    '%s stands in the domain',
    (name) => {
      expect(() => simulate(parseRecipe(simple('obstacles', name))).advanceFrame()).not.toThrow();
    },
  );
  test.each(STARTERS.particles.filter((s) => s.name !== 'From a file').map((s) => [s.name]))(
    '%s fly at once',
    (name) => {
      const s = simulate(parseRecipe(simple('particles', name)));
      for (let f = 0; f < 3; f++) s.advanceFrame();
      expect(s.particles('new').count).toBeGreaterThan(30);
    },
  );
  test('a source off particles takes them along as text, with what they spring from', () => {
    const trails = added(
      thrown,
      'particles',
      STARTERS.particles.find((s) => s.name === 'Trails')!,
      'trails',
    );
    const full = added(
      trails,
      'sources',
      STARTERS.sources.find((s) => s.name === 'Off particles')!,
      'off',
      'trails',
    );
    expect(full.particles[1].parent).toBe('throw');
    let n = 0;
    const there = pasted(recipeOf(), textOf(full, 'sources', 'off'), () => `new${++n}`);
    const [source] = there.sources;
    const child = there.particles.find((p) => p.id === source.particles)!;
    expect(child.born).toBe('children');
    expect(there.particles.find((p) => p.id === child.parent)!.born).toBe('burst');
    expect(without(full, 'particles', 'trails').sources[0].particles).toBe('');
  });
  test('names stay apart', () => {
    const puff = STARTERS.sources[0];
    const three = [1, 2, 3].reduce((r, n) => added(r, 'sources', puff, `n${n}`), recipeOf());
    expect(three.sources.map((s) => s.name)).toEqual(['Puff', 'Puff 2', 'Puff 3']);
    expect(added(three, 'patterns', STARTERS.patterns[0], 'x', 'n2').patterns[0]).toMatchObject({
      source: 'n2',
      noise: 'billow',
    });
  });
});

test('moving stays inside the list', () => {
  expect(moved(FULL, 'sources', 'lip', 1).sources.map((s) => s.id)).toEqual(['other', 'lip']);
  expect(moved(FULL, 'sources', 'other', 0).sources.map((s) => s.id)).toEqual(['other', 'lip']);
  for (const to of [-1, 0, 2]) expect(moved(FULL, 'sources', 'lip', to)).toBe(FULL);
  expect(moved(FULL, 'sources', 'nobody', 1)).toBe(FULL);
});

test('removing takes patterns and keys along and leaves nothing that points at nothing', () => {
  const less = without(FULL, 'sources', 'lip');
  expect(less.sources.map((s) => s.id)).toEqual(['other']);
  expect(less.patterns.map((p) => p.id)).toEqual(['q']);
  expect(less.curves.map((c) => c.path)).toEqual(['wind/speed']);
  expect(without(FULL, 'obstacles', 'cart').window.travel).toBe('');
  expect(without(FULL, 'files', 'f').sources[0].file).toBe('');
  for (const r of [less, without(FULL, 'files', 'f'), without(FULL, 'obstacles', 'cart')])
    expect(() => parseRecipe(r)).not.toThrow();
});

describe('as text', () => {
  test('into another shot, with patterns, file and keys', () => {
    const there = pasted(parseRecipe({ name: 'There' }), textOf(FULL, 'sources', 'lip'), newId);
    expect(there.sources[0]).toMatchObject({ name: 'Lip', shape: 'mesh', file: there.files[0].id });
    expect(there.patterns[0]).toMatchObject({ name: 'Billows', source: there.sources[0].id });
    expect(there.curves.map((c) => c.path)).toEqual([
      `sources/${there.sources[0].id}/density.amount`,
      `patterns/${there.patterns[0].id}/strength`,
    ]);
  });
  test('into the same shot it is a copy with a name of its own, and the file stays one', () => {
    const twice = pasted(FULL, textOf(FULL, 'sources', 'lip'), newId);
    expect(twice.sources.map((s) => s.name)).toEqual(['Lip', 'Other', 'Lip 2']);
    expect(twice.files).toHaveLength(1);
    expect(twice.sources[2].file).toBe('f');
  });
  test.each(['', '{}', 'hello', '[1]', 'null'])('%j is refused', (text) => {
    expect(() => pasted(FULL, text, newId)).toThrow(/holds no parts/);
  });
});

test('a file of the shelf is taken once; one source alone', () => {
  expect(withFile(FULL, { name: 'x.obj', sha256: 'a'.repeat(64), kind: 'mesh' }, 'new').id).toBe('f');
  expect(
    withFile(FULL, { name: 'x.obj', sha256: 'b'.repeat(64), kind: 'mesh' }, 'new').recipe.files[1],
  ).toMatchObject({
    id: 'new',
    scale: 1,
  });
  expect(withoutOtherForces(FULL, 'other').sources.map((s) => s.on)).toEqual([false, true]);
  expect(withoutOtherForces(FULL, null)).toBe(FULL);
});
