// Kernels that look around a cell (traces, curls, noise, light, refining), against the same written plainly.
import { TraceStage } from '@bramblemist/kernels/seam';
import { putFloats } from '@bramblemist/core/grid/memory';
import { fillHalo } from '@bramblemist/core/grid/sweep';
import { bench, CELLS, cells, COARSE, faces, hash, L, type Cell, type Reader } from './kernel-bench';
import { random } from './run';

type Place = readonly [number, number, number];
const SIZE = [L.nx, L.ny, L.nz];
const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((s, v, n) => s + v * b[n], 0);
const cross = ([a, b, c]: Place, [d, e, f]: Place): Place => [b * f - c * e, c * d - a * f, a * e - b * d];
const mapAxes = (of: (axis: number) => number): Place => [of(0), of(1), of(2)];

/** Linear between the eight sites around a place. */
function linear(f: Reader, [x, y, z]: Place): number {
  const [i, j, k] = [x, y, z].map(Math.floor);
  let sum = 0;
  for (let n = 0; n < 8; n++) {
    const [a, b, c] = [n & 1, (n >> 1) & 1, n >> 2];
    const part = [a ? x - i : 1 - x + i, b ? y - j : 1 - y + j, c ? z - k : 1 - z + k];
    sum += part[0] * part[1] * part[2] * f(i + a, j + b, k + c);
  }

  return sum;
}

/** The air at a place on the cell lattice, held as the kernels hold their look-ups. */
const airAt = (air: readonly Reader[], place: Place): Place =>
  mapAxes((axis) =>
    linear(
      air[axis],
      mapAxes((a) => {
        const own = a === axis;
        const most = SIZE[a];
        return Math.min(most, Math.max(own ? 0 : -1, place[a] + (own ? 0.5 : 0)));
      }),
    ),
  );

test('trace: back by the midpoint rule, then by Ralston’s third order, and ahead', () => {
  const b = bench();
  const kappa = 1.7;
  const air = [1, 2, 3].map((n) => b.reader(b.fields[n]));
  const names = ['u', 'v', 'w', 'dx', 'dy', 'dz', 'ex', 'ey', 'ez'];
  const args = {
    ...(Object.fromEntries(names.map((name, n) => [name, b.at(n + 1)])) as Record<'u' | 'v' | 'w', number> &
      Record<'dx' | 'dy' | 'dz' | 'ex' | 'ey' | 'ez', number>),
    ...cells,
    kappa,
  };
  const moved = (): [Reader[], Reader[]] => [
    [4, 5, 6].map((n) => b.reader(b.fields[n])),
    [7, 8, 9].map((n) => b.reader(b.fields[n])),
  ];
  // the mean of a cell's two faces is doubled by both rules: what they call κ k1 is the sum of the two
  const first = (c: Cell): Place =>
    mapAxes((axis) => kappa * (faces(air[axis], c, axis)[0] + faces(air[axis], c, axis)[1]));
  const from = (c: Cell, way: Place, part: number): Place =>
    airAt(
      air,
      mapAxes((a) => c[a] + part * way[a]),
    );

  b.run('trace', { ...args, stage: TraceStage.MIDPOINT });
  const [back, ahead] = moved();
  for (const c of CELLS) {
    const k1 = first(c);
    const k2 = from(c, k1, -0.25);
    for (const a of [0, 1, 2]) {
      expect(back[a](...c)).toBeCloseTo(-kappa * k2[a], 4);
      expect(ahead[a](...c)).toBeCloseTo(k1[a] - kappa * k2[a], 4);
    }
  }

  b.run('trace', { ...args, stage: TraceStage.RALSTON });
  const [third, further] = moved();
  for (const c of CELLS) {
    const k1 = first(c);
    const k2 = mapAxes((a) => back[a](...c));
    const k3 = from(c, k2, 0.75);
    for (const a of [0, 1, 2]) {
      const wanted = -k1[a] / 9 + k2[a] / 3 - (4 / 9) * kappa * k3[a];
      expect(third[a](...c)).toBeCloseTo(wanted, 4);
      expect(further[a](...c)).toBeCloseTo(k1[a] + wanted, 4);
    }
  }

  b.pool.close();
});

