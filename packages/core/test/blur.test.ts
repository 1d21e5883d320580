// Blur by the shutter and by the lens: against pictures of known moments, and in both estimators.
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Volume } from '@bramblemist/core/look/colouring';
import type { MomentTiming } from '@bramblemist/core/look/compile-look';
import { LOOK, lookAt, type Look } from '@bramblemist/core/look/look';
import { momentsOf, quickMoments, SHARP } from '@bramblemist/core/look/moments';
import { renderWith } from '@bramblemist/core/look/render';
import { solidsAt } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { recipeOf } from './run';
import { DARK, pure, quickly, SUN, truly, WHITE } from './rendered';
import { defaultShape } from './shapes';

const N = 40;
const H = 0.03;

/** A soft ball with its air in even motion. */
function ball(centre: readonly number[], velocity: readonly number[] = [0, 0, 0], radius = 0.15): Volume {
  return {
    dims: [N, N, N],
    corner: [-0.6, -0.6, -0.6],
    voxelSizeM: H,
    density: Float32Array.from({ length: N ** 3 }, (_, p) => {
      const place = [p % N, Math.floor(p / N) % N, Math.floor(p / N / N)].map((v) => (v + 0.5) * H - 0.6);
      return Math.max(0, 1 - (Math.hypot(...place.map((v, a) => v - centre[a])) / radius) ** 2);
    }),
    velocity: velocity.map((v) => new Float32Array(N ** 3).fill(v)),
  };
}

const camera = { eye: [0, 0, 4], target: [0, 0, 0], focal: 60, width: 96, height: 64 };
const base = { camera, medium: pure(4, 0.8), lights: [SUN], sky: { ...WHITE, stops: -1 } };
const timingOf = (look: Look): MomentTiming => ({
  frameS: 1 / 24,
  later: (frames) => ({ look: lookAt(look, 1 + frames), solids: [] }),
});
const picture = (volume: Volume, settings: object, options: object = {}): Float32Array => {
  const look = LOOK.parse(settings);
  return renderWith(startThreadPool, volume, look, { threads: 2, timing: timingOf(look), ...options }).rgba;
};

/** Sums of coverage by column, and the mean difference of two as a part of the first. */
const columns = (rgba: Float32Array, width = 96): Float64Array => {
  const out = new Float64Array(width);
  for (let p = 0; p < rgba.length / 4; p++) out[p % width] += rgba[4 * p + 3];
  return out;
};

const differs = (a: Float64Array, b: Float64Array): number =>
  a.reduce((sum, v, n) => sum + Math.abs(v - b[n]), 0) / a.reduce((sum, v) => sum + v, 0);

describe.each([
  ['quick', quickly(0)],
  ['true', truly(64, 2)],
])('the shutter (%s)', (_, quality) => {
  const moving = (part: object): object => ({
    ...base,
    ...part,
    quality: { ...quality, moments: 32 },
    camera: { ...camera, moving: 'blurred', shutter: 360, ...(part as { camera?: object }).camera },
  });
  test('shows the medium where it has been', () => {
    const speed = 7.2; // 0.3 m a frame
    const blurred = columns(picture(ball([0, 0, 0], [speed, 0, 0]), moving({})));
    // the mean of sharp pictures along the way
    const sum = new Float64Array(96);
    const places = 24;
    for (let n = 0; n < places; n++) {
      const x = ((n + 0.5) / places - 0.5) * (speed / 24);
      columns(picture(ball([x, 0, 0]), { ...base, quality: quickly(0) })).forEach(
        (v, c) => (sum[c] += v / places),
      );
    }

    expect(differs(sum, blurred)).toBeLessThan(0.05);
    const sharp = columns(picture(ball([0, 0, 0], [speed, 0, 0]), { ...base, quality: quickly(0) }));
    expect(differs(sum, sharp)).toBeGreaterThan(0.4);
    // nothing is lost by it
    const all = (v: Float64Array): number => v.reduce((a, b) => a + b, 0);
    expect(all(blurred) / all(sum)).toBeGreaterThan(0.97);
    expect(all(blurred) / all(sum)).toBeLessThan(1.03);
  });
  test('shows a camera that goes by as a medium that does', () => {
    const go = (path: string): object => ({
      path,
      keys: [
        { frame: 0, value: 0.3, ease: 'even' },
        { frame: 2, value: -0.3, ease: 'even' },
      ],
    });
    const look = moving({ curves: [go('camera/eye.0'), go('camera/target.0')] });
    const own = { ...look, camera: { ...(look as { camera: object }).camera } };
    const byAir = columns(picture(ball([0, 0, 0], [7.2, 0, 0]), moving({})));
    const parsed = LOOK.parse(own);
    const moved = renderWith(startThreadPool, ball([0, 0, 0]), lookAt(parsed, 1), {
      threads: 2,
      timing: { frameS: 1 / 24, later: (f) => ({ look: lookAt(parsed, 1 + f), solids: [] }) },
    }).rgba;
    expect(differs(byAir, columns(moved))).toBeLessThan(0.06);
  });
  test('shows solids where they have been', () => {
    const box = { ...defaultShape('box', [0, 0, 0], 0.2), id: 'o' };
    const { plan } = compile(
      recipeOf({
        obstacles: [box],
        curves: [
          {
            path: 'obstacles/o/centre.0',
            keys: [
              { frame: 0, value: -0.3, ease: 'even' },
              { frame: 2, value: 0.3, ease: 'even' },
            ],
          },
        ],
      }),
    );
    const look = LOOK.parse(moving({ solids: { seen: 'seen' } }));
    const empty = { ...ball([0, 0, 0]), density: new Float32Array(N ** 3) };
    const at = plan.frameS;
    const { rgba } = renderWith(startThreadPool, empty, look, {
      threads: 2,
      solids: solidsAt(plan, at),
      timing: {
        frameS: plan.frameS,
        later: (frames) => ({ look, solids: solidsAt(plan, at + frames * plan.frameS) }),
      },
    });
    const row = [...columns(rgba)];
    const covered = row.filter((v) => v > 0.01).length;
    const sharp = [
      ...columns(
        picture(empty, { ...base, quality, solids: { seen: 'seen' } }, { solids: solidsAt(plan, at) }),
      ),
    ].filter((v) => v > 0.01).length;
    // 0.3 m further, 4 m away
    const further = (0.3 / 3.9) * (60 / 36) * 96;
    expect(covered - sharp).toBeGreaterThan(0.8 * further);
    expect(covered - sharp).toBeLessThan(1.2 * further);
  });
});

