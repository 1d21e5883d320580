// The kernels against slow, obvious versions of themselves.
import { AdvectionStruct, type KernelArguments } from '@bramblemist/kernels/seam';
import { lattice, type Lattice } from '@bramblemist/core/grid/lattice';
import { readField, readSplit, writeField, writeSplit, type Field } from '@bramblemist/core/grid/memory';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compile } from '@bramblemist/core/plan/compile';
import { addresses, fillHalo, named, sites } from '@bramblemist/core/grid/sweep';
import { planLayout, type Layout } from '@bramblemist/core/plan/layout';
import { coarsenLevels, describeLevels } from '@bramblemist/core/plan/levels';
import { random, recipeOf } from './run';

function fillRandom(threadPool: ThreadPool, f: Field, seed: number, axis = 3, scale = 1): Float32Array {
  const next = random(seed);
  const [mx, my, mz] = sites(f.lattice, axis);
  const l = f.lattice;
  const values = Float32Array.from({ length: mx * my * mz }, () => (next() * 2 - 1) * scale);
  writeField(threadPool.memory, f, values, [mx - l.nx, my - l.ny, mz - l.nz]);
  return values;
}

const NOTHING = compile(recipeOf()).plan;

function coarsenAll(threadPool: ThreadPool, layout: Layout): void {
  const l = layout.levels[0].lattice;
  coarsenLevels(threadPool, layout.levels, [0, 0, 0], [l.nx, l.ny, l.nz]);
  for (const level of layout.levels) threadPool.solo('fillCoefficients', { level: level.block });
}

const dotOf = (a: Float32Array, b: Float32Array): number => a.reduce((s, v, n) => s + v * b[n], 0);

describe('transport of one channel', () => {
  const l = lattice(12, 10, 16);
  const kit = (): { threadPool: ThreadPool; layout: Layout } => {
    const layout = planLayout(l, NOTHING, 2);
    const threadPool = startThreadPool(layout.pages, 1);
    describeLevels(layout.levels, ['open', 'open', 'open', 'open', 'open', 'open'], threadPool.memory);
    for (const [axis, f] of layout.levels[0].open.entries()) {
      const m = sites(l, axis);
      writeField(threadPool.memory, f, new Float32Array(m[0] * m[1] * m[2]).fill(1), [
        m[0] - l.nx,
        m[1] - l.ny,
        m[2] - l.nz,
      ]);
    }

    coarsenAll(threadPool, layout);
    return { threadPool, layout };
  };

  const mixed = (
    at: (i: number, j: number, k: number) => number,
    p: number[],
  ): { value: number; least: number; most: number } => {
    const b = p.map(Math.floor);
    const t = p.map((v, a) => v - b[a]);
    let value = 0;
    let least = Infinity;
    let most = -Infinity;
    for (let c = 0; c < 8; c++) {
      const o = [c & 1, (c >> 1) & 1, c >> 2];
      const v = at(b[0] + o[0], b[1] + o[1], b[2] + o[2]);
      least = Math.min(least, v);
      most = Math.max(most, v);
      value += v * o.reduce((w, s, a) => w * (s ? t[a] : 1 - t[a]), 1);
    }

    return { value, least, most };
  };

  const set = (threadPool: ThreadPool, layout: Layout, axis: number, from: Field, to: Field): void => {
    const [hat, lo, hi] = layout.scratch;
    AdvectionStruct.write(threadPool.memory, layout.advection, {
      f: from.address,
      hat: hat.address,
      lo: lo.address,
      hi: hi.address,
      out: to.address,
      ...named(['dx', 'dy', 'dz'], addresses(layout.back)),
      ...named(['ex', 'ey', 'ez'], addresses(layout.ahead)),
      axis,
      ...named(['reachX', 'reachY', 'reachZ'], [5, 5, 5]),
      guard: 0,
    });
  };

  test.each([3, 0, 1, 2])(
    'is MacCormack with limits, on lattice %d, however the planes are shared',
    (axis) => {
      const { threadPool, layout } = kit();
      const [mx, my, mz] = sites(l, axis);
      const extra: [number, number, number] = [mx - l.nx, my - l.ny, mz - l.nz];
      const f = fillRandom(threadPool, layout.channels[0], 1 + axis, axis);
      fillHalo(threadPool, layout.channels[0], axis, 0);
      const [back, ahead] = [layout.back, layout.ahead].map((d, q) =>
        d.map((x, n) => fillRandom(threadPool, x, 20 + n + 5 * q, 3, 3.4)),
      );
      for (const x of [...layout.back, ...layout.ahead]) fillHalo(threadPool, x, 3, 0);
      set(threadPool, layout, axis, layout.channels[0], layout.spare);
      const [{ block }] = layout.levels;
      threadPool.solo('advectChannel', { level: block, channel: layout.advection, k0: 0, k1: mz });
      const got = readField(threadPool.memory, layout.spare, extra);
      for (const kernel of ['advectChannel', 'advectChannelEdges'] as const)
        for (let k = 0; k < mz; k += 6)
          threadPool.solo(kernel, {
            level: block,
            channel: layout.advection,
            k0: k,
            k1: Math.min(k + 6, mz),
          });
      expect(readField(threadPool.memory, layout.spare, extra)).toEqual(got);

      const cell = (v: Float32Array, i: number, j: number, k: number): number =>
        v[
          (Math.min(Math.max(k, 0), l.nz - 1) * l.ny + Math.min(Math.max(j, 0), l.ny - 1)) * l.nx +
            Math.min(Math.max(i, 0), l.nx - 1)
        ];
      const site =
        (v: Float32Array) =>
        (i: number, j: number, k: number): number =>
          v[
            (Math.min(Math.max(k, 0), mz - 1) * my + Math.min(Math.max(j, 0), my - 1)) * mx +
              Math.min(Math.max(i, 0), mx - 1)
          ];

      const end = (d: Float32Array[], i: number, j: number, k: number): number[] =>
        [i, j, k].map((c, a) => {
          const before = [i - Number(axis === 0), j - Number(axis === 1), k - Number(axis === 2)] as const;
          const n = [l.nx, l.ny, l.nz][a];
          return Math.min(
            Math.max(c + 0.5 * (cell(d[a], i, j, k) + cell(d[a], ...before)), axis === a ? 0 : -1),
            n,
          );
        });
      const first = new Float32Array(f.length);
      const each = (visit: (i: number, j: number, k: number, n: number) => void): void => {
        for (let k = 0; k < mz; k++)
          for (let j = 0; j < my; j++) for (let i = 0; i < mx; i++) visit(i, j, k, (k * my + j) * mx + i);
      };

      each((i, j, k, n) => (first[n] = mixed(site(f), end(back, i, j, k)).value));
      each((i, j, k, n) => {
        const p = end(back, i, j, k);
        const { least, most } = mixed(site(f), p);
        // right at a cell's border rounding may choose either side; the value is continuous, the bounds are
        // not
        if (p.some((x) => Math.abs(x - Math.round(x)) < 1e-4)) return;
        const inside = [i, j, k].every((c, a) => a !== axis || (c > 0 && c < [mx, my, mz][a] - 1));
        const fix = inside ? (f[n] - mixed(site(first), end(ahead, i, j, k)).value) / 2 : 0;
        expect(Math.abs(got[n] - Math.min(Math.max(first[n] + fix, least), most))).toBeLessThan(3e-5);
      });
    },
  );
});

