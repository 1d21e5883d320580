// The same recipe gives the same voxels, bit for bit, in Node, Chromium and Firefox, with one thread and two.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { launch, type Browser } from 'puppeteer-core';

const FRAMES = 20;
/** Firefox reckons many times slower on some machines; by then everything of the recipes is under way. */
const FRAMES_IN_FIREFOX = 3;
const VOXEL = 0.08;
const ROOT = resolve(import.meta.dirname, '..');
const CLI = join(ROOT, 'packages/cli/bin/bramblemist.cjs');

/** The weir, and the weir with everything that reaches voxels in another way. */
const CHANGES: Record<string, object> = {
  'the weir': {},
  'the weir with a turning vane, colours, a window that fits, viscosity and paths of third order': {
    window: { mode: 'fit', margin: 6 },
    obstacles: [
      { id: 'sill', name: 'Sill', shape: 'box', centre: [-1.6, 0.5, 0], size: [1.6, 1.0, 2.6] },
      {
        id: 'vane',
        name: 'Vane',
        shape: 'box',
        centre: [0, 0.8, 0],
        size: [0.8, 0.5, 0.05],
        turn: [10, 20, 30],
        motion: 'moves',
        spin: 90,
        velocity: [0.1, 0, 0],
        stick: 0.7,
      },
    ],
    vorticity: { strength: 0.1, large: 0.2, largeSize: 0.8 },
    diffusion: { viscosity: 0.002, density: 0.001 },
    method: { density: 'soft', trace: 'third' },
    keep: { colour: true, age: true, coordinates: true },
  },
  'the weir with every force, regions of all kinds, changes and formulas': {
    gravity: { strength: 9, direction: [0.1, -1, 0] },
    wind: { speed: 0.6, rise: 10, gust: 0.5, where: 'noise' },
    drag: { halfLife: 2, on: 'medium' },
    edges: { strength: 0.5, size: 0.4 },
    vorticity: { strength: 0.1, large: 0.2, largeSize: 0.8, where: 'thin' },
    dissipation: { density: 5, temperature: 4, bias: 0.5 },
    diffusion: { density: 0.0005, where: 'ball' },
    regions: [
      { id: 'ball', shape: 'sphere', centre: [0, 0.7, 0], radius: 0.5, soft: 0.3 },
      { id: 'noise', shape: 'noise', lumps: 0.5, period: 1, joins: 'without', other: 'ball' },
      {
        id: 'thin',
        shape: 'channel',
        channel: 'density',
        low: 0,
        high: 0.5,
        edge: [
          [0, 0],
          [0.3, 1],
          [1, 0],
        ],
      },
      { id: 'formula', shape: 'formula', text: 'noise(position / 0.3, time) * smoothstep(0, 0.1, density)' },
    ],
    changes: [
      { id: 'a', region: 'ball', path: 'gravity/strength', how: 'times', amount: -1 },
      { id: 'b', region: 'formula', path: 'turbulence/strength', how: 'is', amount: 2 },
      { id: 'c', region: 'ball', path: 'currents/jet/speed', how: 'plus', amount: 1 },
    ],
    currents: [
      { id: 'jet', does: 'jet', centre: [0.5, 0.5, 0], speed: 0.5, where: 'noise' },
      {
        id: 'pipe',
        does: 'pipe',
        shape: 'path',
        radius: 0.12,
        mouth: 0.5,
        points: [
          [0, 0, 0],
          [0.5, 0.6, 0],
        ],
      },
      { id: 'whirl', does: 'spin', follows: 'vane', centre: [0.3, 0, 0], radius: 0.3 },
    ],
    obstacles: [
      { id: 'sill', shape: 'box', centre: [-1.6, 0.5, 0], size: [1.6, 1.0, 2.6] },
      { id: 'vane', shape: 'box', centre: [0.8, 0.8, 0], size: [0.5, 0.4, 0.1], motion: 'moves', spin: 60 },
    ],
    formulas: [
      {
        id: 'f',
        when: 'pushed',
        text:
          'push += curlnoise(position / 0.4, 2) * density * m / s ** 2\nvelocity = mix(velocity, vec(0, ' +
          '0, 0), 0.1 * step / s)',
      },
      { id: 'g', when: 'given', text: 'temperature *= 1 - 0.01 * exp(-y / m)' },
      { id: 'h', text: 'density = clamp(density, 0, 2) * pow(0.99, sin(x / m) ** 2)', where: 'thin' },
    ],
  },
};

