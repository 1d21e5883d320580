// The medium on cells half as large as the air's: its kernels against the same written plainly, and what must
// hold of a run.
import { costOf } from '@bramblemist/core/analysis/cost';
import { decodeCheckpoint, encodeCheckpoint } from '@bramblemist/core/cache/checkpoint';
import { frameVolume } from '@bramblemist/core/cache/frame';
import { takePreview } from '@bramblemist/core/cache/preview';
import { finer } from '@bramblemist/core/grid/lattice';
import { readField, writeField, type Field } from '@bramblemist/core/grid/memory';
import { addresses, extent, named, sites } from '@bramblemist/core/grid/sweep';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Triple } from '@bramblemist/core/math/vector';
import { compile } from '@bramblemist/core/plan/compile';
import { planLayout } from '@bramblemist/core/plan/layout';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { Simulation, stateOf } from '@bramblemist/core/run/simulation';
import { gatherMedium } from '@bramblemist/core/step/finer';
import { l, N, type Cell } from './layout-bench';
import { carryOnly, fillVelocity } from './physics/kit';
import { ALL_WALLS, greatest, random, recipeOf, simulate, sum, PADDLE, PUFF } from './run';

const FINE = finer(l);
const M = [FINE.nx, FINE.ny, FINE.nz];

function bench() {
  const { plan } = compile(recipeOf({ space: { medium: 'finer' } }));
  const layout = planLayout(l, plan, 2);
  const threadPool = startThreadPool(layout.pages, 2);
  const { memory } = threadPool;
  const next = random(3);
  const shape = (f: Field, axis: number): Triple => sites(f.lattice, axis);
  const extra = (f: Field, axis: number): Triple => {
    const cells = [f.lattice.nx, f.lattice.ny, f.lattice.nz];
    return shape(f, axis).map((n, a) => n - cells[a]) as Triple;
  };

  /** A field's values by place; places outside give undefined. */
  const of =
    (f: Field, axis: number) =>
    (p: readonly number[]): number => {
      const m = shape(f, axis);
      if (p.some((v, a) => v < 0 || v >= m[a])) return NaN;
      return values.get(f)![axis][(p[2] * m[1] + p[1]) * m[0] + p[0]];
    };

  const values = new Map<Field, Float32Array[]>();
  const read = (f: Field, axis: number): ((p: readonly number[]) => number) => {
    const all = values.get(f) ?? [];
    all[axis] = readField(memory, f, extra(f, axis));
    values.set(f, all);
    return of(f, axis);
  };

  const filled = (f: Field, axis: number, value: () => number): ((p: readonly number[]) => number) => {
    const m = shape(f, axis);
    writeField(memory, f, Float32Array.from({ length: m[0] * m[1] * m[2] }, value), extra(f, axis));
    return read(f, axis);
  };

  const { rowStride, planeStride, nx, ny } = l;
  const strides = { fineRow: FINE.rowStride, finePlane: FINE.planeStride };
  return {
    ...{ layout, medium: layout.medium!, threadPool, memory, next, filled, read },
    cells: { nx, ny, rowStride, planeStride, ...strides },
  };
}

function every(n: readonly number[], visit: (p: Cell) => void): void {
  for (let k = 0; k < n[2]; k++)
    for (let j = 0; j < n[1]; j++) for (let i = 0; i < n[0]; i++) visit([i, j, k]);
}

/** How far values are off at most; not a number where any is none. */
class Off {
  most = 0;

  see(got: number, wanted: number): void {
    const off = Math.abs(got - wanted);
    if (off > this.most || Number.isNaN(off)) this.most = off;
  }
}

const moved = (p: readonly number[], axis: number, by: number): number[] =>
  p.map((v, a) => (a === axis ? v + by : v));
const eight = (p: readonly number[]): number[][] =>
  Array.from({ length: 8 }, (_, n) => [0, 1, 2].map((a) => 2 * p[a] + ((n >> a) & 1)));

