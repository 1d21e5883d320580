// Medium that falls: speeds by grain, its kernels against the same written plainly, and what must hold of a
// run.
import { decodeCheckpoint, encodeCheckpoint } from '@bramblemist/core/cache/checkpoint';
import { frameVolume } from '@bramblemist/core/cache/frame';
import { takePreview } from '@bramblemist/core/cache/preview';
import { fieldView, readField, type Field } from '@bramblemist/core/grid/memory';
import { addresses } from '@bramblemist/core/grid/sweep';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { volumeOf } from '@bramblemist/core/look/volume-of';
import type { Triple } from '@bramblemist/core/math/vector';
import { compile } from '@bramblemist/core/plan/compile';
import { terminalSpeed } from '@bramblemist/core/recipe/parts/settling';
import { formatValue, parseTyped } from '@bramblemist/core/recipe/units';
import { Simulation } from '@bramblemist/core/run/simulation';
import { resampled } from '@bramblemist/core/volume/tools/resample';
import { volumeFrom } from '@bramblemist/core/volume/volume';
import { kit, l, N, put, type Cell } from './layout-bench';
import { fill } from './physics/kit';
import { ALL_OPEN, ALL_WALLS, random, recipeOf, simulate, sum, gridsFrom } from './run';

test('fine grains fall by Stokes’ law, heavy ones by an even drag, light ones rise', () => {
  const stokes = (size: number): number => ((2650 - 1.204) * 9.81 * size ** 2) / (18 * 1.825e-5);
  expect(terminalSpeed(2e-6, 2650, 'air', 9.81) / stokes(2e-6)).toBeCloseTo(1, 2);
  // drag of 0.44 at a Reynolds number beyond 1000
  const newton = Math.sqrt((4 * 0.02 * (2650 - 1.204) * 9.81) / (3 * 0.44 * 1.204));
  expect(terminalSpeed(0.02, 2650, 'air', 9.81)).toBeCloseTo(newton, 6);
  expect(terminalSpeed(1e-4, 500, 'water', 9.81)).toBeLessThan(0);
  expect(terminalSpeed(1e-4, 2650, 'water', -9.81)).toBe(-terminalSpeed(1e-4, 2650, 'water', 9.81));
  expect(terminalSpeed(1e-4, 2650, 'air', 0)).toBe(0);
});

test('grain sizes are typed and shown in micrometres, densities as the trade writes them', () => {
  expect(parseTyped('60 µm', 'm', 24)).toEqual({ ok: true, value: expect.closeTo(60e-6, 12) });
  expect(formatValue(6e-5, 'm')).toBe('60 µm');
  expect(formatValue(5e-4, 'm')).toBe('0.5 mm');
  expect(parseTyped('2.65 g/cm3', 'kg/m³', 24)).toEqual({ ok: true, value: 2650 });
});

