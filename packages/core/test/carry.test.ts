// The medium carried by mass: the sweeps against a slow, obvious version of themselves in double precision,
// and what must hold of them whatever the air does.
import { SweepStruct } from '@bramblemist/kernels/seam';
import { readField } from '@bramblemist/core/grid/memory';
import { addresses, extent, named, sites } from '@bramblemist/core/grid/sweep';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { sweepRowBytes } from '@bramblemist/core/plan/medium-layout';
import { kit, l, N, put, type Cell } from './layout-bench';
import { carryOnly, fill, fillVelocity } from './physics/kit';
import { ALL_WALLS, random, recipeOf, simulate, sum } from './run';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { decodeCheckpoint, encodeCheckpoint } from '@bramblemist/core/cache/checkpoint';
import { Simulation } from '@bramblemist/core/run/simulation';

const clamp = (v: number, a: number, b: number): number =>
  Math.min(Math.max(v, Math.min(a, b)), Math.max(a, b));

/**
 * What passes face n of a line by a flow: what is in the volume upstream of it. Below the line is nothing.
 */
function upstream(
  c: readonly number[],
  volume: readonly number[],
  n: number,
  flow: number,
  parabolas: boolean,
  rides: boolean,
): number {
  const at = (m: number): number => {
    if (m >= 0 && m < c.length) return c[m];
    return m < 0 ? 0 : c[c.length - 1];
  };

  /** What rides on no mass stands as its neighbour toward the face does. */
  const known = (m: number, other: number): number => (!rides || volume[m] > 0 ? at(m) : other);
  const edge = (m: number): number => {
    const [c, d] = [known(m - 1, at(m)), known(m, at(m - 1))];
    const [b, e] = [known(m - 2, c), known(m + 1, d)];
    return clamp((37 * (c + d) - 8 * (b + e) + known(m - 3, b) + known(m + 2, e)) / 60, c, d);
  };

  const way = flow > 0 ? -1 : 1;
  let [sum, rest, m] = [0, Math.abs(flow), flow > 0 ? n - 1 : n];
  for (; rest > 0; m += way) {
    const inside = m >= 0 && m < c.length;
    if (!inside) return Math.sign(flow) * (sum + rest * at(m));
    if (rest >= volume[m]) {
      sum += volume[m] * at(m);
      rest -= volume[m];
      continue;
    }

    // the parabola of the cell with these edge values (Colella & Woodward 1984), integrated by many strips
    let [front, back] = way < 0 ? [edge(m + 1), edge(m)] : [edge(m), edge(m + 1)];
    const mean = at(m);
    if (!parabolas || (front - mean) * (mean - back) <= 0) [front, back] = [mean, mean];
    else if (Math.abs(front - mean) > 2 * Math.abs(mean - back)) front = mean + 2 * (mean - back);
    else if (Math.abs(mean - back) > 2 * Math.abs(front - mean)) back = mean - 2 * (front - mean);
    const curve = 6 * (mean - (front + back) / 2);
    const part = rest / volume[m];
    const strips = 400;
    let held = 0;
    for (let q = 0; q < strips; q++) {
      const x = (part * (q + 0.5)) / strips; // from the front edge
      held += (front + x * (back - front) + curve * x * (1 - x)) / strips;
    }

    return Math.sign(flow) * (sum + rest * held);
  }

  return Math.sign(flow) * sum;
}

interface Sweeping {
  readonly axis: number;
  readonly parabolas: boolean;
  readonly emptySides: number;
  readonly before: boolean;
  readonly rides?: boolean;
  readonly reach?: number;
  readonly marked?: boolean;
}