describe('faces', () => {
  const flows = (sloped: boolean) => {
    const b = bench();
    // a third of the faces is shut
    const given = b.layout.velocity.map((f, a) =>
      b.filled(f, a, () => (b.next() < 0.3 ? 0 : 2 * b.next() - 1)),
    );
    b.threadPool.run('refineFaces', l.nz, 4, {
      ...named(['x', 'y', 'z'], addresses(b.layout.velocity)),
      ...named(['tx', 'ty', 'tz'], addresses(b.medium.flows)),
      ...{ scale: 2, sloped: Number(sloped), nz: l.nz },
      ...b.cells,
    });
    return { ...b, given, got: b.medium.flows.map((f, a) => b.read(f, a)) };
  };

  /** A quarter of the slope at a face, bounded as monotone schemes do; 0 where there is no neighbour. */
  const slope = (of: (p: readonly number[]) => number, p: readonly number[], axis: number): number => {
    const here = of(p);
    const [below, above] = [here - of(moved(p, axis, -1)), of(moved(p, axis, 1)) - here];
    if (here === 0 || !(below * above > 0)) return 0;
    const most = Math.min(Math.abs(below), Math.abs(above)) / 2;
    return Math.sign(below) * Math.min(Math.abs(below + above) / 8, most);
  };

  test('refineFaces: on the old faces linear about their mean, shut where these are', () => {
    const off = new Off();
    const { given, got } = flows(true);
    [0, 1, 2].forEach((axis) =>
      every(
        M.map((n, a) => n + Number(a === axis)),
        (p) => {
          if (p[axis] % 2) return;
          const q = p.map((v) => v >> 1);
          const value = [0, 1, 2]
            .filter((a) => a !== axis)
            .reduce((v, a) => v + (p[a] % 2 ? 1 : -1) * slope(given[axis], q, a), given[axis](q));
          off.see(got[axis](p), 2 * value);
        },
      ),
    );
    expect(off.most).toBeLessThan(5e-6);
  });

  test.each([true, false])('each part of a cell has its divergence (sloped: %s)', (sloped) => {
    const off = new Off();
    const { given, got } = flows(sloped);
    const divergence = (of: typeof got, p: readonly number[]): number =>
      of.reduce((d, face, a) => d + face(moved(p, a, 1)) - face(p), 0);
    every(N, (p) => {
      for (const q of eight(p)) off.see(divergence(got, q), divergence(given, p));
    });
    expect(off.most).toBeLessThan(5e-6);
  });

  test('mostTurned: the greatest change along x or z, as a part of the air of the cell', () => {
    const { got, medium, threadPool, filled, next, layout } = flows(true);
    const rooms = filled(medium.spare, 3, next);
    const roomsTo = filled(medium.scratch[0], 3, next);
    const { partials } = layout.medium!;
    threadPool.run('mostTurned', FINE.nz, 4, {
      ...{ x: medium.flows[0].address, z: medium.flows[2].address, partials },
      ...{ rooms: medium.spare.address, roomsTo: medium.scratch[0].address },
      ...extent(FINE),
    });
    const parts = new Float64Array(threadPool.memory.buffer, partials, FINE.nz * 8);
    const most = new Array<number>(FINE.nz).fill(0);
    every(M, (p) => {
      const turned = Math.max(...[0, 2].map((a) => Math.abs(got[a](moved(p, a, 1)) - got[a](p))));
      const room = Math.max(0.5, Math.min(rooms(p), roomsTo(p)));
      most[p[2]] = Math.max(most[p[2]], turned / room);
    });
    most.forEach((v, k) => expect(parts[k * 8]).toBeCloseTo(v, 5));
  });
});

