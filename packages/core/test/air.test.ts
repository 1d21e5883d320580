// Forces against what is known of them: terminal speeds, half-lives, gusts, whirls without sources, at three
// voxel sizes.
import { stateOf } from '@bramblemist/core/run/simulation';
import { windAt } from '@bramblemist/core/step/forces/wind';
import { gustySpeed } from '@bramblemist/core/recipe/parts/wind';
import { addTurbulence } from '@bramblemist/core/step/forces/turbulence';
import { readField, writeField } from '@bramblemist/core/grid/memory';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { forces, gather } from '@bramblemist/core/step/forces/forces';
import { regions } from '@bramblemist/core/step/regions';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { compile } from '@bramblemist/core/plan/compile';
import { fill, fillVelocity } from './physics/kit';
import { ALL_OPEN, recipeOf, simulate, sum } from './run';

const OPEN = { sides: ALL_OPEN };

/** Forces alone for so long, without pressure: what a voxel in the middle of the domain does. */
function pushedFor(recipe: Recipe, seconds: number, parts: number, set?: (s: Simulation) => void): number[] {
  const s = simulate(recipe);
  set?.(s);
  Object.assign(stateOf(s), { frame: 1, dtS: seconds / parts });
  regions(stateOf(s));
  for (let n = 0; n < parts; n++) forces(stateOf(s), seconds / parts);
  const { nx, ny, nz } = s.window.lattice;
  const [i, j, k] = [nx >> 1, ny >> 1, nz >> 1];
  return [
    s.read('velocityX')[(k * ny + j) * (nx + 1) + i],
    s.read('velocityY')[(k * (ny + 1) + j) * nx + i],
    s.read('velocityZ')[(k * ny + j) * nx + i],
  ];
}

describe.each([0.1, 0.05, 0.025])('at voxels of %s m', (voxelSize) => {
  const space = { ...OPEN, size: [0.8, 0.8, 0.8], voxelSize };
  test('warm air under drag reaches its terminal speed: lift · ΔT · half-life / ln 2', () => {
    const recipe = recipeOf({ space, buoyancy: { lift: 0.033, weight: 0 }, drag: { halfLife: 0.4 } });
    const [, up] = pushedFor(recipe, 8, 2000, (s) => fill(s, 'temperature', () => 20));
    expect(up / ((0.033 * 20 * 0.4) / Math.LN2)).toBeCloseTo(1, 2);
  });
  test('gravity turned round and doubled turns lift round and doubles it', () => {
    const warm = (s: Simulation): void => fill(s, 'temperature', () => 20);
    const [x, y, z] = pushedFor(
      recipeOf({
        space,
        gravity: { strength: 19.62, direction: [1, 0, 0] },
        buoyancy: { lift: 0.033, weight: 0 },
      }),
      0.5,
      1,
      warm,
    );
    expect([x, y, z].map((v) => Number(v.toFixed(4)))).toEqual([-0.66, 0, 0]);
  });
  test('drag takes half of the speed in its half-life, in one step as in many', () => {
    for (const parts of [1, 7])
      expect(
        pushedFor(recipeOf({ space, drag: { halfLife: 0.3 } }), 0.6, parts, (s) =>
          fillVelocity(s, () => [1, -2, 4]),
        ),
      ).toEqual([0.25, -0.5, 1].map((v) => expect.closeTo(v, 5) as number));
  });
  test('drag on the medium alone leaves clear air alone', () => {
    const recipe = recipeOf({ space, drag: { halfLife: 0.3, on: 'medium' } });
    const speed = (density: number): number =>
      pushedFor(
        recipe,
        0.3,
        400,
        (s) => (fillVelocity(s, () => [1, 0, 0]), fill(s, 'density', () => density)),
      )[0];
    expect(speed(0)).toBe(1);
    expect(speed(1)).toBeCloseTo(0.5, 2);
    expect(speed(0.5)).toBeCloseTo(Math.SQRT1_2, 2);
  });
  test('the wind is reached as its grip says', () => {
    const wind = recipeOf({ space, wind: { speed: 3, heading: 90, grip: 2 } });
    for (const parts of [1, 10])
      expect(pushedFor(wind, 1, parts)[2]).toBeCloseTo(3 * (1 - Math.exp(-0.5)), 4);
  });
  test('density and warmth halve in their half-lives within 0.1 %, and lean as they should', () => {
    const s = simulate(recipeOf({ space, dissipation: { density: 0.4, temperature: 0.2 } }));
    fill(s, 'density', () => 2);
    fill(s, 'temperature', () => 8);
    for (let f = 0; f < 20; f++) s.advanceFrame(); // 0.8 s
    expect(s.read('density')[0] / 0.5).toBeCloseTo(1, 3);
    expect(s.read('temperature')[0] / 0.5).toBeCloseTo(1, 3);
    const leaning = (bias: number, density: number): number => {
      const t = simulate(recipeOf({ space, dissipation: { density: 0.4, temperature: 0, bias, even: 1 } }));
      fill(t, 'density', () => density);
      t.advanceFrame();
      return Math.log2(density / t.read('density')[0]) / (0.04 / 0.4);
    };

    expect(leaning(0.8, 1)).toBeCloseTo(1, 2);
    expect(leaning(1, 3)).toBeCloseTo(1.5, 1);
    expect(leaning(1, 0.01)).toBeLessThan(0.05);
    expect(leaning(-1, 3)).toBeCloseTo(0.5, 1);
  });
});

