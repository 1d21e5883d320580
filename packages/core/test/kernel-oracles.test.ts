// Kernels that go over cells one by one, against the same written as plainly as can be; over slabs of two
// planes, so that where they meet is tried too.
import { CombineMode, Join } from '@bramblemist/kernels/seam';
import { fieldView, putFloats } from '@bramblemist/core/grid/memory';
import { boxFields, fillHalo, sites } from '@bramblemist/core/grid/sweep';
import { PROFILE_STEPS } from '@bramblemist/core/recipe/profile';
import {
  bench,
  CELLS,
  cells,
  clamp01,
  COARSE,
  faces,
  L,
  type Bench,
  type Cell,
  type Reader,
} from './kernel-bench';

const BOX = [
  [2, 1, 1],
  [9, 6, 5],
] as const;
const inBox = ([i, j, k]: Cell): boolean => [i, j, k].every((c, a) => c >= BOX[0][a] && c < BOX[1][a]);

/** A field as it was before: 0 is the one that is written. */
type Before = readonly Reader[];
type Case = readonly [kernel: string, act: (b: Bench) => void, oracle: (b: Before, cell: Cell) => number];

const emitted =
  (how: number) =>
  (b: Bench): void =>
    b.run('emitScalar', {
      field: b.at(0),
      mean: b.at(1),
      most: b.at(2),
      how,
      amount: 0.7,
      dt: 0.1,
      draw: 0.3,
      i0: BOX[0][0],
      i1: BOX[1][0],
      j0: BOX[0][1],
      j1: BOX[1][1],
      from: BOX[0][2],
      to: BOX[1][2],
      rowStride: L.rowStride,
      planeStride: L.planeStride,
    });
const where =
  (value: (now: number, mean: number, most: number) => number) =>
  ([now, mean, most]: Before, cell: Cell): number =>
    inBox(cell) && mean(...cell) > 0
      ? value(now(...cell), mean(...cell), Math.min(1, most(...cell)))
      : now(...cell);
const joined =
  (how: number, inverted: number) =>
  (b: Bench): void =>
    b.run('combineWeights', { out: b.at(0), other: b.at(1), inverted, how, ...cells });