describe.each([
  ['quick', quickly(0)],
  ['true', truly(256, 1)],
])('a thin lens (%s)', (_, quality) => {
  const through = (z: number): Float64Array =>
    columns(
      picture(ball([0, 0, z], [0, 0, 0], 0.05), {
        ...base,
        sky: DARK,
        quality: { ...quality, moments: 64 },
        camera: { ...camera, focal: 200, lens: 'thin', fNumber: 0.5, focus: 4 },
      }),
    );
  const sharp = (z: number): Float64Array =>
    columns(
      picture(ball([0, 0, z], [0, 0, 0], 0.05), {
        ...base,
        sky: DARK,
        quality: quickly(0),
        camera: { ...camera, focal: 200 },
      }),
    );
  const spread = (v: Float64Array): number => {
    const all = v.reduce((a, b) => a + b, 0);
    const mean = v.reduce((a, b, n) => a + b * n, 0) / all;
    return v.reduce((a, b, n) => a + b * (n - mean) ** 2, 0) / all;
  };

  test('keeps what is in focus, and spreads what is not over its circle of confusion', () => {
    expect(Math.abs(spread(through(0)) - spread(sharp(0)))).toBeLessThan(0.5);
    for (const z of [0.45, -0.45]) {
      // a disc of the lens, 0.2 m in radius, as it is seen at the distance of the ball: variance r² / 4
      const distance = 4 - z;
      const radius = 0.2 * Math.abs(1 / 4 - 1 / distance) * (200 / 36) * 96;
      const wanted = radius ** 2 / 4;
      const own = spread(through(z)) - spread(sharp(z));
      expect(Math.abs(own / wanted - 1)).toBeLessThan(0.25);
    }
  });
});

test('moments fill the shutter evenly, and every run of samples does', () => {
  const look = LOOK.parse({ camera: { moving: 'blurred', shutter: 180 }, quality: { moments: 8 } });
  const { count, of, time } = momentsOf(look);
  expect(count).toBe(8);
  expect([0, 7].map(time)).toEqual([-0.21875, 0.21875]);
  for (const first of [0, 8, 40]) {
    const own = Array.from({ length: 8 }, (_, n) => of(first + n)).sort((a, b) => a - b);
    expect(own).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
  }

  expect(quickMoments(LOOK.parse({}))).toEqual([SHARP]);
  const quick = quickMoments(look).map(({ frames }) => frames);
  expect(quick.reduce((a, b) => a + b, 0)).toBeCloseTo(0);
});

test('blur gives the same bits with one thread and two', () => {
  const look = LOOK.parse({
    ...base,
    quality: { ...truly(8, 2), moments: 4 },
    camera: { ...camera, moving: 'blurred', lens: 'thin' },
  });
  const volume = ball([0, 0, 0], [3, 1, 0]);
  const [one, two] = [1, 2].map(
    (threads) => renderWith(startThreadPool, volume, look, { threads, timing: timingOf(look) }).rgba,
  );
  expect(two).toEqual(one);
});
