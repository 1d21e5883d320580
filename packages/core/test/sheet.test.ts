// Trial sheets and knobs: which runs they are, what values lie around one, what is likely to bring a run to
// its reference.
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cellFolder, runSheet, type SheetCell } from '@bramblemist/core/io/node/sheet';
import { opacityOf, trialFrames } from '@bramblemist/core/io/node/trial';
import { readPng } from '@bramblemist/core/io/node/png';
import { LOOK } from '@bramblemist/core/look/look';
import { hintsFor, KNOBS, turned, turnedBy } from '@bramblemist/core/analysis/knobs';
import { SENSITIVITIES } from '@bramblemist/core/analysis/sensitivities';
import { around, captionOf, cellsOf, MOST_CELLS } from '@bramblemist/core/analysis/sheet';
import { example } from '@bramblemist/core/presets/examples';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { numbersOf } from '@bramblemist/core/recipe/tell';
import { cameraFor } from '@bramblemist/core/presets/starting-points';
import { recipeOf } from './run';

const recipe = parseRecipe({ sources: [{ id: 'lip', name: 'Lip' }], turbulence: { strength: 0.4 } });
const strength = { path: 'turbulence/strength', values: [0.2, 0.4] };
const radius = { path: 'sources/lip/radius', values: [0.1, 0.2, 0.3] };

describe('the runs of a sheet', () => {
  test('are all pairs, the first setting along rows', () => {
    const cells = cellsOf(recipe, [strength, radius]);
    expect(cells.map((c) => c.values)).toEqual([
      [0.2, 0.1],
      [0.4, 0.1],
      [0.2, 0.2],
      [0.4, 0.2],
      [0.2, 0.3],
      [0.4, 0.3],
    ]);
    expect(cells[5].recipe).toMatchObject({ turbulence: { strength: 0.4 }, sources: [{ radius: 0.3 }] });
    for (const c of cells) expect(() => parseRecipe(c.recipe)).not.toThrow();
  });
  test('leave keys of the varied number out, and others in', () => {
    const curve = (path: string): object => ({ path, keys: [{ frame: 1, value: 0.1, ease: 'smooth' }] });
    const keyed = parseRecipe({ ...recipe, curves: [curve('turbulence/strength'), curve('buoyancy/lift')] });
    expect(cellsOf(keyed, [strength])[0].recipe.curves.map((c) => c.path)).toEqual(['buoyancy/lift']);
  });
  test.each([
    ['nothing varied', [], 'one setting or two'],
    ['the same twice', [strength, strength], 'differ'],
    ['an unknown number', [{ path: 'sources/nobody/radius', values: [1] }], 'nobody'],
    ['no value', [{ ...strength, values: [] }], 'No value'],
    ['a value that is not allowed', [{ ...strength, values: [-4] }], 'from 0 to'],
    [
      'too many',
      [{ ...strength, values: Array.from({ length: MOST_CELLS + 1 }, (_, n) => n / 10) }],
      'too many',
    ],
  ])('%s is refused with the reason', (_name, varied, says) => {
    expect(() => cellsOf(recipe, varied)).toThrow(says);
  });
  test('are named by what varies', () => {
    expect(captionOf(recipe, [strength, radius], [0.2, 0.05])).toBe('strength 0.2 m/s², radius 5 cm');
  });
});

describe('values around one', () => {
  const of = (path: string): { setting: Parameters<typeof around>[0]; value: number } =>
    numbersOf(recipe).find((n) => n.path === path)!;
  test('go from half to twice, evenly by ratio', () => {
    expect(around(of('turbulence/strength').setting, 0.4, 3)).toEqual([0.2, 0.4, 0.8]);
    expect(
      around(of('turbulence/strength').setting, 0.4, 5).map((v) => Number((v / 0.4).toFixed(2))),
    ).toEqual([0.5, 0.71, 1, 1.41, 2]);
  });
  test('of an angle, a seed, a whole number and of nothing go by steps that are allowed', () => {
    expect(around(of('wind/heading').setting, 0, 3)).toEqual([-30, 0, 30]);
    expect(around(of('turbulence/seed').setting, 4, 3)).toEqual([4, 5, 6]);
    expect(around(of('turbulence/octaves').setting, 3, 3).every(Number.isInteger)).toBe(true);
    for (const n of numbersOf(example('weir-at-dawn')))
      for (const v of around(n.setting, n.value, 6)) {
        expect(v).toBeGreaterThanOrEqual(n.setting.least);
        expect(v).toBeLessThanOrEqual(n.setting.most);
      }
  });
});