test('a path leads the air along it at its mean speed', () => {
  const s = simulate(
    recipeOf({
      space: OPEN,
      currents: [
        {
          id: 'c',
          does: 'path',
          shape: 'path',
          centre: [0, 0.8, 0],
          radius: 0.25,
          soft: 0.1,
          speed: 1.5,
          toPath: 0,
          turning: 0,
          within: 0.1,
          points: [
            [-2, 0, 0],
            [2, 0, 0],
          ],
        },
      ],
    }),
  );
  for (let f = 0; f < 25; f++) s.advanceFrame();
  const u = s.read('velocityX');
  const inside = [7, 8].flatMap((j) =>
    [7, 8].flatMap((k) => Array.from({ length: 13 }, (_, i) => u[(k * 16 + j) * 17 + 2 + i])),
  );
  expect(inside.reduce((a, v) => a + v, 0) / inside.length / 1.5).toBeCloseTo(1, 1);
});

test(
  'a pipe carries along inside, draws in before its first corner and blows behind its last, and nothing ' +
    'beside it',
  () => {
    const s = simulate(
      recipeOf({
        space: { ...OPEN, size: [3.2, 1.6, 1.6], corner: [-1.6, 0, -0.8] },
        currents: [
          {
            id: 'c',
            does: 'pipe',
            shape: 'path',
            centre: [0, 0.8, 0],
            radius: 0.15,
            soft: 0,
            speed: 2,
            mouth: 0.8,
            within: 1,
            points: [
              [-0.6, 0, 0],
              [0.6, 0, 0],
            ],
          },
        ],
      }),
    );
    Object.assign(stateOf(s), { frame: 1, dtS: 1e-3 });
    gather(stateOf(s), 1e-3);
    const [x, y] = s.layout.acceleration.map((f) => readField(s.threadPool.memory, f));
    const at = (f: Float32Array, px: number, py: number): number =>
      f[(8 * 16 + Math.floor(py / 0.1)) * 32 + Math.floor((px + 1.6) / 0.1)];
    expect(at(x, 0.05, 0.85)).toBeCloseTo(2, 1);
    expect(at(x, 0.25, 1.15)).toBe(0);
    // the sink of the same flow: 2 · 0.15² / 4 d² at d
    expect(at(x, -0.95, 0.85)).toBeCloseTo((2 * 0.0225) / (4 * (0.35 ** 2 + 0.0025 * 2)), 2);
    expect(at(y, -0.65, 1.15)).toBeLessThan(0);
    expect(at(x, 0.85, 0.85)).toBeGreaterThan(0.8);
    expect(at(x, 0.85, 0.85)).toBeGreaterThan(at(x, 1.15, 0.85));
    expect(at(x, 1.55, 0.85)).toBe(0);
  },
);

describe('gusts', () => {
  const wind = { speed: 2, gust: 1, gustLength: 1.5, seed: 3 };
  const course = (more: object, seconds = 600): number[] =>
    Array.from({ length: seconds * 20 }, (_, n) => gustySpeed({ ...wind, ...more }, n / 20));
  test(
    'they keep the mean, stay within their strength, and their ' + 'strength and length are what is said',
    () => {
      for (const seed of [1, 2, 77]) {
        const v = course({ seed });
        const mean = v.reduce((a, x) => a + x, 0) / v.length;
        const spread = Math.sqrt(v.reduce((a, x) => a + (x - mean) ** 2, 0) / v.length);
        expect(Math.abs(mean - 2)).toBeLessThan(0.12);
        expect(Math.max(...v.map((x) => Math.abs(x - 2)))).toBeLessThanOrEqual(1);
        expect(Math.max(...v.map((x) => Math.abs(x - 2)))).toBeGreaterThan(0.9);
        expect(spread).toBeGreaterThan(0.4);
        expect(spread).toBeLessThan(0.65);
      }

      // from one turn of the course to the next there is a gust length or more
      const v = course({});
      const turns = v.slice(2).filter((x, n) => (v[n + 1] - v[n]) * (x - v[n + 1]) < 0).length;
      expect(600 / turns / 1.5).toBeGreaterThan(1);
      expect(600 / turns / 1.5).toBeLessThan(2);
    },
  );
  test('another seed is another course; twice as long is twice as slow', () => {
    expect(course({ seed: 4 }, 5)).not.toEqual(course({ seed: 5 }, 5));
    expect(gustySpeed({ ...wind, gustLength: 3 }, 4)).toBe(gustySpeed(wind, 2));
    expect(windAt(recipeOf({ wind: { ...wind, heading: 0 } }).wind, 4)[0]).toBeCloseTo(
      gustySpeed(wind, 4),
      10,
    );
  });
});

