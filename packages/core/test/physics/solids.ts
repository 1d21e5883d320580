import { stateOf } from '@bramblemist/core/run/simulation';
import { projection } from '../../src/step/projection';
import {
  ALL_WALLS,
  fill,
  fillVelocity,
  kineticEnergy,
  start,
  still,
  sum,
  type Chart,
  type Experiment,
  type Figure,
} from './kit';

export const pressure: Experiment = {
  name: 'Pressure: a made-up solution, what is left, and iterations against size',
  about:
    'The gradient of g(x) g(y) g(z), g = 3 x² − 2 x³, has to vanish under projection, at second order ' +
    'in the voxel size. Random air has to lose its divergence to the stated tolerance with a sphere, a ' +
    'tilted plate and a moving box in the way; the iterations must not grow with the size (McAdams et ' +
    'al. 2010).',
  run: (size, threads) => {
    const figures: Figure[] = [];
    const space = (n: number, more: object): Record<string, unknown> => ({
      space: {
        size: [1, 1, 1],
        corner: [0, 0, 0],
        voxelSize: 1 / n,
        frameRate: 200,
        timeScale: 0.2,
        lastFrame: 1e5,
        sides: ALL_WALLS,
        ...more,
      },
    });
    const left = [8, 16, 32].map((n) => {
      const s = start(still(space(n, {})), threads);
      const g = (x: number): number => x * x * (3 - 2 * x);
      const slope = (x: number): number => 6 * x * (1 - x);
      fillVelocity(s, (x, y, z) => [slope(x) * g(y) * g(z), g(x) * slope(y) * g(z), g(x) * g(y) * slope(z)]);
      projection(stateOf(s));
      const rest = Math.sqrt(kineticEnergy(s)) / n ** 1.5;
      s.threadPool.close();
      return rest;
    });
    figures.push({
      what: 'made-up solution: order between 8 and 32 cells',
      value: Math.log2(left[0] / left[2]) / 2,
      least: 1.8,
      most: 2.3,
    });

    const plate = { shape: 'box', centre: [0.5, 0.5, 0.5], size: [0.7, 0.05, 0.7], turn: [0, 0, 30] };
    const ways: [string, object[]][] = [
      ['nothing', []],
      ['a sphere', [{ shape: 'sphere', centre: [0.53, 0.5, 0.51], radius: 0.2 }]],
      ['a tilted plate', [plate]],
      [
        'a moving, turning box',
        [{ ...plate, size: [0.5, 0.3, 0.2], motion: 'moves', velocity: [1.5, 0.4, 0], spin: 200 }],
      ],
    ];
    const sizes = size === 'full' ? [32, 64, 128, 256] : [32, 64];
    const curves: Chart['curves'][number][] = [];
    for (const [name, obstacles] of ways) {
      const counts = sizes
        .filter((n) => n < 256 || obstacles.length === 0 || name === 'a sphere')
        .map((n): [number, number] => {
          const s = start(
            still({ ...space(n, { sides: { ...ALL_WALLS, top: 'open' } }), obstacles }),
            threads,
          );
          let seed = 7;
          fillVelocity(s, () =>
            [0, 1, 2].map(() => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32 - 0.5),
          );
          const { readings } = s.advanceFrame();
          s.threadPool.close();
          if (n === 64)
            figures.push({
              what: `${name} in the way, 64 cells: divergence left over divergence before`,
              value: readings.residual / readings.divergenceBefore,
              most: 1e-4,
            });
          return [n, readings.iterations];
        });
      figures.push({
        what:
          `${name} in the way: iterations from ${counts[0][0]} to ${counts[counts.length - 1][0]} cells, ` +
          'most − least',
        value: Math.max(...counts.map((c) => c[1])) - Math.min(...counts.map((c) => c[1])),
        most: 3,
      });
      figures.push({
        what: `${name} in the way: most iterations`,
        value: Math.max(...counts.map((c) => c[1])),
        most: 14,
      });
      curves.push({ name, at: counts });
    }

    return {
      figures,
      charts: [
        { file: 'iterations', title: 'Iterations to 1e-4', x: 'cells across', y: 'iterations', curves },
      ],
    };
  },
};

