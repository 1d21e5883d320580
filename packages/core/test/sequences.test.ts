// Meshes and particles over time: sequences and animations, in the shot's time, and how their motion reaches
// the air.
import { Document, WebIO } from '@gltf-transform/core';
import { strToU8, zipSync } from 'fflate';
import { importAsset, reportOf } from '@bramblemist/core/assets/import-asset';
import { assetsFrom, type ImportedAsset } from '@bramblemist/core/assets/imported';
import { writeObj } from '@bramblemist/core/files/obj/obj';
import type { Assets } from '@bramblemist/core/assets/assets';
import { movesByItself, stillMesh, type Mesh, type TimedMesh } from '@bramblemist/core/geometry/mesh';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import { Simulation } from '@bramblemist/core/run/simulation';
import { accessors, ballMesh, boxMesh } from './meshes';
import { ALL_OPEN, recipeOf, sum } from './run';

const zipped = (files: Record<string, string>): Uint8Array =>
  zipSync(Object.fromEntries(Object.entries(files).map(([n, t]) => [n, strToU8(t)])));
const moved = (mesh: Mesh, by: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((v, n) => (n % 3 === 0 ? v + by : v)),
});
const numbered = (meshes: readonly Mesh[]): Uint8Array =>
  zipped(
    Object.fromEntries(meshes.map((m, n) => [`thing.${String(n + 10).padStart(4, '0')}.obj`, writeObj(m)])),
  );

async function meshOf(name: string, bytes: Uint8Array): Promise<TimedMesh> {
  const brought = await importAsset(name, bytes);
  if (brought.kind !== 'mesh') throw new Error(brought.kind);
  return brought.mesh;
}

function run(recipe: Recipe, assets: Assets, frames: number, threads = 1): Simulation {
  const plan = compile(recipe, { assets }).plan;
  const s = new Simulation(plan, startThreadPool(Simulation.pages(plan, threads), threads));
  for (let f = 0; f < frames; f++) s.advanceFrame();
  return s;
}

const widest = (m: Mesh): number => Math.max(...m.positions.filter((_, n) => n % 3 === 0));

/** A box whose node goes 2 units along x and turns a quarter about y in two seconds. */
async function animated(): Promise<Uint8Array> {
  const d = new Document();
  const box = boxMesh(1, 1, 1);
  const accessor = accessors(d);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', box.positions))
    .setIndices(accessor('SCALAR', box.triangles));
  const inner = d.createNode().setMesh(d.createMesh().addPrimitive(primitive));
  const outer = d.createNode().addChild(inner);
  d.createScene().addChild(outer);
  const half = Math.SQRT1_2;
  const times = accessor('SCALAR', Float32Array.of(0, 2));
  const channel = (
    node: typeof inner,
    path: 'translation' | 'rotation',
    output: ReturnType<typeof accessor>,
  ): ReturnType<typeof d.createAnimation> => {
    const sampler = d.createAnimationSampler().setInput(times).setOutput(output);
    const animation = d.getRoot().listAnimations()[0] ?? d.createAnimation();
    return animation
      .addSampler(sampler)
      .addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  };

  channel(outer, 'translation', accessor('VEC3', Float32Array.of(0, 0, 0, 2, 0, 0)));
  channel(inner, 'rotation', accessor('VEC4', Float32Array.of(0, 0, 0, 1, 0, half, 0, half)));
  return new WebIO().writeBinary(d);
}

