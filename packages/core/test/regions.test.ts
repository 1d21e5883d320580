// Regions: their weights, what they limit, what they change, and what carries them.
import { readField } from '@bramblemist/core/grid/memory';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { valueAt } from '@bramblemist/core/recipe/profile';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { compile } from '@bramblemist/core/plan/compile';
import { emission } from '@bramblemist/core/step/emission';
import { forces, gather } from '@bramblemist/core/step/forces/forces';
import { regions } from '@bramblemist/core/step/regions';
import { stateOf, Simulation } from '@bramblemist/core/run/simulation';
import { assetsOf, boxMesh } from './meshes';
import { fill, fillVelocity } from './physics/kit';
import { ALL_OPEN, greatest, recipeOf, simulate, sum } from './run';

const CENTRE = [0, 0.8, 0];
const ball = { id: 'r', shape: 'sphere', centre: CENTRE, radius: 0.4, soft: 0.2 };

/** The weight of the first region at places of the window, at a time. */
function weights(
  region: object,
  places: readonly (readonly number[])[],
  more: Record<string, unknown> = {},
  timeS = 0,
  set?: (s: Simulation) => void,
): number[] {
  const { regions: others = [], ...rest } = more as { regions?: object[] };
  const s = simulate(recipeOf({ wind: { where: 'r' }, regions: [region, ...others], ...rest }));
  set?.(s);
  Object.assign(stateOf(s), { frame: 1, timeS, dtS: 0 });
  regions(stateOf(s));
  const n = s.plan.regions.findIndex((r) => r.part.id === 'r');
  const values = readField(s.threadPool.memory, s.layout.regions[n]);
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  return places.map((p) => {
    const [i, j, k] = p.map((v, a) => Math.floor(v / h - origin[a] + 1e-6));
    return values[(k * l.ny + j) * l.nx + i];
  });
}