/** Sweeps channel 0 into spare, over slabs. */
function run({ threadPool, layout }: ReturnType<typeof kit>, s: Sweeping, slab: number): Float32Array {
  const [before, after] = addresses(layout.volumes);
  const cells = { ...extent(l), k0: 0, k1: l.nz };
  if (s.marked)
    threadPool.solo('markRows', { f: layout.channels[0].address, marks: layout.marks[0], ...cells });
  else new Uint8Array(threadPool.memory.buffer, layout.marks[0], l.ny * l.nz).fill(1);
  SweepStruct.write(threadPool.memory, layout.sweep, {
    from: layout.channels[0].address,
    to: layout.spare.address,
    flow: layout.flows[s.axis].address,
    before: s.before ? before : 0,
    after,
    axis: s.axis,
    ...extent(l),
    emptySides: s.emptySides,
    parabolas: Number(s.parabolas),
    rides: Number(s.rides ?? false),
    reach: s.reach ?? 20,
    marks: layout.marks[0],
    marksTo: layout.marks[1],
    gain: 0.9,
    least: -100,
    most: 100,
    passed: 0,
    rows: layout.sweepRows,
    rowBytes: sweepRowBytes(l),
    partials: layout.partials,
  });
  for (let k = 0; k < l.nz; k += slab)
    threadPool.solo('sweepCells', { sweep: layout.sweep, slab, k0: k, k1: Math.min(k + slab, l.nz) });
  return readField(threadPool.memory, layout.spare);
}

const partOf = ({ threadPool, layout }: ReturnType<typeof kit>, slot: number): number => {
  const parts = new Float64Array(threadPool.memory.buffer, layout.partials, l.nz * 8);
  return Array.from({ length: l.nz }, (_, k) => parts[k * 8 + slot]).reduce((a, b) => a + b, 0);
};

const cases = [0, 1, 2].flatMap((axis) => [
  ...[true, false].flatMap((parabolas) =>
    [true, false].map((before) => [axis, parabolas, before, false] as const),
  ),
  [axis, true, true, true] as const,
]);
test.each(cases)(
  'a sweep along axis %d, parabolas %s, volumes that differ %s, riding %s: what is upstream passes a face',
  (axis, parabolas, before, rides) => {
    const k = kit(false);
    const { threadPool, layout } = k;
    const next = random(7 + axis);
    const c = put(threadPool, layout.channels[0], 3, () => (next() < 0.3 ? 0 : next()));
    const rooms = put(threadPool, layout.volumes[0], 3, () => {
      if (!before) return 1;
      return rides && next() < 0.3 ? 0 : 0.4 + next();
    });
    // up to 2.6 cells either way, and cells that do not turn inside out
    const m = sites(l, axis);
    const flow = put(
      threadPool,
      layout.flows[axis],
      axis,
      (p) => 2.6 * Math.sin(0.7 * p[axis] + p[0] - p[1] + 2 * p[2]),
    );
    const at = (v: Float32Array, n: readonly number[], p: Cell): number =>
      v[(p[2] * n[1] + p[1]) * n[0] + p[0]];
    const along = (p: Cell, i: number): Cell => p.map((v, a) => (a === axis ? i : v)) as Cell;
    const later = put(threadPool, layout.volumes[1], 3, (p) =>
      Math.max(rides ? 0.1 : 0.02, at(rooms, N, p) - at(flow, m, along(p, p[axis] + 1)) + at(flow, m, p)),
    );
    const emptySides = 1 << (2 * axis); // nothing at its lower end, the edge goes on at its upper
    const sweep = { axis, parabolas, before, rides, emptySides };
    const got = run(k, sweep, 4);
    const left = [partOf(k, 2 * axis), partOf(k, 2 * axis + 1)];
    expect(run(k, sweep, 12)).toEqual(got);
    expect(left).toEqual([partOf(k, 2 * axis), partOf(k, 2 * axis + 1)]);

    const sides = [0, 0];
    for (let n = 0; n < c.length; n++) {
      const p: Cell = [n % N[0], Math.floor(n / N[0]) % N[1], Math.floor(n / N[0] / N[1])];
      const line = Array.from({ length: N[axis] }, (_, i) => at(c, N, along(p, i)));
      const volume = line.map((_, i) => at(rooms, N, along(p, i)));
      const passes = (i: number): number =>
        upstream(line, volume, i, at(flow, m, along(p, i)), parabolas, rides);
      const [into, out] = [passes(p[axis]), passes(p[axis] + 1)];
      if (p[axis] === 0) sides[0] -= into;
      if (p[axis] === N[axis] - 1) sides[1] += out;
      const wanted = (0.9 * (c[n] * at(rooms, N, p) + into - out)) / at(later, N, p);
      expect(Math.abs(got[n] - wanted)).toBeLessThan(1e-4 * (1 + 1 / at(later, N, p)));
    }

    expect(left[0]).toBeCloseTo(sides[0], 3);
    expect(left[1]).toBeCloseTo(sides[1], 3);
    threadPool.close();
  },
);

