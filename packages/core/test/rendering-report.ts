// npm run pictures: measures what the checks of light hold, and writes docs/rendering.md with two pictures.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { loadAssets } from '@bramblemist/core/io/node/assets';
import { bake } from '@bramblemist/core/io/node/bake';
import { readVolume } from '@bramblemist/core/io/node/pictures';
import { encodePng } from '@bramblemist/core/io/node/png';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compileLook } from '@bramblemist/core/look/compile-look';
import { channelsAsked, type Volume } from '@bramblemist/core/look/colouring';
import { LOOK } from '@bramblemist/core/look/look';
import { plume } from '@bramblemist/core/look/plume';
import { renderPages } from '@bramblemist/core/look/render-layout';
import { LookRenderer } from '@bramblemist/core/look/renderer';
import { TruePicture } from '@bramblemist/core/look/true-picture';
import { solidsAt, type Solid } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { example, exampleLook } from '@bramblemist/core/presets/examples';
import type { Triple } from '@bramblemist/core/math/vector';
import { slabRadiance } from './transport';

const [, , folder = 'docs', demo = 'demo/build/pictures'] = process.argv;
const THREADS = 2;

interface Made {
  readonly rgba: Float32Array;
  readonly width: number;
  readonly height: number;
  readonly mean: readonly number[];
  /** Standard error of the mean luminance over it. */
  readonly error: number;
  readonly seconds: number;
}

function make(volume: Volume, settings: object, solids: readonly Solid[] = []): Made {
  const compiled = compileLook(LOOK.parse(settings), volume, { solids });
  const threadPool = startThreadPool(renderPages(compiled, THREADS), THREADS);
  const renderer = new LookRenderer(threadPool, compiled);
  const { mode, samples } = compiled.look.quality;
  const began = performance.now();
  const picture = new TruePicture(renderer);
  if (mode === 'true') picture.trace(samples);
  const rgba = mode === 'true' ? picture.rgba() : renderer.march();
  const seconds = (performance.now() - began) / 1000;
  const pixels = rgba.length / 4;
  const mean = [0, 1, 2, 3].map((c) => {
    let sum = 0;
    for (let n = c; n < rgba.length; n += 4) sum += rgba[n];
    return sum / pixels;
  });
  const error = picture.noise() / Math.sqrt(pixels) / (mean[1] || 1);
  threadPool.close();
  return { rgba, width: renderer.width, height: renderer.height, mean, error, seconds };
}

const percent = (v: number): string => `${v < 0 ? '−' : '+'}${(100 * Math.abs(v)).toFixed(2)} %`;
const row = (...cells: (string | number)[]): string => `| ${cells.join(' | ')} |`;
const pure = (density: number, albedo: number, forward: number): object => ({
  density,
  scatter: [albedo, albedo, albedo],
  absorb: [1 - albedo, 1 - albedo, 1 - albedo],
  forward,
});
const SUN = { id: 's', kind: 'sun', angle: 0, stops: 0, colour: [1, 1, 1] };
const DARK = { colour: [0, 0, 0] };

function slabs(): string[] {
  const dims: Triple = [160, 160, 8];
  const h = 0.1;
  const volume: Volume = {
    dims,
    density: new Float32Array(dims[0] * dims[1] * dims[2]).fill(1),
    corner: [-8, -8, -0.4],
    voxelSizeM: h,
  };
  return [
    [0.5, 0.9, 0],
    [1, 0.5, -0.4],
    [2, 0.9, 0],
    [2, 1, 0.5],
    [8, 0.99, 0.35],
    [16, 0.95, 0.35],
  ].map(([depth, albedo, g]) => {
    const exact = slabRadiance(depth, albedo, g);
    const [back, on] = [10, -10].map((z) =>
      make(volume, {
        camera: { eye: [0, 0, z], target: [0, 0, 0], focal: 600, back: 4, width: 64, height: 64 },
        medium: pure(depth / (8 * h), albedo, g),
        lights: [{ ...SUN, heading: 90, height: 0 }],
        sky: DARK,
        quality: { mode: 'true', samples: 1024, bounces: 256 },
      }),
    );
    const told = ({ mean, error }: Made, wanted: number): string =>
      `${percent(mean[0] / (4 * Math.PI) / wanted - 1)} ± ${(100 * error).toFixed(2)}`;
    return row(
      depth,
      albedo,
      g,
      exact.back.toFixed(5),
      told(back, exact.back),
      exact.on.toFixed(5),
      told(on, exact.on),
    );
  });
}

