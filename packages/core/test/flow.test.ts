// What is drawn of a frame: arrows, streamlines and planes against fields that are known.
import { mediumDifference, type PreviewVolume } from '@bramblemist/core/volume/preview-volume';
import { takePreviewVolume, takeCoarseFlow } from '@bramblemist/core/cache/take-preview';
import type { CoarseFlow } from '@bramblemist/core/volume/coarse-flow';
import { airArrows, channelOf, shownAt, sliceShown, streamlines } from '@bramblemist/core/analysis/flow';
import { sliceDistance } from '@bramblemist/core/analysis/seeing';
import { compile } from '@bramblemist/core/plan/compile';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { fill, fillVelocity } from './physics/kit';
import { recipeOf, simulate } from './run';

function known(velocity: (x: number, y: number, z: number) => number[]): { s: Simulation; g: CoarseFlow } {
  const s = simulate(recipeOf({ space: { voxelSize: 0.05 } }));
  fill(s, 'density', (x, y) => (x > 0 ? y : 0));
  fill(s, 'temperature', (_x, y) => 20 * y);
  fillVelocity(s, velocity);
  return { s, g: takeCoarseFlow(s) };
}

const turning = (x: number, _y: number, z: number): number[] => [z, 0, -x];

test('arrows are the air’s speed where they stand', () => {
  const { places, pushes, spacingM } = airArrows(known(turning).g);
  expect(spacingM).toBeCloseTo(0.1, 6);
  for (let n = 0; n < places.length; n += 3) {
    expect(pushes.air[n]).toBeCloseTo(places[n + 2], 4);
    expect(pushes.air[n + 2]).toBeCloseTo(-places[n], 4);
  }
});
test('streamlines of a turning domain are circles, faster outside', () => {
  const { pieces, speeds } = streamlines(known(turning).g);
  expect(pieces.length).toBeGreaterThan(3000);
  const worst = { radius: 0, height: 0, speed: 0 };
  for (let n = 0; n < pieces.length; n += 6) {
    const r = Math.hypot(pieces[n], pieces[n + 2]);
    const q = Math.hypot(pieces[n + 3], pieces[n + 5]);
    // level beyond the outermost cells
    if (Math.max(r, q) > 0.72) continue;
    worst.radius = Math.max(worst.radius, Math.abs(q - r));
    worst.height = Math.max(worst.height, Math.abs(pieces[n + 4] - pieces[n + 1]));
    worst.speed = Math.max(worst.speed, Math.abs(speeds[n / 3] - r));
  }

  expect(worst.radius).toBeLessThan(1e-4);
  expect(worst.height).toBeLessThan(1e-6);
  expect(worst.speed).toBeLessThan(1e-3);
});
test('no line where nothing moves', () => {
  expect(streamlines(known(() => [0, 0, 0]).g).pieces).toHaveLength(0);
});
test('planes of channels on each axis, density at the brick’s own size', () => {
  const { s, g } = known((_x, y) => [0, y, 0]);
  const brick = takePreviewVolume(s);
  const density = sliceShown(g, brick, 'density', 2, 0.1);
  expect(density.dims).toEqual([32, 32]);
  const at = (v: { values: Float32Array; dims: readonly [number, number] }, p: number, q: number): number =>
    v.values[q * v.dims[0] + p];
  expect(at(density, 24, 20)).toBeCloseTo(20.5 * 0.05, 1);
  expect(at(density, 4, 20)).toBe(0);
  const up = sliceShown(g, brick, 'speed upward', 0, 0.3);
  expect([up.unit, up.axis]).toEqual(['m/s', 0]);
  expect(at(up, 16, 3)).toBeCloseTo(16.5 * 0.05, 3);
  expect(Math.abs(up.atM - 0.3)).toBeLessThan(g.cellM);
  const warm = sliceShown(g, null, 'temperature', 1, 0.8);
  expect(at(warm, 3, 9)).toBeCloseTo(20 * warm.atM, 3);
  expect(shownAt(g, 'speed', 0, 0.8, 0)).toBeCloseTo(0.8, 3);
});
test('a channel in all cells is what it is at their middles', () => {
  const { g } = known((x, y, z) => [z, y, -x]);
  for (const channel of ['density', 'temperature', 'speed', 'speed upward'] as const) {
    const values = channelOf(g, channel);
    const [nx, ny] = g.dims;
    for (const [i, j, k] of [
      [3, 4, 5],
      [8, 2, 11],
    ])
      expect(values[(k * ny + j) * nx + i]).toBeCloseTo(
        shownAt(
          g,
          channel,
          ...(g.corner.map((c, a) => c + ([i, j, k][a] + 0.5) * g.cellM) as [number, number, number]),
        ),
        5,
      );
  }
});
test('the plane of distances is how far it is to the nearest obstacle, and negative inside', () => {
  const plan = compile(
    recipeOf({
      obstacles: [
        { shape: 'sphere', centre: [-0.4, 0.8, 0], radius: 0.2 },
        { shape: 'sphere', centre: [0.4, 0.8, 0], radius: 0.2 },
      ],
    }),
  ).plan;
  const { dims, corner, cellM, values } = sliceDistance(plan, 2, 0, 1);
  for (let j = 0; j < dims[1]; j++)
    for (let i = 0; i < dims[0]; i++) {
      const x = corner[0] + (i + 0.5) * cellM;
      const y = corner[1] + (j + 0.5) * cellM;
      expect(values[j * dims[0] + i]).toBeCloseTo(Math.hypot(Math.abs(x) - 0.4, y - 0.8) - 0.2, 4);
    }
});
describe('how far apart two frames are', () => {
  const brick = (at: (i: number) => number, over: Partial<PreviewVolume> = {}): PreviewVolume => ({
    frame: 1,
    dims: [8, 4, 4],
    corner: [0, 0, 0],
    voxelSizeM: 0.5,
    greatest: 2,
    colour: null,
    bytes: Uint8Array.from({ length: 128 }, (_, n) => at(n % 8)),
    ...over,
  });
  test('the same are not, what does not meet is whole, half is half', () => {
    expect(
      mediumDifference(
        brick(() => 200),
        brick(() => 200),
      ),
    ).toBeCloseTo(0, 9);
    expect(
      mediumDifference(
        brick((i) => (i < 4 ? 200 : 0)),
        brick((i) => (i < 4 ? 0 : 200)),
      ),
    ).toBe(1);
    expect(
      mediumDifference(
        brick((i) => (i < 4 ? 200 : 0)),
        brick((i) => (i >= 2 && i < 6 ? 200 : 0)),
      ),
    ).toBeCloseTo(0.5, 9);
    expect(
      mediumDifference(
        brick(() => 0),
        brick(() => 0),
      ),
    ).toBe(0);
  });
  test('a thinner one by as much as it lacks, whatever its bytes stand for', () => {
    expect(
      mediumDifference(
        brick(() => 200),
        brick(() => 200, { greatest: 1 }),
      ),
    ).toBeCloseTo(1 / 3, 6);
    expect(
      mediumDifference(
        brick(() => 100),
        brick(() => 200, { greatest: 1 }),
      ),
    ).toBeCloseTo(0, 6);
  });
  test('windows that lie elsewhere are held against each other in the world', () => {
    const moved = brick((i) => (i < 4 ? 200 : 0), { corner: [1, 0, 0] });
    expect(
      mediumDifference(
        brick((i) => (i >= 2 && i < 6 ? 200 : 0)),
        moved,
      ),
    ).toBeCloseTo(0, 6);
  });
});