describe('vorticity', () => {
  /** Central differences over two cells, of values at the middles of cells. */
  const slope = (f: Reader, c: Cell): Place =>
    mapAxes((a) => {
      const on = (by: number): Cell => c.map((v, n) => v + (n === a ? by : 0)) as unknown as Cell;
      return f(...on(1)) - f(...on(-1));
    });
  const curl = (f: readonly Reader[], c: Cell): Place => {
    const [u, v, w] = f.map((one) => slope(one, c));
    return [w[1] - v[2], u[2] - w[0], v[0] - u[1]];
  };

  /** N × ω, N the direction in which |ω| grows. */
  const confined = (grows: Place, omega: Place): readonly number[] =>
    cross(grows, omega).map((v) => v / Math.sqrt(dot(grows, grows) + 1e-12));

  test('curlOfCells and confineVorticityCells, on a lattice of cells', () => {
    const b = bench();
    const air = [1, 2, 3].map((n) => b.reader(b.fields[n]));
    const omega = { ox: b.at(4), oy: b.at(5), oz: b.at(6), mag: b.at(7) };
    b.run('curlOfCells', { u: b.at(1), v: b.at(2), w: b.at(3), ...omega, ...cells, half: 0.5 });
    fillHalo(b.pool, b.fields[7], 3, 0);
    const made = [4, 5, 6].map((n) => b.reader(b.fields[n]));
    const length = b.reader(b.fields[7]);
    b.run('confineVorticityCells', {
      ...omega,
      fx: b.at(0),
      fy: b.at(8),
      fz: b.at(9),
      ...cells,
      strength: 0.7,
    });
    const pushed = [0, 8, 9].map((n) => b.reader(b.fields[n]));
    for (const c of CELLS) {
      const wanted = mapAxes((a) => 0.5 * curl(air, c)[a]);
      const push = confined(slope(length, c), wanted);
      made.forEach((f, a) => expect(f(...c)).toBeCloseTo(wanted[a], 5));
      expect(length(...c)).toBeCloseTo(Math.hypot(...wanted), 5);
      pushed.forEach((f, a) => expect(f(...c)).toBeCloseTo(0.7 * push[a], 4));
    }

    b.pool.close();
  });

  test('confineVorticity, from faces, in slabs that keep four planes of the curl', () => {
    const b = bench();
    const air = [1, 2, 3].map((n) => b.reader(b.fields[n]));
    // slabs of 8 planes, the least that the kernel takes: here the whole window
    const weight = b.reader(b.fields[9]);
    const before = b.reader(b.fields[0]);
    b.pool.run('confineVorticity', L.nz, 8, {
      u: b.at(1),
      v: b.at(2),
      w: b.at(3),
      ox: b.at(4),
      oy: b.at(5),
      oz: b.at(6),
      mag: b.at(7),
      fx: b.at(0),
      fy: b.at(8),
      fz: b.at(8),
      weight: b.at(9),
      ...cells,
      quarter: 0.25,
      strength: 0.7,
      slab: 8,
    });
    // a component at the middle of a cell is the mean of its two faces
    const middle = air.map(
      (f, axis): Reader =>
        (i, j, k) =>
          (faces(f, [i, j, k], axis)[0] + faces(f, [i, j, k], axis)[1]) / 2,
    );
    const omega = (c: Cell): Place => mapAxes((a) => curl(middle, c)[a] / 2);
    const held = (c: Cell): Cell => c.map((v, a) => Math.min(SIZE[a] - 1, Math.max(0, v))) as unknown as Cell;
    const length: Reader = (...c) => Math.hypot(...omega(held(c)));
    const after = b.reader(b.fields[0]);
    for (const c of CELLS) {
      const push = confined(slope(length, c), omega(c))[0];
      expect(after(...c)).toBeCloseTo(before(...c) + weight(...c) * 0.7 * push, 4);
    }

    b.pool.close();
  });
});

