// Passes: what is kept of a picture besides its beauty, against a plain march and against what is known.
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Volume } from '@bramblemist/core/look/colouring';
import type { MomentTiming } from '@bramblemist/core/look/compile-look';
import { cameraRays, LOOK, lookAt, type Look } from '@bramblemist/core/look/look';
import { bytesOfFrame, layersOfPass, shownLayer, withPassOf } from '@bramblemist/core/look/look-at-pass';
import type { PictureLayer } from '@bramblemist/core/look/passes';
import { plume } from '@bramblemist/core/look/plume';
import { renderWith, type RenderOptions } from '@bramblemist/core/look/render';
import { solidsAt } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { textureBy } from './textures';
import { recipeOf } from './run';
import { DARK, FROM_FRONT, pure, quickly, SLAB, SUN, truly, WHITE } from './rendered';
import { defaultShape } from './shapes';

const ALL = Object.fromEntries(Object.keys(LOOK.parse({}).passes).map((name) => [name, true]));
const NONE = Object.fromEntries(Object.keys(ALL).map((name) => [name, false]));
const only = (...names: string[]): object => ({
  ...NONE,
  ...Object.fromEntries(names.map((name) => [name, true])),
});
const STILL = (look: Look): MomentTiming => ({
  frameS: 1 / 24,
  later: (frames) => ({ look: lookAt(look, 1 + frames), solids: [] }),
});

function layersOf(
  volume: Volume,
  settings: object,
  options: RenderOptions = {},
): Readonly<Record<string, PictureLayer>> {
  const look = LOOK.parse(settings);
  const { layers } = renderWith(startThreadPool, volume, look, { timing: STILL(look), ...options });
  return Object.fromEntries(layers.map((layer) => [layer.name, layer]));
}

/** A channel of a layer at a pixel. */
const at = ({ channels, values }: PictureLayer, channel: string, pixel: number): number =>
  values[pixel * channels.length + channels.indexOf(channel)];

/** A volume with all that media may carry, each channel from its place in the world. */
function carrying(volume: Volume, velocity: readonly [number, number, number] = [0.3, -0.2, 0.1]): Volume {
  const [nx, ny, nz] = volume.dims;
  const made = (value: (x: number, y: number, z: number) => number): Float32Array => {
    const out = new Float32Array(nx * ny * nz);
    const place = (n: number, axis: number): number => volume.corner[axis] + (n + 0.5) * volume.voxelSizeM;
    for (let k = 0, n = 0; k < nz; k++)
      for (let j = 0; j < ny; j++)
        for (let i = 0; i < nx; i++, n++) out[n] = value(place(i, 0), place(j, 1), place(k, 2));
    return out;
  };

  return {
    ...volume,
    colour: [made(() => 0.8), made((_, y) => 0.3 + 0.2 * y), made(() => 0.1)],
    velocity: velocity.map((v) => made(() => v)),
    channels: { temperature: made((x) => 300 + 10 * x), age: made((_, y) => 1 + y) },
  };
}

const PLUME = carrying(plume(32));
const camera = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 64, height: 48 };
const base = { camera, medium: pure(6, 0.9, 0.3), lights: [SUN], sky: { ...WHITE, stops: -2 } };