describe('weights', () => {
  test('whole inside, gone behind the soft edge, and half-way half', () => {
    const [middle, near, edge, out] = weights(ball, [
      CENTRE,
      [0.35, 0.85, 0.05],
      [0.5, 0.8, 0],
      [0.75, 0.8, 0],
    ]);
    expect([middle, near, out]).toEqual([1, 1, 0]);
    expect(edge).toBeGreaterThan(0.05);
    expect(edge).toBeLessThan(0.95);
  });
  test.each([
    ['box', { shape: 'box', size: [0.4, 0.4, 0.4] }, CENTRE, [0.6, 0.8, 0]],
    ['cylinder', { shape: 'cylinder', size: [0.4, 0.6, 0.4], radius: 0.2 }, [0, 1, 0], [0, 1.4, 0]],
    ['ring', { shape: 'ring', radius: 0.4, tube: 0.15 }, [0.4, 0.8, 0], CENTRE],
    [
      'path',
      {
        shape: 'path',
        radius: 0.15,
        points: [
          [-0.5, 0, 0],
          [0.5, 0, 0],
        ],
      },
      [0.35, 0.8, 0],
      [0, 1.35, 0],
    ],
    ['half-space', { shape: 'ground' }, [0.6, 0.2, 0.6], [0, 1.3, 0]],
    ['half-space turned', { shape: 'ground', turn: [0, 0, 90] }, [0.6, 0.8, 0], [-0.6, 0.8, 0]],
  ])('a %s', (_, shape, inside, outside) => {
    expect(weights({ ...ball, ...shape, soft: 0.1 }, [inside, outside])).toEqual([1, 0]);
  });
  test('the curve of the edge, smooth and without overshoot', () => {
    const points = [
      [0, 0],
      [0.3, 0.8],
      [0.6, 0.8],
      [1, 1],
    ] as const;
    for (let n = 0, last = 0; n <= 50; n++) {
      const now = valueAt(points, n / 50);
      expect(now).toBeGreaterThanOrEqual(last - 1e-12);
      expect(now).toBeLessThanOrEqual(1);
      last = now;
    }

    points.forEach(([at, value]) => expect(valueAt(points, at)).toBeCloseTo(value, 12));
    expect(
      valueAt(
        [
          [0, 0],
          [1, 1],
        ],
        0.25,
      ),
    ).toBeCloseTo(0.15625, 12);
    const flat = {
      ...ball,
      soft: 0.4,
      edge: [
        [0, 0.25],
        [1, 0.25],
      ],
    };
    expect(weights(flat, [CENTRE, [0.5, 0.8, 0]])).toEqual([0.25, 0.25]);
  });
  test('inside out, and joined with another one', () => {
    const other = { ...ball, id: 'o', centre: [0.3, 0.8, 0], soft: 0 };
    const places = [
      [-0.3, 0.8, 0],
      [0.15, 0.8, 0],
      [0.6, 0.8, 0],
      [0, 0.1, 0],
    ];
    const with_ = (joins: string, more = {}): number[] =>
      weights({ ...ball, soft: 0, joins, other: 'o', ...more }, places, { regions: [other] });
    expect(weights({ ...ball, soft: 0, facing: 'outside' }, places)).toEqual([0, 0, 1, 1]);
    expect(with_('both')).toEqual([0, 1, 0, 0]);
    expect(with_('either')).toEqual([1, 1, 1, 0]);
    expect(with_('without')).toEqual([1, 0, 0, 0]);
    expect(with_('both', { facing: 'outside' })).toEqual([0, 0, 1, 0]);
  });
  test('by noise, by a channel, by a formula', () => {
    const [a, b] = [
      weights({ id: 'r', shape: 'noise', lumps: 0.3 }, [CENTRE, [0.4, 0.4, 0.4], [-0.6, 1.2, 0.3]]),
      weights({ id: 'r', shape: 'noise', lumps: 0.3, seed: 2 }, [CENTRE, [0.4, 0.4, 0.4], [-0.6, 1.2, 0.3]]),
    ];
    expect(a).not.toEqual(b);
    for (const w of [...a, ...b]) expect(w >= 0 && w <= 1).toBe(true);
    const hot = (s: Simulation): void => fill(s, 'temperature', (x) => 50 * x);
    const byHeat = weights(
      { id: 'r', shape: 'channel', channel: 'temperature', low: 0, high: 20 },
      [
        [-0.5, 0.5, 0],
        [0.2, 0.5, 0],
        [0.6, 0.5, 0],
      ],
      {},
      0,
      hot,
    );
    expect(byHeat[0]).toBe(0);
    expect(byHeat[1]).toBeCloseTo(
      valueAt(
        [
          [0, 0],
          [1, 1],
        ],
        0.625,
      ),
      2,
    );
    expect(byHeat[2]).toBe(1);
    const fast = (s: Simulation): void => fillVelocity(s, (x) => [0, x > 0 ? 2 : 0, 0]);
    expect(
      weights(
        { id: 'r', shape: 'channel', channel: 'rise', low: 0.5, high: 1 },
        [
          [-0.4, 0.8, 0],
          [0.4, 0.8, 0],
        ],
        {},
        0,
        fast,
      ),
    ).toEqual([0, 1]);
    expect(
      weights({ id: 'r', shape: 'formula', text: 'y > 0.8', low: 0, high: 1 }, [
        [0, 0.5, 0],
        [0, 1.2, 0],
      ]),
    ).toEqual([0, 1]);
  });
  test('it goes with its keys, and with the obstacle that carries it', () => {
    const curves = [
      {
        path: 'regions/r/centre.0',
        keys: [
          { frame: 1, value: -0.5, ease: 'even' },
          { frame: 11, value: 0.5, ease: 'even' },
        ],
      },
    ];
    const left = [-0.5, 0.8, 0];
    const right = [0.5, 0.8, 0];
    const small = { ...ball, radius: 0.2, soft: 0.1 };
    // a curve's key at frame n stands at the end of that frame
    expect(weights(small, [left, right], { curves }, 1 / 25)).toEqual([1, 0]);
    expect(weights(small, [left, right], { curves }, 11 / 25)).toEqual([0, 1]);
    const carrier = {
      id: 'vane',
      shape: 'box',
      centre: [0, 0.8, 0],
      size: [0.1, 0.1, 0.1],
      motion: 'moves',
      spin: 90,
    };
    const carried = { ...small, follows: 'vane', centre: [0.5, 0, 0] };
    expect(weights(carried, [right, left, [0, 0.8, -0.5]], { obstacles: [carrier] }, 0)).toEqual([1, 0, 0]);
    expect(weights(carried, [right, left, [0, 0.8, -0.5]], { obstacles: [carrier] }, 1)).toEqual([0, 0, 1]);
    expect(weights(carried, [right, left, [0, 0.8, -0.5]], { obstacles: [carrier] }, 2)).toEqual([0, 1, 0]);
  });
});

