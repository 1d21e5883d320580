// Particles: throws and falls against formulas, births, children, obstacles, what they give off, and the same
// bits again.
import { decodeCheckpoint, encodeCheckpoint } from '@bramblemist/core/cache/checkpoint';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import { Simulation } from '@bramblemist/core/run/simulation';
import { ALL_OPEN, recipeOf, simulate, sum } from './run';

const PLAIN = {
  id: 'p',
  spread: 0,
  vary: 0,
  lifeVary: 0,
  ballVary: 0,
  radius: 0.001,
  drag: 0,
  life: 0,
  centre: [0, 0.8, 0],
};
const frames = (s: Simulation, n: number): Simulation => {
  for (let f = 0; f < n; f++) s.advanceFrame();
  return s;
};

const scene = (particles: object[], more: Record<string, unknown> = {}): Recipe =>
  recipeOf({ ...more, space: { voxelSize: 0.1, sides: ALL_OPEN, ...(more.space as object) }, particles });
const mean = (v: Float32Array): number => sum(v) / v.length;
const spread = (v: Float32Array): number => Math.sqrt(mean(v.map((x) => (x - mean(v)) ** 2)));

describe('flight', () => {
  test('a throw without drag is a parabola, to single precision, at any number of substeps', () => {
    for (const substepsLeast of [1, 7]) {
      const s = frames(
        simulate(
          scene([{ ...PLAIN, born: 'burst', count: 1, until: 1, direction: [3, 4, 0], speed: 5 }], {
            space: { substepsLeast, substepsMost: 8 },
          }),
        ),
        10,
      );
      const p = s.particles('p');
      const t = 10 / 25 - 0.5 / 25; // born in the middle of the first frame
      // it is born within a millimetre of the middle
      expect(Math.abs(p.x[0] - 3 * t)).toBeLessThan(0.0011);
      expect(Math.abs(p.y[0] - 0.8 - 4 * t + (9.81 / 2) * t * t)).toBeLessThan(0.0011);
      expect(p.vy[0]).toBeCloseTo(4 - 9.81 * t, 3);
    }
  });
  test('with drag the fall ends at gravity times its time', () => {
    const p = frames(
      simulate(scene([{ ...PLAIN, born: 'burst', count: 1, until: 1, speed: 0, drag: 0.05 }])),
      25,
    ).particles('p');
    expect(p.vy[0]).toBeCloseTo(-9.81 * 0.05, 3);
  });
  test('in moving air it takes up the air’s speed', () => {
    const s = simulate(
      scene([{ ...PLAIN, born: 'burst', count: 1, until: 1, speed: 0, gravity: 0, drag: 0.02 }], {
        wind: { speed: 0.5, heading: 0, grip: 0.05 },
      }),
    );
    const p = frames(s, 12).particles('p');
    expect(Math.abs(p.vx[0] / 0.5 - 1)).toBeLessThan(0.02);
    expect(Math.abs(p.vy[0]) + Math.abs(p.vz[0])).toBeLessThan(0.025);
  });
  test('turbulence drives them apart by its strength', () => {
    const at = (churn: number): number =>
      spread(
        frames(
          simulate(
            scene([
              {
                ...PLAIN,
                born: 'burst',
                count: 400,
                until: 1,
                speed: 0,
                gravity: 0,
                radius: 0.5,
                shape: 'sphere',
                churn,
              },
            ]),
          ),
          1,
        ).particles('p').vx,
      );
    expect(at(0)).toBe(0);
    expect(at(10) / at(5)).toBeCloseTo(2, 1);
  });
});