/** Demo shots with meshes, patterns, particles that fly and those of a file: name, variant, voxel size. */
const SHOTS: readonly (readonly [shot: string, variant: number, voxel: number])[] = [
  ['Ice cellar', 1, 0.07],
  ['Sack drop', 1, 0.06],
  ['Weir at dawn', 2, 0.09],
];

interface Work {
  readonly url: string;
  readonly message: object;
}

/** Runs in a page of either browser. */
const inWorker = ({ url, message }: Work): Promise<string> =>
  new Promise<string>((done, fail) => {
    const w = new Worker(url, { type: 'module' });
    // an engine may end a worker that nothing points at, though it is waited for
    Object.assign(globalThis, { kept: w });
    w.onmessage = ({ data }: MessageEvent<{ type: string; value: string; message: string }>) =>
      data.type === 'checksum' ? done(data.value) : fail(new Error(data.message));
    w.onerror = (e) => fail(new Error(e.message));
    w.postMessage(message);
  });

/** The frames' checksums as the command line bakes them, and the recipe with its defaults filled in. */
function inNode(recipe: object, voxelSizeM: number, threads: number): { states: string[]; recipe: object } {
  const folder = mkdtempSync(join(tmpdir(), 'bits-'));
  const file = join(folder, 'recipe.json');
  writeFileSync(file, JSON.stringify(recipe));
  const wanted = ['--frames', `1-${FRAMES}`, '--voxel', String(voxelSizeM), '--threads', String(threads)];
  const files = ['--files', join(ROOT, 'demo/build/pictures')];
  const lines = execFileSync(
    process.execPath,
    [CLI, 'bake', file, '--out', join(folder, 'cache'), ...wanted, ...files, '--json'],
    { encoding: 'utf8' },
  );
  const states = lines
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { event: string; state: string })
    .filter(({ event }) => event === 'frame')
    .map(({ state }) => state);
  const manifest = readFileSync(join(folder, 'cache', 'manifest.json'), 'utf8');
  rmSync(folder, { recursive: true });
  return { states, recipe: (JSON.parse(manifest) as { recipe: object }).recipe };
}

let firefox: Browser;
test.beforeAll(async () => {
  firefox = await launch({
    browser: 'firefox',
    executablePath: '/usr/bin/firefox-esr',
    headless: true,
    protocolTimeout: 90_000,
  });
});
test.afterAll(() => firefox.close());

async function holdsEverywhere(page: Page, recipe: object, voxelSizeM: number): Promise<void> {
  const [one, two] = [1, 2].map((threads) => inNode(recipe, voxelSizeM, threads));
  expect(one.states).toHaveLength(FRAMES);
  expect(one.states.at(-1)).toMatch(/^[0-9a-f]{8}$/);
  expect(two.states).toEqual(one.states);
  await page.goto('/queue');
  const worker = readdirSync(join(ROOT, 'packages/web/build/assets')).find((f) =>
    /^live-worker-.*\.js$/.test(f),
  )!;
  const work = (threads: number, frames: number): Work => ({
    url: `/assets/${worker}`,
    message: { type: 'checksum', recipe: one.recipe, voxelSizeM, threads, frames },
  });
  for (const threads of [1, 2])
    expect(await page.evaluate(inWorker, work(threads, FRAMES))).toBe(one.states.at(-1));
  const other = await firefox.newPage();
  await other.goto(page.url());
  expect(await other.evaluate(inWorker, work(2, FRAMES_IN_FIREFOX))).toBe(one.states[FRAMES_IN_FIREFOX - 1]);
  await other.close();
}

for (const [name, changes] of Object.entries(CHANGES))
  test(`twenty frames of ${name}`, async ({ page }) => {
    const weir = execFileSync(process.execPath, [CLI, 'recipe', '--example', 'weir-at-dawn'], {
      encoding: 'utf8',
    });
    await holdsEverywhere(page, { ...(JSON.parse(weir) as object), ...changes }, VOXEL);
  });

for (const [name, number, voxelSizeM] of SHOTS)
  test(`twenty frames of the demo’s ${name}, variant ${number}`, async ({ page, request }) => {
    const productions = (await (await request.get('/api/productions')).json()) as {
      shots: { id: number; name: string }[];
    }[];
    const { id } = productions.flatMap((p) => p.shots).find((s) => s.name === name)!;
    const shot = (await (await request.get(`/api/shots/${id}`)).json()) as {
      variants: { number: number; recipe: object }[];
    };
    await holdsEverywhere(page, shot.variants.find((v) => v.number === number)!.recipe, voxelSizeM);
  });
