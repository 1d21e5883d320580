import { groupOf, STANDS } from '@bramblemist/core/recipe/groups';
import { RECIPE_PARTS } from '@bramblemist/core/recipe/parts';
import { partOf } from '@bramblemist/core/recipe/settings';
import { rowsOf } from '@bramblemist/web/parts/IngredientRows';

const SOURCES = partOf(RECIPE_PARTS, 'sources');
const rows = rowsOf(SOURCES.settings);
const rowWith = (path: string) => rows.find((r) => r.settings.some((s) => s.path === path))!;

test('places and turns stand in one row each, a colour is a swatch, edges stay apart', () => {
  expect(rowWith('centre.1')).toMatchObject({ label: 'centre', colour: null });
  expect(rowWith('centre.1').settings.map((s) => s.path)).toEqual(['centre.0', 'centre.1', 'centre.2']);
  expect(rowWith('turn.0')).toMatchObject({ label: 'turn about', colour: null });
  expect(rowWith('colour.amount.2')).toMatchObject({ label: 'colour', colour: 'colour.amount' });
  expect(rowWith('size.1')).toMatchObject({ label: 'height', settings: [{ path: 'size.1' }] });
  // nothing is lost, nothing comes twice
  expect(rows.flatMap((r) => r.settings)).toEqual(SOURCES.settings);
});

test('settings stand under the head that an artist looks under', () => {
  const of = (path: string): string => groupOf({ path });
  expect(['radius', 'centre.0', 'density.amount', 'burstEvery', 'where'].map(of)).toEqual([
    'shape',
    'placing',
    'amounts',
    'timing',
    'placing',
  ]);
  for (const key of ['sources', 'obstacles', 'currents', 'particles', 'regions'])
    for (const s of partOf(RECIPE_PARTS, key).settings)
      if (!['name', 'on'].includes(s.path)) expect(of(s.path)).not.toBe('other');
});

test('nothing is placed that no part has', () => {
  const paths = new Set(
    RECIPE_PARTS.filter((p) => p.grouped).flatMap((p) => p.settings.map((s) => s.path.split('.')[0])),
  );
  expect(Object.keys(STANDS).filter((path) => !paths.has(path))).toEqual([]);
});