test('addUpsampledWide: from a lattice whose cells are three wide', () => {
  const b = bench();
  for (const f of b.coarse) {
    const next = random(3);
    putFloats(b.pool.memory, f.address - 4 * COARSE.lead, Float32Array.from({ length: COARSE.size }, next));
  }

  const coarse = b.reader(b.coarse[0]);
  const before = b.reader(b.fields[0]);
  const weight = b.reader(b.fields[1]);
  b.run('addUpsampledWide', {
    coarse: b.coarse[0].address,
    fine: b.at(0),
    weight: b.at(1),
    factor: 3,
    ...cells,
    coarseRowStride: COARSE.rowStride,
    coarsePlaneStride: COARSE.planeStride,
  });
  const after = b.reader(b.fields[0]);
  for (const c of CELLS) {
    const mixed = linear(
      coarse,
      mapAxes((a) => (c[a] + 0.5) / 3 - 0.5),
    );
    expect(after(...c)).toBeCloseTo(before(...c) + weight(...c) * mixed, 5);
  }

  b.pool.close();
});

describe('curl noise', () => {
  test('gradientTable: unit vectors that turn in a plane, each at its own speed', () => {
    const b = bench();
    const table = (turns: number): Float32Array => {
      b.pool.solo('gradientTable', { table: b.scratch, seed: 5, turns });
      return new Float32Array(b.pool.memory.buffer, b.scratch, 256 * 12).slice();
    };

    const [start, later, half] = [table(0), table(0.1), table(0.05)];
    for (let e = 0; e < 256; e++)
      for (let c = 0; c < 3; c++) {
        const of = (t: Float32Array): Place => mapAxes((a) => t[12 * e + 4 * a + c]);
        const [p, q, m] = [start, later, half].map(of);
        for (const one of [p, q]) expect(dot(one, one)).toBeCloseTo(1, 5);
        // from p to q is a tenth of its turns on, from half a turn to one and a half; the middle lies between
        const angle = Math.acos(Math.min(1, dot(p, q)));
        expect(angle).toBeGreaterThan(2 * Math.PI * 0.05 - 1e-3);
        expect(angle).toBeLessThan(2 * Math.PI * 0.15 + 1e-3);
        const between = mapAxes((a) => p[a] + q[a]);
        expect(dot(m, between) / Math.hypot(...between)).toBeCloseTo(1, 4);
      }

    b.pool.close();
  });

  test('curlNoise is the curl of the three potentials, taken by small differences', () => {
    const b = bench();
    b.pool.solo('gradientTable', { table: b.scratch, seed: 5, turns: 0.3 });
    const table = new Float32Array(b.pool.memory.buffer, b.scratch, 256 * 12).slice();
    const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);
    const potential = (which: number, place: Place): number => {
      const cell = place.map(Math.floor);
      let sum = 0;
      for (let n = 0; n < 8; n++) {
        const corner = [n & 1, (n >> 1) & 1, n >> 2];
        const [X, Y, Z] = cell.map((v, a) => v + corner[a]);
        const e = hash([X, Y, Z], 0, 9) & 255;
        const r = place.map((v, a) => v - cell[a] - corner[a]);
        const near = place.map((v, a) => (corner[a] ? fade(v - cell[a]) : 1 - fade(v - cell[a])));
        sum +=
          near[0] *
          near[1] *
          near[2] *
          dot(
            r,
            mapAxes((a) => table[12 * e + 4 * a + which]),
          );
      }

      return sum;
    };

    const before = [0, 1, 2].map((n) => b.reader(b.fields[n]));
    const [x0, y0, z0, dx] = [-3.21, 0.43, 7.9, 0.37];
    b.run('curlNoise', {
      fx: b.at(0),
      fy: b.at(1),
      fz: b.at(2),
      table: b.scratch,
      seed: 9,
      ...cells,
      x0,
      y0,
      z0,
      dx,
      amplitude: 0.6,
    });
    const after = [0, 1, 2].map((n) => b.reader(b.fields[n]));
    const step = 1e-4;
    for (const c of CELLS) {
      const place: Place = [x0 + c[0] * dx, y0 + c[1] * dx, z0 + c[2] * dx];
      const d = (which: number, a: number): number => {
        const on = (by: number): Place => mapAxes((n) => place[n] + (n === a ? by : 0));
        return (potential(which, on(step)) - potential(which, on(-step))) / (2 * step);
      };

      const wanted = [d(2, 1) - d(1, 2), d(0, 2) - d(2, 0), d(1, 0) - d(0, 1)];
      after.forEach((f, a) => expect(f(...c)).toBeCloseTo(before[a](...c) + 0.6 * wanted[a], 4));
    }

    b.pool.close();
  });
});