describe.each([
  [0, 0.7, false],
  [1, -0.8, false],
  [1, -0.8, true],
  [2, 0.6, true],
])('along axis %d by %d cells, cells with rooms of their own: %s', (axis, fall, ownRooms) => {
  const bench = () => {
    const k = kit(true);
    const next = random(5 + axis);
    const open = k.layout.levels[0].open.map((f, a) =>
      put(k.threadPool, f, a, (p) => {
        const edge = p[a] === 0 || p[a] === N[a];
        return edge || next() < 0.3 ? 0 : Math.min(1, 2 * next());
      }),
    );
    const rooms = put(k.threadPool, k.layout.scratch[1], 3, () => (ownRooms ? 0.1 + next() : 1));
    return { ...k, next, open, rooms, room: ownRooms ? k.layout.scratch[1].address : 0 };
  };

  const faceOf = (values: Float32Array, a: number, p: Cell): number => {
    const m = N.map((n, q) => n + Number(q === a));
    return values[(p[2] * m[1] + p[1]) * m[0] + p[0]];
  };

  const cellOf = (values: Float32Array, p: Cell): number => values[(p[2] * N[1] + p[1]) * N[0] + p[0]];
  const along = (p: Cell, by: number): Cell => p.map((v, a) => (a === axis ? v + by : v)) as Cell;
  const every = (n: readonly number[], visit: (p: Cell) => void): void => {
    for (let k = 0; k < n[2]; k++)
      for (let j = 0; j < n[1]; j++) for (let i = 0; i < n[0]; i++) visit([i, j, k]);
  };

  test('what falls through faces is bounded by the cell that it falls out of', () => {
    const { threadPool, layout, open, rooms, room } = bench();
    const flow = layout.flows[axis];
    const [volume] = layout.volumes;
    threadPool.run('fallFlows', l.nz + Number(axis === 2), 4, {
      level: layout.levels[0].block,
      ...{ axis, fall, rooms: room, flow: flow.address, volume: volume.address },
    });
    const extra = [0, 1, 2].map((a) => Number(a === axis)) as Triple;
    const got = readField(threadPool.memory, flow, extra);
    every(
      N.map((n, a) => n + extra[a]),
      (p) => {
        const above = along(p, fall > 0 ? -1 : 0);
        const inside = above[axis] >= 0 && above[axis] < N[axis];
        const bound = inside ? 0.95 * cellOf(rooms, above) : Infinity;
        const wanted = Math.sign(fall) * Math.min(Math.abs(fall) * faceOf(open[axis], axis, p), bound);
        expect(faceOf(got, axis, p)).toBeCloseTo(wanted, 5);
      },
    );
    expect([...readField(threadPool.memory, volume)]).toEqual([...rooms]);
    threadPool.close();
  });

  test('what falls onto closed parts of faces lies there, and what rides on it goes along', () => {
    const { threadPool, layout, next, open, rooms, room } = bench();
    const [density, rides] = layout.channels;
    const deposit = layout.scratch[2];
    const before = put(threadPool, density, 3, () => next() - 0.1);
    const amounts = put(threadPool, rides, 3, () => next());
    const lay = put(threadPool, deposit, 3, () => next());
    listIn(threadPool.memory, layout.emission, [density, rides]);
    threadPool.run('land', l.nz, 4, {
      level: layout.levels[0].block,
      ...{ axis, fall, rooms: room, list: layout.emission },
      ...{ deposit: deposit.address, partials: layout.partials },
    });
    const [after, ridden, lies] = [density, rides, deposit].map((f) => readField(threadPool.memory, f));
    let landed = 0;
    every(N, (p) => {
      const closed = 1 - faceOf(open[axis], axis, along(p, fall > 0 ? 1 : 0));
      const d = cellOf(before, p);
      const part = d > 0 ? Math.min(1, (closed * Math.abs(fall)) / cellOf(rooms, p)) : 0;
      expect(cellOf(after, p)).toBeCloseTo(d * (1 - part), 5);
      expect(cellOf(ridden, p)).toBeCloseTo(cellOf(amounts, p) * (1 - part), 5);
      expect(cellOf(lies, p)).toBeCloseTo(cellOf(lay, p) + d * part * cellOf(rooms, p), 5);
      landed += d * part * cellOf(rooms, p);
    });
    const parts = new Float64Array(threadPool.memory.buffer, layout.partials, l.nz * 8);
    const told = Array.from({ length: l.nz }, (_, k) => parts[8 * k]).reduce((a, b) => a + b, 0);
    expect(told).toBeCloseTo(landed, 3);
    threadPool.close();
  });

  test('what has no floor any longer is medium again', () => {
    const { threadPool, layout, next, open, rooms, room } = bench();
    const [density, rides] = layout.channels;
    const deposit = layout.scratch[2];
    const before = put(threadPool, density, 3, () => next());
    put(threadPool, rides, 3, () => 0);
    const lay = put(threadPool, deposit, 3, () => (next() < 0.5 ? 0 : next()));
    listIn(threadPool.memory, layout.emission, [density, rides]);
    new Float32Array(threadPool.memory.buffer, layout.corners, 2).set([1, 0.25]);
    const [x, y, z] = [0, 1, 2].map((a) => (a === axis ? fall : 0));
    threadPool.run('loosen', l.nz, 4, {
      level: layout.levels[0].block,
      ...{ x, y, z, rooms: room, list: layout.emission, means: layout.corners },
      ...{ deposit: deposit.address, partials: layout.partials },
    });
    const [after, ridden, lies] = [density, rides, deposit].map((f) => readField(threadPool.memory, f));
    let some = false;
    every(N, (p) => {
      const loose = faceOf(open[axis], axis, along(p, fall > 0 ? 1 : 0)) === 1;
      const more = loose ? cellOf(lay, p) / cellOf(rooms, p) : 0;
      some ||= more > 0;
      expect(cellOf(after, p)).toBeCloseTo(cellOf(before, p) + more, 4);
      expect(cellOf(ridden, p)).toBeCloseTo(0.25 * more, 4);
      expect(cellOf(lies, p)).toBe(loose ? 0 : cellOf(lay, p));
    });
    expect(some).toBe(true);
    threadPool.close();
  });
});

function listIn(memory: WebAssembly.Memory, address: number, fields: readonly Field[]): void {
  new Int32Array(memory.buffer, address, fields.length + 1).set([fields.length, ...addresses(fields)]);
}

const DUSTY = {
  space: { sides: ALL_WALLS },
  settling: { falls: 'speed', speed: 0.6 },
};
const ball = (x: number, y: number, z: number): number => Number(Math.hypot(x, y - 0.9, z) < 0.3);

test('dust that drifts on gathers above the floor, and nothing of it is lost', () => {
  const s = simulate(recipeOf({ ...DUSTY, settling: { ...DUSTY.settling, lands: 'drifts' } }));
  fill(s, 'density', ball);
  const before = sum(s.read('density'));
  for (let f = 0; f < 60; f++) s.advanceFrame();
  const after = s.read('density');
  expect(sum(after) / before).toBeCloseTo(1, 5);
  const { nx, ny } = s.window.lattice;
  const lowest = after.filter((_, n) => Math.floor(n / nx) % ny === 0);
  expect(sum(lowest) / before).toBeGreaterThan(0.99);
  expect(s.channels).not.toContain('deposit');
  s.threadPool.close();
});