export const slopes: Experiment = {
  name: 'A tilted wall, a thin floor, a pushing wall',
  about:
    'Wind along a wall at 30° has to stay smooth beside it, without stair-steps (Batty et al. 2007). A ' +
    'heavy medium lies 200 frames on a floor one voxel thick, level and tilted: nothing may come ' +
    'through. A moving wall has to push the air with its own speed.',
  run: (_size, threads) => {
    const figures: Figure[] = [];
    const h = 1 / 48;
    const c = Math.cos(Math.PI / 6);
    const n = Math.sin(Math.PI / 6);
    const wall = start(
      still({
        space: {
          size: [1, 1, 8 * h],
          corner: [0, 0, 0],
          voxelSize: h,
          frameRate: 48,
          lastFrame: 1e4,
          sides: { left: 'open', right: 'open', floor: 'open', top: 'open', back: 'wall', front: 'wall' },
        },
        obstacles: [
          { shape: 'box', centre: [0.5 + 0.5 * n, 0.5 - 0.5 * c, 0], size: [8, 1, 4], turn: [0, 0, 30] },
        ],
        wind: { speed: 1, heading: 0, rise: 30, grip: 0.05 },
      }),
      threads,
    );
    for (let f = 0; f < 48; f++) wall.advanceFrame();
    const u = wall.read('velocityX');
    const v = wall.read('velocityY');
    const { nx, ny } = wall.window.lattice;
    wall.threadPool.close();
    // cells whose middle is half to one and a half voxels off the wall, away from the sides
    const along: number[] = [];
    const across: number[] = [];
    for (let j = 6; j < ny - 6; j++)
      for (let i = 6; i < nx - 6; i++) {
        const d = -n * ((i + 0.5) * h - 0.5) + c * ((j + 0.5) * h - 0.5);
        if (d < 0.5 * h || d > 1.5 * h) continue;
        const x = (u[(4 * ny + j) * (nx + 1) + i] + u[(4 * ny + j) * (nx + 1) + i + 1]) / 2;
        const y = (v[(4 * (ny + 1) + j) * nx + i] + v[(4 * (ny + 1) + j + 1) * nx + i]) / 2;
        along.push(c * x + n * y);
        across.push(c * y - n * x);
      }

    const mean = along.reduce((a, b) => a + b, 0) / along.length;
    figures.push({
      what: 'wall at 30°: speed along it beside it, over the wind',
      value: mean,
      least: 0.9,
      most: 1.1,
    });
    figures.push({
      what: 'wall at 30°: spread of that speed (rms)',
      value: Math.sqrt(along.reduce((a, b) => a + (b - mean) ** 2, 0) / along.length),
      most: 0.05,
    });
    figures.push({
      what: 'wall at 30°: speed through it (rms)',
      value: Math.sqrt(across.reduce((a, b) => a + b * b, 0) / across.length),
      most: 0.08,
    });

    for (const [name, turn] of [
      ['level', 0],
      ['tilted by 20°', 20],
    ] as const) {
      const g = 0.05;
      const s = start(
        still({
          space: {
            size: [1.6, 1.6, 0.8],
            corner: [-0.8, -0.8, -0.4],
            voxelSize: g,
            lastFrame: 1e4,
            sides: ALL_WALLS,
          },
          obstacles: [{ shape: 'box', centre: [0, 0.013, 0], size: [4, g, 4], turn: [0, 0, turn] }],
          buoyancy: { lift: 0, weight: 2 },
          turbulence: { strength: 1, size: 0.4 },
        }),
        threads,
      );
      const a = (turn * Math.PI) / 180;
      const height = (x: number, y: number): number => Math.cos(a) * (y - 0.013) - Math.sin(a) * x;
      fill(s, 'density', (x, y) => (height(x, y) > 1.5 * g && height(x, y) < 0.4 ? 1 : 0));
      for (let f = 0; f < 200; f++) s.advanceFrame();
      const d = s.read('density');
      const l = s.window.lattice;
      s.threadPool.close();
      let below = 0;
      for (let q = 0; q < d.length; q++)
        if (height(((q % l.nx) + 0.5) * g - 0.8, ((Math.floor(q / l.nx) % l.ny) + 0.5) * g - 0.8) < 0)
          below += d[q];
      figures.push({
        what: `floor one voxel thick, ${name}: part of the medium below it after 200 frames`,
        value: below / sum(d),
        most: 1e-6,
      });
    }

    // a wall that fills the channel drives the air before it at its own speed
    const push = start(
      still({
        space: {
          size: [2, 0.5, 0.5],
          corner: [0, 0, 0],
          voxelSize: 1 / 32,
          frameRate: 64,
          lastFrame: 1e4,
          sides: { ...ALL_WALLS, left: 'open', right: 'open' },
        },
        obstacles: [
          {
            shape: 'box',
            centre: [0.4, 0.25, 0.25],
            size: [0.2, 2, 2],
            motion: 'moves',
            velocity: [0.8, 0, 0],
          },
        ],
      }),
      threads,
    );
    for (let f = 0; f < 32; f++) push.advanceFrame();
    const x = push.read('velocityX');
    const pl = push.window.lattice;
    push.threadPool.close();
    const ahead: number[] = [];
    for (let k = 0; k < pl.nz; k++)
      for (let j = 0; j < pl.ny; j++) ahead.push(x[(k * pl.ny + j) * (pl.nx + 1) + Math.round(1.5 * 32)]);
    figures.push({
      what: 'moving wall in a channel: speed of the air before it, over the wall’s',
      value: ahead.reduce((p, q) => p + q, 0) / ahead.length / 0.8,
      least: 0.99,
      most: 1.01,
    });
    return { figures };
  },
};