describe('multigrid', () => {
  type Cells = (i: number, j: number, k: number) => number;

  /** A window with walls, an open top and some half-closed faces inside, as the step lays it out. */
  function holed(l: Lattice): { threadPool: ThreadPool; layout: Layout; open: Float32Array[] } {
    const layout = planLayout(l, NOTHING, 1);
    const threadPool = startThreadPool(layout.pages, 1);
    const next = random(8);
    describeLevels(layout.levels, ['wall', 'wall', 'wall', 'open', 'wall', 'wall'], threadPool.memory);
    const open = layout.levels[0].open.map((f, axis) => {
      const [mx, my, mz] = sites(l, axis);
      const v = new Float32Array(mx * my * mz).fill(1);
      for (let n = 0; n < v.length; n++) {
        const p = [n % mx, Math.floor(n / mx) % my, Math.floor(n / mx / my)];
        const end = [mx, my, mz][axis] - 1;
        if (p[axis] === 0 || (p[axis] === end && axis !== 1)) v[n] = 0;
        else if (p.every((c) => c >= 5 && c <= 7)) v[n] = next() < 0.5 ? 0 : next();
      }

      writeField(threadPool.memory, f, v, [mx - l.nx, my - l.ny, mz - l.nz]);
      return v;
    });
    coarsenAll(threadPool, layout);
    return { threadPool, layout, open };
  }

  const put = (kit: { threadPool: ThreadPool }, address: number, l: Lattice, values: Float32Array): void =>
    writeSplit(kit.threadPool.memory, { address, lattice: l }, values);
  const get = (kit: { threadPool: ThreadPool }, address: number, l: Lattice): Float32Array =>
    readSplit(kit.threadPool.memory, { address, lattice: l });

  function slowOperator(
    l: Lattice,
    open: Float32Array[],
    e: Float32Array,
  ): { le: Float32Array; diagonal: Float32Array } {
    const le = new Float32Array(e.length);
    const diagonal = new Float32Array(e.length);
    const at: Cells = (i, j, k) =>
      i >= 0 && j >= 0 && k >= 0 && i < l.nx && j < l.ny && k < l.nz ? e[(k * l.ny + j) * l.nx + i] : 0;
    for (let c = 0; c < e.length; c++) {
      const p = [c % l.nx, Math.floor(c / l.nx) % l.ny, Math.floor(c / l.nx / l.ny)];
      for (let axis = 0; axis < 3; axis++) {
        const m = sites(l, axis);
        for (const side of [0, 1]) {
          const q = p.slice();
          const face = p.slice();
          q[axis] += side ? 1 : -1;
          face[axis] += side;
          const a = open[axis][(face[2] * m[1] + face[1]) * m[0] + face[0]];
          diagonal[c] += a;
          le[c] += a * (e[c] - at(q[0], q[1], q[2]));
        }
      }
    }

    return { le, diagonal };
  }

  /** Random values in the cells that have an open face, 0 elsewhere. */
  const living = (l: Lattice, open: Float32Array[], seed: number): Float32Array => {
    const { diagonal } = slowOperator(l, open, new Float32Array(l.nx * l.ny * l.nz));
    const next = random(seed);
    return diagonal.map((d) => (d > 1e-6 ? next() * 2 - 1 : 0));
  };

  test.each([
    [16, 10, 12],
    [28, 12, 14],
  ])('a step of conjugate gradients agrees with the plain operator (%d × %d × %d)', (nx, ny, nz) => {
    const l = lattice(nx, ny, nz);
    const kit = holed(l);
    const { layout, open, threadPool } = kit;
    const fine = layout.levels[0];
    const s = living(l, open, 31);
    const r = living(l, open, 32);
    const p = living(l, open, 33);
    put(kit, layout.direction, l, s);
    put(kit, fine.r, l, r);
    put(kit, layout.pressure, l, p);
    const { le } = slowOperator(l, open, s);
    const total = (slab: number): number => {
      for (let k = 0; k < nz; k += slab)
        threadPool.solo('updateDirection', {
          level: fine.block,
          s: layout.direction,
          beta: 0,
          partials: layout.partials,
          slab: nz + 1,
          k0: k,
          k1: Math.min(k + slab, nz),
        });
      for (let k = 0; k < nz; k += slab)
        threadPool.solo('directionEnergyEdges', {
          level: fine.block,
          s: layout.direction,
          partials: layout.partials,
          slab: nz + 1,
          k0: k,
          k1: Math.min(k + slab, nz),
        });
      const parts = new Float64Array(threadPool.memory.buffer, layout.partials, nz * 8);
      return Array.from({ length: nz }, (_, k) => parts[k * 8]).reduce((a, b) => a + b, 0);
    };

    expect(total(nz)).toBeCloseTo(dotOf(s, le), 3);
    expect(total(4)).toBe(total(nz));
    threadPool.solo('updateSolution', {
      level: fine.block,
      p: layout.pressure,
      s: layout.direction,
      alpha: 0.3,
      partials: layout.partials,
      slab: nz + 1,
      k0: 0,
      k1: nz,
    });
    const left = get(kit, fine.r, l);
    const next = get(kit, layout.pressure, l);
    for (let c = 0; c < s.length; c++) {
      expect(Math.abs(left[c] - (r[c] - 0.3 * le[c]))).toBeLessThan(2e-6);
      expect(Math.abs(next[c] - (p[c] + 0.3 * s[c]))).toBeLessThan(1e-6);
    }
  });

  test.each([
    [16, 8, 12],
    [24, 14, 10],
    [20, 18, 22],
  ])(
    'one cycle down and up is a symmetric, contracting map, however the planes are shared (%d × %d × %d)',
    (nx, ny, nz) => {
      const l = lattice(nx, ny, nz);
      const kit = holed(l);
      const { layout, open, threadPool } = kit;
      const { levels } = layout;
      const cycle = (r: Float32Array, slab: number): Float32Array => {
        put(kit, levels[0].r, l, r);
        const last = levels.length - 1;
        const pass = <K extends 'multigridDown' | 'multigridUp'>(
          kernel: K,
          d: number,
          more: Omit<KernelArguments[K], 'level' | 'below' | 'slab' | 'k0' | 'k1'>,
        ): void => {
          const planes = levels[d].lattice.nz;
          const part = d === 0 ? slab : planes + 1;
          // the ring holds one slab here, so they go one after the other through the same ring
          for (let k = 0; k < planes; k += part)
            threadPool.solo(kernel, {
              ...more,
              level: levels[d].block,
              below: levels[d + 1].block,
              slab: planes + 1,
              k0: k,
              k1: Math.min(k + part, planes),
            } as KernelArguments[K]);
        };

        for (let d = 0; d < last; d++) pass('multigridDown', d, {});
        threadPool.solo('relaxCoarsest', { level: levels[last].block, sweeps: 16 });
        for (let d = last - 1; d >= 0; d--) pass('multigridUp', d, { partials: layout.partials });
        return get(kit, levels[0].e, l);
      };

      const a = living(l, open, 5);
      const b = living(l, open, 6);
      const ma = cycle(a, nz + 1);
      const mb = cycle(b, nz + 1);
      expect(Math.abs(dotOf(ma, b) - dotOf(a, mb))).toBeLessThan(
        1e-4 * Math.sqrt(dotOf(ma, ma) * dotOf(b, b)),
      );
      expect(cycle(b, 4)).toEqual(mb);
      expect(cycle(b, 2)).toEqual(mb);
      // the error of e = M L x against x, in the energy norm: a cycle takes away at least two thirds of it
      const x = living(l, open, 7);
      const lx = slowOperator(l, open, x).le;
      const rest = cycle(lx, nz + 1).map((v, c) => x[c] - v);
      expect(dotOf(rest, slowOperator(l, open, rest).le)).toBeLessThan(dotOf(x, lx) / 9);
    },
  );
});