describe('births', () => {
  test('a burst has its count, spread over its frames', () => {
    const s = simulate(scene([{ ...PLAIN, born: 'burst', count: 90, from: 3, until: 5 }]));
    const counts = Array.from({ length: 7 }, () => frames(s, 1).particles('p').count);
    expect(counts).toEqual([0, 0, 30, 60, 90, 90, 90]);
  });
  test('a stream has its rate, whatever the substeps, and lives its life', () => {
    for (const substepsLeast of [1, 5]) {
      const s = simulate(
        scene([{ ...PLAIN, born: 'rate', rate: 110, life: 0.4 }], { space: { substepsLeast } }),
      );
      expect(frames(s, 5).particles('p').count).toBe(22);
      expect(frames(s, 20).particles('p').count).toBeGreaterThanOrEqual(43);
      expect(s.particles('p').count).toBeLessThanOrEqual(45);
      expect(Math.max(...s.particles('p').age)).toBeLessThan(0.4);
    }
  });
  test('they fill their shape evenly, and a cone by its angle', () => {
    const box = {
      ...PLAIN,
      born: 'burst',
      count: 4000,
      until: 1,
      shape: 'box',
      size: [0.6, 0.2, 0.4],
      turn: [0, 90, 0],
      gravity: 0,
    };
    const p = frames(simulate(scene([{ ...box, speed: 1, spread: 60 }])), 1).particles('p');
    const start = (v: Float32Array, u: Float32Array): Float32Array => v.map((x, n) => x - u[n] * p.age[n]);
    const [x, y, z] = [start(p.x, p.vx), start(p.y, p.vy), start(p.z, p.vz)];
    // turned by 90° about the upright axis, width and depth change places
    [x, y, z].forEach((v, a) => expect(spread(v) / ([0.4, 0.2, 0.6][a] / Math.sqrt(12))).toBeCloseTo(1, 1));
    expect(Math.min(...p.vy)).toBeGreaterThan(0.499);
    // even over the cap: the mean of the cosine is the middle of 1 and cos 60°
    expect(mean(p.vy)).toBeCloseTo(0.75, 1);
  });
  test('on the surface of a ball, out of it', () => {
    const p = frames(
      simulate(
        scene([
          {
            ...PLAIN,
            born: 'burst',
            count: 50,
            until: 1,
            shape: 'sphere',
            radius: 0.3,
            fill: 'surface',
            aim: 'normal',
            speed: 1,
            gravity: 0,
          },
        ]),
      ),
      1,
    ).particles('p');
    for (let n = 0; n < 50; n++) {
      const from = [p.x[n], p.y[n] - 0.8, p.z[n]];
      const r = Math.hypot(...from);
      expect(r - p.age[n]).toBeCloseTo(0.3, 3);
      expect((from[0] * p.vx[n] + from[1] * p.vy[n] + from[2] * p.vz[n]) / r).toBeCloseTo(1, 2);
    }
  });
  test('children lie along their parent’s way, in even steps, and take a part of its speed along', () => {
    const parent = {
      ...PLAIN,
      born: 'burst',
      count: 1,
      until: 1,
      direction: [1, 0, 0],
      speed: 2,
      gravity: 0,
    };
    const s = frames(
      simulate(
        scene([
          { ...PLAIN, id: 'c', born: 'children', parent: 'p', rate: 50, speed: 0, gravity: 0, inherit: 25 },
          parent,
        ]),
      ),
      9,
    );
    const c = s.particles('c');
    expect(Math.abs(c.count - 50 * (9 / 25 - 0.02))).toBeLessThanOrEqual(1);
    for (let n = 1; n < c.count; n++) {
      expect(c.vx[n]).toBeCloseTo(0.5, 4);
      // each stands 2 m/s · 0.02 s behind the next, and has gone a quarter of that way itself
      expect(c.x[n] - c.x[n - 1]).toBeCloseTo(0.03, 3);
    }
  });
  test('more than fit are told of, not kept quiet', () => {
    const incidents = simulate(scene([{ ...PLAIN, born: 'rate', rate: 5000, most: 100 }])).advanceFrame()
      .incidents;
    expect(incidents.map((n) => n.kind)).toContain('crowded');
  });
  test('who would spring from himself is refused', () => {
    const child = (id: string, parent: string): object => ({ ...PLAIN, id, born: 'children', parent });
    expect(() => parseRecipe({ particles: [child('a', 'b'), child('b', 'a')] })).toThrow(
      /spring from itself/,
    );
  });
});

describe('obstacles', () => {
  const floor = { shape: 'ground', centre: [0, 0.4, 0] };
  const drop = (meets: string, bounce = 50): Simulation =>
    frames(
      simulate(
        scene([{ ...PLAIN, born: 'burst', count: 1, until: 1, speed: 0, meets, bounce }], {
          obstacles: [floor],
        }),
      ),
      15,
    );
  test('bouncing, it comes back with its part of the speed', () => {
    const s = drop('bounces');
    const fallS = Math.sqrt((2 * 0.4) / 9.81);
    const v = 9.81 * fallS * 0.5;
    const t = 15 / 25 - 0.02 - fallS;
    const height = v * t - (9.81 / 2) * t * t;
    // substeps are as long as frames here: the contact itself is found inside them
    expect(Math.abs(s.particles('p').y[0] - 0.4 - height)).toBeLessThan(0.025);
  });
  test('ending, it is gone; passing, it falls on', () => {
    expect(drop('ends').particles('p').count).toBe(0);
    expect(drop('passes').particles('p').y[0]).toBeLessThan(0);
  });
});

test('a side of the domain that is a wall holds them, an open one lets them out', () => {
  const fall = (floor: string): number => {
    const fallen = { ...PLAIN, born: 'burst', count: 1, until: 1, speed: 0, bounce: 0 };
    return frames(simulate(scene([fallen], { space: { sides: { ...ALL_OPEN, floor } } })), 20).particles('p')
      .y[0];
  };

  expect(fall('wall')).toBeCloseTo(0, 4);
  expect(fall('open')).toBeLessThan(-1);
});