describe('limits', () => {
  const pushes: Record<string, object> = {
    buoyancy: { lift: 0.1, weight: 0 },
    wind: { speed: 2 },
    drag: { halfLife: 0.2 },
    turbulence: { strength: 3, size: 0.4, octaves: 1 },
    edges: { strength: 3, size: 0.4 },
    vorticity: { strength: 2, large: 1, largeSize: 0.5 },
  };

  /** Root mean square of the acceleration inside and outside of the ball with its edge. */
  function inAndOut(parts: Record<string, unknown>): [number, number] {
    const s = simulate(recipeOf({ regions: [{ ...ball, soft: 0.1 }], ...parts }));
    fill(s, 'temperature', () => 20);
    fill(s, 'density', (x, y, z) => 1 + 0.5 * Math.sin(9 * x) * Math.cos(7 * y) * Math.cos(8 * z));
    fillVelocity(s, (x, y, z) => [
      Math.sin(5 * y) + 0.3 * Math.cos(11 * z),
      Math.sin(6 * z),
      Math.cos(7 * x * y),
    ]);
    Object.assign(stateOf(s), { frame: 1, dtS: 0.04 });
    regions(stateOf(s));
    gather(stateOf(s), 0.04);
    const { lattice: l, origin, voxelSizeM: h } = s.window;
    const a = s.layout.acceleration.map((f) => readField(s.threadPool.memory, f));
    const sums = [0, 0];
    for (let k = 0, n = 0; k < l.nz; k++)
      for (let j = 0; j < l.ny; j++)
        for (let i = 0; i < l.nx; i++, n++) {
          const d = Math.hypot(...[i, j, k].map((c, axis) => (c + 0.5 + origin[axis]) * h - CENTRE[axis]));
          const size = a.reduce((q, f) => q + f[n] ** 2, 0);
          if (d < 0.35) sums[0] += size;
          if (d > 0.55) sums[1] += size;
        }

    return [sums[0], sums[1]];
  }

  test.each(Object.keys(pushes))('%s acts in its region alone', (key) => {
    const [inside, outside] = inAndOut({ [key]: { ...pushes[key], where: 'r' } });
    expect(inside).toBeGreaterThan(0);
    expect(outside).toBe(0);
    const [all, around] = inAndOut({ [key]: pushes[key] });
    expect(inside).toBeCloseTo(all, 6);
    expect(around).toBeGreaterThan(0);
  });
  test('a current too; off or without its region it acts everywhere', () => {
    const jet = { id: 'j', does: 'jet', shape: 'box', centre: CENTRE, size: [9, 9, 9], speed: 3 };
    expect(inAndOut({ currents: [{ ...jet, where: 'r' }] })[1]).toBe(0);
    expect(
      inAndOut({ currents: [{ ...jet, where: 'r' }], regions: [{ ...ball, on: false }] })[1],
    ).toBeGreaterThan(0);
  });
  test('wind limited to a cylinder lifts only there', () => {
    const s = simulate(
      recipeOf({
        space: { sides: ALL_OPEN },
        wind: { speed: 2, rise: 90, grip: 0.2, where: 'r' },
        regions: [{ id: 'r', shape: 'cylinder', centre: CENTRE, radius: 0.3, size: [1, 1.2, 1], soft: 0.1 }],
      }),
    );
    for (let f = 0; f < 10; f++) s.advanceFrame();
    const v = s.read('velocityY');
    const { nx, ny } = s.window.lattice;
    const at = (i: number, j: number, k: number): number => v[(k * (ny + 1) + j) * nx + i];
    expect(at(8, 8, 8)).toBeGreaterThan(0.8);
    expect(Math.abs(at(1, 8, 1))).toBeLessThan(0.25);
  });
});

