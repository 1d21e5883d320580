// What earlier versions wrote is read in the form of this one: recipes, and the manifests of caches.
import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bake } from '@bramblemist/core/io/node/bake';
import { readManifest } from '@bramblemist/core/io/node/cache';
import { parseRecipe, RECIPE } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';

const ball = { id: 'a', shape: 'sphere', centre: [0, 0.3, 0], radius: 0.2, density: { amount: 2 } };
const SPACE = { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.1, lastFrame: 3 };

/** A recipe as the second version wrote it. */
const second = ({ version: _, dissipation, diffusion, ...rest }: Recipe): object => ({
  ...rest,
  version: 2,
  fading: dissipation,
  spreading: diffusion,
});

test('the second version: fading and spreading, and paths that name them', () => {
  const recipe = parseRecipe({
    version: 2,
    sources: [ball],
    fading: { density: 3 },
    spreading: { viscosity: 0.01 },
    curves: [{ id: 'k', path: 'fading/temperature', keys: [{ frame: 1, value: 2, ease: 'hold' }] }],
    regions: [{ id: 'r' }],
    changes: [{ id: 'c', region: 'r', path: 'spreading/density', how: 'is', amount: 0.2 }],
  });
  expect(recipe.version).toBe(RECIPE.version);
  expect(recipe.dissipation.density).toBe(3);
  expect(recipe.diffusion.viscosity).toBe(0.01);
  expect(recipe.curves[0].path).toBe('dissipation/temperature');
  expect(recipe.changes[0].path).toBe('diffusion/density');
});

test('the third version: what was carried sharply or without loss is carried finely', () => {
  const third = (method: object): Recipe => parseRecipe({ version: 3, sources: [ball], method });
  expect(third({ density: 'sharp', temperature: 'kept' }).method).toMatchObject({
    density: 'fine',
    temperature: 'fine',
  });
  expect(third({ density: 'soft', trace: 'third', motion: 'reflected' }).method).toMatchObject({
    density: 'soft',
    temperature: 'fine',
    trace: 'third',
  });
  expect(() => third({ density: 'mild' })).toThrow(/method.density/);
});

test('a cache of the second version is read, and its bake goes on with the same bits', () => {
  const folder = mkdtempSync(join(tmpdir(), 'upgrade-'));
  const recipe = parseRecipe({ name: 'Old', space: SPACE, sources: [ball] });
  const options = { threads: 1, bricks: false, checkpointEvery: 1, onFrame: () => {} };
  const whole = bake(recipe, { ...options, folder: join(folder, 'whole') });
  const stop = new Error('enough');
  expect(() =>
    bake(recipe, {
      ...options,
      folder: join(folder, 'part'),
      onFrame: (frame) => {
        if (frame.frame === 2) throw stop;
      },
    }),
  ).toThrow(stop);

  // what a program of the second version would have left
  const path = join(folder, 'part', 'manifest.json');
  const manifest = JSON.parse(readFileSync(path, 'utf8')) as {
    recipe: Recipe;
    frames: { incidents: unknown }[];
  };
  const frames = manifest.frames.map(({ incidents: _, ...frame }) => ({
    ...frame,
    notices: [
      { kind: 'capped', frame: 1, substep: 0, what: 'w', cure: 'c', mend: { label: 'l', settings: [] } },
    ],
  }));
  const old = { ...manifest, recipe: second(manifest.recipe), recipeSha256: 'of the second version', frames };
  writeFileSync(path, JSON.stringify(old));
  cpSync(path, join(folder, 'copy.json'));

  expect(readManifest(join(folder, 'part')).frames[0].incidents).toEqual([
    { kind: 'capped', frame: 1, substep: 0, what: 'w', cure: 'c', fix: { label: 'l', settings: [] } },
  ]);
  const resumed = bake(recipe, { ...options, folder: join(folder, 'part'), resume: true });
  expect(resumed.frames.map((f) => f.state)).toEqual(whole.frames.map((f) => f.state));
  rmSync(folder, { recursive: true });
});
