// What is seen of how the air is moved, against the run itself; and glimpses of a frame.
import { coarseFlowAt } from '@bramblemist/core/volume/coarse-flow';
import { takeCoarseFlow } from '@bramblemist/core/cache/take-preview';
import { dissipationShare } from '@bramblemist/core/recipe/parts/dissipation';
import {
  contentsFrom,
  longestEdge,
  ROUGH,
  seeForces,
  seeRegion,
  slabOf,
  SLICED,
  sliceForce,
  sliceFormula,
  withFormulaAlone,
  type Slice,
} from '@bramblemist/core/analysis/seeing';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { fill, fillVelocity, start } from './physics/kit';
import { ALL_OPEN, recipeOf, simulate } from './run';

const OPEN = { space: { sides: ALL_OPEN } };
const standing = (
  recipe: Recipe,
  frame = 1,
  glimpse: Parameters<typeof contentsFrom>[1] = null,
): Simulation => {
  const s = start(recipe, 1, longestEdge(recipe) / ROUGH);
  s.restore(frame, contentsFrom(s.plan, glimpse));
  return s;
};

const slab = (
  recipe: Recipe,
  axis: 0 | 1 | 2,
  at: number,
  frame = 1,
  glimpse: Parameters<typeof contentsFrom>[1] = null,
): Simulation => {
  const own = slabOf(recipe, axis, at);
  const s = start(own, 1, longestEdge(recipe) / SLICED);
  s.restore(frame, contentsFrom(s.plan, glimpse));
  return s;
};

/** The value of a slice nearest to a place along its two axes. */
const on = ({ values, dims, corner, cellM }: Slice, [a, b]: readonly [number, number]): number =>
  values[Math.floor((b - corner[1]) / cellM) * dims[0] + Math.floor((a - corner[0]) / cellM)];

test('a glimpse is the mean of its cells, and is read back between them', () => {
  const s = simulate(recipeOf({ space: { voxelSize: 0.05 } }));
  fill(s, 'density', (x, y) => 2 * x + y);
  fill(s, 'temperature', (_x, _y, z) => 10 * z);
  fillVelocity(s, (x, y, z) => [y, z, x]);
  const g = takeCoarseFlow(s, 16);
  expect([g.dims, g.cellM, g.corner]).toEqual([
    [16, 16, 16],
    0.1,
    [-0.8, 0, -0.8].map((v) => expect.closeTo(v, 6) as number),
  ]);
  for (const [x, y, z] of [
    [0.1, 0.4, -0.2],
    [0.33, 1.1, 0.5],
    [-0.6, 0.2, 0.6],
  ])
    [y, z, x, 2 * x + y, 10 * z].forEach((v, channel) =>
      expect(coarseFlowAt(g, channel, x, y, z)).toBeCloseTo(v, 5),
    );
  // level beyond its middle-most cells
  expect(coarseFlowAt(g, 4, 0, 0.5, 9)).toBeCloseTo(7.5, 4);
});

describe('arrows', () => {
  test('wind blows its way everywhere before anything is run', () => {
    const { places, pushes, spacingM } = seeForces(
      standing(recipeOf({ ...OPEN, wind: { speed: 2, heading: 90, grip: 0.5 } })),
    );
    expect(places.length).toBeGreaterThan(300);
    expect(spacingM).toBeGreaterThan(0.05);
    const expected = (2 * (1 - Math.exp(-0.04 / 0.5))) / 0.04;
    for (let n = 0; n < places.length; n += 3) {
      expect(pushes.wind[n + 2]).toBeCloseTo(expected, 3);
      expect(Math.abs(pushes.wind[n])).toBeLessThan(1e-3);
    }

    expect(Object.keys(pushes).sort()).toEqual(['all', 'wind']);
  });
  test('forces add up to all of them; those of the medium stand where a glimpse shows it', () => {
    const recipe = recipeOf({
      ...OPEN,
      buoyancy: { lift: 0.03, weight: 0.5 },
      wind: { speed: 1 },
      turbulence: { strength: 1, size: 0.5 },
      currents: [{ id: 'j', does: 'jet', centre: [0, 0.8, 0] }],
      formulas: [{ text: 'push += vec(1, 0, 0) * m / s ** 2', when: 'pushed' }],
    });
    const run = simulate(recipe);
    fill(run, 'density', (_x, y) => Number(y < 0.6));
    const { places, pushes } = seeForces(standing(recipe, 5, takeCoarseFlow(run, 32)));
    expect(Object.keys(pushes).sort()).toEqual([
      'all',
      'buoyancy',
      'currents/j',
      'formulas',
      'turbulence',
      'wind',
    ]);
    const { all, ...each } = pushes;
    for (let n = 0; n < all.length; n++)
      expect(Object.values(each).reduce((a, f) => a + f[n], 0)).toBeCloseTo(all[n], 4);
    for (let n = 0; n < places.length; n += 3)
      if (Math.abs(places[n + 1] - 0.6) > 0.1)
        expect(pushes.buoyancy[n + 1]).toBeCloseTo(places[n + 1] < 0.6 ? -0.5 : 0, 4);
  });
});

