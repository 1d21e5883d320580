// The far field: its box about a window, its kernels against the same written plainly.
import { lattice, type ActiveWindow } from '@bramblemist/core/grid/lattice';
import { readField, readSplit, writeField, writeSplit, type Field } from '@bramblemist/core/grid/memory';
import { addresses, named, sites } from '@bramblemist/core/grid/sweep';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Triple } from '@bramblemist/core/math/vector';
import { compile } from '@bramblemist/core/plan/compile';
import { describeFar, planLayout, type FarBox } from '@bramblemist/core/plan/layout';
import { describeLevels } from '@bramblemist/core/plan/levels';
import { farBoxOf } from '@bramblemist/core/step/far-field';
import { random, recipeOf, simulate } from './run';

const { plan } = compile(recipeOf());
const windowOf = (cells: Triple, origin: Triple): ActiveWindow => ({
  lattice: lattice(...cells),
  origin,
  voxelSizeM: 0.1,
});

test('the box reaches beyond the window by half its width, and no farther than the domain', () => {
  const domain = windowOf([96, 64, 64], [-48, 0, -32]);
  expect(farBoxOf(plan, domain, domain)).toBeNull();
  const low = farBoxOf(plan, domain, windowOf([32, 32, 32], [-16, 0, -16]))!;
  expect(low.at).toEqual([4, 0, 4]);
  expect([low.lattice.nx, low.lattice.ny, low.lattice.nz]).toEqual([16, 12, 16]);
  expect(low.inner).toEqual([true, true, false, true, true, true]);
  expect(low.sides).toEqual(['open', 'open', 'wall', 'open', 'open', 'open']);
  // a domain of walls, reached above and not to the left
  const closed = { ...plan, sides: ['wall', 'wall', 'wall', 'wall', 'wall', 'wall'] } as typeof plan;
  const high = farBoxOf(closed, domain, windowOf([32, 32, 32], [-16, 26, -16]))!;
  expect(high.sides).toEqual(['open', 'open', 'open', 'wall', 'wall', 'wall']);
});

const l = lattice(12, 10, 8);
const N: Triple = [12, 10, 8];
const FAR: FarBox = {
  lattice: lattice(7, 6, 5),
  at: [2, 1, 1],
  sides: ['open', 'wall', 'wall', 'open', 'open', 'wall'],
  inner: [true, true, true, true, true, true],
};
const M: Triple = [7, 6, 5];

function bench() {
  const layout = planLayout(l, plan, 2, FAR);
  const threadPool = startThreadPool(layout.pages, 2);
  const { memory } = threadPool;
  describeLevels(layout.levels, ['open', 'open', 'open', 'open', 'open', 'open'], memory);
  describeFar(layout.far!, memory);
  const next = random(11);
  const filled = (f: Field, axis: number, value: () => number): ((p: Triple) => number) => {
    const m = sites(f.lattice, axis);
    const values = Float32Array.from({ length: m[0] * m[1] * m[2] }, value);
    writeField(memory, f, values, m.map((n, a) => n - [l.nx, l.ny, l.nz][a]) as Triple);
    return ([i, j, k]) => values[(k * m[1] + j) * m[0] + i];
  };

  const [fine, top] = [layout.levels[0], layout.far!.levels[0]];
  return { layout, threadPool, memory, next, filled, fine, top };
}

const at = { i: FAR.at[0], j: FAR.at[1], k: FAR.at[2] };
const each = (n: Triple, visit: (p: Triple) => void): void => {
  for (let k = 0; k < n[2]; k++)
    for (let j = 0; j < n[1]; j++) for (let i = 0; i < n[0]; i++) visit([i, j, k]);
};

test('far faces are as open as the sixteen fine ones, and open where the window is not', () => {
  const { layout, threadPool, memory, next, filled, fine, top } = bench();
  const open = layout.levels[0].open.map((f, axis) => filled(f, axis, next));
  const coefficient = 4 / (2 + 0.5);
  for (const axis of [0, 1, 2]) {
    threadPool.run('farFaces', sites(FAR.lattice, axis)[2], 2, {
      ...{ fine: fine.block, far: top.block, axis },
      ...at,
    });
    const extra = [0, 1, 2].map((a) => Number(a === axis)) as Triple;
    const got = readField(memory, top.open[axis], extra);
    const m = M.map((n, a) => n + extra[a]) as Triple;
    each(m, (p) => {
      const from = p.map((v, a) => 4 * (v - FAR.at[a]));
      const found: number[] = [];
      for (let q = 0; q < 16; q++) {
        const across = [q & 3, q >> 2];
        const f = from.map((v, a) => (a === axis ? v : v + across.shift()!)) as Triple;
        if (f.every((v, a) => v >= 0 && v < N[a] + extra[a])) found.push(open[axis](f));
      }

      const side = p[axis] === 0 ? 2 * axis : 2 * axis + 1;
      const rim = p[axis] === 0 || p[axis] === M[axis];
      const atRim = FAR.sides[side] === 'wall' ? 0 : coefficient;
      const whole = rim ? atRim : 1;
      const mean = found.length > 0 ? found.reduce((a, b) => a + b, 0) / found.length : 1;
      expect(got[(p[2] * m[1] + p[1]) * m[0] + p[0]]).toBeCloseTo(whole * mean, 5);
    });
  }

  threadPool.close();
});