const CASES: readonly Case[] = [
  ['fill', (b) => b.run('fill', { f: b.at(0), ...cells, value: 0.25 }), () => 0.25],
  [
    'fillBox',
    (b) =>
      b.run('fillBox', { f: b.at(0), value: 3, ...boxFields(BOX), from: BOX[0][2], to: BOX[1][2], ...cells }),
    ([f], cell) => (inBox(cell) ? 3 : f(...cell)),
  ],
  [
    'addScaled',
    (b) => b.run('addScaled', { f: b.at(0), g: b.at(1), ...cells, gain: 0.3 }),
    ([f, g], c) => f(...c) + 0.3 * g(...c),
  ],
  [
    'multiplyCells',
    (b) => b.run('multiplyCells', { f: b.at(1), g: b.at(2), out: b.at(0), ...cells }),
    ([, f, g], c) => f(...c) * g(...c),
  ],
  [
    'multiplyCells, by 1',
    (b) => b.run('multiplyCells', { f: b.at(1), g: 0, out: b.at(0), ...cells }),
    ([, f], c) => f(...c),
  ],
  [
    'divideCells',
    (b) => {
      // some cells hold nothing to divide by
      b.run('fillBox', { f: b.at(2), value: 0, ...boxFields(BOX), from: BOX[0][2], to: BOX[1][2], ...cells });
      b.run('divideCells', { f: b.at(1), g: b.at(2), out: b.at(0), ...cells });
    },
    ([, f, g], c) => (inBox(c) || g(...c) <= 0 ? 0 : f(...c) / g(...c)),
  ],
  [
    'applyBuoyancy',
    (b) =>
      b.run('applyBuoyancy', {
        f: b.at(0),
        density: b.at(1),
        temperature: b.at(2),
        weight: b.at(3),
        ...cells,
        lift: 0.4,
        heaviness: 1.5,
      }),
    ([f, d, t, w], c) => f(...c) + w(...c) * (0.4 * t(...c) - 1.5 * d(...c)),
  ],
  ...[0, 1, 2].map((axis): Case => [
    `relaxToVelocity along ${'xyz'[axis]}`,
    (b) =>
      b.run('relaxToVelocity', {
        f: b.at(0),
        u: b.at(1),
        weight: b.at(2),
        ...cells,
        next: [4, 4 * L.rowStride, 4 * L.planeStride][axis],
        goal: 2,
        grip: 0.5,
      }),
    ([f, u, w], c) => f(...c) + w(...c) * 0.5 * (2 - (faces(u, c, axis)[0] + faces(u, c, axis)[1]) / 2),
  ]),
  [
    'applyDrag',
    (b) =>
      b.run('applyDrag', {
        f: b.at(0),
        u: b.at(1),
        weight: b.at(2),
        density: b.at(3),
        ...cells,
        next: 4,
        grip: 0.5,
      }),
    ([f, u, w, d], c) =>
      f(...c) - 0.5 * w(...c) * clamp01(d(...c)) * ((faces(u, c, 0)[0] + faces(u, c, 0)[1]) / 2),
  ],
  [
    'edgeWeight',
    (b) => b.run('edgeWeight', { density: b.at(1), out: b.at(0), weight: b.at(2), ...cells, pairs: 1.5 }),
    ([, d, w], [i, j, k]) => {
      const slope =
        1.5 *
        Math.hypot(
          d(i + 1, j, k) - d(i - 1, j, k),
          d(i, j + 1, k) - d(i, j - 1, k),
          d(i, j, k + 1) - d(i, j, k - 1),
        );
      return (w(i, j, k) * slope) / (slope + 1e-4 + Math.max(0, d(i, j, k)));
    },
  ],
  [
    'dissipate',
    (b) =>
      b.run('dissipate', {
        f: b.at(0),
        density: b.at(1),
        weight: b.at(2),
        ...cells,
        rate: -0.3,
        bias: 0.5,
        even: 0.8,
      }),
    ([f, d, w], c) => {
      const thick = Math.max(0, d(...c));
      return f(...c) * Math.exp(-0.3 * w(...c) * (1 + (0.5 * (thick - 0.8)) / (thick + 0.8)));
    },
  ],
  ['emitScalar, each second', emitted(CombineMode.ADD), where((now, mean) => now + mean * 0.7 * 0.1)],
  ['emitScalar, at least', emitted(CombineMode.RAISE), where((now, _, most) => Math.max(now, most * 0.7))],
  ['emitScalar, set', emitted(CombineMode.REPLACE), where((now, _, most) => now + most * (0.7 - now))],
  ['emitScalar, drawn to', emitted(CombineMode.BLEND), where((now, mean) => now + mean * 0.3 * (0.7 - now))],
  [
    'weightCoverage',
    (b) =>
      b.run('weightCoverage', {
        mean: b.at(1),
        most: b.at(2),
        weight: b.at(3),
        toMean: b.at(0),
        toMost: b.at(4),
        ...boxFields(BOX),
        from: BOX[0][2],
        to: BOX[1][2],
        ...cells,
      }),
    ([f, mean, , w], c) => (inBox(c) ? w(...c) * mean(...c) : f(...c)),
  ],
  ['combineWeights, both', joined(Join.BOTH, 0), ([a, b], c) => a(...c) * b(...c)],
  ['combineWeights, either', joined(Join.EITHER, 0), ([a, b], c) => Math.max(a(...c), b(...c))],
  ['combineWeights, without', joined(Join.WITHOUT, 0), ([a, b], c) => a(...c) * (1 - b(...c))],
  ['combineWeights, turned round', joined(Join.ALONE, 1), ([a], c) => 1 - a(...c)],
  [
    'multiplyWeights',
    (b) => {
      new Int32Array(b.pool.memory.buffer, b.scratch, 2).set([b.at(1), b.at(2) + 1]);
      b.run('multiplyWeights', { out: b.at(0), list: b.scratch, count: 2, ...cells, partials: b.partials });
    },
    ([, one, two], c) => one(...c) * (1 - two(...c)),
  ],
  [
    'weightByValue',
    (b) => {
      const line = Float32Array.from({ length: PROFILE_STEPS + 1 }, (_, n) => n / PROFILE_STEPS);
      putFloats(b.pool.memory, b.scratch, line);
      b.run('weightByValue', { f: b.at(0), table: b.scratch, low: -0.5, high: 0.7, ...cells });
    },
    ([f], c) => clamp01((f(...c) + 0.5) / 1.2),
  ],
  [
    'blendByWeight',
    (b) =>
      b.run('blendByWeight', {
        f: b.at(0),
        g: b.at(1),
        weight: b.at(2),
        mx: L.nx,
        my: L.ny,
        rowStride: L.rowStride,
        planeStride: L.planeStride,
        back: 4,
      }),
    ([f, g, w], [i, j, k]) => f(i, j, k) + ((w(i, j, k) + w(i - 1, j, k)) / 2) * (g(i, j, k) - f(i, j, k)),
  ],
  [
    'setPressureAside: what is kept',
    (b) => b.run('setPressureAside', { p: b.at(1), kept: b.at(0), planeBytes: 4 * L.planeStride, gain: 0.3 }),
    ([, p], c) => p(...c),
  ],
  [
    'setPressureAside: what is left',
    (b) => b.run('setPressureAside', { p: b.at(0), kept: b.at(1), planeBytes: 4 * L.planeStride, gain: 0.3 }),
    ([p], c) => 0.3 * p(...c),
  ],
  [
    'sumPressures',
    (b) =>
      b.run('sumPressures', {
        p: b.at(0),
        kept: b.at(1),
        planeBytes: 4 * L.planeStride,
        gain: 0.3,
        rate: 2,
      }),
    ([p, q], c) => 2 * (p(...c) + 0.3 * q(...c)),
  ],
  [
    'copyBytes',
    (b) => {
      const { lead, size } = L;
      b.pool.solo('copyBytes', { to: b.at(0) - 4 * lead, from: b.at(1) - 4 * lead, bytes: 4 * size });
    },
    ([, y], c) => y(...c),
  ],
];

