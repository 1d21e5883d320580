// What sources give: amounts against integrals done by hand, ways to combine, trails, patterns, directions.
import type { Assets } from '@bramblemist/core/assets/assets';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import { emission } from '@bramblemist/core/step/emission';
import { stateOf, Simulation } from '@bramblemist/core/run/simulation';
import { assetsOf, ballMesh, boxMesh } from './meshes';
import { ALL_OPEN, greatest, recipeOf, sum } from './run';
import { fill, fillVelocity } from './physics/kit';

function start(recipe: Recipe, assets?: Assets): Simulation {
  const plan = compile(recipe, { assets }).plan;
  return new Simulation(plan, startThreadPool(Simulation.pages(plan, 1), 1));
}

/** One stage of emission over so many seconds, with nothing else of the step. */
function give(s: Simulation, dtS: number, timeS = 0, frame = 1): Simulation {
  emission(Object.assign(stateOf(s), { frame, timeS, dtS }));
  return s;
}

const mass = (s: Simulation): number => sum(s.read('density')) * s.window.voxelSizeM ** 3;
const PLACE = { id: 's', centre: [0.013, 0.79, -0.024], temperature: { how: 'none' } };
const FILE = { files: [{ id: 'f', name: 'thing.obj' }] };

describe('a second of density 1 is the volume of the shape, at three voxel sizes', () => {
  const π = Math.PI;
  const turned = { turn: [20, 35, -50] };
  test.each<[string, object, number]>([
    ['a sphere', { shape: 'sphere', radius: 0.3 }, (4 / 3) * π * 0.027],
    ['a box', { shape: 'box', size: [0.5, 0.3, 0.7] }, 0.105],
    ['a turned box', { shape: 'box', size: [0.5, 0.3, 0.7], ...turned }, 0.105],
    [
      'a turned patch much thinner than a voxel',
      { shape: 'plane', size: [0.7, 0.01, 0.6], ...turned },
      0.0042,
    ],
    ['a cylinder', { shape: 'cylinder', radius: 0.25, size: [1, 0.6, 1], ...turned }, π * 0.0625 * 0.6],
    ['a disc', { shape: 'disc', radius: 0.4, size: [1, 0.02, 1] }, π * 0.16 * 0.02],
    ['a ring', { shape: 'ring', radius: 0.35, tube: 0.1, ...turned }, 2 * π * π * 0.35 * 0.01],
    ['a thin ring', { shape: 'ring', radius: 0.35, tube: 0.015, ...turned }, 2 * π * π * 0.35 * 0.000225],
    [
      'a path of two pieces in line',
      {
        shape: 'path',
        radius: 0.08,
        points: [
          [-0.3, 0, 0],
          [0, 0, 0],
          [0.3, 0, 0],
        ],
        ...turned,
      },
      π * 0.0064 * 0.6 + (4 / 3) * π * 0.000512,
    ],
    [
      'a layer along a sphere',
      { shape: 'sphere', radius: 0.35, fill: 'surface', layer: 0.04 },
      (4 / 3) * π * (0.37 ** 3 - 0.33 ** 3),
    ],
    ['a mesh, filled', { shape: 'mesh', file: 'f', ...turned }, 0.4 * 0.3 * 0.6],
    [
      'a layer along a mesh',
      { shape: 'mesh', file: 'f', fill: 'surface', layer: 0.08, ...turned },
      2 * 0.08 * (0.12 + 0.24 + 0.18),
    ],
  ])('%s', (name, shape, volume) => {
    for (const voxelSize of [0.1, 0.05, 0.025]) {
      const s = start(
        recipeOf({
          space: { voxelSize },
          ...FILE,
          sources: [{ ...PLACE, ...shape, density: { amount: 1 } }],
        }),
        assetsOf(boxMesh(0.2, 0.15, 0.3)),
      );
      const given = mass(give(s, 1)) / volume;
      // the layer's corners are rounded, so that it holds a little less than its surface times its thickness
      const least = name.startsWith('a layer along a mesh') ? 0.95 : 0.98;
      expect(given).toBeGreaterThan(least);
      expect(given).toBeLessThan(1.02);
    }
  });
  test(
    'a painted mask limits a mesh to its dabs, however coarse the mesh is; wiping takes away, the ' +
      'threshold narrows',
    () => {
      const of = (paint: readonly (readonly number[])[], threshold = 0.05): Float32Array => {
        const layer = {
          ...PLACE,
          centre: [0, 0.8, 0],
          shape: 'mesh',
          file: 'f',
          fill: 'surface',
          layer: 0.1,
          mask: 'painted',
          softness: 0,
        };
        const recipe = recipeOf({
          space: { voxelSize: 0.05 },
          ...FILE,
          sources: [{ ...layer, paint, threshold, density: { amount: 1 } }],
        });
        return give(start(recipe, assetsOf(boxMesh(0.4, 0.2, 0.4))), 1).read('density');
      };

      expect(sum(of([]))).toBe(0);
      const one = of([[0.1, 0.2, 0.1, 0.2, 1]]);
      // a disc of 20 cm on the upper face: its soft rim is beyond the threshold at 88 % of the radius
      expect((sum(one) * 0.05 ** 3) / (Math.PI * (0.2 * 0.881) ** 2 * 0.1)).toBeCloseTo(1, 0);
      // nothing below
      for (let n = 0; n < one.length; n++)
        if (one[n] > 0) expect(Math.floor(n / 32) % 32).toBeGreaterThan(17);
      expect(sum(of([[0.1, 0.2, 0.1, 0.2, 1]], 0.6))).toBeLessThan(0.6 * sum(one));
      expect(
        sum(
          of([
            [0.1, 0.2, 0.1, 0.2, 1],
            [0.1, 0.2, 0.1, 2, -1],
          ]),
        ),
      ).toBeLessThan(0.05 * sum(one));
    },
  );
  test('a mesh of a ball, and its colours as a mask with a threshold', () => {
    const ball = ballMesh(0.35, 60);
    // red above
    const colours = ball.positions.map((_, n) => Number(n % 3 === 0 && ball.positions[n + 1] > 0));
    const layer = {
      ...PLACE,
      shape: 'mesh',
      file: 'f',
      fill: 'surface',
      layer: 0.04,
      density: { amount: 1 },
    };
    const of = (mask: string, threshold: number): number =>
      mass(
        give(
          start(
            recipeOf({
              space: { voxelSize: 0.05 },
              ...FILE,
              sources: [{ ...layer, mask, threshold, softness: 0 }],
            }),
            assetsOf({ ...ball, colours }),
          ),
          1,
        ),
      );
    const whole = of('none', 0.5);
    expect(whole / (4 * Math.PI * 0.35 ** 2 * 0.04)).toBeCloseTo(1, 1);
    expect(of('red', 0.5) / whole).toBeCloseTo(0.5, 1);
    expect(of('red', 1)).toBeLessThan(of('red', 0.1));
    expect(of('green', 0.5)).toBe(0);
  });
});