test('the far residual is a quarter of what the cells in it take up, and nothing beyond the window', () => {
  const { layout, threadPool, memory, next, filled, fine, top } = bench();
  const open = fine.open.map((f, axis) => filled(f, axis, () => (next() < 0.3 ? next() : 1)));
  threadPool.solo('classifyRows', { level: fine.block, j0: 0, j1: l.ny, k0: 0, k1: l.nz });
  const air = layout.velocity.map((f, axis) => filled(f, axis, () => next() - 0.5));
  threadPool.run('farDivergence', FAR.lattice.nz, 3, {
    ...{ fine: fine.block, far: top.block, outflow: 0, partials: layout.partials, slab: 3 },
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    ...at,
  });
  const wanted = new Float64Array(M[0] * M[1] * M[2]);
  each(N, (p) => {
    let into = 0;
    for (const axis of [0, 1, 2]) {
      const upper = p.map((v, a) => v + Number(a === axis)) as Triple;
      into += open[axis](p) * air[axis](p) - open[axis](upper) * air[axis](upper);
    }

    const [i, j, k] = p.map((v, a) => (v >> 2) + FAR.at[a]);
    wanted[(k * M[1] + j) * M[0] + i] += into / 4;
  });
  const got = readSplit(memory, { address: top.r, lattice: FAR.lattice });
  got.forEach((v, n) => expect(v).toBeCloseTo(wanted[n], 4));
  const greatest = Array.from(
    { length: M[2] },
    (_, k) => new Float64Array(memory.buffer, layout.partials, M[2] * 8)[8 * k],
  );
  expect(Math.max(...greatest)).toBeCloseTo(Math.max(...wanted.map(Math.abs)), 4);
  threadPool.close();
});

test('the cells around a window hold the far pressure that stands there', () => {
  const { layout, threadPool, memory, next, fine, top } = bench();
  const far = { address: layout.far!.pressure, lattice: FAR.lattice };
  const values = Float32Array.from({ length: M[0] * M[1] * M[2] }, () => next());
  writeSplit(memory, far, values);
  const pressure = { address: layout.pressure, lattice: l };
  const before = Float32Array.from({ length: 14 * 12 * 10 }, () => 7);
  writeSplit(memory, pressure, before, 1);
  for (let side = 0; side < 6; side++)
    threadPool.solo('farGhosts', {
      ...{ fine: fine.block, far: top.block, p: layout.pressure, farP: far.address, side },
      ...at,
    });
  // beyond walls it goes on, beyond open sides there is none
  const value = (p: readonly number[]): number => {
    const inside = p.map((v, a) => {
      const side = v < 0 ? 2 * a : 2 * a + 1;
      if (v >= 0 && v < M[a]) return v;
      return FAR.sides[side] === 'wall' ? Math.min(M[a] - 1, Math.max(0, v)) : NaN;
    });
    return inside.some(Number.isNaN) ? 0 : values[(inside[2] * M[1] + inside[1]) * M[0] + inside[0]];
  };

  const got = readSplit(memory, pressure, 1);
  each([14, 12, 10], (p) => {
    const cell = p.map((v) => v - 1);
    const outside = cell.filter((v, a) => v < 0 || v >= N[a]).length;
    const is = got[(p[2] * 12 + p[1]) * 14 + p[0]];
    // corners and what is inside are left alone
    if (outside !== 1) return void expect(is).toBe(7);
    const place = cell.map((v, a) => FAR.at[a] + (v + 0.5) / 4 - 0.5);
    const low = place.map(Math.floor);
    let wanted = 0;
    for (let q = 0; q < 8; q++) {
      const corner = low.map((v, a) => v + ((q >> a) & 1));
      const weight = place.reduce((w, v, a) => w * ((q >> a) & 1 ? v - low[a] : 1 - v + low[a]), 1);
      wanted += weight * value(corner);
    }

    expect(is).toBeCloseTo(wanted, 5);
  });
  threadPool.close();
});

test('a small domain: its air rises as gently in a window that fits as in the whole of it', () => {
  const [fit, whole] = ['fit', 'whole'].map((mode) => {
    const s = simulate(
      recipeOf({
        window: { mode, margin: 4 },
        sources: [{ id: 's', centre: [0, 0.4, 0], radius: 0.2, temperature: { amount: 40 } }],
        buoyancy: { lift: 0.05, weight: 0 },
      }),
    );
    for (let f = 0; f < 5; f++) s.advanceFrame();
    return s;
  });
  // the box about the window has no more than four far cells an edge
  expect(fit.layout.far!.lattice.ny).toBe(4);
  expect(fit.advanceFrame().readings.topSpeed / whole.advanceFrame().readings.topSpeed).toBeCloseTo(1, 1);
});