describe('changes', () => {
  const wind = { speed: 2, heading: 0, grip: 0.1 };

  /** Speed along x and z at the middle and far out, after a long push. */
  function blown(changes: object[], more: object = {}): { inside: number[]; outside: number[] } {
    const s = simulate(
      recipeOf({ space: { sides: ALL_OPEN }, wind, regions: [{ ...ball, soft: 0 }], changes, ...more }),
    );
    Object.assign(stateOf(s), { frame: 1, dtS: 4 });
    regions(stateOf(s));
    forces(stateOf(s), 4);
    const { nx, ny } = s.window.lattice;
    const u = s.read('velocityX');
    const w = s.read('velocityZ');
    return {
      inside: [u[(8 * ny + 8) * (nx + 1) + 8], w[(8 * ny + 8) * nx + 8]],
      outside: [u[(8 * ny + 8) * (nx + 1) + 1], w[(8 * ny + 8) * nx + 1]],
    };
  }

  test('multiply, add to and replace a setting inside; outside it stays', () => {
    const change = (how: string, amount: number, path = 'wind/speed'): object => ({
      region: 'r',
      path,
      how,
      amount,
    });
    for (const [how, amount, speed] of [
      ['times', 0.25, 0.5],
      ['plus', 1, 3],
      ['is', 5, 5],
    ] as const) {
      const { inside, outside } = blown([change(how, amount)]);
      expect(inside[0]).toBeCloseTo(speed, 4);
      expect(outside[0]).toBeCloseTo(2, 4);
    }

    // not only strengths: here the wind turns
    const { inside, outside } = blown([change('is', 90, 'wind/heading')]);
    expect(inside[1]).toBeCloseTo(2, 4);
    expect(inside[0]).toBeCloseTo(0, 4);
    expect(outside[0]).toBeCloseTo(2, 4);
  });
  test('of two regions that overlap, both changes hold; where they do not, each its own', () => {
    const far = { ...ball, id: 'far', centre: [0.55, 0.8, 0], soft: 0 };
    const both = blown(
      [
        { id: 'a', region: 'r', path: 'wind/speed', how: 'times', amount: 2 },
        { id: 'b', region: 'far', path: 'wind/speed', how: 'plus', amount: 1 },
      ],
      {
        regions: [
          { ...ball, soft: 0 },
          { ...far, centre: CENTRE },
        ],
      },
    );
    expect(both.inside[0]).toBeCloseTo(5, 3);
    expect(both.outside[0]).toBeCloseTo(2, 4);
  });
  test('gravity turned upside down in a slab: heavy medium hovers at its edge', () => {
    const s = simulate(
      recipeOf({
        space: { size: [0.8, 1.6, 0.8], corner: [-0.4, 0, -0.4], voxelSize: 0.05 },
        buoyancy: { lift: 0, weight: 3 },
        drag: { halfLife: 0.15 },
        regions: [{ id: 'r', shape: 'ground', centre: [0, 0.6, 0], soft: 0.05 }],
        changes: [{ region: 'r', path: 'gravity/strength', how: 'times', amount: -1 }],
      }),
    );
    fill(s, 'density', (x, y) => (y > 1.1 && y < 1.4 && Math.abs(x) < 0.2 ? 1 : 0));
    const height = (): number => {
      const d = s.read('density');
      const { nx, ny } = s.window.lattice;
      return d.reduce((a, v, n) => a + v * ((Math.floor(n / nx) % ny) + 0.5) * 0.05, 0) / sum(d);
    };

    for (let f = 0; f < 90; f++) s.advanceFrame();
    const settled = height();
    for (let f = 0; f < 15; f++) s.advanceFrame();
    expect(settled).toBeGreaterThan(0.45);
    expect(settled).toBeLessThan(0.8);
    expect(Math.abs(height() - settled)).toBeLessThan(0.06);
  });
  test('half-lives and diffusion inside', () => {
    const s = simulate(
      recipeOf({
        dissipation: { density: 0 },
        regions: [{ ...ball, soft: 0 }],
        changes: [{ region: 'r', path: 'dissipation/density', how: 'is', amount: 0.5 }],
      }),
    );
    fill(s, 'density', () => 1);
    for (let f = 0; f < 25; f++) s.advanceFrame();
    const d = s.read('density');
    expect(d[(8 * 16 + 8) * 16 + 8]).toBeCloseTo(0.25, 4);
    expect(d[0]).toBeCloseTo(1, 5);
    const t = simulate(
      recipeOf({
        regions: [{ id: 'r', shape: 'ground', centre: [0, 0.8, 0], turn: [0, 0, 90], soft: 0 }],
        changes: [{ region: 'r', path: 'diffusion/density', how: 'is', amount: 0.2 }],
      }),
    );
    fill(t, 'density', (_x, y) => Number(y < 0.8));
    for (let f = 0; f < 5; f++) t.advanceFrame();
    const e = t.read('density');
    const at = (i: number, j: number): number => e[(8 * 16 + j) * 16 + i];
    expect(at(1, 7) - at(1, 8)).toBeCloseTo(1, 5);
    expect(at(14, 7) - at(14, 8)).toBeLessThan(0.4);
  });
  test('an amount takes keys', () => {
    const keys = [
      { frame: 1, value: 1, ease: 'even' },
      { frame: 2, value: 0, ease: 'even' },
    ];
    const s = simulate(
      recipeOf({
        space: { sides: ALL_OPEN },
        wind,
        regions: [ball],
        changes: [{ id: 'c', region: 'r', path: 'wind/speed', how: 'times', amount: 1 }],
        curves: [{ path: 'changes/c/amount', keys }],
      }),
    );
    s.advanceFrame();
    const before = greatest(s.read('velocityX'));
    for (let f = 0; f < 4; f++) s.advanceFrame();
    expect(before).toBeGreaterThan(0.4);
    const u = s.read('velocityX');
    expect(u[(8 * 16 + 8) * 17 + 8]).toBeLessThan(u[(8 * 16 + 8) * 17]);
  });
});

