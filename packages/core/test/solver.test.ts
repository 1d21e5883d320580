// The physics of a run, each with its tolerance.
import { gustCourse } from '@bramblemist/core/recipe/parts/wind';
import { CURL_NOISE_RMS } from '@bramblemist/core/step/forces/turbulence';
import { windowOver } from '@bramblemist/core/grid/lattice';
import { writeField } from '@bramblemist/core/grid/memory';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { example } from '@bramblemist/core/presets/examples';
import { compile } from '@bramblemist/core/plan/compile';
import { Simulation } from '@bramblemist/core/run/simulation';
import { planLayout } from '@bramblemist/core/plan/layout';
import { SolverError } from '@bramblemist/core/record/solver-error';
import { ALL_OPEN, ALL_WALLS, greatest, random, recipeOf, simulate, sum } from './run';

const SOURCE = {
  id: 's',
  centre: [0, 0.4, 0],
  radius: 0.25,
  density: { amount: 2 },
  temperature: { amount: 40 },
};

describe('rest and uniform motion', () => {
  test('still air with medium in it stays still, bit for bit', () => {
    const s = simulate(recipeOf({ sources: [{ ...SOURCE, temperature: { amount: 0 } }] }));
    for (let f = 0; f < 10; f++) s.advanceFrame();
    for (const c of ['velocityX', 'velocityY', 'velocityZ'] as const) expect(greatest(s.read(c))).toBe(0);
    expect(sum(s.read('density'))).toBeGreaterThan(0);
  });
  test('uniform flow passes an open box unchanged', () => {
    const s = simulate(recipeOf({ space: { sides: ALL_OPEN } }));
    s.advanceFrame();
    const l = s.plan.window.lattice;
    writeField(
      s.threadPool.memory,
      s.field('velocityX'),
      new Float32Array((l.nx + 1) * l.ny * l.nz).fill(1.5),
      [1, 0, 0],
    );
    for (let f = 0; f < 10; f++) s.advanceFrame();
    for (const v of s.read('velocityX')) expect(Math.abs(v - 1.5)).toBeLessThan(1e-5);
    expect(greatest(s.read('velocityY'))).toBeLessThan(1e-5);
  });
});

describe('projection', () => {
  const stir = (s: Simulation, seed: number): void => {
    const l = s.plan.window.lattice;
    (['velocityX', 'velocityY', 'velocityZ'] as const).forEach((c, axis) => {
      const extra = [0, 1, 2].map((a) => Number(a === axis)) as [number, number, number];
      const next = random(seed + axis);
      writeField(
        s.threadPool.memory,
        s.field(c),
        Float32Array.from(
          { length: (l.nx + extra[0]) * (l.ny + extra[1]) * (l.nz + extra[2]) },
          () => next() - 0.5,
        ),
        extra,
      );
    });
  };

  test.each([
    ['an open top', {}],
    ['all sides open', { space: { sides: ALL_OPEN } }],
    ['walls all round', { space: { sides: ALL_WALLS } }],
    [
      'a sphere in the way',
      { obstacles: [{ id: 'o', shape: 'sphere', centre: [0.07, 0.8, 0.03], radius: 0.33 }] },
    ],
    [
      'a box between voxels',
      { obstacles: [{ id: 'o', shape: 'box', centre: [0.02, 0.33, 0], size: [0.55, 0.66, 0.71] }] },
    ],
  ])('%s: random air is left with less than a thousandth of its divergence', (_name, parts) => {
    const s = simulate(recipeOf(parts));
    stir(s, 3);
    const { readings } = s.advanceFrame();
    expect(readings.unmet).toBe(0);
    expect(readings.divergence * s.plan.window.voxelSizeM).toBeLessThan(1e-3);
  });
  test('iterations do not grow with the number of voxels', () => {
    const counts = [0.1, 0.05, 0.025].map((voxelSize) => {
      const s = simulate(
        recipeOf({
          space: { voxelSize },
          obstacles: [{ id: 'o', shape: 'sphere', centre: [0.1, 0.8, 0], radius: 0.3 }],
        }),
        2,
      );
      stir(s, 9);
      const { iterations } = s.advanceFrame().readings;
      s.threadPool.close();
      return iterations;
    });
    expect(Math.max(...counts) - Math.min(...counts)).toBeLessThanOrEqual(3);
    expect(Math.max(...counts)).toBeLessThanOrEqual(12);
  });
});

