// Currents: each against what it says, limited to its place, at three voxel sizes.
import { stateOf } from '@bramblemist/core/run/simulation';
import { added, pasted, textOf } from '@bramblemist/core/presets/edit';
import { STARTERS } from '@bramblemist/core/presets/new-parts';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { forces } from '@bramblemist/core/step/forces/forces';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { fill } from './physics/kit';
import { ALL_OPEN, recipeOf, simulate } from './run';

const CENTRE = [0, 0.8, 0];
const ball = { id: 'c', shape: 'sphere', centre: CENTRE, radius: 0.4, soft: 0, within: 0.25 };

/** Forces alone, for so long, in so many equal parts. */
function pushed(
  current: object,
  { seconds = 0.5, parts = 1, voxelSize = 0.05, before = [0, 0, 0] } = {},
): Simulation {
  const s = simulate(recipeOf({ space: { voxelSize, sides: ALL_OPEN }, currents: [current] }));
  (['velocityX', 'velocityY', 'velocityZ'] as const).forEach((c, a) => fill(s, c, () => before[a]));
  Object.assign(stateOf(s), { frame: 1, dtS: seconds / parts });
  for (let n = 0; n < parts; n++) forces(stateOf(s), seconds / parts);
  return s;
}

/** A component on the face nearest to a place, and where that face is. */
function at(
  s: Simulation,
  axis: 0 | 1 | 2,
  place: readonly number[],
): { value: number; x: number; y: number; z: number } {
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  const m = [l.nx + Number(axis === 0), l.ny + Number(axis === 1)];
  const shift = [0, 1, 2].map((a) => (a === axis ? 0 : 0.5));
  const c = place.map((p, a) => Math.round(p / h - origin[a] - shift[a]));
  const [x, y, z] = c.map((v, a) => (v + origin[a] + shift[a]) * h);
  return {
    value: s.read((['velocityX', 'velocityY', 'velocityZ'] as const)[axis])[
      (c[2] * m[1] + c[1]) * m[0] + c[0]
    ],
    x,
    y,
    z,
  };
}

const drawn = 1 - Math.exp(-0.5 / 0.25);

describe.each([0.1, 0.05, 0.025])('at voxels of %s m', (voxelSize) => {
  test('a jet draws the air to its speed in its direction', () => {
    const s = pushed({ ...ball, does: 'jet', direction: [0, 3, 4], speed: 2 }, { voxelSize });
    expect(at(s, 1, CENTRE).value).toBeCloseTo(1.2 * drawn, 4);
    expect(at(s, 2, CENTRE).value).toBeCloseTo(1.6 * drawn, 4);
  });
  test('a spin is that of a solid body', () => {
    const s = pushed({ ...ball, does: 'spin', direction: [0, 1, 0], turning: 90 }, { voxelSize, seconds: 5 });
    const u = at(s, 0, [0, 0.8, 0.2]);
    const w = at(s, 2, [0.2, 0.8, 0]);
    expect(u.value).toBeCloseTo((Math.PI / 2) * u.z, 4);
    expect(w.value).toBeCloseTo((-Math.PI / 2) * w.x, 4);
  });
  test('a shear grows with the height over its middle', () => {
    const s = pushed({ ...ball, does: 'shear', direction: [1, 0, 0], shear: 3 }, { voxelSize, seconds: 5 });
    const u = at(s, 0, [0, 1, 0]);
    expect(u.value).toBeCloseTo(3 * (u.y - 0.8), 4);
  });
  test('a pull accelerates toward the middle', () => {
    const s = pushed({ ...ball, does: 'point', pull: 3 }, { voxelSize, seconds: 0.1 });
    expect(Math.abs(at(s, 0, [0.3, 0.8, 0]).value / -0.3 - 1)).toBeLessThan(0.04);
    expect(Math.abs(at(s, 0, [-0.3, 0.8, 0]).value / 0.3 - 1)).toBeLessThan(0.04);
  });
});