describe('meshes over time', () => {
  test('an animation of nodes: the way goes evenly, the turn too', async () => {
    const mesh = await meshOf('door.glb', await animated());
    expect(mesh).toMatchObject({ unit: 'seconds', first: 0, last: 2, keepsShape: true });
    for (const t of [0, 0.5, 1.3, 2]) {
      const angle = (Math.PI / 4) * t; // of the corner at 45°
      expect(widest(mesh.at(t))).toBeCloseTo(
        t + Math.SQRT2 * Math.max(...[1, 3, 5, 7].map((n) => Math.cos((n * Math.PI) / 4 - angle))),
        5,
      );
    }

    expect(mesh.bounds().most[0]).toBeGreaterThanOrEqual(3);
  });
  test('a sequence goes straight from frame to frame; one whose faces change jumps', async () => {
    const box = boxMesh(1, 1, 1);
    const mesh = await meshOf('a.zip', numbered([box, moved(box, 1), moved(box, 5)]));
    expect(mesh).toMatchObject({ unit: 'frames', first: 10, last: 12, keepsShape: true });
    expect([9, 10, 10.5, 11, 11.25, 12, 13].map((t) => widest(mesh.at(t)))).toEqual([1, 1, 1.5, 2, 3, 6, 6]);
    expect(mesh.bounds()).toEqual({ least: [-1, -1, -1], most: [6, 1, 1] });
    const other = await meshOf('a.zip', numbered([box, ballMesh(3, 8)]));
    expect(other.keepsShape).toBe(false);
    expect(widest(other.at(10.9))).toBe(1);
  });
  test.each<[string, Uint8Array, RegExp]>([
    ['no archive', strToU8('PK no'), /no ZIP file/],
    ['an empty one', zipped({}), /holds no files/],
    ['names without numbers', zipped({ 'a.obj': 'v 0 0 0' }), /a\.obj has no number/],
    ['two kinds', zipped({ 'a1.obj': 'v 0 0 0', 'a2.ply': 'ply' }), /several kinds/],
    ['a number twice', zipped({ 'a1.obj': 'v 0 0 0', 'b01.obj': 'v 0 0 0' }), /the number 1/],
    ['pictures', zipped({ 'a1.png': 'x' }), /not of png/],
    [
      'one broken frame',
      zipped({ 'a1.obj': writeObj(boxMesh(1, 1, 1)), 'a2.obj': 'v 0 0 0\nf 1 2 3' }),
      /a2\.obj: Line 2/,
    ],
  ])('refused: %s', async (_name, bytes, words) => {
    await expect(importAsset('a.zip', bytes)).rejects.toThrow(words);
  });

  const box = boxMesh(0.2, 0.2, 0.2);
  const file = { files: [{ id: 'f', name: 'a.zip', rate: 25 }] };
  const place = { id: 'o', shape: 'mesh', file: 'f', centre: [-0.3, 0.8, 0] };
  const space = { sides: ALL_OPEN, voxelSize: 0.05 };
  test('as an obstacle it drives the air as the same mesh does that is moved', async () => {
    const speed = 0.75; // m/s: 3 cm a frame
    const sequence = await meshOf(
      'a.zip',
      numbered(Array.from({ length: 12 }, (_, n) => moved(box, 0.03 * n))),
    );
    const own = run(
      recipeOf({ ...file, space, obstacles: [place] }),
      assetsFrom(() => ({ kind: 'mesh', remarks: [], mesh: sequence })),
      8,
    );
    const carried = run(
      recipeOf({ ...file, space, obstacles: [{ ...place, motion: 'moves', velocity: [speed, 0, 0] }] }),
      assetsFrom(() => ({ kind: 'mesh', remarks: [], mesh: stillMesh(box) })),
      8,
    );
    // a sequence starts at frame 1, which shows the end of a frame's time: it is a frame behind
    const [a, b] = [own, carried].map((s) => s.read('velocityX'));
    const energy = (v: Float32Array): number => sum(v.map((x) => x * x));
    expect(energy(a) / energy(b)).toBeGreaterThan(0.8);
    expect(energy(a) / energy(b)).toBeLessThan(1.2);
    expect(Math.max(...a)).toBeGreaterThan(0.7);
  });
  test('a ball that swells drives out as much air as it grows', async () => {
    // 1 cm a frame: at 25 fps its surface goes 0.25 m/s
    const sequence = await meshOf(
      'a.zip',
      numbered(Array.from({ length: 8 }, (_, n) => ballMesh(0.2 + 0.01 * n, 40))),
    );
    const s = run(
      recipeOf({ ...file, space, obstacles: [{ ...place, centre: [0, 0.8, 0] }] }),
      assetsFrom(() => ({ kind: 'mesh', remarks: [], mesh: sequence })),
      6,
    );
    const { nx, ny, nz } = s.window.lattice;
    const h = s.window.voxelSizeM;
    const face = h * h;
    let out = 0;
    const [u, v, w] = (['velocityX', 'velocityY', 'velocityZ'] as const).map((c) => s.read(c));
    for (let k = 0; k < nz; k++)
      for (let j = 0; j < ny; j++)
        out += (u[(k * ny + j) * (nx + 1) + nx] - u[(k * ny + j) * (nx + 1)]) * face;
    for (let k = 0; k < nz; k++)
      for (let i = 0; i < nx; i++) out += (v[(k * (ny + 1) + ny) * nx + i] - v[k * (ny + 1) * nx + i]) * face;
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) out += (w[(nz * ny + j) * nx + i] - w[j * nx + i]) * face;
    const radius = 0.2 + 0.01 * 5;
    // the air of cells that it shuts leaves over a few substeps
    expect(out / (4 * Math.PI * radius ** 2 * 0.25)).toBeGreaterThan(0.9);
    expect(out / (4 * Math.PI * radius ** 2 * 0.25)).toBeLessThan(1.1);
  });
  test('as a source it leaves a trail without gaps, and gives its motion', async () => {
    const sequence = await meshOf('a.zip', numbered([box, moved(box, 0.6)]));
    const s = run(
      recipeOf({
        ...file,
        space: { ...space, substepsMost: 1 },
        sources: [
          {
            ...place,
            centre: [-0.4, 0.8, 0],
            temperature: { how: 'none' },
            push: { how: 'replace', mode: 'motion' },
          },
        ],
      }),
      assetsFrom(() => ({ kind: 'mesh', remarks: [], mesh: sequence })),
      2,
    );
    const { nx, ny } = s.window.lattice;
    const row = Array.from(s.read('density').subarray((16 * ny + 16) * nx + 5, (16 * ny + 16) * nx + 16));
    expect(Math.min(...row)).toBeGreaterThan(0.02);
    expect(Math.max(...s.read('velocityX'))).toBeGreaterThan(3);
  });
});

