import { fieldView } from '@bramblemist/core/grid/memory';
import { decodeSrgb, encodeSrgb, fromBytes, toBytes } from '@bramblemist/core/look/picture';
import { lightSweep } from '@bramblemist/core/look/sweep';
import { poseOf } from '@bramblemist/core/geometry/pose';
import { obstacleHoldout } from '@bramblemist/core/look/holdout';
import type { ObstaclePart } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import type { Plan } from '@bramblemist/core/plan/plan';
import { defaultShape } from './shapes';
import { recipeOf, simulate } from './run';

const standing = (...obstacles: ObstaclePart[]): Plan => compile(recipeOf({ obstacles })).plan;

test('the quick light of previews follows Beer–Lambert along its axis', () => {
  const dims: [number, number, number] = [6, 10, 5];
  const bytes = new Uint8Array(300).fill(128);
  const light = lightSweep({ dims, bytes, greatest: 1, voxelSizeM: 0.1 }, [0, 1, 0], 3);
  for (let j = 0; j < 10; j++)
    expect(light[(2 * 10 + j) * 6 + 3]).toBeCloseTo(255 * Math.exp((-(9 - j) * 0.1 * 3 * 128) / 255), -0.4);
});

describe('obstacles', () => {
  test('the closed part of the faces across a sphere is its cross-section', () => {
    const s = simulate(
      recipeOf({
        space: { voxelSize: 0.05 },
        obstacles: [defaultShape('sphere', [0.013, 0.81, -0.007], 0.4)],
      }),
    );
    const l = s.plan.window.lattice;
    const field = s.layout.levels[0].open[0];
    const view = fieldView(s.threadPool.memory, field);
    const middle = Math.round((0.013 + 0.8) / 0.05);
    let closed = 0;
    for (let k = 0; k < l.nz; k++)
      for (let j = 0; j < l.ny; j++)
        closed += 1 - view[l.lead + k * l.planeStride + j * l.rowStride + middle];
    expect(closed * 0.05 ** 2).toBeCloseTo(Math.PI * 0.4 ** 2, 2);
  });
  test('a turned, moving box is where its settings say', () => {
    const plank: ObstaclePart = {
      ...defaultShape('box', [0, 0, 0], 1),
      size: [4, 0.2, 4],
      turn: [0, 0, 90],
      motion: 'moves',
      velocity: [2, 0, 0],
      spin: 90,
    };
    const still = poseOf({ ...plank, motion: 'still' }, 3);
    // turned by 90° about z, its thin direction lies along −x
    expect(still.toOwn[1].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([-1, 0, 0]);
    expect(still.centre).toEqual([0, 0, 0]);
    const moved = poseOf(plank, 1);
    expect(moved.centre).toEqual([2, 0, 0]);
    expect(moved.turning[1]).toBeCloseTo(Math.PI / 2);
    // seen along z after a quarter turn about the upright axis, it is 4 wide again; before it was 0.2
    expect(obstacleHoldout(standing({ ...plank, motion: 'still' }), 0)!([1, 0, 9], [0, 0, -1])).toBe(
      Infinity,
    );
    expect(obstacleHoldout(standing(plank), 1)!([3, 0, 9], [0, 0, -1])).toBeCloseTo(8.9);
  });
  test('rays meet the nearest shape that is on', () => {
    const ball = defaultShape('sphere', [0, 0, 0], 1);
    const block = defaultShape('box', [0, 0, -5], 1);
    const hit = obstacleHoldout(standing(ball, block), 0)!;
    expect(hit([0, 0, 5], [0, 0, -1])).toBeCloseTo(4);
    expect(obstacleHoldout(standing({ ...ball, on: false }, block), 0)!([0, 0, 5], [0, 0, -1])).toBeCloseTo(
      9,
    );
    expect(hit([0, 5, 5], [0, 0, -1])).toBe(Infinity);
    expect(obstacleHoldout(standing(), 0)).toBeNull();
  });
});

test('sRGB bytes and linear light are each other’s reverse', () => {
  for (let v = 0; v < 256; v++) expect(Math.round(255 * encodeSrgb(decodeSrgb(v / 255)))).toBe(v);
  const bytes = Uint8Array.from([10, 200, 255, 128, 0, 0, 0, 0]);
  expect(Array.from(toBytes(fromBytes(bytes)))).toEqual(Array.from(bytes));
});