export const mass: Experiment = {
  name: 'Mass in a closed box',
  about:
    'A stirred, weighted medium for 300 frames between walls with a sphere in the way, carried finely and ' +
    'softly: the sum may drift by 0.01 % at most.',
  run: (_size, threads) => {
    const drift = (density: string): { worst: number; curve: [number, number][] } => {
      const s = start(
        still({
          space: {
            size: [1.6, 1.6, 1.6],
            corner: [0, 0, 0],
            voxelSize: 0.05,
            lastFrame: 1000,
            sides: ALL_WALLS,
          },
          obstacles: [{ shape: 'sphere', centre: [0.8, 0.5, 0.8], radius: 0.3 }],
          buoyancy: { lift: 0, weight: 3 },
          turbulence: { strength: 2, size: 0.5 },
          method: { density },
        }),
        threads,
      );
      fill(s, 'density', (x, y, z) => (Math.hypot(x - 0.8, y - 1.2, z - 0.8) < 0.3 ? 1 : 0));
      const first = sum(s.read('density'));
      const curve: [number, number][] = [];
      let worst = 0;
      for (let f = 1; f <= 300; f++) {
        const now = s.advanceFrame().readings.mass / (first * 0.05 ** 3);
        worst = Math.max(worst, Math.abs(now - 1));
        if (f % 10 === 0) curve.push([f, now]);
      }

      s.threadPool.close();
      return { worst, curve };
    };

    const fine = drift('fine');
    const soft = drift('soft');
    return {
      figures: [
        { what: 'finely: greatest drift in 300 frames', value: fine.worst, most: 1e-4 },
        { what: 'softly: greatest drift in 300 frames', value: soft.worst, most: 1e-4 },
      ],
      charts: [
        {
          file: 'mass',
          title: 'Mass in a closed box',
          x: 'frame',
          y: 'mass over the first',
          curves: [
            { name: 'finely', at: fine.curve },
            { name: 'softly', at: soft.curve },
          ],
        },
      ],
    };
  },
};