describe('whirls', () => {
  /** The turbulence alone on one grid: its three components at cell centres. */
  function whirls(voxelSize: number, more: object = {}): { f: Float32Array[]; n: number } {
    const s = simulate(
      recipeOf({
        space: { ...OPEN, voxelSize },
        turbulence: { strength: 1, size: 0.8, octaves: 1, ...more },
      }),
    );
    for (const f of s.layout.acceleration)
      writeField(s.threadPool.memory, f, new Float32Array(s.window.lattice.nx ** 3));
    addTurbulence(stateOf(s), s.plan.recipe.turbulence, 0);
    return { f: s.layout.acceleration.map((f) => readField(s.threadPool.memory, f)), n: s.window.lattice.nx };
  }

  test('they have hardly any sources, less so as the grid gets finer', () => {
    const sources = [0.1, 0.05, 0.025].map((h) => {
      const { f, n } = whirls(h);
      let div = 0;
      let all = 0;
      for (let k = 1; k < n - 1; k++)
        for (let j = 1; j < n - 1; j++)
          for (let i = 1; i < n - 1; i++) {
            const at = (k * n + j) * n + i;
            const d = [
              f[0][at + 1] - f[0][at - 1],
              f[1][at + n] - f[1][at - n],
              f[2][at + n * n] - f[2][at - n * n],
            ];
            div += (d[0] + d[1] + d[2]) ** 2;
            all += d.reduce((a, v) => a + v * v, 0);
          }

      return Math.sqrt(div / all);
    });
    expect(sources[0]).toBeLessThan(0.35);
    expect(sources[1]).toBeLessThan(0.7 * sources[0]);
    expect(sources[2]).toBeLessThan(0.7 * sources[1]);
    expect(sources[2]).toBeLessThan(0.12);
  });
  test(
    'their strength is the typical acceleration, at any voxel size, ' + 'and octaves add by their roughness',
    () => {
      const rms = ({ f }: { f: Float32Array[] }): number =>
        Math.sqrt(f.reduce((a, v) => a + v.reduce((b, x) => b + x * x, 0), 0) / f[0].length);
      const many = (h: number, more = {}): number =>
        Math.sqrt([1, 2, 3, 4].reduce((a, seed) => a + rms(whirls(h, { seed, ...more })) ** 2, 0) / 4);
      expect(many(0.05)).toBeGreaterThan(0.8);
      expect(many(0.05)).toBeLessThan(1.15);
      expect(many(0.025) / many(0.05)).toBeGreaterThan(0.95);
      expect(many(0.025) / many(0.05)).toBeLessThan(1.15);
      expect(many(0.025, { octaves: 2, roughness: 0.5 }) / many(0.025)).toBeGreaterThan(1.05);
      expect(many(0.025, { octaves: 2, roughness: 0.5 }) / many(0.025)).toBeLessThan(1.2);
    },
  );
});

describe('edges', () => {
  test('they break up where the medium ends, and neither inside nor in clear air', () => {
    const s = simulate(recipeOf({ space: { ...OPEN, voxelSize: 0.05 }, edges: { strength: 1, size: 0.25 } }));
    fill(s, 'density', (x, y, z) => Number(Math.hypot(x, y - 0.8, z) < 0.5));
    Object.assign(stateOf(s), { frame: 1, dtS: 0.04 });
    gather(stateOf(s), 0.04);
    const { lattice: l, origin, voxelSizeM: h } = s.window;
    const a = s.layout.acceleration.map((f) => readField(s.threadPool.memory, f));
    const push = { inside: 0, edge: 0, outside: 0 };
    const count = { ...push };
    for (let k = 0, n = 0; k < l.nz; k++)
      for (let j = 0; j < l.ny; j++)
        for (let i = 0; i < l.nx; i++, n++) {
          const r = Math.hypot(
            (i + 0.5 + origin[0]) * h,
            (j + 0.5 + origin[1]) * h - 0.8,
            (k + 0.5 + origin[2]) * h,
          );
          let where: 'inside' | 'edge' | 'outside' | null = null;
          if (r < 0.35) where = 'inside';
          else if (Math.abs(r - 0.5) < 0.05) where = 'edge';
          else if (r > 0.65) where = 'outside';
          if (!where) continue;
          push[where] += a.reduce((q, f) => q + f[n] ** 2, 0);
          count[where]++;
        }

    expect(Math.sqrt(push.edge / count.edge)).toBeGreaterThan(0.3);
    expect(push.inside).toBeLessThan(1e-6 * push.edge);
    expect(push.outside).toBeLessThan(1e-6 * push.edge);
  });
});