describe('ways to combine', () => {
  const at = (density: object, before: number, dtS = 0.5): number => {
    const s = start(
      recipeOf({ sources: [{ ...PLACE, shape: 'box', size: [0.6, 0.6, 0.6], within: 0.5, density }] }),
    );
    fill(s, 'density', () => before);
    const { nx, ny } = give(s, dtS).window.lattice;
    return s.read('density')[(8 * ny + 8) * nx + 8]; // a cell well inside
  };

  test.each<[string, number, number, number]>([
    ['add', 2, 0.3, 0.3 + 1],
    ['raise', 2, 0.3, 2],
    ['raise', 2, 5, 5],
    ['replace', 2, 5, 2],
    ['blend', 2, 5, 2 + 3 * Math.exp(-1)],
    ['none', 2, 0.3, 0.3],
    ['add', -2, 0.3, 0],
  ])('%s %d to %d', (how, amount, before, after) => {
    expect(at({ how, amount }, before)).toBeCloseTo(after, 5);
  });
  test('temperature below the air is lowered to at most', () => {
    const s = start(
      recipeOf({
        sources: [
          { ...PLACE, radius: 0.3, density: { how: 'none' }, temperature: { how: 'raise', amount: -10 } },
        ],
      }),
    );
    fill(s, 'temperature', (x) => (x > 0 ? -30 : 5));
    const t = give(s, 0.1).read('temperature');
    expect(Math.min(...t)).toBe(-30);
    const { nx, ny } = s.window.lattice;
    expect(t[(8 * ny + 8) * nx + 7]).toBe(-10);
  });
  test('colour alone paints what is there and gives nothing off', () => {
    const s = start(
      recipeOf({
        keep: { colour: true },
        sources: [
          {
            ...PLACE,
            radius: 0.3,
            density: { how: 'none' },
            colour: { how: 'replace', amount: [1, 0, 0.5] },
          },
        ],
      }),
    );
    for (const c of ['density', 'red', 'green', 'blue'] as const) fill(s, c, () => 2);
    const { nx, ny } = give(s, 0.1).window.lattice;
    const cell = (8 * ny + 8) * nx + 8;
    expect(sum(s.read('density'))).toBe(2 * s.read('density').length);
    expect((['red', 'green', 'blue'] as const).map((c) => s.read(c)[cell])).toEqual([2, 0, 1]);
  });
  test.each(['fine', 'soft'])('carried %sly, nothing is older than the run', (density) => {
    const s = start(
      recipeOf({
        space: { size: [1.6, 2.4, 1.6], corner: [-0.8, 0, -0.8], voxelSize: 0.08, lastFrame: 24 },
        method: { density },
        sources: [
          {
            id: 'a',
            shape: 'sphere',
            centre: [0, 0.5, 0],
            radius: 0.3,
            density: { amount: 3 },
            temperature: { amount: 40 },
            age: { how: 'replace', amount: 0.5 },
          },
        ],
        buoyancy: { lift: 0.033 },
        turbulence: { strength: 0.6, size: 0.4 },
        keep: { age: true },
      }),
    );
    for (let frame = 1; frame <= 24; frame++) s.advanceFrame();
    const thick = s.read('density');
    const ages = s.read('age').map((amount, n) => (thick[n] > 1e-4 ? amount / thick[n] : 0));
    expect(Math.max(...ages)).toBeLessThan(1.5 * (1 + 1e-5));
    expect(Math.max(...ages)).toBeGreaterThan(1);
    expect(Math.min(...ages)).toBeGreaterThanOrEqual(0);
  });
  test('what is taken away takes its colour and age along', () => {
    const s = start(
      recipeOf({
        keep: { colour: true, age: true },
        sources: [
          { ...PLACE, radius: 0.3, density: { how: 'replace', amount: 0.5 }, colour: { how: 'none' } },
        ],
      }),
    );
    fill(s, 'density', () => 2);
    fill(s, 'red', () => 1);
    fill(s, 'age', () => 6);
    const { nx, ny } = give(s, 0.1).window.lattice;
    const cell = (8 * ny + 8) * nx + 8;
    expect(s.read('red')[cell]).toBeCloseTo(0.25);
    expect(s.read('age')[cell]).toBeCloseTo(1.5);
  });
  test('nothing is written inside an obstacle', () => {
    const s = start(
      recipeOf({
        sources: [{ ...PLACE, radius: 0.4, density: { amount: 1 } }],
        obstacles: [{ id: 'o', shape: 'box', centre: [0.4, 0.8, 0], size: [0.8, 1.2, 1.2] }],
      }),
    );
    const d = give(s, 1).read('density');
    const { nx } = s.window.lattice;
    expect(sum(d)).toBeGreaterThan(10);
    expect(greatest(d.filter((_, n) => n % nx >= 8 && n % nx < 16))).toBe(0);
  });
});