describe('diffusion', () => {
  const l = lattice(12, 8, 10);
  test.each([
    [3, 0],
    [3, 1],
    [3, 2],
    [0, 0],
    [0, 1],
    [1, 2],
    [2, 0],
  ])('of lattice %d along %d solves (1 − a ∂²) x = f, with closed faces as walls', (site, direction) => {
    const layout = planLayout(l, NOTHING, 1);
    const threadPool = startThreadPool(layout.pages, 1);
    const next = random(3 + site);
    const a = 2.5;
    describeLevels(layout.levels, ['wall', 'open', 'wall', 'open', 'open', 'wall'], threadPool.memory);
    const walls = [true, false, true, false, false, true];
    const open = layout.levels[0].open.map((f, axis) => {
      const m = sites(l, axis);
      const v = Float32Array.from({ length: m[0] * m[1] * m[2] }, (_, n) => {
        const c = [n % m[0], Math.floor(n / m[0]) % m[1], Math.floor(n / m[0] / m[1])][axis];
        const atWall = (c === 0 && walls[2 * axis]) || (c === m[axis] - 1 && walls[2 * axis + 1]);
        return atWall || next() < 0.2 ? 0 : 1;
      });
      writeField(threadPool.memory, f, v, [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz]);
      return { v, m };
    });
    const m = sites(l, site);
    const extra: [number, number, number] = [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz];
    const field = site === 3 ? layout.channels[0] : layout.velocity[site];
    const f = fillRandom(threadPool, field, 8, site);
    threadPool.solo('diffuse', {
      level: layout.levels[0].block,
      f: field.address,
      c: layout.scratch[0].address,
      site,
      dir: direction,
      a,
      stick: 0.5,
      k0: 0,
      k1: direction === 2 ? m[1] : m[2],
    });
    const x = readField(threadPool.memory, field, extra);
    const isOpen = (axis: number, p: number[]): number =>
      open[axis].v[(p[2] * open[axis].m[1] + p[1]) * open[axis].m[0] + p[0]];
    const plus = (p: number[], axis: number, s: number): number[] =>
      p.map((c, q) => c + (q === axis ? s : 0));
    for (let n = 0; n < x.length; n++) {
      const p = [n % m[0], Math.floor(n / m[0]) % m[1], Math.floor(n / m[0] / m[1])];
      const lives =
        site === 3 ? [0, 1, 2].some((q) => isOpen(q, p) + isOpen(q, plus(p, q, 1)) > 0) : isOpen(site, p) > 0;
      if (!lives) {
        expect(x[n]).toBe(f[n]);
        continue;
      }

      // what leaves toward both neighbours along the line, from the solution: it has to be what was lost
      let flow = 0;
      for (const s of [-1, 1]) {
        const q = plus(p, direction, s);
        const inside = q[direction] >= 0 && q[direction] < m[direction];
        const there = inside ? x[(q[2] * m[1] + q[1]) * m[0] + q[0]] : 0;
        if (site === 3) flow += inside ? isOpen(direction, s < 0 ? p : q) * (x[n] - there) : 0;
        else if (!inside)
          flow += direction !== site && walls[2 * direction + Number(s > 0)] ? 2 * 0.5 * x[n] : 0;
        else flow += (isOpen(site, q) > 0 || direction === site ? 1 : 2) * (x[n] - there);
      }

      expect(Math.abs(x[n] + a * flow - f[n])).toBeLessThan(2e-5);
    }
  });
});
