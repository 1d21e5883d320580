// What is drawn of a frame: arrows, streamlines and planes against fields that are known.
import { takeBrick } from '@bramblemist/core/cache/brick';
import { takeGlimpse, type Glimpse } from '@bramblemist/core/cache/glimpse';
import { airArrows, shownAt, sliceShown, streamlines } from '@bramblemist/core/readings/flow';
import type { Simulation } from '@bramblemist/core/step/simulation';
import { fill, fillVelocity } from './physics/kit';
import { recipeOf, simulate } from './run';

function known(velocity: (x: number, y: number, z: number) => number[]): { s: Simulation; g: Glimpse } {
  const s = simulate(recipeOf({ space: { voxelSize: 0.05 } }));
  fill(s, 'density', (x, y) => (x > 0 ? y : 0));
  fill(s, 'temperature', (_x, y) => 20 * y);
  fillVelocity(s, velocity);
  return { s, g: takeGlimpse(s) };
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
test('streamlines of a turning room are circles, faster outside', () => {
  const { pieces, speeds } = streamlines(known(turning).g);
  expect(pieces.length).toBeGreaterThan(3000);
  const worst = { radius: 0, height: 0, speed: 0 };
  for (let n = 0; n < pieces.length; n += 6) {
    const r = Math.hypot(pieces[n], pieces[n + 2]),
      q = Math.hypot(pieces[n + 3], pieces[n + 5]);
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
  const { s, g } = known((_x, y) => [0, y, 0]),
    brick = takeBrick(s);
  const density = sliceShown(g, brick, 'density', 2, 0.1);
  expect(density.dims).toEqual([32, 32]);
  const at = (v: { values: Float32Array; dims: readonly [number, number] }, p: number, q: number): number => v.values[q * v.dims[0] + p];
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