describe('time', () => {
  test('a ball that crosses twenty voxels in a frame leaves a trail without gaps', () => {
    const moving = {
      ...PLACE,
      centre: [-0.6, 0.8, 0],
      radius: 0.08,
      motion: 'moves',
      density: { amount: 1 },
    };
    const recipe = recipeOf({
      space: { voxelSize: 0.05, frameRate: 25 },
      sources: [{ ...moving, velocity: [25, 0, 0] }],
    });
    const s = give(start(recipe), 0.04);
    const { nx, ny, nz } = s.window.lattice;
    const d = s.read('density');
    const along = Array.from({ length: nx }, (_, i) => {
      let m = 0;
      for (let k = 0; k < nz; k++) for (let j = 0; j < ny; j++) m += d[(k * ny + j) * nx + i];
      return m;
    });
    const inner = along.slice(6, 22); // the ball was there as a whole
    expect(Math.min(...inner)).toBeGreaterThan(0);
    expect(Math.max(...inner) / Math.min(...inner)).toBeLessThan(1.15);
    expect((sum(d) * 0.05 ** 3) / (0.04 * (4 / 3) * Math.PI * 0.08 ** 3)).toBeCloseTo(1, 1);
  });
  test('bursts give off for their part of the time, also within one substep', () => {
    const s = (dtS: number, timeS: number): number =>
      mass(
        give(
          start(
            recipeOf({
              sources: [
                {
                  ...PLACE,
                  radius: 0.3,
                  density: { amount: 1 },
                  timing: 'bursts',
                  burstEvery: 0.5,
                  burstLength: 0.1,
                },
              ],
            }),
          ),
          dtS,
          timeS,
        ),
      ) /
      (0.036 * Math.PI);
    expect(s(1, 0)).toBeCloseTo(0.2, 2);
    expect(s(0.1, 0.2)).toBe(0);
    expect(s(0.2, 0.45)).toBeCloseTo(0.1, 2);
  });
  test('keys move a source and what it gives', () => {
    const recipe = recipeOf({
      sources: [{ ...PLACE, centre: [-0.4, 0.8, 0], radius: 0.15, density: { amount: 1 } }],
      curves: [
        {
          path: 'sources/s/density.amount',
          keys: [
            { frame: 1, value: 0, ease: 'even' },
            { frame: 11, value: 4, ease: 'even' },
          ],
        },
        {
          path: 'sources/s/centre.0',
          keys: [
            { frame: 1, value: -0.4, ease: 'even' },
            { frame: 11, value: 0.4, ease: 'even' },
          ],
        },
      ],
    });
    const s = start(recipe);
    const frameS = s.plan.frameS;
    give(s, frameS, 5 * frameS - frameS / 2, 6); // about the end of frame 5
    const d = s.read('density');
    const { nx } = s.window.lattice;
    const middle = (d.reduce((a, v, n) => a + v * ((n % nx) + 0.5), 0) / sum(d) + s.window.origin[0]) * 0.1;
    expect(middle).toBeCloseTo(-0.4 + 0.8 * 0.4, 1);
    expect(mass(s) / (frameS * (4 / 3) * Math.PI * 0.15 ** 3)).toBeCloseTo(1.6, 1);
  });
});