const CAMERA = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 160, height: 90 };
const MEDIA = [
  ['mist', [1, 1, 1], [0, 0, 0], 0.6],
  ['pale smoke', [0.94, 0.91, 0.87], [0.06, 0.09, 0.13], 0.35],
  ['sooty smoke', [0.28, 0.26, 0.24], [0.72, 0.74, 0.76], 0.35],
] as const;

function estimators(): string[] {
  const volume = plume(96);
  return MEDIA.flatMap(([name, scatter, absorb, forward]) =>
    [1, 4, 12].map((density) => {
      const look = (quality: object): object => ({
        camera: CAMERA,
        medium: { density, scatter, absorb, forward },
        lights: [{ ...SUN, heading: 140, height: 30 }],
        sky: { stops: -1, colour: [0.6, 0.7, 0.9] },
        quality,
      });
      const single = make(volume, look({ mode: 'quick', octaves: 0 }));
      const singleTrue = make(volume, look({ mode: 'true', samples: 256, bounces: 0 }));
      const quick = make(volume, look({ mode: 'quick', octaves: 4 }));
      const all = make(volume, look({ mode: 'true', samples: 256, bounces: 64 }));
      return row(
        name,
        density,
        percent(single.mean[1] / singleTrue.mean[1] - 1),
        percent(quick.mean[1] / all.mean[1] - 1),
        (all.mean[1] / singleTrue.mean[1]).toFixed(2),
        quick.seconds.toFixed(2),
        all.seconds.toFixed(2),
      );
    }),
  );
}

/** Frames of the demo at rough sizes: voxels, m, and which frame. */
const FRAMES = [
  ['weir-at-dawn', 0.05, 90],
  ['ice-cellar', 0.06, 90],
  ['drying-kiln', 0.06, 90],
  ['sack-drop', 0.04, 30],
  ['quill', 0.006, 70],
] as const;

/** The demo's frames with their own looks and solids. @param files where the demo's meshes are */
async function demoFrames(files: string): Promise<string[]> {
  const rows: string[] = [];
  for (const [name, voxelSizeM, frame] of FRAMES) {
    const out = mkdtempSync(join(tmpdir(), 'frame-'));
    const recipe = example(name);
    const assets = await loadAssets(recipe, files);
    const { frames } = bake(recipe, {
      folder: out,
      frames: { first: frame, last: frame },
      voxelSizeM,
      assets,
      threads: THREADS,
      bricks: false,
      checkpointEvery: 0,
      resume: false,
      onFrame: () => undefined,
    });
    const { camera, quality: own, ...rest } = exampleLook(name);
    const look = { ...rest, camera: { ...camera, width: 240, height: 135 } };
    const volume = readVolume(join(out, frames[0].file), channelsAsked(exampleLook(name).medium));
    rmSync(out, { recursive: true });
    const { plan } = compile(recipe, { assets });
    const solids = solidsAt(plan, frames[0].timeS ?? 0);
    const quick = make(volume, { ...look, quality: { ...own, mode: 'quick', octaves: 4 } }, solids);
    const exact = make(
      volume,
      { ...look, quality: { ...own, mode: 'true', samples: 256, bounces: 32 } },
      solids,
    );
    rows.push(
      row(
        recipe.name,
        volume.dims.join(' × '),
        ...[0, 1, 2].map((c) => percent(quick.mean[c] / exact.mean[c] - 1)),
        quick.seconds.toFixed(2),
        exact.seconds.toFixed(1),
      ),
    );
  }

  return rows;
}