describe('sources', () => {
  const box = {
    id: 's',
    shape: 'box',
    centre: CENTRE,
    size: [1.2, 1.2, 1.2],
    density: { amount: 2 },
    temperature: { how: 'replace', amount: 10 },
  };
  const half = { id: 'r', shape: 'ground', centre: CENTRE, turn: [0, 0, 90], soft: 0 };

  /**
   * Density and temperature on both sides of the half-space's plane after a second without motion, and
   * outside of the source.
   */
  function given(parts: object): number[] {
    const s = simulate(recipeOf({ regions: [half], ...parts }));
    Object.assign(stateOf(s), { frame: 1, dtS: 1 });
    regions(stateOf(s));
    emission(stateOf(s));
    return (['density', 'temperature'] as const).flatMap((c) =>
      [11, 4, 0].map((i) => Number(s.read(c)[(8 * 16 + 8) * 16 + i].toFixed(4))),
    );
  }

  test('a source gives off in its region alone', () => {
    expect(given({ sources: [box] })).toEqual([2, 2, 0, 10, 10, 0]);
    expect(given({ sources: [{ ...box, where: 'r' }] })).toEqual([2, 0, 0, 10, 0, 0]);
  });
  test('it gives another amount inside a region', () => {
    const change = (path: string, how: string, amount: number): object => ({
      id: path,
      region: 'r',
      path: `sources/s/${path}`,
      how,
      amount,
    });
    expect(given({ sources: [box], changes: [change('density.amount', 'times', 3)] })).toEqual([
      6, 2, 0, 10, 10, 0,
    ]);
    const both = [change('density.amount', 'times', 0), change('temperature.amount', 'plus', 5)];
    expect(given({ sources: [box], changes: both })).toEqual([0, 2, 0, 15, 10, 0]);
  });
  test('where it stands and how large it is cannot be another one by place', () => {
    expect(() =>
      recipeOf({
        regions: [half],
        sources: [box],
        changes: [{ region: 'r', path: 'sources/s/radius', how: 'is', amount: 1 }],
      }),
    ).toThrow(/radius cannot be another one inside a region/);
  });
  test('speed and expansion keep to the region too', () => {
    const s = simulate(
      recipeOf({
        space: { sides: ALL_OPEN },
        regions: [half],
        sources: [
          {
            ...box,
            expansion: 1,
            where: 'r',
            push: { how: 'replace', mode: 'along', direction: [0, 0, 1], speed: 3 },
          },
        ],
      }),
    );
    Object.assign(stateOf(s), { frame: 1, dtS: 0.04 });
    regions(stateOf(s));
    emission(stateOf(s));
    const w = s.read('velocityZ');
    expect(w[(8 * 16 + 8) * 16 + 11]).toBeCloseTo(3, 4);
    expect(w[(8 * 16 + 8) * 16 + 4]).toBe(0);
    const out = readField(s.threadPool.memory, s.layout.outflow!);
    expect(out[(8 * 16 + 8) * 16 + 11]).toBeGreaterThan(0);
    expect(out[(8 * 16 + 8) * 16 + 4]).toBe(0);
  });
});

