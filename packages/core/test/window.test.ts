// The window, checkpoints, channels and trouble: what a run is besides its physics.
import { mkdtempSync, readFileSync, readdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodeCheckpoint, encodeCheckpoint } from '@bramblemist/core/cache/checkpoint';
import { bake } from '@bramblemist/core/io/node/bake';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { costOf } from '@bramblemist/core/analysis/cost';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import { Simulation } from '@bramblemist/core/run/simulation';
import { SolverError } from '@bramblemist/core/record/solver-error';
import { fill, fillVelocity } from './physics/kit';
import { ALL_OPEN, ALL_WALLS, greatest, recipeOf, simulate, sum, gridsFrom, PADDLE, PUFF } from './run';

const LIVELY = {
  sources: [{ ...PUFF, colour: { amount: [1, 0.5, 0] }, expansion: 1 }],
  buoyancy: { lift: 0.05, weight: 0.2 },
  turbulence: { strength: 1, size: 0.5 },
  obstacles: [{ ...PADDLE, stick: 0.5 }],
  keep: { colour: true, age: true, coordinates: true },
};

describe('the window', () => {
  test('grows with the medium by whole cells, and cells keep what they hold', () => {
    const s = simulate(
      recipeOf({
        space: { voxelSize: 0.05 },
        window: { mode: 'fit', margin: 4 },
        sources: [PUFF],
        buoyancy: { lift: 0.05, weight: 0 },
      }),
    );
    const first = s.window.lattice;
    expect(first.nx * first.ny * first.nz).toBeLessThan(32 ** 3 / 2);
    for (let f = 0; f < 30; f++) s.advanceFrame();
    const w = s.window;
    const domain = s.plan.window;
    expect(w.lattice.ny).toBeGreaterThan(first.ny);
    w.origin.forEach((o, a) => {
      expect(Number.isInteger(o)).toBe(true);
      expect((o - domain.origin[a]) % [8, 4, 4][a]).toBe(0);
    });
  });
  test('shrinks after what has gone, but not before the frame from which it may', () => {
    const run = (shrinkFrom: number): number => {
      const s = simulate(
        recipeOf({
          space: { voxelSize: 0.05, sides: ALL_OPEN },
          window: { mode: 'fit', margin: 3, shrinkFrom },
          sources: [PUFF],
          dissipation: { density: 0.05, temperature: 0.05 },
        }),
      );
      s.advanceFrame();
      fill(s, 'density', () => 1);
      s.advanceFrame();
      for (let f = 0; f < 12; f++) s.advanceFrame();
      return s.window.lattice.nx;
    };

    expect(run(1)).toBeLessThan(run(1000));
  });
  test('travels with an obstacle, and the medium stays where it is in the world', () => {
    const s = simulate(
      recipeOf({
        space: { voxelSize: 0.05, sides: ALL_OPEN },
        window: { travel: 'c' },
        obstacles: [
          {
            id: 'c',
            name: 'Cart',
            shape: 'sphere',
            centre: [0, 1.2, 0],
            radius: 0.1,
            motion: 'moves',
            velocity: [1, 0, 0],
          },
        ],
      }),
    );
    fill(s, 'density', (x, y, z) => (Math.hypot(x - 0.2, y - 0.4, z) < 0.2 ? 1 : 0));
    const at = (): number => {
      const d = s.read('density');
      const { nx } = s.window.lattice;
      return (d.reduce((a, v, n) => a + v * ((n % nx) + 0.5), 0) / sum(d) + s.window.origin[0]) * 0.05;
    };

    const before = at();
    const origin = s.window.origin[0];
    for (let f = 0; f < 10; f++) s.advanceFrame();
    expect(s.window.origin[0] - origin).toBe(8); // 10 frames of 1/25 s at 1 m/s in voxels of 0.05 m
    expect(at()).toBeCloseTo(before, 1);
  });
  test('what passes by is felt as in the whole domain; what moves far away costs nothing', () => {
    /** The window's most cells, and where a puff in still air is when the ball has just passed, voxels. */
    const pushed = (mode: string, z: number): { cells: number; by: number[] } => {
      const ball = { id: 'o', name: 'Ball', shape: 'sphere', centre: [-1.2, 1, z], radius: 0.3 };
      const s = simulate(
        recipeOf({
          space: { size: [3.2, 2, 4.8], corner: [-1.6, 0, -1.2], sides: ALL_OPEN },
          window: { mode, margin: 4 },
          sources: [{ ...PUFF, centre: [0, 1, 0], temperature: { how: 'none' }, until: 2 }],
          obstacles: [{ ...ball, motion: 'moves', velocity: [1.5, 0, 0] }],
        }),
      );
      let cells = 0;
      let at: readonly number[] = [];
      for (let f = 0; f < 20; f++) {
        at = s.advanceFrame().readings.centre!;
        cells = Math.max(cells, s.window.lattice.nx * s.window.lattice.ny * s.window.lattice.nz);
      }

      return { cells, by: at.map((v, a) => (v - [0, 1, 0][a]) / 0.1) };
    };

    const [whole, fitting, away] = [pushed('whole', 0.8), pushed('fit', 0.8), pushed('fit', 3)];
    expect(Math.hypot(...whole.by)).toBeGreaterThan(0.15);
    const apart = fitting.by.map((v, a) => v - whole.by[a]);
    expect(Math.hypot(...apart)).toBeLessThan(0.4 * Math.hypot(...whole.by));
    expect(away.cells).toBeLessThan(fitting.cells);
    expect(Math.hypot(...away.by)).toBeLessThan(0.01);
  });
  test('a window that fits has the same bits with one and two threads', () => {
    const recipe = recipeOf({ space: { voxelSize: 0.05 }, window: { mode: 'fit', margin: 4 }, ...LIVELY });
    const sums = [1, 2].map((threads) => {
      const s = simulate(recipe, threads);
      for (let f = 0; f < 12; f++) s.advanceFrame();
      s.threadPool.close();
      return s.checksum();
    });
    expect(sums[0]).toBe(sums[1]);
  });
});