describe('cells', () => {
  const listed = (b: ReturnType<typeof bench>, fields: readonly Field[]): number => {
    const list = [fields.length, ...addresses(fields)];
    new Int32Array(b.memory.buffer, b.layout.emission, list.length).set(list);
    return b.layout.emission;
  };

  const meanOf = (of: (p: readonly number[]) => number, p: readonly number[]): number =>
    eight(p).reduce((m, q) => m + of(q) / 8, 0);

  test('gatherCells: means of eight, of each pair', () => {
    const off = new Off();
    const b = bench();
    const [f, g] = [b.layout.channels[0], b.layout.spare];
    const fine = [b.medium.channels[0], b.medium.spare].map((x) => b.filled(x, 3, b.next));
    const list = listed(b, [b.medium.channels[0], f, b.medium.spare, g]);
    b.threadPool.run('gatherCells', l.nz, 4, { list, ...b.cells });
    [f, g].forEach((x, n) => {
      const got = b.read(x, 3);
      every(N, (p) => off.see(got(p), meanOf(fine[n], p)));
    });
    expect(off.most).toBeLessThan(5e-7);
  });

  test('followCells: scaled with their mean, filled where there was nothing, evened where some owe', () => {
    const off = new Off();
    const b = bench();
    const [f, g] = [b.layout.channels[0], b.layout.spare];
    const [density, colour] = [b.medium.channels[0], b.medium.spare];
    const kinds = new Map<string, number>();
    const kindOf = (p: readonly number[]): number => {
      const key = p.map((v) => v >> 1).join();
      if (!kinds.has(key)) kinds.set(key, Math.floor(4 * b.next()));
      return kinds.get(key)!;
    };

    // 0: nothing, 1: some of it negative, 2 and 3: there
    const put = (field: Field, owes: boolean): ((p: readonly number[]) => number) => {
      const values = new Float32Array(M[0] * M[1] * M[2]);
      every(M, (p) => {
        const kind = kindOf(p);
        const value = kind === 0 ? 0 : 0.2 + b.next();
        const negative = owes && kind === 1 && p.every((v) => v % 2 === 0);
        values[(p[2] * M[1] + p[1]) * M[0] + p[0]] = negative ? -value : value;
      });
      writeField(b.memory, field, values);
      return b.read(field, 3);
    };

    const before = [put(density, true), put(colour, false)];
    const old = before.map(
      (of) =>
        (p: readonly number[]): number =>
          of(p),
    );
    const olds = old.map((of) => {
      const all = new Map<string, number>();
      every(M, (p) => all.set(p.join(), of(p)));
      return (p: readonly number[]): number => all.get(p.join())!;
    });
    const list = listed(b, [density, f, colour, g]);
    b.threadPool.run('gatherCells', l.nz, 4, { list, ...b.cells });
    const means = [f, g].map((x) => readField(b.memory, x));
    // every third cell is changed
    const wanted = means.map((m, n) => m.map((v, at) => (at % 3 === n ? 2 * Math.abs(v) + 0.1 : v)));
    [f, g].forEach((x, n) => writeField(b.memory, x, wanted[n]));
    b.threadPool.run('followCells', l.nz, 4, { list, ...b.cells });
    const got = [density, colour].map((x) => b.read(x, 3));
    every(N, (p) => {
      const at = (p[2] * N[1] + p[1]) * N[0] + p[0];
      const even = kindOf(p.map((v) => 2 * v)) === 1;
      [0, 1].forEach((n) => {
        const mean = means[n][at];
        for (const q of eight(p)) {
          const kept = mean === wanted[n][at] ? olds[n](q) : (olds[n](q) * wanted[n][at]) / mean;
          off.see(got[n](q), even || mean === 0 ? wanted[n][at] : kept);
        }

        off.see(meanOf(got[n], p), wanted[n][at]);
      });
    });
    expect(off.most).toBeLessThan(5e-5);
  });

  test.each([true, false])('refineCells, linear: %s', (linear) => {
    const off = new Off();
    const b = bench();
    const given = b.filled(b.layout.spare, 3, b.next);
    b.threadPool.run('refineCells', l.nz, 4, {
      ...{ f: b.layout.spare.address, to: b.medium.spare.address, linear: Number(linear), nz: l.nz },
      ...b.cells,
    });
    const got = b.read(b.medium.spare, 3);
    const near = (v: number, a: number, side: number): number =>
      Math.min(N[a] - 1, Math.max(0, (v >> 1) + side * (2 * (v % 2) - 1)));
    every(M, (p) => {
      let value = 0;
      for (let n = 0; n < 8; n++) {
        const side = [n & 1, (n >> 1) & 1, n >> 2];
        const weight = side.reduce((w, s) => w * (s ? 0.25 : 0.75), 1);
        value += weight * given(p.map((v, a) => near(v, a, side[a])));
      }

      off.see(got(p), linear ? value : given(p.map((v) => v >> 1)));
    });
    expect(off.most).toBeLessThan(5e-7);
  });
});

const finerOf = (parts: Record<string, unknown>): Recipe =>
  recipeOf({ ...parts, space: { medium: 'finer', ...(parts.space as object) } });