describe('which force rules', () => {
  test('the shares of a run are those of its forces, where the medium is', () => {
    const s = simulate(
      recipeOf({
        space: OPEN,
        buoyancy: { lift: 0.05, weight: 0 },
        wind: { speed: 4, grip: 2 },
        currents: [{ id: 'j', does: 'jet', shape: 'sphere', centre: [0, 0.8, 0], radius: 0.2 }],
      }),
    );
    fill(s, 'density', (x) => Number(x > 0.4));
    fill(s, 'temperature', () => 30);
    const { readings } = s.advanceFrame();
    expect(Object.keys(readings.forces!).sort()).toEqual(['buoyancy', 'currents/j', 'wind']);
    expect(readings.forces!.buoyancy).toBeCloseTo(1.5, 1);
    expect(readings.forces!.wind).toBeCloseTo((4 * (1 - Math.exp(-0.04 / 2))) / 0.04, 1);
    // the jet is where no medium is
    expect(readings.forces!['currents/j']).toBe(0);
  });
  test('they change nothing, with any number of workers, and are 0 without medium', () => {
    const recipe = recipeOf({
      space: OPEN,
      wind: { speed: 1 },
      turbulence: { strength: 1 },
    });
    const shares = [1, 2].map((threads) => {
      const s = simulate(recipe, threads);
      fill(s, 'density', (x, y) => x * x + y);
      const { forces } = s.advanceFrame().readings;
      s.threadPool.close();
      return forces;
    });
    expect(shares[0]).toEqual(shares[1]);
    expect(shares[0]!.wind).toBeGreaterThan(0);
    expect(simulate(recipe).advanceFrame().readings.forces).toEqual({ wind: 0, turbulence: 0 });
  });
});

describe('changed while it runs', () => {
  const recipe = (speed: number, more: object = {}): Recipe =>
    recipeOf({
      space: OPEN,
      wind: { speed, grip: 0.1 },
      sources: [{ id: 's', centre: [0, 0.8, 0], radius: 0.3 }],
      ...more,
    });
  test('it goes on with the new wind from where it is', () => {
    const s = simulate(recipe(1));
    for (let f = 0; f < 5; f++) s.advanceFrame();
    const before = sum(s.read('density'));
    s.continueWith(compile(recipe(2, { wind: { speed: 2, grip: 0.1, heading: 180 } })).plan);
    expect(s.frame).toBe(5);
    expect(sum(s.read('density'))).toBe(before);
    for (let f = 0; f < 10; f++) s.advanceFrame();
    expect(s.read('velocityX')[(8 * 16 + 8) * 17 + 8]).toBeLessThan(-1.5);
  });
  test(
    'unchanged, it goes on with the same bits; with a region that ' + 'was not there before it does too',
    () => {
      const [a, b] = [simulate(recipe(1)), simulate(recipe(1))];
      for (const s of [a, b]) for (let f = 0; f < 3; f++) s.advanceFrame();
      b.continueWith(compile(recipe(1)).plan);
      expect(b.advanceFrame().readings.mass).toBe(a.advanceFrame().readings.mass);
      expect(b.checksum()).toBe(a.checksum());
      b.continueWith(
        compile(
          recipe(1, {
            regions: [{ id: 'r', radius: 0.3, centre: [0, 0.8, 0] }],
            turbulence: { strength: 3, where: 'r' },
          }),
        ).plan,
      );
      b.advanceFrame();
      a.advanceFrame();
      expect(b.checksum()).not.toBe(a.checksum());
    },
  );
  test('another domain or other channels are refused', () => {
    const s = simulate(recipe(1));
    expect(() => s.continueWith(compile(recipe(1, { keep: { colour: true } })).plan)).toThrow(
      /has to start again/,
    );
    expect(() => s.continueWith(compile(recipe(1), { voxelSizeM: 0.2 }).plan)).toThrow(/has to start again/);
  });
});