test.each([0, 1, 2])(
  'rows along axis %d with nothing in reach are passed over without a difference',
  (axis) => {
    const k = kit(false);
    put(k.threadPool, k.layout.channels[0], 3, ([i, j, q]) => Number(i > 3 && i < 8 && j === 5 && q === 5));
    put(k.threadPool, k.layout.flows[axis], axis, (p) => 1.4 * Math.cos(p[axis]));
    put(k.threadPool, k.layout.volumes[1], 3, () => 1);
    const all = run(k, { axis, parabolas: true, before: false, emptySides: 63 }, 4);
    const some = run(k, { axis, parabolas: true, before: false, emptySides: 63, reach: 5, marked: true }, 4);
    expect(some).toEqual(all);
    expect(all.some((v) => v > 0.1)).toBe(true);
    const marks = new Uint8Array(k.threadPool.memory.buffer, k.layout.marks[1], l.ny * l.nz);
    for (let n = 0; n < marks.length; n++)
      expect(marks[n]).toBe(Number(all.subarray(n * l.nx, (n + 1) * l.nx).some((v) => v !== 0)));
    k.threadPool.close();
  },
);

test('volumeFlows and cellVolumes, with the air of cells that changes and without', () => {
  const { threadPool, layout } = kit(false);
  const next = random(3);
  const open = layout.levels[0].open.map((f, axis) =>
    // behind some plane all are open
    put(threadPool, f, axis, ([, , k]) => {
      const part = next() < 0.2 ? 0 : next();
      return k > 2 ? 1 : part;
    }),
  );
  threadPool.solo('classifyRows', {
    level: layout.levels[0].block,
    j0: 0,
    j1: l.ny,
    k0: 0,
    k1: l.nz,
  });
  const speed = layout.velocity.map((f, axis) => put(threadPool, f, axis, () => 4 * next() - 2));
  const [rooms, roomsTo] = [layout.scratch[1], layout.scratch[2]];
  const old = put(threadPool, rooms, 3, () => 0.3 + next());
  const now = put(threadPool, roomsTo, 3, () => 0.3 + next());
  const at = (v: Float32Array, axis: number, [i, j, k]: Cell): number => {
    const m = sites(l, axis);
    return v[(k * m[1] + j) * m[0] + i];
  };

  const kappa = 0.3;
  const flow = (axis: number, p: Cell): number => kappa * at(open[axis], axis, p) * at(speed[axis], axis, p);
  const change = (axis: number, p: Cell): number =>
    flow(axis, p.map((v, a) => v + Number(a === axis)) as Cell) - flow(axis, p);
  const cells = Array.from({ length: l.nx * l.ny * l.nz }, (_, n): Cell => [
    n % l.nx,
    Math.floor(n / l.nx) % l.ny,
    Math.floor(n / l.nx / l.ny),
  ]);
  for (const changes of [false, true]) {
    const given = { rooms: changes ? rooms.address : 0, roomsTo: changes ? roomsTo.address : 0 };
    threadPool.solo('volumeFlows', {
      level: layout.levels[0].block,
      ...named(['u', 'v', 'w'], addresses(layout.velocity)),
      ...named(['x', 'y', 'z'], addresses(layout.flows)),
      ...given,
      kappa,
      partials: layout.partials,
      k0: 0,
      k1: l.nz,
    });
    const flows = layout.flows.map((f, axis) => {
      const m = sites(l, axis);
      return readField(threadPool.memory, f, [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz]);
    });
    flows.forEach((v, axis) => {
      const m = sites(l, axis);
      v.forEach((x, n) =>
        expect(x).toBeCloseTo(
          flow(axis, [n % m[0], Math.floor(n / m[0]) % m[1], Math.floor(n / m[0] / m[1])]),
          5,
        ),
      );
    });
    const turned = cells.map((p, n) => {
      const room = changes ? Math.max(0.5, Math.min(old[n], now[n])) : 1;
      return Math.max(Math.abs(change(0, p)), Math.abs(change(2, p))) / room;
    });
    const parts = new Float64Array(threadPool.memory.buffer, layout.partials, l.nz * 8);
    const most = Math.max(...Array.from({ length: l.nz }, (_, k) => parts[8 * k]));
    expect(most).toBeCloseTo(Math.max(...turned), 5);

    for (const first of [0, 2]) {
      const [afterFirst, afterSecond, atStart, atEnd] = addresses(layout.volumes);
      threadPool.solo('cellVolumes', {
        ...named(['x', 'y', 'z'], addresses(layout.flows)),
        first,
        ...given,
        began: 0.25,
        ends: 0.75,
        ...{ afterFirst, afterSecond, atStart, atEnd },
        ...{ nx: l.nx, ny: l.ny, rowStride: l.rowStride, planeStride: l.planeStride },
        k0: 0,
        k1: l.nz,
      });
      const [one, two, start, end] = layout.volumes.map((f) => readField(threadPool.memory, f));
      cells.forEach((p, n) => {
        const room = changes ? old[n] + 0.25 * (now[n] - old[n]) : 1;
        const wanted = [room - change(first, p), room - change(first, p) - change(1, p)];
        // next to nothing counts as a little
        [one[n], two[n]].forEach((v, i) =>
          expect(v).toBeCloseTo(Math.abs(wanted[i]) < 0.001 ? 0.001 : wanted[i], 4),
        );
        if (!changes) return;
        expect(start[n]).toBeCloseTo(room, 5);
        expect(end[n]).toBeCloseTo(old[n] + 0.75 * (now[n] - old[n]), 5);
      });
    }
  }

  threadPool.close();
});