describe('speed', () => {
  const pushed = (push: object, more: object = {}): Simulation =>
    give(
      start(
        recipeOf({
          space: { sides: ALL_OPEN },
          sources: [
            {
              ...PLACE,
              centre: [0, 0.8, 0],
              radius: 0.35,
              density: { how: 'none' },
              push: { how: 'replace', ...push },
              ...more,
            },
          ],
        }),
      ),
      0.04,
    );
  const at = (s: Simulation, x: number, y: number, z: number): number[] =>
    (['velocityX', 'velocityY', 'velocityZ'] as const).map((c, a) => {
      const { nx, ny, nz } = s.window.lattice;
      const m = [nx + Number(a === 0), ny + Number(a === 1)];
      const [i, j, k] = [x + 0.8, y, z + 0.8].map((v, b) => Math.round(v * 10 - (b === a ? 0 : 0.5)));
      expect(k).toBeLessThan(nz + 1);
      return s.read(c)[(k * m[1] + j) * m[0] + i];
    });
  test('along a direction, alone, without any density', () => {
    const s = pushed({ mode: 'along', speed: 3, direction: [0, 0, -2] });
    expect(at(s, 0, 0.8, 0)).toEqual([0, 0, -3]);
    expect(sum(s.read('density'))).toBe(0);
    expect(at(s, 0.7, 0.8, 0)).toEqual([0, 0, 0]);
  });
  test('away from a point, and out of the surface', () => {
    for (const push of [
      { mode: 'point', speed: 2, point: [0, 0.8, 0] },
      { mode: 'normal', speed: 2 },
    ]) {
      const s = pushed(push);
      expect(at(s, 0.2, 0.8, 0)[0]).toBeGreaterThan(1.8);
      expect(at(s, -0.2, 0.8, 0)[0]).toBeLessThan(-1.8);
      expect(at(s, 0, 1, 0)[1]).toBeGreaterThan(1.8);
    }
  });
  test('times its own motion, from a steady speed, a spin, and keys', () => {
    expect(
      at(pushed({ mode: 'motion', speed: 1 }, { motion: 'moves', velocity: [1, 0, 0] }), 0, 0.8, 0)[0],
    ).toBeCloseTo(1);
    const spun = pushed({ mode: 'motion', speed: 2 }, { motion: 'moves', spin: 90 });
    expect(at(spun, 0.2, 0.8, 0)[2]).toBeCloseTo((-2 * Math.PI * 0.25) / 2, 1);
    const keyed = start(
      recipeOf({
        sources: [
          {
            ...PLACE,
            radius: 0.35,
            density: { how: 'none' },
            push: { how: 'replace', mode: 'motion', speed: 1 },
          },
        ],
        curves: [
          {
            path: 'sources/s/centre.1',
            keys: [
              { frame: 0, value: 0.7, ease: 'even' },
              { frame: 10, value: 0.9, ease: 'even' },
            ],
          },
        ],
      }),
    );
    expect(at(give(keyed, 0.04, 0.08), 0, 0.8, 0)[1]).toBeCloseTo(0.5, 4); // 0.2 m in 10 frames of 0.04 s
  });
  test(
    'raising does not brake air that is faster, and spread turns it ' +
      'aside without changing the mean much',
    () => {
      const s = start(
        recipeOf({
          space: { sides: ALL_OPEN },
          sources: [
            {
              ...PLACE,
              radius: 0.35,
              density: { how: 'none' },
              push: { how: 'raise', mode: 'along', direction: [1, 0, 0], speed: 1 },
            },
          ],
        }),
      );
      fillVelocity(s, () => [3, 0, 0]);
      expect(at(give(s, 0.04), 0, 0.8, 0)[0]).toBe(3);
      const aside = pushed({ mode: 'along', direction: [1, 0, 0], speed: 2, spread: 40, lump: 0.1 });
      expect(greatest(aside.read('velocityY'))).toBeGreaterThan(0.3);
      expect(greatest(aside.read('velocityX'))).toBeLessThanOrEqual(2.001);
    },
  );
});

