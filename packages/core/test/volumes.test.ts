// Brought volumes in a run: what they give off, what they stop, and air that follows theirs.
import { zipSync } from 'fflate';
import { adoptVolume } from '@bramblemist/core/volume/adopt';
import { importAsset, reportOf } from '@bramblemist/core/assets/import-asset';
import { assetsFrom, type ImportedAsset } from '@bramblemist/core/assets/imported';
import { toLeaves } from '@bramblemist/core/files/vdb/leaves';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import type { Assets } from '@bramblemist/core/assets/assets';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Triple } from '@bramblemist/core/math/vector';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { compile } from '@bramblemist/core/plan/compile';
import { Simulation } from '@bramblemist/core/run/simulation';

const H = 0.1;
const DIMS: Triple = [12, 12, 12];

/** A cube of 1.2 m about the origin of x and z, on the floor: density and velocity by place. */
function file(density: (x: number, y: number, z: number) => number, velocity?: Triple): Uint8Array {
  const at = (n: number): Triple => [
    (n % 12) * H - 0.55,
    (Math.floor(n / 12) % 12) * H + 0.05,
    Math.floor(n / 144) * H - 0.55,
  ];
  const values = Float32Array.from({ length: 1728 }, (_, n) => density(...at(n)));
  const active = Uint8Array.from(values, (v) => Number(v > 0));
  const base = { half: false, voxelSize: [H, H, H], translation: [0.05, 0.05, 0.05], tiles: [] } as const;
  const origin: Triple = [-6, 0, -6];
  return writeVdb([
    {
      ...base,
      name: 'density',
      kind: 'float',
      background: [0],
      metadata: {},
      leaves: toLeaves([values], active, DIMS, origin),
    },
    ...(velocity
      ? [
          {
            ...base,
            name: 'vel',
            kind: 'vec3' as const,
            background: [0, 0, 0],
            metadata: {},
            leaves: toLeaves(
              velocity.map((v) => new Float32Array(1728).fill(v)),
              active,
              DIMS,
              origin,
            ),
          },
        ]
      : []),
  ]);
}

const ball = (x: number, y: number, z: number): number => Math.max(0, 1 - Math.hypot(x, y - 0.6, z) / 0.45);

async function assetsWith(
  bytes: Uint8Array,
  name = 'fog.vdb',
): Promise<{ assets: Assets; brought: ImportedAsset }> {
  const brought = await importAsset(name, bytes);
  return { assets: assetsFrom(() => brought), brought };
}

function run(parts: object, assets: Assets, frames: number): Simulation {
  const recipe = parseRecipe({
    space: { size: [2.4, 1.6, 2.4], corner: [-1.2, 0, -1.2], voxelSize: H, lastFrame: 99 },
    files: [{ id: 'fog', name: 'fog.vdb', kind: 'volume' }],
    ...parts,
  });
  const plan = compile(recipe, { assets }).plan;
  const s = new Simulation(plan, startThreadPool(Simulation.pages(plan, 1), 1));
  for (let f = 0; f < frames; f++) s.advanceFrame();
  return s;
}

/** Value of a channel at a world place, from its nearest voxel. */
const valueAt = (s: Simulation, name: 'density' | 'velocityX', x: number, y: number, z: number): number => {
  const { nx, ny } = s.window.lattice;
  const [i, j, k] = [x, y, z].map((v, a) => Math.floor(v / H) - s.window.origin[a]);
  const row = nx + Number(name === 'velocityX');
  return s.read(name)[(k * ny + j) * row + i];
};

/** The brought volume as a source that gives off as its density says. */
const FOG = {
  id: 's',
  shape: 'mesh',
  file: 'fog',
  centre: [0, 0, 0],
  threshold: 0,
  softness: 1,
  density: { amount: 24 },
};

test('as a source it gives off as its density says', async () => {
  const { assets } = await assetsWith(file(ball));
  const source = { ...FOG, temperature: { how: 'none' } };
  const s = run({ sources: [source], buoyancy: { lift: 0, weight: 0 } }, assets, 1);
  for (const p of [
    [0.05, 0.65, 0.05],
    [0.25, 0.65, 0.05],
    [-0.15, 0.45, -0.15],
  ] as Triple[])
    expect(valueAt(s, 'density', ...p)).toBeCloseTo(ball(...p), 1);
  expect(valueAt(s, 'density', 0.75, 0.65, 0.05)).toBe(0);
  // moved and turned as any shape
  const moved = run({ sources: [{ ...source, centre: [0.4, 0.2, 0] }] }, assets, 1);
  expect(valueAt(moved, 'density', 0.45, 0.85, 0.05)).toBeCloseTo(ball(0.05, 0.65, 0.05), 1);
});