/** The ledger's balance, as a part of what was ever there. */
function worstMade(s: Simulation, frames: number): number {
  let worst = 0;
  let all = 0;
  for (let f = 0; f < frames; f++) {
    const { mass, massMade = 0, massGivenOff = 0 } = s.advanceFrame().readings;
    all = Math.max(all, mass, massGivenOff);
    worst = Math.max(worst, Math.abs(massMade) / all);
  }

  return worst;
}

describe('a run', () => {
  test.each<[string, Record<string, unknown>]>([
    ['of a plume', {}],
    ['with colour and age', { keep: { colour: true, age: true } }],
    ['with an obstacle that stands', { obstacles: [{ ...PADDLE, motion: 'still' }] }],
    ['with an obstacle on its way', { obstacles: [PADDLE], keep: { colour: true } }],
    ['in a window that fits', { window: { mode: 'fit', margin: 4 } }],
    ['that diffuses', { diffusion: { density: 0.01 } }],
    ['that fades, thin parts sooner', { dissipation: { density: 1, bias: -0.5 } }],
    ['whose dust lands', { settling: { falls: 'speed', speed: 0.6, lands: 'lies' }, keep: { colour: true } }],
    ['whose dust drifts on', { settling: { falls: 'speed', speed: 0.6, lands: 'drifts' } }],
    [
      'with a formula among the forces',
      { formulas: [{ id: 'f', when: 'pushed', text: 'density = density * 0.9' }] },
    ],
    ['with a formula', { formulas: [{ id: 'f', text: 'density = density * 0.9' }] }],
  ])('%s makes no mass and loses none', (_, parts) => {
    const s = simulate(
      finerOf({
        ...{ sources: [PUFF], buoyancy: { lift: 0.05, weight: 0.2 }, turbulence: { strength: 1 } },
        ...parts,
      }),
    );
    expect(worstMade(s, 12)).toBeLessThan(2e-6);
    const fine = s.read('density', s.onMedium('density')[0]);
    expect(sum(fine) / 8 / sum(s.read('density'))).toBeCloseTo(1, 6);
    expect(fine.every((v) => v > -1e-6)).toBe(true);
  });

  test('an even density stays even in air that swirls', () => {
    const s = simulate(finerOf({ space: { sides: ALL_WALLS } }));
    const state = stateOf(s);
    const [density] = state.layout.medium!.channels;
    const { nx, ny, nz } = density.lattice;
    writeField(s.threadPool.memory, density, new Float32Array(nx * ny * nz).fill(0.7));
    gatherMedium(state);
    // free of divergence on the faces: differences of a stream function at the edges
    const flow = (x: number, y: number): number =>
      Math.sin(((x + 0.8) * Math.PI) / 1.6) * Math.sin((y * Math.PI) / 1.6);
    const h = 0.1;
    fillVelocity(s, (x, y) => [
      (flow(x, y + h / 2) - flow(x, y - h / 2)) / h,
      -(flow(x + h / 2, y) - flow(x - h / 2, y)) / h,
      0,
    ]);
    for (let n = 0; n < 10; n++) carryOnly(s, 0.04);
    const values = s.read('density', s.onMedium('density')[0]);
    values.forEach((v) => expect(v).toBeCloseTo(0.7, 5));
  });

  test('two threads and a run that goes on from a checkpoint have the same bits', () => {
    const recipe = finerOf({
      ...{ sources: [PUFF], buoyancy: { lift: 0.05, weight: 0.2 }, turbulence: { strength: 1, size: 0.5 } },
      ...{ obstacles: [PADDLE], keep: { colour: true, age: true }, window: { mode: 'fit', margin: 4 } },
    });
    const [one, two] = [simulate(recipe, 1), simulate(recipe, 2)];
    for (let f = 0; f < 4; f++) [one, two].forEach((s) => s.advanceFrame());
    expect(two.checksum()).toBe(one.checksum());
    const { plan } = compile(recipe);
    const from = decodeCheckpoint(plan, encodeCheckpoint(plan, one.checkpoint()));
    const on = new Simulation(plan, startThreadPool(Simulation.pages(plan, 1), 1), from);
    for (let f = 0; f < 3; f++) [one, on].forEach((s) => s.advanceFrame());
    expect(on.checksum()).toBe(one.checksum());
    // the state of a run of the same domain without it is another one
    const { plan: plain } = compile({ ...recipe, space: { ...recipe.space, medium: 'air' } });
    expect(() => decodeCheckpoint(plain, encodeCheckpoint(plan, one.checkpoint()))).toThrow('another recipe');
  });

  test('a source gives off as much as on the air’s cells, each bit of it at its finer place', () => {
    const recipe = finerOf({
      sources: [{ ...PUFF, shape: 'box', size: [0.05, 0.05, 0.05], centre: [0.025, 0.425, 0.025] }],
    });
    const [fine, plain] = [recipe, { ...recipe, space: { ...recipe.space, medium: 'air' as const } }].map(
      (r) => {
        const s = simulate(r);
        s.advanceFrame();
        return s;
      },
    );
    expect(sum(fine.read('density'))).toBeCloseTo(sum(plain.read('density')), 6);
    const there = fine.read('density', fine.onMedium('density')[0]).filter((v) => v > 1e-6);
    expect(there.length).toBe(1);
    expect(greatest(there) / greatest(plain.read('density'))).toBeCloseTo(8, 4);
  });

  test('a source that is limited to a region gives off as much as on the air’s cells', () => {
    const parts = {
      regions: [{ id: 'r', shape: 'box', centre: [-0.4, 0.8, 0], size: [0.8, 1.6, 1.6], soft: 0 }],
      sources: [{ ...PUFF, shape: 'box', size: [1.2, 0.4, 0.4], where: 'r', temperature: { how: 'none' } }],
    };
    const [fine, plain] = [finerOf(parts), recipeOf(parts)].map((r) => {
      const s = simulate(r);
      s.advanceFrame();
      return s;
    });
    expect(sum(fine.read('density')) / sum(plain.read('density'))).toBeCloseTo(1, 5);
    const values = fine.read('density', fine.onMedium('density')[0]);
    const { nx } = fine.mediumWindow.lattice;
    const right = sum(values.filter((_, n) => n % nx >= nx / 2));
    // beyond the region it fades over one of the air's voxels, half of which lies there
    expect(right).toBeLessThan(0.1 * sum(values));
  });

  test('its frames lie on the finer voxels, and the air in them is free of divergence', () => {
    const s = simulate(
      finerOf({
        sources: [PUFF],
        buoyancy: { lift: 0.05, weight: 0 },
        keep: { threshold: 0, air: 'room', colour: true },
      }),
    );
    for (let f = 0; f < 5; f++) s.advanceFrame();
    const v = frameVolume(s);
    expect(v.voxelSizeM).toBeCloseTo(0.05, 12);
    expect(v.dims).toEqual([32, 32, 32]);
    expect(v.translation).toEqual([0.025, 0.025, 0.025]);
    const [x, y, z] = v.channels.get('velocity')!;
    const at = (f: Float32Array, i: number, j: number, k: number): number => f[(k * 32 + j) * 32 + i];
    let worst = 0;
    let fastest = 0;
    for (let k = 0; k < 31; k++)
      for (let j = 0; j < 31; j++)
        for (let i = 0; i < 31; i++) {
          const d = at(x, i + 1, j, k) - at(x, i, j, k) + at(y, i, j + 1, k) - at(y, i, j, k);
          worst = Math.max(worst, Math.abs(d + at(z, i, j, k + 1) - at(z, i, j, k)));
          fastest = Math.max(fastest, Math.abs(at(y, i, j, k)));
        }

    expect(fastest).toBeGreaterThan(0.05);
    expect(worst).toBeLessThan(2e-3 * fastest);
    // temperature is of the air: the same mean, on more voxels
    const [warmth] = v.channels.get('temperature')!;
    expect(sum(warmth) / 8 / sum(s.read('temperature'))).toBeCloseTo(1, 2);
    expect(v.channels.get('colour')![0].some((c) => c > 0)).toBe(true);
    const { brick } = takePreview(s);
    expect(brick.dims).toEqual([32, 32, 32]);
    expect(brick.voxelSizeM).toBeCloseTo(0.05, 12);
  });

  test('memory is told exactly before it, and is less than that of finer air', () => {
    const recipe = finerOf({ sources: [PUFF] });
    const told = costOf(recipe, 0.1, 1).bytes;
    expect(simulate(recipe).layout.bytes).toBe(told);
    const whole = costOf({ ...recipe, space: { ...recipe.space, medium: 'air' } }, 0.05, 1).bytes;
    expect(told).toBeLessThan(0.5 * whole);
  });
});
