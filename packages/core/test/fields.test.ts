// Fields in memory, and what is read off them: halos, readings, previews, grids.
import { takePreviewVolume } from '@bramblemist/core/cache/take-preview';
import { takePreview } from '@bramblemist/core/cache/preview';
import { activeBounds, toDense } from '@bramblemist/core/files/vdb/leaves';
import { coarser, lattice, type Lattice } from '@bramblemist/core/grid/lattice';
import { fieldView, MemoryPlan, split, readField, writeField } from '@bramblemist/core/grid/memory';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compile } from '@bramblemist/core/plan/compile';
import { fillHalo } from '@bramblemist/core/grid/sweep';
import { planLayout } from '@bramblemist/core/plan/layout';
import { ALL_OPEN, random, recipeOf, simulate, sum, gridsFrom } from './run';

describe('memory', () => {
  test('no two fields of a run overlap, and each is aligned for vectors', () => {
    const layout = planLayout(
      lattice(20, 12, 10),
      compile(recipeOf({ sources: [{ expansion: 1 }], keep: { colour: true, age: true } })).plan,
      2,
    );
    const all = [
      ...layout.velocity,
      ...layout.velocityNext,
      ...layout.channels,
      layout.spare,
      layout.outflow!,
      ...layout.back,
      layout.ahead[2],
      ...layout.scratch,
      ...layout.coarseForce,
      ...layout.levels.flatMap((l) => l.open),
    ];
    const halves = (address: number, l: Lattice): number[] => [
      address - split(l).lead,
      address - split(l).lead + split(l).bytes,
    ];
    const spans = [
      ...all.map((f) => [f.address - f.lattice.lead * 4, f.address + (f.lattice.size - f.lattice.lead) * 4]),
      ...[layout.pressure, layout.direction].map((a) => halves(a, all[0].lattice)),
      ...layout.levels.flatMap((l) => [l.e, l.r, l.q].map((a) => halves(a, l.lattice))),
    ].sort((a, b) => a[0] - b[0]);
    spans.forEach(([from], n) => {
      expect(from % 16).toBe(0);
      if (n > 0) expect(from).toBeGreaterThanOrEqual(spans[n - 1][1]);
    });
    expect(layout.bytes).toBeGreaterThanOrEqual(spans[spans.length - 1][1]);
  });
  test('levels halve, rounding up, until they are small', () => {
    const sizes = planLayout(lattice(40, 18, 30), compile(recipeOf()).plan, 1).levels.map((l) => [
      l.lattice.nx,
      l.lattice.ny,
      l.lattice.nz,
    ]);
    expect(sizes).toEqual([
      [40, 18, 30],
      [20, 9, 15],
      [10, 5, 8],
      [5, 3, 4],
      [3, 2, 2],
    ]);
    expect(coarser(lattice(5, 3, 1))).toMatchObject({ nx: 3, ny: 2, nz: 1 });
  });
  test('what is written is read, faces included, and the neighbours of a field stay as they were', () => {
    const plan = new MemoryPlan();
    const l = lattice(8, 5, 6);
    const before = plan.field(l);
    const field = plan.field(l);
    const after = plan.field(l);
    const { memory } = startThreadPool(plan.pages, 1);
    const next = random(2);
    const values = Float32Array.from({ length: 9 * 5 * 6 }, () => next());
    writeField(memory, field, values, [1, 0, 0]);
    expect(readField(memory, field, [1, 0, 0])).toEqual(values);
    for (const other of [before, after]) expect(fieldView(memory, other).every((v) => v === 0)).toBe(true);
  });
});

test('a halo repeats the edge or is empty, side by side', () => {
  const plan = new MemoryPlan();
  const l = lattice(8, 6, 4);
  const field = plan.field(l);
  const threadPool = startThreadPool(plan.pages, 1);
  const next = random(5);
  const values = Float32Array.from({ length: 8 * 6 * 4 }, () => 1 + next());
  writeField(threadPool.memory, field, values);
  fillHalo(threadPool, field, 3, 1 | 8 | 32); // empty at −x, +y, +z
  const view = fieldView(threadPool.memory, field);
  const at = (i: number, j: number, k: number): number =>
    view[l.lead + k * l.planeStride + j * l.rowStride + i];
  const value = (i: number, j: number, k: number): number => values[(k * 6 + j) * 8 + i];
  for (let k = 0; k < 4; k++)
    for (let j = 0; j < 6; j++) {
      expect(at(-1, j, k)).toBe(0);
      expect(at(8, j, k)).toBe(value(7, j, k));
    }

  for (let k = 0; k < 4; k++)
    for (let i = 0; i < 8; i++) {
      expect(at(i, -1, k)).toBe(value(i, 0, k));
      expect(at(i, 6, k)).toBe(0);
    }

  for (let j = 0; j < 6; j++)
    for (let i = 0; i < 8; i++) {
      expect(at(i, j, -1)).toBe(value(i, j, 0));
      expect(at(i, j, 4)).toBe(0);
    }
});