test.each(CASES)('%s', (_, act, oracle) => {
  const b = bench();
  const before = b.fields.map(b.reader);
  act(b);
  const now = b.reader(b.fields[0]);
  for (const cell of CELLS) expect(now(...cell)).toBeCloseTo(oracle(before, cell), 5);
  b.pool.close();
});

test.each([0, 1, 2, 3])(
  'the ring around a field on lattice %d goes on from its edge, or is empty',
  (axis) => {
    const b = bench();
    const [mx, my, mz] = sites(L, axis);
    fillHalo(b.pool, b.fields[0], axis, 1 | 8 | 16);
    const f = b.reader(b.fields[0]);
    const near = (n: number, m: number): number => Math.min(m - 1, Math.max(0, n));
    for (let k = -1; k <= mz; k++)
      for (let j = -1; j <= my; j++)
        for (let i = -1; i <= mx; i++) {
          const empty = k === -1 || j === my || (i === -1 && j >= 0);
          const edge = f(near(i, mx), near(j, my), near(k, mz));
          // of a corner the row's own side counts, which a side above or below has copied already
          if (i === -1 && j === -1) continue;
          expect(f(i, j, k)).toBe(empty ? 0 : edge);
        }

    b.pool.close();
  },
);

describe('what a plane is summed to', () => {
  const b = bench();
  const [d, u, v, w, ax, ay, az] = b.fields.map(b.reader);
  const sum = (k: number, of: (cell: Cell) => number): number =>
    CELLS.filter((c) => c[2] === k).reduce((s, c) => s + of(c), 0);
  const planes = Array.from({ length: L.nz }, (_, k) => k);
  afterAll(() => b.pool.close());

  test('measureFrame', () => {
    const [, ...at] = [0, 1, 2, 3, 4, 5, 6].map(b.at);
    b.run('measureFrame', {
      density: b.at(0),
      u: at[0],
      v: at[1],
      w: at[2],
      ax: at[3],
      ay: at[4],
      az: at[5],
      ...cells,
      threshold: 0.2,
      partials: b.partials,
    });
    const mean = (f: typeof u, c: Cell, axis: number): number =>
      (faces(f, c, axis)[0] + faces(f, c, axis)[1]) / 2;
    const out = (c: Cell): number =>
      [u, v, w].reduce((s, f, axis) => {
        const [low, high] = faces(f, c, axis);
        const [openLow, openHigh] = faces([ax, ay, az][axis], c, axis);
        return s + openHigh * high - openLow * low;
      }, 0);
    const onRim = ([i, j, k]: Cell): boolean =>
      [i, j, k].some((c, a) => c === 0 || c === [L.nx, L.ny, L.nz][a] - 1);
    for (const k of planes) {
      const own = CELLS.filter((c) => c[2] === k);
      const above = own.filter((c) => d(...c) > 0.2);
      expect(b.part(k, 0)).toBeCloseTo(
        sum(k, (c) => d(...c)),
        4,
      );
      expect(b.part(k, 1)).toBeCloseTo(Math.max(0, ...own.map((c) => d(...c))), 6);
      expect(b.part(k, 2)).toBeCloseTo(
        sum(k, (c) => mean(u, c, 0) ** 2 + mean(v, c, 1) ** 2 + mean(w, c, 2) ** 2),
        4,
      );
      expect(b.part(k, 3)).toBe(above.length);
      expect(b.part(k, 4)).toBe(Math.max(-1, ...above.map(([, j]) => j)));
      expect(b.part(k, 5)).toBeCloseTo(Math.max(...own.map((c) => Math.abs(out(c)))), 5);
      expect(b.part(k, 6)).toBeCloseTo(
        sum(k, (c) => (onRim(c) ? d(...c) : 0)),
        4,
      );
      expect(b.part(k, 7)).toBe(0);
    }
  });

  test('sumMoments', () => {
    b.run('sumMoments', { f: b.at(0), ...cells, partials: b.partials });
    const f = b.reader(b.fields[0]);
    const moments: ((c: Cell) => number)[] = [
      () => 1,
      ...[0, 1, 2].map((a) => (c: Cell) => c[a]),
      ...[0, 1, 2].map((a) => (c: Cell) => c[a] ** 2),
    ];
    moments.forEach((moment, slot) => {
      const wanted = CELLS.reduce((sum, c) => sum + f(...c) * moment(c), 0);
      const got = Array.from({ length: L.nz }, (_, k) => b.part(k, slot)).reduce((x, y) => x + y, 0);
      expect(got).toBeCloseTo(wanted, 2);
    });
  });

  test('boundarySums', () => {
    b.run('boundarySums', { f: b.at(0), ...cells, partials: b.partials });
    const most = [L.nx, L.ny, L.nz];
    for (const k of planes)
      for (let side = 0; side < 6; side++) {
        const edge = side & 1 ? most[side >> 1] - 1 : 0;
        expect(b.part(k, side)).toBeCloseTo(
          sum(k, (c) => (c[side >> 1] === edge ? d(...c) : 0)),
          4,
        );
      }
  });

  test('forceShare, in every second row of every second plane, where there is medium', () => {
    const bare = (c: Cell): boolean => c[1] === 2 && c[2] === 2;
    const { lead, rowStride, planeStride } = L;
    const from = lead + 2 * planeStride + 2 * rowStride;
    const kept = fieldView(b.pool.memory, b.fields[0]).slice(from, from + L.nx);
    fieldView(b.pool.memory, b.fields[0]).fill(0, from, from + L.nx);
    const before = [7, 8, 9].map((n) => b.reader(b.fields[n]));
    b.run('forceShare', {
      fx: b.at(1),
      fy: b.at(2),
      fz: b.at(3),
      px: b.at(7),
      py: b.at(8),
      pz: b.at(9),
      density: b.at(0),
      first: 0,
      ...cells,
      partials: b.partials,
    });
    const counts = (c: Cell): boolean => c[1] % 2 === 0 && c[2] % 2 === 0 && !bare(c);
    const by = (c: Cell): number => [u, v, w].reduce((s, f, a) => s + (f(...c) - before[a](...c)) ** 2, 0);
    for (const k of planes) {
      expect(b.part(k, 0)).toBeCloseTo(
        sum(k, (c) => (counts(c) ? Math.max(0, d(...c)) * by(c) : 0)),
        4,
      );
      expect(b.part(k, 1)).toBeCloseTo(
        sum(k, (c) => (counts(c) ? Math.max(0, d(...c)) : 0)),
        4,
      );
    }

    const after = [7, 8, 9].map((n) => b.reader(b.fields[n]));
    for (const c of CELLS)
      after.forEach((f, a) => expect(f(...c)).toBe(counts(c) ? [u, v, w][a](...c) : before[a](...c)));
    fieldView(b.pool.memory, b.fields[0]).set(kept, from);
  });

  test('findBounds and maxAbs', () => {
    b.run('findBounds', { f: b.at(0), ...cells, threshold: 0.9, partials: b.partials });
    for (const k of planes) {
      const hit = CELLS.filter((c) => c[2] === k && d(...c) > 0.9);
      const of = (axis: number, pick: (...values: number[]) => number, none: number): number =>
        pick(none, ...hit.map((c) => c[axis]));
      expect([0, 1, 2, 3, 4].map((slot) => b.part(k, slot))).toEqual([
        hit.length,
        of(0, Math.min, L.nx),
        of(0, Math.max, -1),
        of(1, Math.min, L.ny),
        of(1, Math.max, -1),
      ]);
    }

    b.run('maxAbs', { f: b.at(0), ...cells, partials: b.partials, slot: 3 });
    for (const k of planes)
      expect(b.part(k, 3)).toBe(Math.max(...CELLS.filter((c) => c[2] === k).map((c) => Math.abs(d(...c)))));
  });

  test('valueRange: the least and the greatest where there is enough of another, 0 among them', () => {
    b.run('valueRange', { f: b.at(0), g: b.at(1), enough: 0.2, ...cells, partials: b.partials });
    const g = b.reader(b.fields[1]);
    for (const k of planes) {
      const values = CELLS.filter((c) => c[2] === k && g(...c) >= 0.2).map((c) => d(...c));
      expect(b.part(k, 0)).toBe(Math.min(0, ...values));
      expect(b.part(k, 1)).toBe(Math.max(0, ...values));
    }
  });

  test('sumCells: with the air of the cells, and without', () => {
    for (const rooms of [0, b.at(1)]) {
      b.run('sumCells', { f: b.at(0), rooms, ...cells, partials: b.partials });
      const room = b.reader(b.fields[1]);
      for (const k of planes)
        expect(b.part(k, 0)).toBeCloseTo(
          sum(k, (c) => d(...c) * (rooms ? room(...c) : 1)),
          4,
        );
    }
  });

  test('checksum tells fields apart by their last bit, and findNonFinite the first that is no number', () => {
    const digest = (): number[] => {
      b.run('checksum', { f: b.at(0), ...cells, partials: b.partials });
      return planes.flatMap((k) => [b.part(k, 0), b.part(k, 1)]);
    };

    const one = digest();
    expect(digest()).toEqual(one);
    const bits = new Int32Array(b.pool.memory.buffer, b.at(0) + 4 * (2 * L.planeStride + L.rowStride + 5), 1);
    bits[0] ^= 1;
    expect(digest().map((v, n) => v === one[n])).toEqual(one.map((_, n) => n !== 4 && n !== 5));
    new Float32Array(bits.buffer, bits.byteOffset, 1)[0] = NaN;
    b.run('findNonFinite', {
      f: b.at(0),
      mx: L.nx,
      my: L.ny,
      rowStride: L.rowStride,
      planeStride: L.planeStride,
      partials: b.partials,
    });
    expect(planes.map((k) => b.part(k, 0))).toEqual([-1, -1, L.nx + 5, -1, -1, -1]);
  });
});

