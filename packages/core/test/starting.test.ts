// Media, starting points, the demo's other tries, and what is done to regions, changes and formulas on the
// page.
import {
  added,
  changeable,
  canContinue,
  pasted,
  textOf,
  withChange,
  without,
} from '@bramblemist/core/presets/edit';
import { EXAMPLES, example, triesOf } from '@bramblemist/core/presets/examples';
import { targetOf } from '@bramblemist/core/recipe/keys';
import { MEDIA, withMedium } from '@bramblemist/core/presets/media';
import { getAt } from '@bramblemist/core/recipe/paths';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { STARTERS } from '@bramblemist/core/presets/new-parts';
import { cameraFor, startFrom, STARTING_POINTS } from '@bramblemist/core/presets/starting-points';
import { start } from './physics/kit';
import { recipeOf, simulate, sum } from './run';

let count = 0;
const newId = (): string => `n${count++}`;

describe('media', () => {
  test('each is a recipe, with numbers that follow from what it is', () => {
    for (const m of MEDIA) {
      const recipe = parseRecipe(withMedium(parseRecipe({}), m.key));
      for (const [path, value] of Object.entries(m.settings)) expect(getAt(recipe, path)).toBe(value);
      expect(m.when).toMatch(/^Density 1 is /);
    }

    const weight = (key: string): number => withMedium(parseRecipe({}), key).buoyancy.weight;
    // a gram of soot, five grams of drops, fifty grams of dust in 1.2 kg of air; a tenth of carbon dioxide
    expect(weight('smoke')).toBeCloseTo((9.81 * 0.001) / 1.2, 4);
    expect(weight('mist')).toBeCloseTo((9.81 * 0.005) / 1.2, 3);
    expect(weight('dust')).toBeCloseTo((9.81 * 0.05) / 1.2, 2);
    expect(weight('dry-ice')).toBeCloseTo(9.81 * ((0.1 * 44.01 + 0.9 * 28.97) / 28.97 - 1), 2);
    expect(withMedium(parseRecipe({}), 'ink').buoyancy.lift).toBeCloseTo(9.81 * 2.07e-4, 4);
    expect(withMedium(parseRecipe({}), 'smoke').buoyancy.lift).toBeCloseTo(9.81 / 293, 4);
  });
  test('one that there is not is refused with those that there are', () => {
    expect(() => withMedium(parseRecipe({}), 'fire')).toThrow(
      /There is no medium called fire. There are: smoke, mist/,
    );
  });
});

describe('starting points', () => {
  test.each(STARTING_POINTS.map((p) => [p.key]))(
    '%s runs, gives something off and keeps within its domain',
    (key) => {
      const { recipe, look, point } = startFrom(key)!;
      expect(point.first).toMatch(/^Change /);
      const s = start(recipe, 1, Math.max(...recipe.space.size) / 32);
      for (let f = 0; f < 8; f++) s.advanceFrame();
      expect(sum(s.read('density'))).toBeGreaterThan(0);
      expect(s.advanceFrame().incidents.filter((n) => n.kind !== 'capped')).toEqual([]);
      // its camera sees all of the domain
      const { eye, target } = look.camera;
      const ahead = target.map((t, a) => t - eye[a]);
      const long = Math.hypot(...ahead);
      for (let n = 0; n < 8; n++) {
        const p = recipe.space.size.map((v, a) => recipe.space.corner[a] + ((n >> a) & 1) * v - eye[a]);
        const depth = p.reduce((a, v, i) => a + (v * ahead[i]) / long, 0);
        const beside = Math.hypot(...p.map((v, i) => v - (depth * ahead[i]) / long));
        expect(beside / depth).toBeLessThan(Math.hypot(18, (18 * 9) / 16) / look.camera.focal);
      }
    },
  );
  test('they are examples too, and the door checks them', () => {
    expect(EXAMPLES).toEqual(expect.arrayContaining(['breath', 'drying-kiln', 'warm-plume']));
    expect(example('breath').name).toBe('Breath in cold air');
    expect(startFrom('nothing')).toBeNull();
    expect(cameraFor(example('quill')).target[1]).toBeCloseTo(0.18, 1);
  });
});

describe('the demo’s other tries', () => {
  test.each(EXAMPLES.filter((name) => triesOf(name).length > 0))('%s', (name) => {
    for (const { note, recipe } of triesOf(name)) {
      expect(note.length).toBeGreaterThan(10);
      expect(parseRecipe(recipe)).toEqual(recipe);
      // without what lies in files
      const still = {
        ...recipe,
        obstacles: recipe.obstacles.filter((o) => o.shape !== 'mesh'),
        particles: recipe.particles.filter((p) => p.born !== 'file'),
        sources: recipe.sources.filter((s) => s.shape !== 'particles'),
      };
      const s = start(still, 1, Math.max(...recipe.space.size) / 24);
      for (let f = 0; f < 4; f++) s.advanceFrame();
      expect(
        s.plan.regions.length + s.plan.formulas.length + s.plan.currents.length + recipe.particles.length,
      ).toBeGreaterThan(0);
    }
  });
  test('the kiln’s cock turns and is an obstacle; the wind is calm in its shelter', () => {
    const s = start(example('drying-kiln'), 1, 0.2);
    expect(s.plan.obstacles.find((o) => o.part.id === 'cock')!.moves).toBe(true);
    for (let f = 0; f < 40; f++) s.advanceFrame();
    const { nx, ny } = s.window.lattice;
    const u = s.read('velocityX');
    const at = (x: number, y: number, z: number): number => {
      const [i, j, k] = [x, y, z].map((v, a) => Math.floor(v / 0.2 - s.window.origin[a]));
      return u[(k * ny + j) * (nx + 1) + i];
    };

    expect(at(2.1, 0.6, 0)).toBeLessThan(0.5 * at(2.1, 3, 0));
  });
});