describe('over a whole substep, in air free of divergence between walls', () => {
  const n = 16;
  /** The discrete curl of potentials on the edges along x and z that are 0 at the walls. */
  const whirls = (s: Simulation, scale: number): void => {
    const next = random(4);
    const edges = new Map<string, number>();
    const potential = (which: string, p: Cell, across: readonly number[]): number => {
      if (across.some((a) => p[a] === 0 || p[a] === n)) return 0;
      const key = `${which}${p.join()}`;
      if (!edges.has(key)) edges.set(key, scale * (next() - 0.5));
      return edges.get(key)!;
    };

    const z = (i: number, j: number, k: number): number => potential('z', [i, j, k], [0, 1]);
    const x = (i: number, j: number, k: number): number => potential('x', [i, j, k], [1, 2]);
    const { origin, voxelSizeM: h } = s.window;
    const cell = (p: readonly number[]): Cell =>
      p.map((v, a) => Math.round(v / h - origin[a] - 0.25)) as Cell;
    fillVelocity(s, (...p) => {
      const [i, j, k] = cell(p);
      return [
        z(i, j + 1, k) - z(i, j, k),
        z(i, j, k) - z(i + 1, j, k) + x(i, j, k + 1) - x(i, j, k),
        x(i, j, k) - x(i, j + 1, k),
      ];
    });
  };

  const recipe = (density: string): Recipe => recipeOf({ space: { sides: ALL_WALLS }, method: { density } });

  test.each(['fine', 'soft'])(
    'carried %sly, an even medium stays even and every medium stays whole',
    (how) => {
      const s = simulate(recipe(how));
      const h = s.window.voxelSizeM;
      whirls(s, 3 * h);
      fill(s, 'density', () => 1);
      // whirls that cross two cells in a substep
      for (let f = 0; f < 6; f++) carryOnly(s, 0.8);
      for (const v of s.read('density')) expect(Math.abs(v - 1)).toBeLessThan(2e-5);
      const next = random(9);
      fill(s, 'density', () => (next() < 0.5 ? 0 : next()));
      const before = s.read('density');
      for (let f = 0; f < 6; f++) carryOnly(s, 0.8);
      const after = s.read('density');
      expect(after).not.toEqual(before);
      expect(Math.abs(sum(after) / sum(before) - 1)).toBeLessThan(1e-6);
      expect(Math.min(...after)).toBeGreaterThanOrEqual(-1e-6);
      expect(Math.max(...after)).toBeLessThanOrEqual(1 + 1e-5);
      s.threadPool.close();
    },
  );

  test('two threads give the same bits as one', () => {
    const sums = [1, 2].map((threads) => {
      const s = simulate(recipe('fine'), threads);
      whirls(s, 0.3);
      const next = random(9);
      fill(s, 'density', () => next());
      for (let f = 0; f < 3; f++) carryOnly(s, 0.8);
      const text = s.checksum();
      s.threadPool.close();
      return text;
    });
    expect(sums[1]).toBe(sums[0]);
  });
});