describe('patterns', () => {
  const source = { ...PLACE, centre: [0, 0.8, 0], shape: 'box', size: [1.2, 1, 1.2], density: { amount: 1 } };
  const patterned = (pattern: object, assets?: Assets, more: object = {}): Simulation =>
    give(
      start(
        recipeOf({
          space: { voxelSize: 0.05 },
          ...FILE,
          sources: [source],
          patterns: [{ id: 'p', source: 's', ...pattern }],
          ...more,
        }),
        assets,
      ),
      1,
    );
  test.each(['value', 'cellular', 'billow'])(
    '%s: uneven, between 0 and the whole, another with another seed, the same again',
    (noise) => {
      const d = patterned({ noise, size: 0.2, contrast: 1 }).read('density');
      const given = d.filter((v) => v > 0);
      const mean = sum(given) / given.length;
      const spread = Math.sqrt(given.reduce((a, v) => a + (v - mean) ** 2, 0) / given.length);
      expect(greatest(d)).toBeLessThanOrEqual(1.0001);
      expect(spread).toBeGreaterThan(0.1);
      expect(patterned({ noise, size: 0.2, contrast: 1, seed: 2 }).read('density')).not.toEqual(d);
      expect(patterned({ noise, size: 0.2, contrast: 1 }).read('density')).toEqual(d);
      expect(mass(patterned({ noise, strength: 0 }))).toBeCloseTo(1.44, 2);
    },
  );
  test('a picture as the amount and as the colour, the right way up from above', () => {
    // left half dark, right half light; the far (upper) half red
    const planes = Float32Array.from([0, 0, 1, 1, 0, 1, 0, 1, 0, 0, 0, 0, 0, 1, 0, 1]);
    const picture = { noise: 'picture', file: 'f', across: 1.2, contrast: 100 };
    const assets = assetsOf(boxMesh(1, 1, 1), { width: 2, height: 2, planes });
    const s = patterned(picture, assets);
    const { nx, ny } = s.window.lattice;
    const cell = (x: number, z: number): number =>
      (Math.round((z + 0.8) / 0.05) * ny + 16) * nx + Math.round((x + 0.8) / 0.05);
    expect(s.read('density')[cell(-0.4, 0)]).toBeCloseTo(0);
    expect(s.read('density')[cell(0.4, 0)]).toBeCloseTo(1);
    const dyed = patterned({ ...picture, use: 'colour' }, assets, { keep: { colour: true } });
    expect(dyed.read('red')[cell(0, -0.5)]).toBeCloseTo(1);
    expect(dyed.read('red')[cell(0, 0.5)]).toBeCloseTo(0);
    expect(dyed.read('blue')[cell(0, 0)]).toBeCloseTo(0);
  });
});