test('as an obstacle it is solid where it is more than half as dense as it gets', async () => {
  const { assets } = await assetsWith(
    file((x, y, z) => 1.0001 - Math.min(1, Math.hypot(x, y - 0.6, z) / 0.8)),
  );
  const s = run(
    {
      obstacles: [{ id: 'o', shape: 'mesh', file: 'fog', centre: [0, 0, 0] }],
      sources: [{ shape: 'box', centre: [0, 0.6, 0], size: [2.2, 1, 0.2], density: { amount: 24 } }],
      wind: { speed: 1, grip: 0.05 },
    },
    assets,
    6,
  );
  expect(valueAt(s, 'density', 0.05, 0.65, 0.05)).toBe(0);
  expect(valueAt(s, 'density', 0.25, 0.65, 0.05)).toBe(0);
  expect(valueAt(s, 'density', 0.95, 0.65, 0.05)).toBeGreaterThan(0.1);
  // the air goes round it
  expect(Math.abs(valueAt(s, 'velocityX', -0.05, 0.65, 0.05))).toBeLessThan(0.02);
});

test('as a current the air follows its velocity, where that is known', async () => {
  const { assets } = await assetsWith(file(ball, [0.8, 0, 0]));
  const s = run(
    { currents: [{ id: 'c', does: 'volume', file: 'fog', centre: [0, 0, 0], within: 0.02 }] },
    assets,
    3,
  );
  expect(valueAt(s, 'velocityX', 0.05, 0.65, 0.05)).toBeGreaterThan(0.45);
  expect(Math.abs(valueAt(s, 'velocityX', 0.05, 0.65, 1.05))).toBeLessThan(0.25);
  const back = run(
    { currents: [{ id: 'c', does: 'volume', file: 'fog', centre: [0, 0, 0], within: 0.02, times: -1 }] },
    assets,
    3,
  );
  expect(valueAt(back, 'velocityX', 0.05, 0.65, 0.05)).toBeLessThan(-0.45);
  const { assets: without } = await assetsWith(file(ball));
  expect(() =>
    run({ currents: [{ id: 'c', name: 'Draught', does: 'volume', file: 'fog' }] }, without, 1),
  ).toThrow(/Draught: fog.vdb holds no velocity/);
});

test('a sequence goes through its frames with the shot, holds over gaps, and says so', async () => {
  const at = (n: number): Uint8Array => file((x, y, z) => ball(x - 0.2 * n, y, z));
  const { assets, brought } = await assetsWith(
    zipSync({ 'fog.1.vdb': at(-1), 'fog.2.vdb': at(0), 'fog.5.vdb': at(1) }),
    'fog.zip',
  );
  const report = reportOf(brought);
  expect(report).toMatchObject({ kind: 'volume', hasVelocity: false, time: { first: 1, last: 5 } });
  expect(report.kind === 'volume' && report.notes.join()).toMatch(/frames 3, 4 are missing/);
  const source = {
    id: 's',
    shape: 'mesh',
    file: 'fog',
    centre: [0, 0, 0],
    threshold: 0,
    softness: 1,
    density: { how: 'replace', amount: 1 },
  };
  const s = run(
    { sources: [{ ...source, density: { how: 'raise', amount: 1 } }], dissipation: { density: 100 } },
    assets,
    6,
  );
  expect(valueAt(s, 'density', 0.25, 0.65, 0.05)).toBeGreaterThan(0.5);
});

test('z up, centimetres, and a mesh where a volume is wanted', async () => {
  const { assets, brought } = await assetsWith(file(ball));
  if (brought.kind !== 'volume') throw new Error('not a volume');
  const source = FOG;
  const s = run(
    { sources: [source], files: [{ id: 'fog', name: 'fog.vdb', kind: 'volume', up: 'z', scale: 0.5 }] },
    assets,
    1,
  );
  // the file's y = 0.6 points toward −z now, at half the size
  expect(valueAt(s, 'density', 0.05, 0.05, -0.25)).toBeGreaterThan(0.4);
  const obj = new TextEncoder().encode('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n');
  const mesh = await importAsset('a.obj', obj);
  expect(() =>
    run(
      { currents: [{ id: 'c', name: 'Draught', does: 'volume', file: 'fog' }] },
      assetsFrom(() => mesh),
      1,
    ),
  ).toThrow(/holds no volume/);
  expect(adoptVolume(readVdb(file(ball)), 1).volume.voxelSizeM).toBeCloseTo(H, 9);
});

test('two threads and a run that goes on have the same bits', async () => {
  const { assets } = await assetsWith(file(ball, [0.8, 0.1, 0]));
  const recipe = parseRecipe({
    space: { size: [2.4, 1.6, 2.4], corner: [-1.2, 0, -1.2], voxelSize: H, lastFrame: 99 },
    files: [{ id: 'fog', name: 'fog.vdb', kind: 'volume' }],
    sources: [{ id: 's', shape: 'mesh', file: 'fog', centre: [0, 0, 0], threshold: 0, softness: 1 }],
    currents: [{ id: 'c', does: 'volume', file: 'fog', centre: [0, 0, 0] }],
  });
  const plan = compile(recipe, { assets }).plan;
  const make = (threads: number): Simulation =>
    new Simulation(plan, startThreadPool(Simulation.pages(plan, threads), threads));
  const [one, two] = [make(1), make(2)];
  for (let f = 0; f < 4; f++) [one, two].forEach((s) => s.advanceFrame());
  expect(two.checksum()).toBe(one.checksum());
  const later = new Simulation(plan, startThreadPool(Simulation.pages(plan, 1), 1), one.checkpoint());
  [one, later].forEach((s) => s.advanceFrame());
  expect(later.checksum()).toBe(one.checksum());
});