describe('particles over time', () => {
  const csv = (rows: readonly (readonly number[])[], head = 'id,x,y,z'): string =>
    [head, ...rows.map((r) => r.join())].join('\n');
  const flight = zipped({
    'spray_01.csv': csv([
      [7, 0, 0, 0],
      [9, 1, 0, 0],
    ]),
    'spray_02.csv': csv([
      [9, 1, 2, 0],
      [7, 0, 4, 0],
    ]),
    'spray_05.csv': csv([[7, 0, 4, 3]]),
  });
  const cloudsOf = async (
    name: string,
    bytes: Uint8Array,
  ): Promise<Extract<ImportedAsset, { kind: 'particles' }>['clouds']> => {
    const brought = await importAsset(name, bytes);
    if (brought.kind !== 'particles') throw new Error(brought.kind);
    return brought.clouds;
  };

  test('they are known again by their ids, over a gap too', async () => {
    const clouds = await cloudsOf('spray.zip', flight);
    expect(clouds).toMatchObject({ first: 1, last: 5, most: 2, hasIds: true });
    const at = clouds.at(1.5, 1.25);
    expect([...at.positions]).toEqual([0, 2, 0, 1, 1, 0]);
    expect([...at.earlier]).toEqual([0, 1, 0, 1, 0.5, 0]);
    const later = clouds.at(3.5, 3.5);
    // the second of its frame; the first is gone by the next
    expect([...later.positions.slice(3)]).toEqual([0, 4, 1.5]);
    expect(reportOf({ kind: 'particles', remarks: [], clouds })).toMatchObject({
      most: 2,
      size: [1, 0, 0],
      time: { first: 1, last: 5 },
    });
  });
  test('a PLY without faces holds particles, with their speeds and radii', async () => {
    const ply =
      'ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\nproperty float ' +
      'z\nproperty float vx\nproperty float vy\nproperty float vz\nproperty float ' +
      'radius\nend_header\n0 0 0 1 2 3 0.1\n4 5 6 0 0 0 0.2\n';
    const at = (await cloudsOf('a.ply', strToU8(ply))).at(0, 0);
    expect([...at.velocities!]).toEqual([1, 2, 3, 0, 0, 0]);
    expect(at.radii![1]).toBeCloseTo(0.2);
  });
  test.each<[string, string, RegExp]>([
    ['no head', '1,2,3\n4,5,6', /first row must name/],
    ['no place', csv([[1, 2]], 'id,speed'), /no columns x, y and z/],
    ['a word', 'x,y,z\n1,2,here', /Row 2, z: “here” is no number/],
    ['a short row', 'x,y,z\n1,2,3\n1,2', /Row 3 has 2 values; the head names 3/],
    ['no number', 'x,y,z\n1,2,Infinity', /Particle 1 is at no place/],
  ])('refused: %s', async (_name, text, words) => {
    await expect(importAsset('a.csv', strToU8(text))).rejects.toThrow(words);
  });
  test('in the run they are where the file says, in metres, and give off along their way', async () => {
    const clouds = await cloudsOf('spray.zip', flight);
    const recipe = recipeOf({
      space: { sides: ALL_OPEN, voxelSize: 0.05, substepsLeast: 2 },
      files: [{ id: 'f', name: 'spray.zip', kind: 'particles', scale: 0.1, rate: 25 }],
      particles: [{ id: 'p', born: 'file', sequence: 'f', ball: 0.06 }],
      sources: [{ id: 's', shape: 'particles', particles: 'p', temperature: { how: 'none' } }],
    });
    const s = run(
      recipe,
      assetsFrom(() => ({ kind: 'particles', remarks: [], clouds })),
      2,
    );
    const p = s.particles('p');
    // frame 2 shows the sequence's second file
    expect([...p.y].map((v) => v.toFixed(3))).toEqual(['0.200', '0.400']);
    expect(p.vy[1]).toBe(0); // behind the second file, it rests there until the gap is crossed
    expect(sum(s.read('density'))).toBeGreaterThan(0);
  });
});

test('a still mesh has one moment', () => {
  expect(movesByItself(stillMesh(boxMesh(1, 1, 1)))).toBe(false);
});