describe('obstacles of every shape', () => {
  const closedVolume = (obstacle: object, assets?: Assets): number => {
    const s = start(
      recipeOf({
        space: { voxelSize: 0.05 },
        ...FILE,
        obstacles: [{ id: 'o', centre: [0.013, 0.79, -0.024], ...obstacle }],
        sources: [
          { ...PLACE, shape: 'box', centre: [0, 0.8, 0], size: [1.6, 1.6, 1.6], density: { amount: 1 } },
        ],
      }),
      assets,
    );
    return 1.6 ** 3 - mass(give(s, 1)); // cells that are solid hold nothing
  };

  test.each<[string, object, number, number]>([
    [
      'cylinder',
      { shape: 'cylinder', radius: 0.4, size: [1, 0.8, 1], turn: [30, 0, 20] },
      Math.PI * 0.16 * 0.8,
      0.3,
    ],
    ['ring', { shape: 'ring', radius: 0.4, tube: 0.2 }, 2 * Math.PI ** 2 * 0.4 * 0.04, 0.4],
    ['ground', { shape: 'ground', centre: [0, 0.5, 0] }, 1.6 * 1.6 * 0.5, 0.05],
    [
      'vessel',
      { shape: 'sphere', radius: 0.7, facing: 'vessel' },
      1.6 ** 3 - (4 / 3) * Math.PI * 0.343,
      0.15,
    ],
    ['mesh', { shape: 'mesh', file: 'f', turn: [0, 30, 0] }, 0.8 * 0.8 * 0.8, 0.25],
    ['grown mesh', { shape: 'mesh', file: 'f', grow: 0.1 }, 1, 0.2],
  ])('%s closes about its volume', (_name, obstacle, volume, part) => {
    const closed = closedVolume(obstacle, assetsOf(boxMesh(0.4, 0.4, 0.4)));
    // cells at the surface are open in part and hold medium
    expect(Math.abs(closed / volume - 1)).toBeLessThan(part);
  });
  test('an obstacle that keys move drives the air at its own speed', () => {
    const s = start(
      recipeOf({
        space: { sides: ALL_OPEN },
        obstacles: [{ id: 'o', shape: 'box', centre: [-0.3, 0.8, 0], size: [0.3, 0.6, 0.6] }],
        curves: [
          {
            path: 'obstacles/o/centre.0',
            keys: [
              { frame: 0, value: -0.3, ease: 'even' },
              { frame: 20, value: 0.3, ease: 'even' },
            ],
          },
        ],
      }),
    );
    for (let f = 0; f < 5; f++) s.advanceFrame();
    // 0.6 m in 20 frames of 0.04 s; beside its front the air is pushed ahead
    expect(Math.max(...s.read('velocityX'))).toBeGreaterThan(0.6);
    expect(Math.max(...s.read('velocityX'))).toBeLessThan(1.1);
  });
  test('a file that is not there, and a mask without colours, are named', () => {
    expect(() => start(recipeOf({ obstacles: [{ id: 'o', name: 'Steps', shape: 'mesh' }] }))).toThrow(
      'Steps has no file yet',
    );
    expect(() => start(recipeOf({ ...FILE, obstacles: [{ id: 'o', shape: 'mesh', file: 'f' }] }))).toThrow(
      'thing.obj',
    );
    expect(() =>
      start(
        recipeOf({ ...FILE, sources: [{ ...PLACE, shape: 'mesh', file: 'f', mask: 'red' }] }),
        assetsOf(boxMesh(1, 1, 1)),
      ),
    ).toThrow(/no colours/);
  });
});

test('what a still source covers is made once, and anew where its look or the window is another one', () => {
  const recipe = recipeOf({
    sources: [{ ...PLACE, radius: 0.3 }],
    curves: [
      {
        path: 'sources/s/radius',
        keys: [
          { frame: 4, value: 0.3, ease: 'even' },
          { frame: 8, value: 0.5, ease: 'even' },
        ],
      },
    ],
    patterns: [{ id: 'p', source: 's', noise: 'value', size: 0.2 }],
    buoyancy: { lift: 0, weight: 0.2 },
    window: { mode: 'fit', margin: 4 },
  });
  const [kept, anew] = [start(recipe), start(recipe)];
  for (let f = 0; f < 10; f++) {
    kept.advanceFrame();
    stateOf(anew).covers.clear();
    anew.advanceFrame();
    expect(stateOf(kept).covers.size).toBe(1);
    expect(kept.checksum()).toBe(anew.checksum());
  }
});