test('a mesh as a region', () => {
  const cube = { id: 'r', shape: 'mesh', file: 'f', centre: CENTRE, soft: 0.1 };
  const recipe = recipeOf({ wind: { where: 'r' }, files: [{ id: 'f', name: 'cube.obj' }], regions: [cube] });
  const plan = compile(recipe, { assets: assetsOf(boxMesh(0.4, 0.4, 0.4)) }).plan;
  const s = new Simulation(plan, startThreadPool(Simulation.pages(plan, 1), 1));
  Object.assign(stateOf(s), { frame: 1, dtS: 0 });
  regions(stateOf(s));
  const w = readField(s.threadPool.memory, s.layout.regions[0]);
  const at = (i: number): number => w[(8 * 16 + 8) * 16 + i];
  expect([at(8), at(5), at(11)]).toEqual([1, 1, 1]);
  expect([at(1), at(14)]).toEqual([0, 0]);
});

test('keys move forces that stand once in a recipe', () => {
  const s = simulate(
    recipeOf({
      space: { sides: ALL_OPEN },
      wind: { speed: 0, grip: 0.01 },
      curves: [
        {
          path: 'wind/speed',
          keys: [
            { frame: 1, value: 0, ease: 'hold' },
            { frame: 3, value: 2, ease: 'hold' },
          ],
        },
      ],
    }),
  );
  s.advanceFrame();
  s.advanceFrame();
  expect(greatest(s.read('velocityX'))).toBe(0);
  for (let f = 0; f < 2; f++) s.advanceFrame();
  expect(greatest(s.read('velocityX'))).toBeGreaterThan(1.5);
});

test('wrong recipes are told where and why', () => {
  const faults = (parts: object): string => {
    try {
      parseRecipe(parts);
      return '';
    } catch (error) {
      return (error as Error).message;
    }
  };

  expect(faults({ regions: [{ id: 'a', joins: 'both', other: 'a' }] })).toMatch(
    /regions\[0\].other: Region would be joined with itself/,
  );
  expect(faults({ regions: [{ id: 'a' }], changes: [{ region: 'a', path: 'space/voxelSize' }] })).toMatch(
    /takes no keys/,
  );
  expect(
    faults({
      sources: [{ id: 's' }],
      regions: [{ id: 'a' }],
      changes: [{ region: 'a', path: 'sources/s/radius' }],
    }),
  ).toMatch(/cannot be another one inside a region/);
  expect(
    faults({
      regions: [
        {
          id: 'a',
          edge: [
            [0.5, 0],
            [0.2, 1],
          ],
        },
      ],
    }),
  ).toMatch(/must go from left to right/);
  expect(faults({ regions: [{ id: 'a', shape: 'formula', text: 'densty' }] })).toMatch(
    /regions\[0\].text: character 1: There is nothing called densty. Did you mean density\?/,
  );
  expect(faults({ wind: { where: 'gone' } })).toMatch(/wind.where: is the id of nothing in regions: gone/);
});