describe('forces', () => {
  test('warm air rises, cold air sinks, heavy medium sinks', () => {
    const speed = (temperature: number, weight: number): number => {
      const s = simulate(
        recipeOf({
          sources: [{ ...SOURCE, centre: [0, 0.8, 0], temperature: { amount: temperature } }],
          buoyancy: { lift: 0.033, weight },
        }),
      );
      for (let f = 0; f < 5; f++) s.advanceFrame();
      const v = s.read('velocityY');
      const l = s.plan.window.lattice;
      return v[((l.nz >> 1) * (l.ny + 1) + (l.ny >> 1)) * l.nx + (l.nx >> 1)];
    };

    expect(speed(40, 0)).toBeGreaterThan(0.02);
    expect(speed(-40, 0)).toBeLessThan(-0.02);
    expect(speed(0, 3)).toBeLessThan(-0.01);
    expect(speed(0, 0)).toBe(0);
  });
  test('wind takes hold exactly as linear drag does, whatever the substeps', () => {
    for (const substepsLeast of [1, 4]) {
      const s = simulate(
        recipeOf({ space: { sides: ALL_OPEN, substepsLeast }, wind: { speed: 1, heading: 90, grip: 0.5 } }),
      );
      for (let f = 0; f < 10; f++) s.advanceFrame();
      const expected = 1 - Math.exp(-0.4 / 0.5);
      for (const v of s.read('velocityZ')) expect(Math.abs(v - expected)).toBeLessThan(1e-4);
    }
  });
  test('gusts stay within their bounds, are smooth, and differ by seed', () => {
    let mean = 0;
    let jump = 0;
    for (let n = 0; n < 10000; n++) {
      const v = gustCourse(n / 20, 5);
      expect(Math.abs(v)).toBeLessThanOrEqual(1);
      mean += v / 10000;
      jump = Math.max(jump, Math.abs(v - gustCourse((n + 1) / 20, 5)));
    }

    expect(Math.abs(mean)).toBeLessThan(0.08);
    expect(jump).toBeLessThan(0.2);
    expect(gustCourse(3.3, 5)).not.toBe(gustCourse(3.3, 6));
  });
  test('turbulence has the strength that was asked for and hardly any divergence', () => {
    const s = simulate(
      recipeOf({
        space: { size: [3.2, 3.2, 3.2], corner: [0, 0, 0], sides: ALL_OPEN },
        turbulence: { strength: 2, size: 0.8, octaves: 1 },
      }),
      2,
    );
    s.advanceFrame();
    // after one frame of 0.04 s from rest the velocity is the acceleration times the time
    const l = s.plan.window.lattice;
    const [x, y, z] = (['velocityX', 'velocityY', 'velocityZ'] as const).map((c) => s.read(c));
    const rms = Math.sqrt(
      sum(x.map((v) => v * v)) / x.length +
        sum(y.map((v) => v * v)) / y.length +
        sum(z.map((v) => v * v)) / z.length,
    );
    expect(rms / (2 * 0.04)).toBeGreaterThan(0.8);
    expect(rms / (2 * 0.04)).toBeLessThan(1.15);
    expect(CURL_NOISE_RMS).toBeGreaterThan(1);
    expect(l.nx).toBe(32);
    s.threadPool.close();
  });
});

