// Deep pictures: their samples laid over one another are the flat picture; files are what the library reads.
import { plume } from '@bramblemist/core/look/plume';
import { laidFlat } from '@bramblemist/core/files/exr/colours';
import { DEEP_FLOATS } from '@bramblemist/core/files/exr/deep';
import type { DeepPicture } from '@bramblemist/core/look/deep';
import { LOOK } from '@bramblemist/core/look/look';
import { renderWith, type Rendered } from '@bramblemist/core/look/render';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { solidsAt } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { recipeOf } from './run';
import { defaultShape } from './shapes';
import { pure, quickly, SUN, truly, WHITE } from './rendered';

const camera = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 64, height: 96 };
const base = {
  camera,
  medium: pure(8, 0.9, 0.3),
  lights: [SUN],
  sky: { ...WHITE, stops: -2 },
  passes: { deep: true },
};
const VOLUME = plume(32);
const ball = { ...defaultShape('sphere', [0.1, 0.9, -0.6], 0.35), id: 'b' };
const solids = solidsAt(compile(recipeOf({ obstacles: [ball] })).plan, 0);

function deepOf(settings: object, options: object = {}): Rendered & { deep: DeepPicture } {
  const made = renderWith(startThreadPool, VOLUME, LOOK.parse(settings), { threads: 2, ...options });
  expect(made.deep).not.toBeNull();
  return made as Rendered & { deep: DeepPicture };
}

/** The greatest difference between a flat pixel and its samples, and samples a pixel that shows something. */
function compared({ rgba, deep }: Rendered & { deep: DeepPicture }): { off: number; each: number } {
  let first = 0;
  let off = 0;
  let seen = 0;
  const flat = laidFlat(deep);
  expect(flat).toHaveLength(rgba.length);
  flat.forEach((v, n) => (off = Math.max(off, Math.abs(v - rgba[n]))));
  deep.counts.forEach((count) => {
    for (let n = first; n < first + count; n++) {
      const [, , , alpha, from, to] = deep.samples.subarray(n * DEEP_FLOATS, (n + 1) * DEEP_FLOATS);
      expect(alpha).toBeGreaterThanOrEqual(0);
      expect(alpha).toBeLessThanOrEqual(1);
      expect(to).toBeGreaterThanOrEqual(from);
      // nearest first
      if (n > first) expect(from).toBeGreaterThanOrEqual(deep.samples[(n - 1) * DEEP_FLOATS + 5] - 1e-3);
    }

    first += count;
    seen += Number(count > 0);
  });
  expect(deep.samples).toHaveLength(first * DEEP_FLOATS);
  return { off, each: first / seen };
}

describe.each([
  ['quick', quickly(3)],
  ['true', truly(16, 4)],
])('a deep picture (%s)', (_, quality) => {
  test('is the flat one when it is flattened', () => {
    const { off, each } = compared(deepOf({ ...base, quality }));
    expect(off).toBeLessThan(1e-3);
    expect(each).toBeGreaterThan(2);
    expect(each).toBeLessThan(20);
  });
  test.each(['seen', 'held-out', 'catcher'])('is so among solids (%s) and before a background', (seen) => {
    const settings = { ...base, quality, solids: { seen }, sky: { ...base.sky, seen: 'seen' } };
    const { off } = compared(deepOf(settings, { solids }));
    expect(off).toBeLessThan(1e-3);
  });
  test('is so where channels are taken differently', () => {
    const ink = { ...pure(6, 0.5), scatter: [0.3, 0.2, 0.1], absorb: [0.1, 0.5, 0.9] };
    expect(compared(deepOf({ ...base, quality, medium: ink })).off).toBeLessThan(1e-3);
  });
  test('of a blurred one is sharp', () => {
    const sharp = deepOf({ ...base, quality });
    const lens = { ...camera, lens: 'thin', fNumber: 0.7, focus: 1 };
    const blurred = deepOf({ ...base, quality, camera: lens });
    expect(blurred.rgba).not.toEqual(sharp.rgba);
    expect(blurred.deep).toEqual(sharp.deep);
  });
});

test('parts follow what is let through', () => {
  const { deep } = deepOf({ ...base, quality: { ...quickly(0), step: 0.25 } });
  // a deep pixel against the same ray cut off at several depths, by an opaque card there
  const pixel = 48 * 64 + 32;
  const first = deep.counts.subarray(0, pixel).reduce((a, b) => a + b, 0);
  const count = deep.counts[pixel];
  const whole = laidFlat(deep).subarray(4 * pixel, 4 * pixel + 4);
  const front = deep.samples[first * DEEP_FLOATS + 4];
  const back = deep.samples[(first + count - 1) * DEEP_FLOATS + 5];
  expect(back - front).toBeGreaterThan(0.3);
  const upTo = (depth: number): number => {
    let left = 1;
    for (let n = first; n < first + count; n++) {
      const [, , , alpha, from, to] = deep.samples.subarray(n * DEEP_FLOATS, (n + 1) * DEEP_FLOATS);
      const part = Math.min(1, Math.max(0, (depth - from) / Math.max(1e-9, to - from)));
      left *= (1 - alpha) ** part;
    }

    return 1 - left;
  };

  for (const part of [0.2, 0.4, 0.6, 0.8]) {
    const depth = front + part * (back - front);
    // a wall at that depth, held out, square to the camera
    const { eye, target } = camera;
    const away = target.map((t, a) => t - eye[a]);
    const size = Math.hypot(...away);
    const centre = eye.map((e, a) => e + ((depth + 1) * away[a]) / size);
    const wall = { ...defaultShape('sphere', centre as [number, number, number], 1), id: 'w' };
    const cut = renderWith(
      startThreadPool,
      VOLUME,
      LOOK.parse({ ...base, passes: {}, quality: { ...quickly(0), step: 0.25 } }),
      { solids: solidsAt(compile(recipeOf({ obstacles: [wall] })).plan, 0) },
    ).rgba[4 * pixel + 3];
    expect(Math.abs(upTo(depth) - cut)).toBeLessThan(0.03);
  }

  expect(upTo(back)).toBeCloseTo(whole[3], 5);
});