test('an open floor lets it through, and the ledger says by which side', () => {
  const s = simulate(recipeOf({ ...DUSTY, space: { sides: ALL_OPEN } }));
  fill(s, 'density', ball);
  const before = sum(s.read('density')) * 0.1 ** 3;
  const sides = [0, 0, 0, 0, 0, 0];
  for (let f = 0; f < 90; f++)
    s.advanceFrame().readings.massLeftSides!.forEach((v, side) => (sides[side] += v));
  expect(sides[2] / before).toBeCloseTo(1, 4);
  expect(sides.filter((_, n) => n !== 2).every((v) => Math.abs(v) < 1e-9)).toBe(true);
  s.threadPool.close();
});

test('gravity to the side lets it fall to the side', () => {
  const s = simulate(recipeOf({ ...DUSTY, gravity: { direction: [1, 0, 0] } }));
  fill(s, 'density', ball);
  for (let f = 0; f < 50; f++) s.advanceFrame();
  const { nx } = s.window.lattice;
  const deposit = s.read('deposit');
  expect(sum(deposit.filter((_, n) => n % nx === nx - 1)) / sum(deposit)).toBeCloseTo(1, 6);
  s.threadPool.close();
});

test('a run of several threads, and one that goes on from a checkpoint, have the same bits', () => {
  const recipe = recipeOf({
    ...DUSTY,
    keep: { colour: true, age: true },
    window: { mode: 'fit', margin: 4 },
    buoyancy: { weight: 0.5 },
    sources: [{ id: 's', shape: 'sphere', centre: [0, 1, 0], radius: 0.2, until: 20 }],
    obstacles: [
      {
        id: 'o',
        shape: 'box',
        centre: [0, 0.4, 0],
        size: [0.6, 0.12, 0.6],
        motion: 'moves',
        velocity: [0.3, 0, 0],
      },
    ],
  });
  const [one, two] = [simulate(recipe, 1), simulate(recipe, 2)];
  for (let f = 0; f < 24; f++) [one, two].forEach((s) => s.advanceFrame());
  expect(one.checksum()).toBe(two.checksum());
  expect(one.greatest('deposit')).toBeGreaterThan(0);
  const kept = decodeCheckpoint(one.plan, encodeCheckpoint(one.plan, one.checkpoint()));
  const { plan } = compile(recipe);
  const on = new Simulation(plan, startThreadPool(Simulation.pages(plan, 1), 1), kept);
  for (let f = 0; f < 6; f++) [one, on].forEach((s) => s.advanceFrame());
  expect(on.checksum()).toBe(one.checksum());
  for (const s of [one, two, on]) s.threadPool.close();
});

test('a window that fits holds what lies after the dust has come down', () => {
  const s = simulate(recipeOf({ ...DUSTY, window: { mode: 'fit', margin: 4, threshold: 0.01 } }));
  fill(s, 'density', (x, y, z) => ball(x, y + 0.6, z));
  let deposited = 0;
  let made = 0;
  for (let f = 0; f < 60; f++) {
    const { readings } = s.advanceFrame();
    deposited += readings.massDeposited!;
    made += Math.abs(readings.massMade!);
  }

  expect(sum(s.read('deposit')) * 0.1 ** 3).toBeCloseTo(deposited, 6);
  expect(deposited).toBeGreaterThan(0.02);
  expect(made).toBeLessThan(1e-6);
  s.threadPool.close();
});

test('a cache keeps what lies, by the area; it is seen, and coarser voxels hold as much of it', () => {
  const s = simulate(recipeOf(DUSTY));
  fill(s, 'density', ball);
  for (let f = 0; f < 60; f++) s.advanceFrame();
  const lies = sum(s.read('deposit'));
  expect(lies).toBeGreaterThan(50);
  const grids = gridsFrom(s);
  expect(grids.map((g) => g.name)).toContain('deposit');
  const read = volumeFrom({ grids, others: [] }, s.frame);
  // density times metres, times the area of a voxel
  const massOf = (v: typeof read): number => sum(v.channels.get('deposit')![0]) * v.voxelSizeM ** 2;
  expect(massOf(read) / (lies * 0.1 ** 3)).toBeCloseTo(1, 3);
  expect(massOf(resampled(read, 0.2)) / massOf(read)).toBeCloseTo(1, 3);
  const inAir = sum(volumeOf({ grids, others: [] }).density);
  const seen = sum(volumeOf({ grids, others: [] }, new Set(['deposit'])).density);
  expect(seen - inAir).toBeCloseTo(lies, -1);
  expect(Math.max(...takePreview(s).brick.bytes)).toBeGreaterThan(200);
  const without = frameVolume(s, { ...s.plan.recipe.keep, deposit: false });
  expect(without.channels.has('deposit')).toBe(false);
  expect(fieldView(s.threadPool.memory, s.field('deposit')).some((v) => v < 0)).toBe(false);
  s.threadPool.close();
});