describe('transport', () => {
  test('a half-life halves exactly, whatever the substeps', () => {
    for (const substepsLeast of [1, 3]) {
      const s = simulate(
        recipeOf({
          space: { substepsLeast },
          sources: [{ ...SOURCE, temperature: { amount: 0 }, until: 1 }],
          dissipation: { density: 0.4, temperature: 0 },
        }),
      );
      s.advanceFrame();
      const before = s.advanceFrame().readings.mass;
      for (let f = 0; f < 10; f++) s.advanceFrame();
      expect(sum(s.read('density')) * 0.001).toBeCloseTo(before / 2, 5);
    }
  });
  test('what a sphere gives off is its volume times the rate, at every voxel size', () => {
    const exact = ((4 / 3) * Math.PI * 0.25 ** 3 * 2) / 25;
    for (const voxelSize of [0.1, 0.05, 0.025]) {
      const s = simulate(
        recipeOf({
          space: { voxelSize },
          sources: [{ ...SOURCE, centre: [0.013, 0.41, -0.02], temperature: { amount: 0 } }],
        }),
      );
      expect(Math.abs(s.advanceFrame().readings.mass / exact - 1)).toBeLessThan(0.02);
    }
  });
  test('nothing is given off inside an obstacle, and none crosses a wall', () => {
    const s = simulate(
      recipeOf({
        sources: [{ ...SOURCE, centre: [-0.35, 0.5, 0], temperature: { amount: 60 } }],
        buoyancy: { lift: 0.033, weight: 0 },
        turbulence: { strength: 2, size: 0.5 },
        obstacles: [{ id: 'wall', shape: 'box', centre: [0, 0.8, 0], size: [0.2, 4, 4] }],
      }),
    );
    for (let f = 0; f < 60; f++) s.advanceFrame();
    const d = s.read('density');
    const l = s.plan.window.lattice;
    let left = 0;
    let right = 0;
    let within = 0;
    for (let n = 0; n < d.length; n++) {
      const x = ((n % l.nx) + 0.5) * 0.1 - 0.8;
      if (x < -0.1) left += d[n];
      else if (x > 0.1) right += d[n];
      else within += d[n];
    }

    expect(left).toBeGreaterThan(1);
    expect(right).toBeLessThan(left * 1e-6);
    expect(within).toBe(0);
  });
});

describe('symmetry and determinism', () => {
  test('one, two and three threads give the same bits', () => {
    const recipe = parseRecipe({
      ...example('weir-at-dawn'),
      space: { ...example('weir-at-dawn').space, voxelSize: 0.1 },
    });
    const results = [1, 2, 3].map((threads) => {
      const s = simulate(recipe, threads);
      for (let f = 0; f < 8; f++) s.advanceFrame();
      const value = s.checksum();
      s.threadPool.close();
      return value;
    });
    expect(new Set(results).size).toBe(1);
  });
});

describe('substeps, cost and trouble', () => {
  test('fast air is taken in more substeps, within the most, and reaching that is told', () => {
    const run = (substepsMost: number) => {
      const s = simulate(
        recipeOf({ space: { sides: ALL_OPEN, cfl: 1, substepsMost }, wind: { speed: 20, grip: 0.01 } }),
      );
      s.advanceFrame();
      return s.advanceFrame().readings;
    };

    expect(run(64).substeps).toBeGreaterThanOrEqual(8);
    expect(run(64).capped).toBe(false);
    expect(run(2)).toMatchObject({ substeps: 2, capped: true });
  });
  test('a value that is not finite stops the run with frame and cure', () => {
    const s = simulate(recipeOf());
    s.advanceFrame();
    const l = s.plan.window.lattice;
    const bad = new Float32Array(l.nx * l.ny * l.nz);
    bad[1000] = NaN;
    writeField(s.threadPool.memory, s.field('density'), bad);
    expect(() => s.advanceFrame()).toThrow(SolverError);
    expect(() => s.advanceFrame()).toThrow(/Frame \d+, substep/);
  });
  test('windows are whole voxels over the domain, fixed to the world lattice', () => {
    const a = windowOver([-2, 0, -1.5], [4, 3, 3], 0.05);
    expect([a.lattice.nx, a.lattice.ny, a.lattice.nz]).toEqual([80, 60, 60]);
    expect(a.origin).toEqual([-40, 0, -30]);
    const odd = windowOver([0.03, 0, 0], [0.97, 1.01, 1.01], 0.1);
    expect([odd.lattice.nx % 4, odd.lattice.ny % 2, odd.lattice.nz % 2]).toEqual([0, 0, 0]);
  });
  test('memory is below 120 bytes a voxel at 128³, and too much is refused before it is taken', () => {
    expect(
      planLayout(windowOver([0, 0, 0], [1.28, 1.28, 1.28], 0.01).lattice, compile(recipeOf()).plan, 2).bytes /
        128 ** 3,
    ).toBeLessThan(120);
    const plan = compile(recipeOf({ space: { size: [10, 10, 10], voxelSize: 0.01 } })).plan;
    expect(() => Simulation.pages(plan, 1)).toThrow(/GiB.*larger voxels/);
  });
});
