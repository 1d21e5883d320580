// Every shot of the demo renders every pass once, small: nothing is missing, and nothing is no number.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { readExr } from '@bramblemist/core/files/exr/reader';
import { loadAssets } from '@bramblemist/core/io/node/assets';
import { bake } from '@bramblemist/core/io/node/bake';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { readVolume, renderFile } from '@bramblemist/core/io/node/pictures';
import { LOOK, lookAt } from '@bramblemist/core/look/look';
import { askedOf } from '@bramblemist/core/look/fields';
import { layersOf } from '@bramblemist/core/look/look-at-pass';
import { solidsAt } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { example, exampleLook } from '@bramblemist/core/presets/examples';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';

const folder = mkdtempSync(join(tmpdir(), 'shots-'));
beforeAll(() => {
  execFileSync(process.execPath, [
    resolve(__dirname, '../../../demo/build/make.cjs'),
    folder,
    'without-plates',
  ]);
}, 60_000);
afterAll(() => rmSync(folder, { recursive: true }));

test.each([
  ['weir-at-dawn', 0.1, 30, 'quick'],
  ['ice-cellar', 0.15, 30, 'quick'],
  ['drying-kiln', 0.12, 30, 'quick'],
  ['sack-drop', 0.08, 22, 'true'],
  ['quill', 0.012, 20, 'quick'],
] as const)('%s', async (name, voxelSizeM, frame, mode) => {
  const recipe = parseRecipe({
    ...example(name),
    keep: { ...example(name).keep, colour: true, age: true, temperature: true, velocity: true },
  });
  const assets = await loadAssets(recipe, folder);
  const { frames } = bake(recipe, {
    folder: join(folder, name),
    frames: { first: frame, last: frame },
    voxelSizeM,
    assets,
    threads: 2,
    bricks: false,
    checkpointEvery: 0,
    resume: false,
    onFrame: () => undefined,
  });
  const own = exampleLook(name);
  const passes = Object.fromEntries(Object.keys(own.passes).map((pass) => [pass, true]));
  const document = LOOK.parse({
    ...own,
    passes,
    camera: { ...own.camera, width: 64, height: 36, moving: 'blurred' },
    quality: { ...own.quality, mode, samples: 4, moments: 2 },
  });
  const look = lookAt(document, frame);
  const { plan } = compile(recipe, { assets });
  const timeS = frames[0].timeS ?? frame * plan.frameS;
  const { exr } = renderFile(
    readVolume(join(folder, name, frames[0].file), askedOf(look.medium, look)),
    join(folder, `${name}.0001`),
    look,
    {
      threads: 2,
      solids: solidsAt(plan, timeS),
      timing: {
        frame,
        frameRate: recipe.space.frameRate,
        frameS: plan.frameS,
        later: (further) => ({
          look: lookAt(document, frame + further),
          solids: solidsAt(plan, timeS + further * plan.frameS),
        }),
      },
    },
  );
  const { channels } = readExr(readFileSync(exr), nodeZip);
  const wanted = layersOf(look).filter(
    (layer) => mode === 'true' || !['samples', 'variance'].includes(layer),
  );
  for (const layer of wanted) {
    const found = channels.filter((c) => c.name.startsWith(`${layer}.`));
    expect([layer, found.length > 0]).toEqual([layer, true]);
    for (const { values } of found) expect(values.every((v) => Number.isFinite(v))).toBe(true);
  }

  const seen = (channel: string): boolean =>
    channels.find((c) => c.name === channel)!.values.some((v) => v !== 0);
  for (const channel of [
    'A',
    'density.Y',
    'depth.ZMiddle',
    'position.X',
    'normal.Y',
    'motion.X',
    'single.R',
    'age.Y',
  ])
    expect([channel, seen(channel)]).toEqual([channel, true]);
  expect(readFileSync(join(folder, `${name}.deep.0001.exr`)).length).toBeGreaterThan(1000);
});