describe('on the page', () => {
  const start_ = (): Recipe => added(recipeOf({ wind: { speed: 1 } }), 'regions', STARTERS.regions[0], 'r');
  test.each(STARTERS.regions.filter((s) => s.name !== 'Mesh').map((s) => [s.name]))(
    '%s limits the wind',
    (name) => {
      const starter = STARTERS.regions.find((s) => s.name === name)!;
      const recipe = added(recipeOf({ wind: { speed: 5, grip: 0.1 } }), 'regions', starter, 'r');
      const s = simulate(
        parseRecipe({ ...recipe, wind: { ...recipe.wind, where: 'r' }, space: { ...recipe.space } }),
      );
      s.advanceFrame();
      expect(s.plan.regions).toHaveLength(1);
    },
  );
  test.each(STARTERS.formulas.map((s) => [s.name]))('%s is a formula that runs', (name) => {
    const recipe = added(
      recipeOf(),
      'formulas',
      STARTERS.formulas.find((s) => s.name === name)!,
      'f',
    );
    expect(recipe.formulas[0].text).not.toContain('\\n');
    simulate(parseRecipe(recipe)).advanceFrame();
  });
  test('a change begins with something that can be seen, for every setting that can be changed', () => {
    const recipe = added(start_(), 'currents', STARTERS.currents[0], 'jet');
    const paths = changeable(recipe).flatMap((g) => g.settings.map((s) => s.path));
    expect(paths).toEqual(
      expect.arrayContaining(['wind/speed', 'gravity/strength', 'turbulence/size', 'currents/jet/speed']),
    );
    for (const path of paths) {
      const next = parseRecipe(withChange(recipe, 'r', path, 'c'));
      expect(next.changes[0]).toMatchObject({ region: 'r', path });
      expect('wrong' in targetOf(next, path)).toBe(false);
    }

    expect(() => withChange(recipe, 'r', 'wind/nothing', 'c')).toThrow(/no setting called nothing/);
  });
  test(
    'removing a region takes its changes along and lets forces act everywhere; removing a current takes ' +
      'its changes',
    () => {
      let recipe = added(start_(), 'currents', STARTERS.currents[0], 'jet');
      recipe = withChange(withChange(recipe, 'r', 'wind/speed', 'a'), 'r', 'currents/jet/speed', 'b');
      recipe = parseRecipe({ ...recipe, wind: { ...recipe.wind, where: 'r' } });
      expect(without(recipe, 'currents', 'jet').changes.map((c) => c.id)).toEqual(['a']);
      const gone = parseRecipe(without(recipe, 'regions', 'r'));
      expect([gone.changes, gone.wind.where]).toEqual([[], '']);
    },
  );
  test(
    'regions go along as text: with what they change, with what they are joined with, and with what is ' +
      'limited to them',
    () => {
      let recipe = withChange(start_(), 'r', 'wind/speed', 'a');
      recipe = parseRecipe({
        ...recipe,
        regions: [
          ...recipe.regions.map((r) => ({ ...r, joins: 'both', other: 'o' })),
          { id: 'o', name: 'Other' },
        ],
        formulas: [{ id: 'f', name: 'Calm', text: 'density = 0', where: 'r' }],
        curves: [{ path: 'regions/r/radius', keys: [{ frame: 1, value: 1, ease: 'even' }] }],
      });
      const elsewhere = pasted(recipeOf(), textOf(recipe, 'regions', 'r'), newId);
      expect(elsewhere.regions.map((r) => r.name)).toEqual(['Place', 'Other']);
      expect(elsewhere.regions[0].other).toBe(elsewhere.regions[1].id);
      expect(elsewhere.changes[0]).toMatchObject({ region: elsewhere.regions[0].id, path: 'wind/speed' });
      expect(elsewhere.curves[0].path).toBe(`regions/${elsewhere.regions[0].id}/radius`);
      // a formula brings its region to another shot, and finds it again in its own
      expect(pasted(recipeOf(), textOf(recipe, 'formulas', 'f'), newId).formulas[0].where).not.toBe('');
      const twice = pasted(recipe, textOf(recipe, 'formulas', 'f'), newId);
      expect(twice.formulas.map((f) => [f.name, f.where])).toEqual([
        ['Calm', 'r'],
        ['Calm 2', 'r'],
      ]);
      expect(twice.regions).toHaveLength(2);
    },
  );
  test(
    'a run goes on with other air, keys of it and what is kept; not with ' +
      'another domain, source or obstacle',
    () => {
      const recipe = start_();
      const on = (parts: object): boolean => canContinue(recipe, parseRecipe({ ...recipe, ...parts }));
      const keyed = (path: string): object => ({
        curves: [{ path, keys: [{ frame: 1, value: 1, ease: 'even' }] }],
      });
      for (const parts of [
        { wind: { speed: 3 } },
        { regions: [] },
        { formulas: [{ text: 'density = 0' }] },
        keyed('wind/speed'),
        { settling: { falls: 'speed', lands: 'drifts' } },
        {},
      ])
        expect(on(parts)).toBe(true);
      for (const parts of [
        { space: { ...recipe.space, voxelSize: 0.2 } },
        { sources: [{}] },
        { obstacles: [{}] },
        { settling: { falls: 'speed', lands: 'lies' } },
        { method: { trace: 'third' } },
        { ...keyed('obstacles/o/radius'), obstacles: [{ id: 'o' }] },
      ])
        expect(on(parts)).toBe(false);
    },
  );
});