test('a run with an obstacle on its way goes on from a checkpoint with the same bits', () => {
  const recipe = recipeOf({
    sources: [{ id: 's', centre: [0, 0.5, 0], radius: 0.3, density: { amount: 3 } }],
    obstacles: [{ centre: [-0.5, 0.5, 0], radius: 0.25, motion: 'moves', velocity: [2, 0.3, 0] }],
    keep: { age: true },
  });
  const whole = simulate(recipe);
  for (let f = 0; f < 4; f++) whole.advanceFrame();
  const bytes = encodeCheckpoint(whole.plan, whole.checkpoint());
  const part = new Simulation(
    whole.plan,
    startThreadPool(Simulation.pages(whole.plan, 1), 1),
    decodeCheckpoint(whole.plan, bytes),
  );
  for (let f = 0; f < 4; f++) {
    whole.advanceFrame();
    part.advanceFrame();
  }

  expect(part.checksum()).toBe(whole.checksum());
  whole.threadPool.close();
  part.threadPool.close();
});

test('colour rides on the medium: two colours mix, and nothing is of any other', () => {
  const ball = { radius: 0.3, density: { how: 'replace', amount: 1 }, until: 1 };
  const s = simulate(
    recipeOf({
      sources: [
        { ...ball, id: 'a', centre: [-0.3, 0.5, 0], colour: { how: 'replace', amount: [1, 0, 0.5] } },
        { ...ball, id: 'b', centre: [0.3, 0.5, 0], colour: { how: 'replace', amount: [0, 1, 0.5] } },
      ],
      turbulence: { strength: 20, size: 0.6 },
      keep: { colour: true },
    }),
  );
  for (let f = 0; f < 20; f++) s.advanceFrame();
  const [d, ...rgb] = (['density', 'red', 'green', 'blue'] as const).map((c) => s.read(c));
  let mixed = 0;
  d.forEach((v, n) => {
    if (v < 1e-3) return;
    const [r, g, b] = rgb.map((c) => c[n] / v);
    // each has its own limits, so that their sum is near 1 only
    expect(Math.abs(r + g - 1)).toBeLessThan(0.1);
    expect(b).toBeCloseTo(0.5, 3);
    expect(Math.min(r, g)).toBeGreaterThan(-1e-3);
    expect(Math.max(r, g)).toBeLessThan(1 + 1e-3);
    if (Math.min(r, g) > 0.1) mixed++;
  });
  expect(mixed).toBeGreaterThan(20);
  s.threadPool.close();
});