describe('as a source', () => {
  const one = (ball: number, more: object = {}): object => ({
    ...PLAIN,
    born: 'burst',
    count: 1,
    until: 1,
    speed: 0,
    gravity: 0,
    ball,
    ...more,
  });
  const source = (more: object = {}): object => ({
    id: 's',
    shape: 'particles',
    particles: 'p',
    temperature: { how: 'none' },
    density: { amount: 1 },
    ...more,
  });
  const massOf = (s: Simulation): number => sum(s.read('density')) * s.window.voxelSizeM ** 3;
  test('each gives its volume a second, thinner than a voxel or wider, at three voxel sizes', () => {
    for (const voxelSize of [0.1, 0.05, 0.025])
      for (const ball of [0.004, 0.03, 0.06, 0.15]) {
        const s = frames(
          simulate(
            scene([one(ball, { centre: [0.013, 0.79, -0.024] })], {
              space: { voxelSize },
              sources: [source()],
            }),
          ),
          10,
        );
        expect(massOf(s) / ((4 / 3) * Math.PI * ball ** 3 * 0.4)).toBeCloseTo(1, 1);
      }
  });
  test('a fast one leaves a trail without gaps', () => {
    const s = frames(
      simulate(
        scene([one(0.06, { speed: 30, direction: [1, 0, 0], centre: [-0.75, 0.8, 0] })], {
          space: { voxelSize: 0.05, substepsMost: 1 },
          sources: [source()],
        }),
      ),
      1,
    );
    const { nx, ny } = s.window.lattice;
    const density = s.read('density');
    const row = Array.from(density.subarray((16 * ny + 16) * nx + 1, (16 * ny + 16) * nx + 12));
    expect(Math.min(...row) / Math.max(...row)).toBeGreaterThan(0.4);
  });
  test('their motion is given to the air', () => {
    const s = frames(
      simulate(
        scene([one(0.15, { count: 30, speed: 0.5, direction: [1, 0, 0], radius: 0.1 })], {
          sources: [source({ push: { how: 'blend', mode: 'motion', speed: 1 }, within: 0.02 })],
        }),
      ),
      4,
    );
    const u = s.read('velocityX');
    expect(Math.max(...u)).toBeGreaterThan(0.2);
    expect(Math.max(...u)).toBeLessThan(0.6);
  });
  test('too thin, and too far apart, is told with a cure', () => {
    const said = (particles: object): string[] =>
      simulate(scene([particles], { sources: [source()] }))
        .advanceFrame()
        .incidents.map((n) => n.kind);
    expect(said(one(0.01, { count: 20, shape: 'sphere', radius: 0.6 }))).toEqual(
      expect.arrayContaining(['thin', 'apart']),
    );
    expect(said(one(0.2, { on: false }))).toEqual(['unbound']);
    expect(said(one(0.2, { count: 60, shape: 'sphere', radius: 0.3 }))).toEqual([]);
  });
});

describe('the same again', () => {
  const busy = scene(
    [
      {
        ...PLAIN,
        born: 'rate',
        rate: 900,
        speed: 2,
        spread: 40,
        vary: 30,
        life: 0.3,
        lifeVary: 40,
        drag: 0.1,
        churn: 4,
        centre: [0, 0.3, 0],
        radius: 0.1,
      },
      { ...PLAIN, id: 'c', born: 'children', parent: 'p', rate: 30, life: 0.2, speed: 0.2, spread: 180 },
    ],
    {
      sources: [
        { id: 's', shape: 'particles', particles: 'c', swell: 3, push: { how: 'blend', mode: 'motion' } },
      ],
      obstacles: [{ shape: 'sphere', centre: [0, 0.9, 0], radius: 0.2 }],
      window: { mode: 'fit' },
    },
  );
  const run = (threads: number): Simulation => {
    const plan = compile(busy).plan;
    return new Simulation(plan, startThreadPool(Simulation.pages(plan, threads), threads));
  };

  test('with one worker or three, and gone on with from a checkpoint', () => {
    const one = frames(run(1), 8);
    const three = frames(run(3), 4);
    const plan = compile(busy).plan;
    const kept = decodeCheckpoint(plan, encodeCheckpoint(plan, three.checkpoint()));
    const on = new Simulation(plan, startThreadPool(Simulation.pages(plan, 1), 1), kept);
    frames(on, 4);
    frames(three, 4);
    expect(one.particles('c').count).toBeGreaterThan(100);
    expect(three.checksum()).toBe(one.checksum());
    expect(on.checksum()).toBe(one.checksum());
    three.threadPool.close();
  });
  test('another seed is another throw', () => {
    const of = (seed: number): number =>
      frames(
        simulate(scene([{ ...PLAIN, born: 'burst', count: 5, until: 1, spread: 40, seed }])),
        1,
      ).particles('p').x[3];
    expect(of(1)).toBe(of(1));
    expect(of(1)).not.toBe(of(2));
  });
});