test('packBytes and packMeans: means over cubes, as bytes and as floats', () => {
  const b = bench();
  const f = b.reader(b.fields[0]);
  const [mx, my, mz] = [L.nx / 2, Math.floor(L.ny / 2), L.nz / 2];
  const strides = { rowStride: L.rowStride, planeStride: L.planeStride };
  const mean = (I: number, J: number, K: number, of: (i: number, j: number, k: number) => number): number => {
    let s = 0;
    for (let n = 0; n < 8; n++) s += of(2 * I + (n & 1), 2 * J + ((n >> 1) & 1), 2 * K + (n >> 2));
    return s / 8;
  };

  b.run('packBytes', { f: b.at(0), out: b.scratch, step: 2, scale: 200, mx, my, ...strides }, mz);
  const bytes = new Uint8Array(b.pool.memory.buffer, b.scratch, mx * my * mz).slice();
  b.run('packMeans', { f: b.at(0), next: 4, out: b.scratch, step: 2, mx, my, ...strides }, mz);
  const means = new Float32Array(b.pool.memory.buffer, b.scratch, mx * my * mz).slice();
  bytes.forEach((byte, n) => {
    const [I, J, K] = [n % mx, Math.floor(n / mx) % my, Math.floor(n / mx / my)];
    expect(Math.abs(byte - Math.min(255, Math.max(0, 200 * mean(I, J, K, f))))).toBeLessThan(0.501);
    expect(means[n]).toBeCloseTo(
      mean(I, J, K, (i, j, k) => (f(i, j, k) + f(i + 1, j, k)) / 2),
      6,
    );
  });
  b.pool.close();
});