describe('sensed passes', () => {
  const look = LOOK.parse({ ...base, quality: { ...quickly(0), step: 0.25 }, passes: ALL });
  const layers = layersOf(PLUME, look, { timing: STILL(look) });
  /** The plain march that the kernels are held against: trilinear between middles of voxels, tiny steps. */
  const plainly = (pixel: number): Record<string, number> => {
    const { eye, corner, across, down } = cameraRays(look);
    const [x, y] = [pixel % 64, Math.floor(pixel / 64)];
    const ray = corner.map((c, a) => c + x * across[a] + y * down[a]);
    const size = Math.hypot(...ray);
    const ahead = ray.map((v) => v / size);
    const [nx, ny, nz] = PLUME.dims;
    const value = (field: Float32Array, place: readonly number[]): number => {
      const [u, v, w] = place.map((p, a) => (p - PLUME.corner[a]) / PLUME.voxelSizeM - 0.5);
      let sum = 0;
      for (let n = 0; n < 8; n++) {
        const [i, j, k] = [u, v, w].map((t, a) => Math.floor(t) + ((n >> a) & 1));
        if (i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz) continue;
        const weight = [u - i, v - j, w - k].reduce((all, d) => all * (1 - Math.abs(d)), 1);
        sum += weight * field[(k * ny + j) * nx + i];
      }

      return sum;
    };

    const h = 0.002;
    let [through, depth, seen, middle, heat, age, green] = [1, 0, 0, 0, 0, 0, 0];
    for (let t = h / 2; t < 8; t += h) {
      const place = eye.map((e, a) => e + t * ahead[a]);
      const own = 6 * h * value(PLUME.density, place);
      if (own <= 0) continue;
      const weight = through * (1 - Math.exp(-own));
      through -= weight;
      depth += own;
      seen += weight;
      middle += (weight * t) / size;
      heat += weight * value(PLUME.channels!.temperature!, place);
      age += weight * value(PLUME.channels!.age!, place);
      green += weight * value(PLUME.colour![1], place);
    }

    return { depth, seen, middle: middle / seen, heat: heat / seen, age: age / seen, green: green / seen };
  };

  const pixels = [24 * 64 + 30, 20 * 64 + 34, 30 * 64 + 28, 14 * 64 + 32];
  test.each(pixels)('are what a plain march has (pixel %d)', (pixel) => {
    const exact = plainly(pixel);
    expect(exact.seen).toBeGreaterThan(0.3);
    const near = (got: number, wanted: number, part: number): void =>
      expect(Math.abs(got / wanted - 1)).toBeLessThan(part);
    near(at(layers.density, 'Y', pixel), exact.depth, 0.01);
    near(at(layers.depth, 'ZMiddle', pixel), exact.middle, 0.003);
    // fields are mixed with nothing at the medium's rim by the plain march only
    near(at(layers.temperature, 'Y', pixel), exact.heat, 0.01);
    near(at(layers.age, 'Y', pixel), exact.age, 0.02);
    near(at(layers.colour, 'G', pixel), exact.green, 0.02);
    const middle = at(layers.depth, 'ZMiddle', pixel);
    const { eye, corner, across, down } = cameraRays(look);
    const [x, y] = [pixel % 64, Math.floor(pixel / 64)];
    ['X', 'Y', 'Z'].forEach((axis, a) =>
      expect(at(layers.position, axis, pixel)).toBeCloseTo(
        eye[a] + middle * (corner[a] + x * across[a] + y * down[a]),
        4,
      ),
    );
    expect(at(layers.depth, 'Z', pixel)).toBeLessThan(middle);
    expect(at(layers.depth, 'ZBack', pixel)).toBeGreaterThan(middle);
  });
  test('the even colour of a medium is its tint', () => {
    expect(at(layers.tint, 'R', pixels[0])).toBeCloseTo(0.9);
    expect(layers.looked).toBeUndefined();
  });
  test('every layer is told by the look before it is rendered', () => {
    const names = (Object.keys(ALL) as (keyof Look['passes'])[]).flatMap((pass) => layersOfPass(look, pass));
    // noise is of true pictures
    expect(Object.keys(layers).sort()).toEqual(
      names.filter((name) => !['samples', 'variance'].includes(name)).sort(),
    );
    expect(bytesOfFrame(look)).toBeGreaterThan(64 * 48 * 100);
    for (const layer of Object.values(layers)) {
      const shown = shownLayer(layer);
      expect(shown).toHaveLength(64 * 48 * 4);
      expect(shown.every((v) => Number.isFinite(v))).toBe(true);
      expect(Object.entries(withPassOf(look, layer.name).passes).filter(([, on]) => on)).toHaveLength(1);
    }
  });
  test('a channel that the bake lacks is asked for by name', () => {
    expect(() => layersOf(plume(16), { ...base, passes: only('temperature') })).toThrow(/no temperature/);
    expect(() => layersOf(plume(16), { ...base, passes: only('motion') })).toThrow(/no velocity/);
    expect(() => renderWith(startThreadPool, PLUME, LOOK.parse({ ...base, passes: only('motion') }))).toThrow(
      /how fast frames follow/,
    );
  });
});

test('normals face the light side of a round blob', () => {
  const n = 24;
  const blob: Volume = {
    dims: [n, n, n],
    corner: [-0.5, -0.5, -0.5],
    voxelSizeM: 1 / n,
    density: Float32Array.from({ length: n ** 3 }, (_, p) => {
      const [i, j, k] = [p % n, Math.floor(p / n) % n, Math.floor(p / n / n)].map((v) => (v + 0.5) / n - 0.5);
      return Math.max(0, 1 - 2.2 * Math.hypot(i, j, k));
    }),
  };
  const { normal } = layersOf(blob, {
    camera: { ...FROM_FRONT, focal: 300, width: 32, height: 32 },
    medium: pure(60, 0.5),
    quality: quickly(0),
    passes: only('normal'),
  });
  const [x, y, z] = normal.values.subarray(3 * (16 * 32 + 16));
  expect(z).toBeGreaterThan(0.97);
  expect(Math.hypot(x, y, z)).toBeCloseTo(1, 3);
  // right of the middle it faces right, above it up
  expect(at(normal, 'X', 16 * 32 + 22)).toBeGreaterThan(0.3);
  expect(at(normal, 'Y', 10 * 32 + 16)).toBeGreaterThan(0.3);
});

