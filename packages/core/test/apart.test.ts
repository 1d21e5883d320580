// Each light apart: together they are the beauty, in both estimators and in files.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readExr } from '@bramblemist/core/files/exr/reader';
import { textureBy } from './textures';
import { renderFile } from '@bramblemist/core/io/node/pictures';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { cameraRays, LOOK } from '@bramblemist/core/look/look';
import { plume } from '@bramblemist/core/look/plume';
import { renderWith, type RenderedFrame } from '@bramblemist/core/look/render';
import { cameraMatrices, saidOf } from '@bramblemist/core/look/said';
import { solidsAt } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { recipeOf } from './run';
import { meanOf, pure, quickly, SUN, truly } from './rendered';
import { defaultShape } from './shapes';

const camera = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 64, height: 36 };
const lights = [
  { ...SUN, heading: 140, height: 30 },
  { ...SUN, id: 'r', kind: 'rectangle', position: [-1.5, 1.5, 0.5], aim: [0, 1, 0], colour: [1, 0.6, 0.3] },
  { ...SUN, id: 'o', name: 'Off', on: false },
];
const look = (quality: object, more: object = {}): object => ({
  camera,
  medium: pure(8, 0.9, 0.4),
  lights,
  sky: { stops: -1, colour: [0.6, 0.7, 0.9] },
  passes: { lights: true },
  quality,
  ...more,
});
const volume = plume(40);
const picture = textureBy(64, 32, (c, n) => (n === 300 ? 400 : 0.3 + 0.1 * c));

function rendered(settings: object, options: Parameters<typeof renderWith>[3] = {}): RenderedFrame {
  return renderWith(startThreadPool, volume, LOOK.parse(settings), { threads: 2, ...options });
}

const lightsOf = ({ layers }: RenderedFrame): { name: string; values: Float32Array }[] =>
  layers
    .filter(({ name }) => name.startsWith('lights.'))
    .map(({ name, values }) => ({ name: name.slice(7), values }));

function expectSum(frame: RenderedFrame): void {
  const { rgba } = frame;
  const apart = lightsOf(frame);
  let far = 0;
  for (let p = 0; p < rgba.length / 4; p++)
    for (let c = 0; c < 3; c++) {
      const sum = apart.reduce((all, { values }) => all + values[3 * p + c], 0);
      far = Math.max(far, Math.abs(sum - rgba[4 * p + c]) / Math.max(1, rgba[4 * p + c]));
    }

  expect(far).toBeLessThan(1e-5);
}

describe.each([
  ['true', truly(16, 4)],
  ['quick', quickly(3)],
])('lights apart (%s)', (mode, quality) => {
  test('are the beauty together, each under its name', () => {
    const frame = rendered(look(quality));
    expect(lightsOf(frame).map(({ name }) => name)).toEqual(['Sun', 'Sun_2', 'environment']);
    expectSum(frame);
    for (const { values } of lightsOf(frame)) expect(Math.max(...values)).toBeGreaterThan(0.001);
    // asking for them changes nothing
    const plain = rendered(look(quality, { passes: { lights: false } }));
    expect(lightsOf(plain)).toEqual([]);
    for (let n = 0; n < plain.rgba.length; n++)
      expect(Math.abs(plain.rgba[n] - frame.rgba[n])).toBeLessThan(1e-4);
  });
  test('of a picture all round, of what glows and among solids, too', () => {
    const ball = { ...defaultShape('sphere', [0.7, 0.4, 0.4], 0.2), id: 'ball' };
    const solids = solidsAt(compile(recipeOf({ obstacles: [ball] })).plan, 0);
    const frame = rendered(
      look(quality, {
        sky: { kind: 'picture', picture: 'p', stops: -1, seen: 'seen' },
        solids: { seen: 'seen', ground: 'seen' },
        surfaces: [{ id: 's', name: 'Ball', of: 'ball', glows: true, glow: [1, 0.5, 0.2], stops: 3 }],
      }),
      { solids, pictures: new Map([['p', picture]]) },
    );
    expect(lightsOf(frame).map(({ name }) => name)).toEqual(['Sun', 'Sun_2', 'environment', 'glow']);
    expectSum(frame);
    expect(meanOf(frame.rgba)[3]).toBeCloseTo(1, 3);
    // a light alone is a picture with that one alone
    const alone = rendered(
      look(quality, {
        lights: [lights[1]],
        sky: { stops: -20 },
        solids: { seen: 'seen', ground: 'seen' },
        passes: { lights: false },
      }),
      { solids },
    );
    const own = lightsOf(frame)[1].values;
    let [a, b] = [0, 0];
    for (let p = 0; p < own.length / 3; p++) {
      a += own[3 * p];
      b += alone.rgba[4 * p];
    }

    expect(a / b).toBeGreaterThan(mode === 'true' ? 0.97 : 0.95);
    expect(a / b).toBeLessThan(mode === 'true' ? 1.03 : 1.05);
  });
});

test('a file says where its camera stood and how it saw', () => {
  const seen = LOOK.parse({ camera: { ...camera, roll: 20, squeeze: 1.5 } });
  const { worldToCamera, worldToNDC } = cameraMatrices(seen);
  const times = (p: readonly number[], m: readonly number[]): number[] =>
    [0, 1, 2, 3].map((c) => [...p, 1].reduce((sum, v, r) => sum + v * m[4 * r + c], 0));
  expect(
    times(seen.camera.eye, worldToCamera)
      .slice(0, 3)
      .every((v) => Math.abs(v) < 1e-9),
  ).toBe(true);
  expect(times(seen.camera.target, worldToCamera)[2]).toBeGreaterThan(0);
  const { eye, corner, across, down } = cameraRays(seen);
  for (const [x, y] of [
    [0, 0],
    [10, 30],
    [63, 35],
  ]) {
    const p = eye.map((v, a) => v + 2.5 * (corner[a] + x * across[a] + y * down[a]));
    const [u, v, , w] = times(p, worldToNDC);
    expect((u / w) * 64).toBeCloseTo(x + 0.5);
    expect((v / w) * 36).toBeCloseTo(y + 0.5);
  }

  const said = saidOf(seen, { frame: 3661 * 24 + 13, frameRate: 24 });
  expect(said.timeCode).toBe(0x01010113);
  expect(said.rational).toEqual({ framesPerSecond: [24, 1] });
  expect(saidOf(seen, { frame: 1, frameRate: 23.976 }).rational).toEqual({ framesPerSecond: [24000, 1001] });
  expect(LOOK.parse(JSON.parse(said.text!.look))).toEqual(seen);
});

test('files hold them as layers', () => {
  const folder = mkdtempSync(join(tmpdir(), 'apart-'));
  try {
    const { exr } = renderFile(volume, join(folder, 'one'), LOOK.parse(look(quickly(1))), {});
    const { channels } = readExr(readFileSync(exr));
    expect(channels.map(({ name }) => name)).toEqual(
      expect.arrayContaining(['R', 'lights.Sun.R', 'lights.Sun_2.G', 'lights.environment.B']),
    );
    const of = (name: string): ArrayLike<number> => channels.find((c) => c.name === name)!.values;
    const at = 18 * 64 + 32;
    const sum = ['Sun', 'Sun_2', 'environment'].reduce((all, light) => all + of(`lights.${light}.G`)[at], 0);
    expect(sum).toBeCloseTo(of('G')[at], 2);
  } finally {
    rmSync(folder, { recursive: true });
  }
});