test('coarsenVelocity and addUpsampled: to a lattice of two cells and back', () => {
  const b = bench();
  const air = [1, 2, 3].map((n) => b.reader(b.fields[n]));
  const [cu, cv, cw] = b.coarse.map((f) => f.address);
  const there = {
    coarseRowStride: COARSE.rowStride,
    coarsePlaneStride: COARSE.planeStride,
  };
  b.run(
    'coarsenVelocity',
    {
      u: b.at(1),
      v: b.at(2),
      w: b.at(3),
      cu,
      cv,
      cw,
      factor: 2,
      ...cells,
      cx: COARSE.nx,
      cy: COARSE.ny,
      ...there,
    },
    COARSE.nz,
  );
  for (const f of b.coarse) fillHalo(b.pool, f, 3, 0);
  const coarse = b.coarse.map(b.reader);
  for (let K = 0; K < COARSE.nz; K++)
    for (let J = 0; J < COARSE.ny; J++)
      for (let I = 0; I < COARSE.nx; I++) {
        const own = CELLS.filter(([i, j, k]) => i >> 1 === I && j >> 1 === J && k >> 1 === K);
        air.forEach((f, axis) => {
          const mean =
            own.reduce((s, c) => s + (faces(f, c, axis)[0] + faces(f, c, axis)[1]) / 2, 0) / own.length;
          expect(coarse[axis](I, J, K)).toBeCloseTo(mean, 5);
        });
      }

  const before = b.reader(b.fields[0]);
  b.run('addUpsampled', {
    coarse: cu,
    fine: b.at(0),
    weight: b.at(4),
    line: b.scratch,
    ...cells,
    cx: COARSE.nx,
    ...there,
  });
  const weight = b.reader(b.fields[4]);
  const after = b.reader(b.fields[0]);
  for (const cell of CELLS) {
    // three quarters of the coarse cell that it lies in and one of the nearest other, along each axis
    let mixed = 0;
    for (let n = 0; n < 8; n++) {
      const at = cell.map((c, a) => (c >> 1) + ((n >> a) & 1) * (c & 1 ? 1 : -1)) as unknown as Cell;
      mixed += coarse[0](...at) * [0, 1, 2].reduce((s, a) => s * ((n >> a) & 1 ? 0.25 : 0.75), 1);
    }

    expect(after(...cell)).toBeCloseTo(before(...cell) + weight(...cell) * mixed, 5);
  }

  b.pool.close();
});