test('the air comes to rest inside, as a drag does at any number of substeps; outside it goes on', () => {
  for (const parts of [1, 8]) {
    const s = pushed({ ...ball, does: 'still' }, { parts, before: [1, -0.5, 0.25] });
    expect(at(s, 0, CENTRE).value).toBeCloseTo(1 - drawn, 4);
    expect(at(s, 1, CENTRE).value).toBeCloseTo(-0.5 * (1 - drawn), 4);
    expect(at(s, 0, [0, 0.8, 0.6]).value).toBe(1);
  }
});
test('a path leads along its corners, pulls to them and turns about them', () => {
  const path = {
    ...ball,
    does: 'path',
    shape: 'path',
    radius: 0.3,
    speed: 2,
    toPath: 4,
    turning: 0,
    points: [
      [-0.5, 0, 0],
      [0.5, 0, 0],
    ],
  };
  const s = pushed(path, { seconds: 5 });
  const above = at(s, 1, [0, 0.95, 0]);
  expect(at(s, 0, CENTRE).value).toBeCloseTo(2, 3);
  expect(above.value).toBeCloseTo(-4 * (above.y - 0.8), 3);
  const turning = at(pushed({ ...path, toPath: 0, turning: 90 }, { seconds: 5 }), 2, [0, 0.95, 0]);
  expect(turning.value).toBeCloseTo((Math.PI / 2) * (turning.y - 0.8), 3);
});
test('it fades over its soft edge', () => {
  const s = pushed(
    { ...ball, does: 'jet', direction: [1, 0, 0], speed: 1, radius: 0.2, soft: 0.3 },
    { seconds: 5 },
  );
  const along = [0, 0.15, 0.3, 0.4, 0.55].map((z) => at(s, 0, [0, 0.8, z]).value);
  expect(along[0]).toBeCloseTo(1, 4);
  for (let n = 1; n < along.length; n++) expect(along[n]).toBeLessThanOrEqual(along[n - 1] + 1e-6);
  expect(along[2]).toBeGreaterThan(0.5);
  expect(along[3]).toBeLessThan(0.5);
  expect(along[4]).toBe(0);
});
test('it acts in its frames only, and its strength takes keys', () => {
  const s = pushed({ ...ball, does: 'jet', from: 2 });
  expect(Math.max(...s.read('velocityY'))).toBe(0);
  const keyed = simulate(
    recipeOf({
      space: { sides: ALL_OPEN },
      currents: [{ ...ball, does: 'jet', speed: 0, within: 0.01 }],
      curves: [
        {
          path: 'currents/c/speed',
          keys: [
            { frame: 1, value: 0, ease: 'hold' },
            { frame: 3, value: 2, ease: 'hold' },
          ],
        },
      ],
    }),
  );
  keyed.advanceFrame();
  expect(Math.max(...keyed.read('velocityY'))).toBe(0);
  for (let f = 0; f < 3; f++) keyed.advanceFrame();
  expect(Math.max(...keyed.read('velocityY'))).toBeGreaterThan(0.5);
});
test('each can be added by name, moves the air, and is taken along as text', () => {
  // those that follow a volume need a file first, see volumes.test.ts
  for (const starter of STARTERS.currents.filter((s) => s.name !== 'Air of a volume')) {
    const recipe = parseRecipe(added(recipeOf(), 'currents', starter, 'new'));
    const s = simulate({ ...recipe, space: { ...recipe.space, sides: ALL_OPEN as never } });
    if (starter.name === 'Lee') fill(s, 'velocityX', () => 1);
    const before = s.checksum();
    s.advanceFrame();
    expect(s.checksum()).not.toBe(before);
    expect(pasted(recipeOf(), textOf(recipe, 'currents', 'new'), () => 'other').currents).toMatchObject([
      { id: 'other', name: starter.name },
    ]);
  }
});