describe('a sheet that is run', () => {
  const small = recipeOf({ sources: [{ id: 's', centre: [0, 0.8, 0], radius: 0.3 }] });
  const look = LOOK.parse({ camera: cameraFor(small) });
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'sheet-'))));
  afterEach(() => rmSync(folder, { recursive: true, force: true }));
  test('goes on a frame of each in turn, and leaves pictures and readings', () => {
    const order: string[] = [];
    runSheet(cellsOf(small, [{ path: 'sources/s/radius', values: [0.15, 0.4] }]), {
      folder,
      look,
      voxelSizeM: 0.1,
      last: 2,
      width: 32,
      onFrame: (cell, frame) => order.push(`${cell}:${frame}`),
    });
    expect(order).toEqual(['0:1', '1:1', '0:2', '1:2']);
    const coverage = [0, 1].map((n) => {
      const { rgba } = readPng(join(cellFolder(folder, n), 'cell.0002.png'));
      return rgba.filter((v, i) => i % 4 === 3 && v > 0.05).length;
    });
    expect(coverage[1]).toBeGreaterThan(2 * coverage[0]);
    const said = JSON.parse(readFileSync(join(folder, 'sheet.json'), 'utf8')) as SheetCell[];
    expect(said.map((c) => c.readings.length)).toEqual([2, 2]);
    expect(said[1].readings[1].readings.mass).toBeGreaterThan(said[0].readings[1].readings.mass);
  });
  test('goes on without a run that goes wrong, and says why', () => {
    const cells = cellsOf(small, [{ path: 'sources/s/radius', values: [0.15, 0.4] }]);
    const broken = { ...cells[0], recipe: { ...cells[0].recipe, formulas: null as never } };
    const said = runSheet([broken, cells[1]], {
      folder,
      look,
      voxelSizeM: 0.1,
      last: 2,
      width: 32,
      onFrame: () => {},
    });
    expect(said[0].trouble).toBeTruthy();
    expect(said[1].trouble).toBeNull();
    expect(existsSync(join(cellFolder(folder, 1), 'cell.0002.png'))).toBe(true);
  });
  test('a trial that is left lets its memory go, and only the frames that are asked for are pictured', () => {
    const run = trialFrames(small, look, { voxelSizeM: 0.1, last: 50, width: 32, pictured: (f) => f === 2 });
    const first = run.next().value!;
    const second = run.next().value!;
    expect(first.sight).toBeNull();
    expect(Math.max(...opacityOf(second.sight!).values)).toBeGreaterThan(0.1);
    run.return();
    expect(run.next().done).toBe(true);
  });
});

describe('knobs', () => {
  const weir = example('weir-at-dawn');
  const look = LOOK.parse({});
  test('each turns something of one shot or another, all of it by the same factor', () => {
    for (const knob of KNOBS) {
      const next = turned(knob, weir, look, 1.5);
      if (!next) continue;
      expect(() => parseRecipe(next.recipe)).not.toThrow();
      for (const path of turnedBy(knob, weir)) {
        const at = (r: typeof weir): number => numbersOf(r).find((n) => n.path === path)!.value;
        expect(at(next.recipe) / at(weir)).toBeCloseTo(1.5, 2);
      }
    }

    expect(
      turned(
        KNOBS.find((k) => k.key === 'thickness')!,
        weir,
        look,
        2,
      )!.look.medium.density,
    ).toBe(2 * look.medium.density);
  });
  test('a number that is 0 is left alone', () => {
    expect(
      turnedBy(
        KNOBS.find((k) => k.key === 'stir')!,
        parseRecipe({ turbulence: { strength: 0 } }),
      ),
    ).toEqual([]);
  });
  test('the table holds answers for knobs that there are', () => {
    const known = new Set(KNOBS.map((k) => k.key));
    for (const of of Object.values(SENSITIVITIES))
      for (const [key, s] of Object.entries(of)) {
        expect(known.has(key)).toBe(true);
        expect(Number.isFinite(s.mean) && s.spread >= 0 && s.shots > 1).toBe(true);
      }

    // thicker looks thicker: the table is the right way round
    expect(SENSITIVITIES.opacity!.thickness.mean).toBeGreaterThan(0.2);
  });
  test('a run that covers too little is told to grow, one that is like it nothing', () => {
    const m = { name: 'coverage', reference: 0.2, run: 0.1, score: 0.5 } as const;
    const hints = hintsFor(m, weir);
    expect(hints[0].knob.key).toBe('reach');
    expect(hints.every((h) => h.factor >= 1 / 3 && h.factor <= 3)).toBe(true);
    expect(hints[0].factor).toBeGreaterThan(1);
    expect(hintsFor({ ...m, run: 0.4 }, weir)[0].factor).toBeLessThan(1);
    expect(hintsFor({ ...m, run: 0.195, score: 0.975 }, weir)).toEqual([]);
  });
});