describe('checkpoints', () => {
  const recipes: [string, Recipe][] = [
    ['the whole domain', recipeOf(LIVELY)],
    [
      'a window that fits and travels',
      recipeOf({ window: { mode: 'fit', margin: 4, travel: 'o' }, ...LIVELY }),
    ],
    [
      'carried softly, paths of third order, viscosity',
      recipeOf({
        ...LIVELY,
        method: { density: 'soft', trace: 'third' },
        diffusion: { viscosity: 0.01, density: 0.001 },
      }),
    ],
  ];
  test.each(recipes)(
    'a run with %s goes on from the end of any frame with the same bits',
    (_name, recipe) => {
      const whole = simulate(recipe);
      const sums: string[] = [];
      const bytes: Uint8Array[] = [];
      for (let f = 0; f < 12; f++) {
        whole.advanceFrame();
        sums.push(whole.checksum());
        bytes.push(encodeCheckpoint(whole.plan, whole.checkpoint()));
      }

      for (const broken of [0, 4, 10]) {
        const from = decodeCheckpoint(whole.plan, bytes[broken]);
        const threads = broken === 4 ? 2 : 1;
        const again = new Simulation(
          whole.plan,
          startThreadPool(Simulation.pages(whole.plan, threads), threads),
          from,
        );
        expect(again.checksum()).toBe(sums[broken]);
        while (again.frame < 12) again.advanceFrame();
        expect(again.checksum()).toBe(sums[11]);
        again.threadPool.close();
      }
    },
  );
  test('what is cut short, damaged or of another recipe is refused', () => {
    const s = simulate(recipeOf());
    s.advanceFrame();
    const bytes = encodeCheckpoint(s.plan, s.checkpoint());
    expect(() => decodeCheckpoint(s.plan, bytes.subarray(0, bytes.length - 40))).toThrow(/cut short/);
    expect(() => decodeCheckpoint(s.plan, bytes.subarray(0, 5))).toThrow(/not a checkpoint/);
    const bad = bytes.slice();
    bad[bad.length - 100] ^= 1;
    expect(() => decodeCheckpoint(s.plan, bad)).toThrow(/damaged/);
    expect(() => decodeCheckpoint(compile(recipeOf({ keep: { age: true } })).plan, bytes)).toThrow(
      /another recipe/,
    );
  });
  test('a bake that was broken off goes on and ends like one that was not', () => {
    const folder = mkdtempSync(join(tmpdir(), 'bake-'));
    const recipe = recipeOf({ ...LIVELY, space: { lastFrame: 9 } });
    const options = { threads: 1, bricks: false, checkpointEvery: 3, onFrame: () => undefined };
    try {
      const whole = bake(recipe, { ...options, folder: join(folder, 'whole') });
      const broken = join(folder, 'broken');
      expect(() =>
        bake(recipe, {
          ...options,
          folder: broken,
          onFrame: ({ frame }) => {
            if (frame === 8) throw new Error('power cut');
          },
        }),
      ).toThrow('power cut');
      // the newest state is damaged: the one before it serves
      const states = join(broken, 'checkpoints');
      const newest = readdirSync(states).sort().pop()!;
      truncateSync(join(states, newest), 1000);
      const done: number[] = [];
      const resumed = bake(recipe, {
        ...options,
        folder: broken,
        resume: true,
        onFrame: ({ frame }) => done.push(frame),
      });
      expect(done).toEqual([4, 5, 6, 7, 8, 9]);
      expect(resumed.frames.map((f) => f.sha256)).toEqual(whole.frames.map((f) => f.sha256));
      expect(readdirSync(broken)).not.toContain('checkpoints');
      for (const f of whole.frames)
        expect(readFileSync(join(broken, f.file)).equals(readFileSync(join(folder, 'whole', f.file)))).toBe(
          true,
        );

      const manifest = join(broken, 'manifest.json');
      writeFileSync(
        manifest,
        readFileSync(manifest, 'utf8').replace('"complete": true', '"complete": false'),
      );
      expect(() =>
        bake(recipeOf({ ...LIVELY, space: { lastFrame: 9 }, wind: { speed: 1 } }), {
          ...options,
          folder: broken,
          resume: true,
        }),
      ).toThrow(/the recipe differs/);
      expect(() => bake(recipe, { ...options, folder: broken })).toThrow(/--resume/);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});

describe('channels', () => {
  test('colours mix by mass', () => {
    const s = simulate(
      recipeOf({
        sources: [
          {
            ...PUFF,
            id: 'a',
            temperature: { amount: 0 },
            density: { amount: 3 },
            colour: { amount: [1, 0, 0] },
          },
          {
            ...PUFF,
            id: 'b',
            temperature: { amount: 0 },
            density: { amount: 1 },
            colour: { amount: [0, 0, 1] },
          },
        ],
        keep: { colour: true },
      }),
    );
    for (let f = 0; f < 3; f++) s.advanceFrame();
    const grid = gridsFrom(s).find((g) => g.name === 'colour')!;
    const leaf = grid.leaves[0];
    const n = Array.from({ length: 512 }, (_, i) => i).find((i) => leaf.active[i >> 3] & (1 << (i & 7)))!;
    expect([...leaf.values.subarray(3 * n, 3 * n + 3)].map((v) => Math.round(v * 1e5) / 1e5)).toEqual([
      0.75, 0, 0.25,
    ]);
    expect(sum(s.read('red')) / sum(s.read('density'))).toBeCloseTo(0.75, 5);
    expect(sum(s.read('blue')) / sum(s.read('density'))).toBeCloseTo(0.25, 5);
    expect(sum(s.read('green'))).toBe(0);
  });
  test('age is the time since the medium was given off', () => {
    const s = simulate(
      recipeOf({ sources: [{ ...PUFF, temperature: { amount: 0 }, until: 1 }], keep: { age: true } }),
    );
    for (let f = 0; f < 11; f++) s.advanceFrame();
    // given off evenly within the first frame of 0.04 s, in one substep at its start
    expect(sum(s.read('age')) / sum(s.read('density'))).toBeCloseTo(0.44, 2);
  });
  test('coordinates tell where the air came from', () => {
    const s = simulate(recipeOf({ space: { sides: ALL_OPEN }, keep: { coordinates: true } }));
    fillVelocity(s, () => [0.5, 0, 0]);
    for (let f = 0; f < 5; f++) s.advanceFrame();
    const { nx, ny } = s.window.lattice;
    const way = s.read('wayX');
    // five frames of 0.04 s at 0.5 m/s: 0.1 m to the left; at the left edge fresh air has come in
    expect(way[(8 * ny + 8) * nx + 10]).toBeCloseTo(-0.1, 4);
    expect(greatest(s.read('wayY'))).toBeLessThan(1e-6);
  });
});

describe('expansion, viscosity and diffusion', () => {
  test('what expands flows out through the sides, as much as it is', () => {
    const s = simulate(
      recipeOf({
        space: { sides: ALL_OPEN, voxelSize: 0.05 },
        sources: [
          {
            ...PUFF,
            centre: [0, 0.8, 0],
            density: { amount: 0 },
            temperature: { amount: 0 },
            expansion: 3,
          },
        ],
      }),
    );
    s.advanceFrame();
    const { nx, ny, nz } = s.window.lattice;
    const h = 0.05;
    const u = s.read('velocityX');
    const v = s.read('velocityY');
    const w = s.read('velocityZ');
    let out = 0;
    for (let a = 0; a < nz; a++)
      for (let b = 0; b < ny; b++) out += u[(a * ny + b) * (nx + 1) + nx] - u[(a * ny + b) * (nx + 1)];
    for (let a = 0; a < nz; a++)
      for (let b = 0; b < nx; b++) out += v[(a * (ny + 1) + ny) * nx + b] - v[a * (ny + 1) * nx + b];
    for (let a = 0; a < ny; a++)
      for (let b = 0; b < nx; b++) out += w[(nz * ny + a) * nx + b] - w[a * nx + b];
    expect((out * h * h) / (3 * (4 / 3) * Math.PI * 0.2 ** 3)).toBeCloseTo(1, 2);
  });
  test('between walls all round it is told that there is nowhere to go, and the run stays sound', () => {
    const s = simulate(
      recipeOf({
        space: { sides: ALL_WALLS },
        sources: [{ ...PUFF, density: { amount: 0 }, temperature: { amount: 0 }, expansion: 3 }],
      }),
    );
    const { incidents } = s.advanceFrame();
    expect(incidents.map((n) => n.kind)).toEqual(['nowhere to go']);
    for (let f = 0; f < 20; f++) s.advanceFrame();
    expect(greatest(s.read('velocityX'))).toBeLessThan(1);
  });
  test('diffusion spreads a blob at its rate, and walls keep it in', () => {
    const d = 0.02;
    const s = simulate(recipeOf({ space: { sides: ALL_WALLS, voxelSize: 0.05 }, diffusion: { density: d } }));
    fill(s, 'density', (x, y, z) => Math.exp(-(x * x + (y - 0.8) ** 2 + z * z) / (2 * 0.15 ** 2)));
    const spread = (): number => {
      const v = s.read('density');
      const { nx } = s.window.lattice;
      return v.reduce((a, q, n) => a + q * (((n % nx) + 0.5) * 0.05 - 0.8) ** 2, 0) / sum(v);
    };

    const before = spread();
    const mass = sum(s.read('density'));
    for (let f = 0; f < 10; f++) s.advanceFrame();
    expect((spread() - before) / (2 * d * 0.4)).toBeCloseTo(1, 1);
    expect(sum(s.read('density')) / mass).toBeCloseTo(1, 5);
  });
  test('huge viscosity stays stable', () => {
    const s = simulate(
      recipeOf({
        sources: [PUFF],
        buoyancy: { lift: 0.05, weight: 0 },
        diffusion: { viscosity: 500, stick: 1 },
      }),
    );
    for (let f = 0; f < 10; f++) s.advanceFrame();
    expect(greatest(s.read('velocityY'))).toBeLessThan(0.01);
  });
});

describe('trouble', () => {
  test('a value that is not finite is found in its substep, with its place', () => {
    const s = simulate(recipeOf());
    fill(s, 'density', (x, y, z) => (Math.hypot(x - 0.25, y - 0.55, z + 0.15) < 0.01 ? NaN : 0));
    try {
      s.advanceFrame();
      throw new Error('it went on');
    } catch (error) {
      expect(error).toBeInstanceOf(SolverError);
      expect((error as Error).message).toMatch(
        /^Frame 1, substep 1 at -?\d.*m: The density is no longer a finite number\. Raise/,
      );
    }
  });
  test('so is air that is not finite, whichever way it is found first', () => {
    for (const [c, bad] of [
      ['velocityX', NaN],
      ['velocityY', Infinity],
      ['velocityZ', NaN],
    ] as const) {
      const s = simulate(recipeOf());
      fill(s, c, (x, y, z) => (Math.hypot(x - 0.25, y - 0.55, z + 0.15) < 0.06 ? bad : 0));
      expect(() => s.advanceFrame()).toThrow(
        /^Frame 1, substep 1.*(no longer a finite number|The pressure became infinite)/,
      );
    }
  });
  test('air that runs away stops the run', () => {
    const s = simulate(recipeOf({ space: { sides: ALL_OPEN, substepsMost: 1 } }));
    fillVelocity(s, () => [400, 0, 0]);
    expect(() => s.advanceFrame()).toThrow(/at -?\d.* m: The air runs away: \d+ m\/s, faster than sound/);
  });
  test('too few substeps are noticed', () => {
    const s = simulate(
      recipeOf({ space: { sides: ALL_OPEN, substepsMost: 1, cfl: 1 }, wind: { speed: 30, grip: 0.01 } }),
    );
    s.advanceFrame();
    expect(s.advanceFrame().incidents[0]).toMatchObject({ kind: 'capped', cure: 'Raise the most substeps.' });
  });
  test('memory is told exactly before a run', () => {
    const recipe = recipeOf({ space: { voxelSize: 0.05 }, ...LIVELY });
    expect(costOf(recipe, 0.05, 2).bytes).toBe(simulate(recipe, 2).layout.bytes);
  });
});