/** Both estimators of one look, side by side. */
function picture(): string {
  const volume = plume(192);
  const [quick, exact] = [
    { mode: 'quick', octaves: 4 },
    { mode: 'true', samples: 256, bounces: 48 },
  ].map((quality) =>
    make(volume, {
      camera: { ...CAMERA, width: 400, height: 400, focal: 56 },
      medium: { density: 9, scatter: [0.99, 0.97, 0.94], absorb: [0.01, 0.03, 0.06], forward: 0.5 },
      lights: [{ ...SUN, angle: 0.5, heading: 150, height: 28, colour: [1, 0.84, 0.66], stops: -0.3 }],
      sky: { stops: -1.6, colour: [0.55, 0.7, 1] },
      quality,
    }),
  );
  const both = new Float32Array(800 * 400 * 4);
  [quick, exact].forEach(({ rgba }, side) => {
    for (let y = 0; y < 400; y++)
      both.set(rgba.subarray(1600 * y, 1600 * (y + 1)), 4 * (800 * y + 400 * side));
  });
  // over a dark ground, as on a page
  for (let n = 0; n < both.length; n += 4) {
    for (let c = 0; c < 3; c++) both[n + c] += 0.012 * (1 - both[n + 3]);
    both[n + 3] = 1;
  }

  mkdirSync(join(folder, 'rendering'), { recursive: true });
  writeFileSync(join(folder, 'rendering/plume.png'), encodePng({ width: 800, height: 400, rgba: both }));
  return (
    `![A plume, quick and true](rendering/plume.png)\n\n_Left: quick, ${quick.seconds.toFixed(2)} s. ` +
    'Right: true, ' +
    `256 samples, 48 bounces, ${exact.seconds.toFixed(1)} s; 400 × 400 pixels, 192³ voxels, two threads._`
  );
}

async function write(): Promise<void> {
  const text = `# Rendering

Made by \`npm run pictures\`; the same checks with fewer samples are part of the tests
(\`core/test/light.test.ts\`). How it works stands in [maintaining](maintaining.md#light).

${picture()}

## A scattering slab

A slab lit from straight above with irradiance 1, its radiance straight back and straight on (what was not
scattered left out), against adding and doubling (\`core/test/transport.ts\`, 24 Gauss nodes, which shares
nothing with the renderer). ± is one standard error of the true picture's mean.

| optical depth | albedo | g | back | true picture | on | true picture |
| --- | --- | --- | --- | --- | --- | --- |
${slabs().join('\n')}

## Quick against true

A plume of 96³ voxels, one sun and an even environment, 160 × 90 pixels: the mean green of quick pictures
against true ones, for single scattering alone and for all of it (four octaves against 64 bounces), and
how much brighter many scatterings make it.

| medium | density scale, 1/m | single | all | all / single | quick, s | true (256), s |
| --- | --- | --- | --- | --- | --- | --- |
${estimators().join('\n')}

An octave sees half the optical depth of the one before toward the light, leans half as much, and counts
0.78 of it times the part of the sky that is not seen from the place, which stands for the light that
comes back. Octave n goes with the albedo to the power of 1, 3, 6, 12. The factor was fitted to a plume of
64³ voxels: densities 0.5 to 40 a metre, albedos 0.7 to 1, g 0 to 0.7, lit from the front, from behind and
from all round; there the root mean square of the error is 12 %, most of it in thick media that lean
strongly forward.

### Frames of the demo

With their own lights, solids and grounds, 240 × 135 pixels: the mean of quick pictures (four octaves)
against true ones (32 bounces) by channel.

| frame | voxels | red | green | blue | quick, s | true (256), s |
| --- | --- | --- | --- | --- | --- | --- |
${(await demoFrames(demo)).join('\n')}

Around solids, quick pictures have light from all round on a lattice of 11³ places: what they leave of the
sky, and what they and the medium give back to one another. What is far off is thick ink between white walls,
whose colour the lattice takes as the same everywhere, and a low cloud over a ground that it lights itself.
`;
  writeFileSync(join(folder, 'rendering.md'), text);
}

void write();