test('the veil of a region, at the time of the frame', () => {
  const recipe = recipeOf({
    ...OPEN,
    wind: { speed: 1, where: 'r' },
    regions: [
      {
        id: 'r',
        shape: 'sphere',
        centre: [-0.4, 0.8, 0],
        radius: 0.2,
        motion: 'moves',
        velocity: [1, 0, 0],
        soft: 0,
      },
      { id: 'idle', shape: 'sphere' },
    ],
  });
  const at = (frame: number, x: number): number => {
    const { bytes, dims, corner, cellM } = seeRegion(standing(recipe, frame), 'r')!;
    const [i, j, k] = [x, 0.8, 0].map((v, a) => Math.floor((v - corner[a]) / cellM + 1e-6));
    return bytes[(k * dims[1] + j) * dims[0] + i];
  };

  expect([at(0, -0.4), at(0, 0.4)]).toEqual([255, 0]);
  expect([at(20, -0.4), at(20, 0.4)]).toEqual([0, 255]); // 0.8 s later
  expect(seeRegion(standing(recipe), 'idle')).toBeNull();
});

describe('slices', () => {
  test('a force on planes across each axis', () => {
    const recipe = recipeOf({
      ...OPEN,
      currents: [
        {
          id: 'j',
          does: 'jet',
          shape: 'box',
          centre: [0.4, 0.4, -0.4],
          size: [0.4, 0.4, 0.4],
          soft: 0,
          speed: 2,
          within: 0.04,
        },
      ],
    });
    const push = (2 * (1 - Math.exp(-1))) / 0.04;
    const places = [
      [0, 0.4, [0.4, -0.4], [1.2, 0.4]],
      [1, 0.4, [0.4, -0.4], [-0.4, 0.4]],
      [2, -0.4, [0.4, 0.4], [-0.4, 1.2]],
    ] as const;
    for (const [axis, at, inside, outside] of places) {
      const slice = sliceForce(slab(recipe, axis, at), axis, at, 'currents/j');
      expect(on(slice, inside)).toBeCloseTo(push, 2);
      expect(on(slice, outside)).toBe(0);
      expect(Math.abs(slice.atM - at)).toBeLessThan(slice.cellM);
      expect(slice.unit).toBe('m/s²');
    }

    // a plane beside it, a force that there is not, all together
    expect(Math.max(...sliceForce(slab(recipe, 2, 0.4), 2, 0.4, 'currents/j').values)).toBe(0);
    expect(on(sliceForce(slab(recipe, 2, -0.4), 2, -0.4, 'all'), [0.4, 0.4])).toBeCloseTo(push, 2);
  });
  test('turbulence moves from frame to frame', () => {
    const recipe = recipeOf({ ...OPEN, turbulence: { strength: 1, size: 0.6, period: 1 } });
    const [a, b] = [1, 6].map((frame) => sliceForce(slab(recipe, 2, 0, frame), 2, 0, 'turbulence').values);
    expect(Math.max(...a)).toBeGreaterThan(0.5);
    expect(a).not.toEqual(b);
  });
  test('what a formula makes of a channel, and of the push', () => {
    const recipe = recipeOf({ ...OPEN, formulas: [{ text: 'density = 0', on: false, from: 500 }] });
    const run = simulate(recipe);
    fill(run, 'density', (x) => 1 + x);
    const g = takeCoarseFlow(run, 32);
    const seen = (text: string, when: string): ReturnType<typeof sliceFormula> => {
      const own = withFormulaAlone(
        { ...recipe, formulas: [{ ...recipe.formulas[0], when: when as 'end' }] },
        0,
        text,
      );
      return sliceFormula(slab(own, 2, 0, 3, g), 2, 0);
    };

    const { channel, before, after } = seen('density *= 2 * (y > 0.8)', 'end');
    expect(channel).toBe('density');
    expect(on(before, [0.3, 0.4])).toBeCloseTo(1.3, 1);
    expect(on(after, [0.3, 0.4])).toBe(0);
    expect(on(after, [0.3, 1.2]) / on(before, [0.3, 1.2])).toBeCloseTo(2, 5);
    const pushed = seen('push += vec(0, 3, 4) * m / s ** 2', 'pushed');
    expect([pushed.channel, pushed.before.unit]).toEqual(['push', 'm/s²']);
    expect(on(pushed.before, [0, 0.5])).toBe(0);
    expect(on(pushed.after, [0, 0.5])).toBeCloseTo(5, 5);
  });
});

test('the drawn half-life is that of the run', () => {
  const dissipation = { density: 0.5, temperature: 0, bias: 0.6, even: 1 };
  const s = simulate(recipeOf({ dissipation }));
  fill(s, 'density', () => 1e-3);
  for (let f = 0; f < 10; f++) s.advanceFrame();
  expect(s.read('density')[0] / 1e-3).toBeCloseTo(dissipationShare(0.5, 0.4, dissipation, 1e-3), 3);
  expect(dissipationShare(0, 9, dissipation, 1)).toBe(1);
});