describe('motion', () => {
  /** The middle of what covers a picture, pixels. */
  const middleOf = (rgba: Float32Array, width: number): [number, number] => {
    let [x, y, all] = [0, 0, 0];
    for (let p = 0; p < rgba.length / 4; p++) {
      const a = rgba[4 * p + 3];
      all += a;
      x += a * (p % width);
      y += a * Math.floor(p / width);
    }

    return [x / all, y / all];
  };

  const ball = (
    centre: readonly [number, number, number],
    velocity: readonly [number, number, number],
  ): Volume => {
    const n = 40;
    const h = 0.03;
    return carrying(
      {
        dims: [n, n, n],
        corner: [-0.6, -0.6, -0.6],
        voxelSizeM: h,
        density: Float32Array.from({ length: n ** 3 }, (_, p) => {
          const place = [p % n, Math.floor(p / n) % n, Math.floor(p / n / n)].map((v) => (v + 0.5) * h - 0.6);
          return Math.max(0, 1 - (Math.hypot(...place.map((v, a) => v - centre[a])) / 0.2) ** 2);
        }),
      },
      velocity,
    );
  };

  const look = {
    camera: { eye: [0, 0, 4], target: [0, 0, 0], focal: 60, width: 96, height: 72 },
    medium: pure(2, 0.5),
    quality: { ...quickly(0), step: 0.25 },
    passes: only('motion'),
  };
  test('of a blob is its way to the next frame', () => {
    const velocity = [2.4, 1.2, 0.6] as const;
    const here = [-0.1, 0.05, 0] as const;
    const there = here.map((c, a) => c + velocity[a] / 24) as [number, number, number];
    const { motion } = layersOf(ball(here, velocity), look);
    const picture = (volume: Volume): Float32Array =>
      renderWith(startThreadPool, volume, LOOK.parse({ ...look, passes: NONE })).rgba;
    const first = picture(ball(here, velocity));
    const [before, after] = [first, picture(ball(there, velocity))].map((p) => middleOf(p, 96));
    // weighed by what each pixel shows
    const mean = [0, 0];
    let all = 0;
    for (let p = 0; p < first.length / 4; p++) {
      all += first[4 * p + 3];
      for (let c = 0; c < 2; c++) mean[c] += first[4 * p + 3] * motion.values[2 * p + c];
    }

    expect(Math.abs(after[0] - before[0])).toBeGreaterThan(3);
    for (let c = 0; c < 2; c++) expect(Math.abs(mean[c] / all - (after[c] - before[c]))).toBeLessThan(0.05);
  });
  test('of a camera and of a solid is theirs', () => {
    const moves = LOOK.parse({
      ...look,
      solids: { seen: 'seen' },
      curves: [
        {
          path: 'camera/eye.0',
          keys: [
            { frame: 1, value: 0 },
            { frame: 11, value: 1 },
          ],
        },
        {
          path: 'camera/target.0',
          keys: [
            { frame: 1, value: 0 },
            { frame: 11, value: 1 },
          ],
        },
      ].map((curve) => ({ ...curve, keys: curve.keys.map((key) => ({ ...key, ease: 'even' })) })),
    });
    const timing = (solid: boolean): MomentTiming => ({
      frameS: 1 / 24,
      later: (frames) => ({
        look: lookAt(moves, 1 + frames),
        solids: solid ? solidsAt(plan, (1 + frames) * plan.frameS) : [],
      }),
    });
    const plan = compile(
      recipeOf({
        obstacles: [{ ...defaultShape('box', [0, 0, 0], 0.4), id: 'o' }],
        curves: [
          {
            path: 'obstacles/o/centre.1',
            keys: [
              { frame: 1, value: 0, ease: 'even' },
              { frame: 25, value: 2.4, ease: 'even' },
            ],
          },
        ],
      }),
    ).plan;
    const still = layersOf(ball([0, 0, 0], [0, 0, 0]), moves, { timing: timing(false) });
    // the camera goes 0.1 m to the right, and what is 4 m ahead to the left
    const pixel = (0.1 / 4) * (60 / 36) * 96;
    const middle = 36 * 96 + 48;
    expect(at(still.motion, 'X', middle)).toBeCloseTo(-pixel, 1);
    expect(Math.abs(at(still.motion, 'Y', middle))).toBeLessThan(0.02);
    const empty = { ...ball([0, 0, 0], [0, 0, 0]), density: new Float32Array(40 ** 3) };
    const solid = layersOf(empty, moves, { timing: timing(true), solids: solidsAt(plan, plan.frameS) });
    expect(at(solid.motion, 'X', middle)).toBeLessThan(-pixel);
    // 0.1 m up in a frame, in front of the middle
    expect(at(solid.motion, 'Y', middle)).toBeCloseTo(-(0.1 / 3.6) * (60 / 36) * 96, 0);
  });
});