describe('readings of known fields', () => {
  test('mass, greatest density, volume and rise height', () => {
    const s = simulate(recipeOf({ space: { sides: ALL_OPEN } }));
    const d = new Float32Array(16 ** 3);
    // a block of 4 × 3 × 2 cells of 0.001 m³ each, its top row is j = 6; nothing moves it
    for (let k = 8; k < 10; k++)
      for (let j = 4; j < 7; j++) for (let i = 3; i < 7; i++) d[(k * 16 + j) * 16 + i] = 0.5;
    d[(9 * 16 + 5) * 16 + 4] = 2;
    writeField(s.threadPool.memory, s.field('density'), d);
    const { readings } = s.advanceFrame();
    expect(readings.mass).toBeCloseTo((23 * 0.5 + 2) * 0.001, 8);
    expect(readings.greatestDensity).toBe(2);
    expect(readings.volume).toBeCloseTo(24 * 0.001, 8);
    expect(readings.riseHeight).toBeCloseTo(0.7, 6);
    expect(readings).toMatchObject({ topSpeed: 0, kineticEnergy: 0, divergence: 0, contact: 0, substeps: 1 });
  });
  test('contact is the part of the mass in the outermost cells', () => {
    const s = simulate(recipeOf());
    const d = new Float32Array(16 ** 3);
    d[(8 * 16 + 0) * 16 + 8] = 1;
    d[(8 * 16 + 8) * 16 + 15] = 1;
    d[(8 * 16 + 8) * 16 + 8] = 2;
    writeField(s.threadPool.memory, s.field('density'), d);
    expect(s.advanceFrame().readings.contact).toBeCloseTo(0.5, 6);
  });
  test('kinetic energy and top speed of a uniform stream', () => {
    const s = simulate(recipeOf({ space: { sides: ALL_OPEN } }));
    const l = s.plan.window.lattice;
    writeField(
      s.threadPool.memory,
      s.field('velocityZ'),
      new Float32Array(l.nx * l.ny * (l.nz + 1)).fill(2),
      [0, 0, 1],
    );
    const { readings } = s.advanceFrame();
    expect(readings.topSpeed).toBeCloseTo(2, 4);
    expect(readings.kineticEnergy).toBeCloseTo(0.5 * 4 * 1.6 ** 3, 2);
  });
});

describe('frames for screen and disk', () => {
  const puff = (keep: object = {}) => {
    const s = simulate(
      recipeOf({
        sources: [
          {
            id: 's',
            centre: [0.1, 0.5, -0.2],
            radius: 0.3,
            density: { amount: 3 },
            temperature: { amount: 30 },
          },
        ],
        buoyancy: { lift: 0.033, weight: 0 },
        keep,
      }),
    );
    for (let f = 0; f < 6; f++) s.advanceFrame();
    return s;
  };

  test('a preview is the mean over its cells, scaled to its greatest', () => {
    const s = puff();
    const d = s.read('density');
    const brick = takePreviewVolume(s, 8);
    expect(brick).toMatchObject({ frame: 6, dims: [8, 8, 8], voxelSizeM: 0.2 });
    expect(brick.corner.map((c) => Number(c.toFixed(6)))).toEqual([-0.8, 0, -0.8]);
    for (const [I, J, K] of [
      [4, 2, 3],
      [5, 3, 2],
      [0, 0, 0],
    ]) {
      let mean = 0;
      for (let n = 0; n < 8; n++)
        mean += d[((2 * K + (n >> 2)) * 16 + 2 * J + ((n >> 1) & 1)) * 16 + 2 * I + (n & 1)] / 8;
      expect(Math.abs((brick.bytes[(K * 8 + J) * 8 + I] / 255) * brick.greatest - mean)).toBeLessThan(
        brick.greatest / 255,
      );
    }
  });
  test('a preview carries the colour of the medium, and none where there is none', () => {
    const colour0 = { how: 'replace', amount: [1, 0.5, 0] };
    const s = simulate(
      recipeOf({ sources: [{ centre: [0, 0.8, 0], radius: 0.4, colour: colour0 }], keep: { colour: true } }),
    );
    s.advanceFrame();
    const { colour } = takePreviewVolume(s);
    const at = (i: number, j: number, k: number): number[] => [
      ...colour!.bytes.subarray(((k * 8 + j) * 8 + i) * 4).subarray(0, 4),
    ];
    expect(colour!.dims).toEqual([8, 8, 8]);
    at(4, 4, 4).forEach((v, n) => expect(Math.abs(v - [255, 127.5, 0, 255][n])).toBeLessThan(1));
    expect(at(0, 0, 0)).toEqual([0, 0, 0, 0]);
    expect(takePreviewVolume(puff()).colour).toBeNull();
  });
  test('taking a preview changes nothing of the run', () => {
    const a = puff();
    const b = puff();
    takePreview(a);
    a.advanceFrame();
    b.advanceFrame();
    expect(a.checksum()).toBe(b.checksum());
  });
  test('grids hold what the fields hold, where it is dense enough, at the right place', () => {
    const s = puff({ precision: 'float', threshold: 0.01 });
    const [density, temperature, velocity] = gridsFrom(s);
    const d = s.read('density');
    const v = s.read('velocityY');
    const [dense] = toDense(density, s.plan.window.origin, [16, 16, 16]);
    let kept = 0;
    for (let n = 0; n < d.length; n++) {
      expect(dense[n]).toBe(d[n] > 0.01 ? d[n] : 0);
      if (d[n] > 0.01) kept++;
    }

    expect(activeBounds(density)!.voxels).toBe(kept);
    expect(activeBounds(temperature)!.voxels).toBe(kept);
    expect(activeBounds(velocity)!.voxels).toBeGreaterThan(kept);
    expect(velocity.metadata.class).toBe('staggered');
    expect(density.translation).toEqual([0.05, 0.05, 0.05]);
    const [, y] = toDense(velocity, s.plan.window.origin, [16, 16, 16]);
    for (let n = 0; n < d.length; n++) {
      const i = n % 16;
      const j = (n >> 4) % 16;
      const k = n >> 8;
      if (d[n] > 0.01) expect(y[n]).toBe(v[(k * 17 + j) * 16 + i]);
    }
  });
  test('channels that are not kept are not there', () => {
    expect(gridsFrom(puff({ temperature: false, velocity: false })).map((g) => g.name)).toEqual(['density']);
    expect(sum(puff().read('temperature'))).toBeGreaterThan(0);
  });
});