test('single and multiple scattering are the beauty together', () => {
  for (const quality of [quickly(3), truly(16, 6)]) {
    const look = LOOK.parse({ ...base, quality, passes: only('orders') });
    const { rgba, layers } = renderWith(startThreadPool, PLUME, look, { threads: 2 });
    const [single, multiple] = ['single', 'multiple'].map(
      (name) => layers.find((l) => l.name === name)!.values,
    );
    expect(Math.max(...multiple)).toBeGreaterThan(0.005);
    for (let n = 0; n < single.length; n++)
      expect(Math.abs(single[n] + multiple[n] - rgba[4 * Math.floor(n / 3) + (n % 3)])).toBeLessThan(1e-5);
    const alone = renderWith(
      startThreadPool,
      PLUME,
      LOOK.parse({ ...base, quality: { ...quality, bounces: 0, octaves: 0 }, passes: NONE }),
    ).rgba;
    const mean = (values: Float32Array, each: number): number =>
      values.filter((_, n) => n % each === 0).reduce((a, b) => a + b, 0);
    expect(mean(single, 3) / mean(alone, 4)).toBeGreaterThan(0.97);
    expect(mean(single, 3) / mean(alone, 4)).toBeLessThan(1.03);
  }
});

test('shadows on surfaces and what is held out', () => {
  const ball = { ...defaultShape('sphere', [0, 0.5, 0], 0.3), id: 'b' };
  const solids = solidsAt(compile(recipeOf({ obstacles: [ball] })).plan, 0);
  const empty = { ...SLAB, density: new Float32Array(16 ** 3) };
  const look = {
    camera: { eye: [0, 3, 4], target: [0, 0.2, 0], focal: 40, width: 64, height: 48 },
    lights: [{ ...SUN, heading: 0, height: 45 }],
    sky: DARK,
    solids: { seen: 'held-out', ground: 'seen' },
    passes: only('shadow', 'matte', 'depth'),
  };
  const { shadow, matte, depth } = layersOf(empty, look, { solids });
  // the sun stands to the right: the ball's shadow falls to the left of it
  const dark = shadow.values.reduce((n, v) => n + Number(v > 0.9), 0);
  expect(dark).toBeGreaterThan(40);
  const lit = shadow.values.reduce((n, v) => n + Number(v < 0.1), 0);
  expect(lit).toBeGreaterThan(1500);
  const held = matte.values.reduce((a, b) => a + b, 0);
  // a ball of 0.3 m at 4.72 m
  expect(Math.abs(held - Math.PI * ((0.3 / 4.72) * (40 / 36) * 64) ** 2)).toBeLessThan(2);
  expect(matte.values.some((v) => v > 0.1 && v < 0.9)).toBe(true);
  // the ground's depth is along the camera's axis
  const middle = 40 * 64 + 32;
  const { eye, corner, across, down } = cameraRays(LOOK.parse(look));
  const ray = corner.map((c, a) => c + 32 * across[a] + 40 * down[a]);
  expect(at(depth, 'Z', middle)).toBeCloseTo(-eye[1] / ray[1], 3);
});

test('a picture that colours the medium is kept as it is and as it is corrected', () => {
  const picture = textureBy(4, 4, (c) => [0.5, 0.25, 0.125][c]);
  const { tint, looked } = layersOf(
    PLUME,
    {
      ...base,
      medium: { ...pure(6, 0.9), colour: 'picture', picture: 'p', exposure: -1 },
      files: [{ id: 'p', name: 'p.png', sha256: 'a'.repeat(64) }],
      passes: only('tint'),
    },
    { pictures: new Map([['p', picture]]) },
  );
  const pixel = 24 * 64 + 30;
  expect(at(looked, 'G', pixel)).toBeCloseTo(0.25, 2);
  expect(at(tint, 'G', pixel)).toBeCloseTo(0.125, 2);
});

test('true pictures say how sure each pixel is', () => {
  const look = LOOK.parse({ ...base, quality: truly(16, 2), passes: only('noise') });
  const { layers } = renderWith(startThreadPool, PLUME, look, { threads: 2 });
  const [samples, variance] = layers.map(({ values }) => values);
  expect(samples.every((n) => n === 16)).toBe(true);
  expect(Math.max(...variance)).toBeGreaterThan(1e-6);
});
