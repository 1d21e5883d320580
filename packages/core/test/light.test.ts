// Light against what is known without a renderer: Beer and Lambert's law, transport theory, furnaces,
// quadrature; and both estimators against each other.
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compileLook } from '@bramblemist/core/look/compile-look';
import { blackBody } from '@bramblemist/core/look/kelvin';
import { directionOf, LOOK, type Look } from '@bramblemist/core/look/look';
import { renderPages } from '@bramblemist/core/look/render-layout';
import type { Volume } from '@bramblemist/core/look/colouring';
import { renderWith } from '@bramblemist/core/look/render';
import { LookRenderer } from '@bramblemist/core/look/renderer';
import { TruePicture } from '@bramblemist/core/look/true-picture';
import { solidsAt } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { plume } from '@bramblemist/core/look/plume';
import type { ObstaclePart } from '@bramblemist/core/recipe/types';
import { defaultShape } from './shapes';
import { recipeOf } from './run';
import {
  box,
  DARK,
  FROM_FRONT,
  meanOf,
  pure,
  quickly,
  rendered,
  SLAB,
  SUN,
  truly,
  WHITE,
  within,
  type Rendered,
} from './rendered';
import { slabRadiance } from './transport';

describe.each([
  ['quick', quickly(), 0.004],
  ['true', truly(1024, 0), 0.01],
] as const)('%s pictures', (_, quality, tolerance) => {
  test.each([0.1, 0.7, 2])('a slab lets through what Beer–Lambert says (extinction %d)', (density) => {
    const { rgba } = rendered(SLAB, { camera: FROM_FRONT, medium: pure(density, 0.5), lights: [], quality });
    expect(Math.abs(meanOf(rgba)[3] - (1 - Math.exp(-2 * density)))).toBeLessThan(tolerance);
  });
  test('each channel is taken by its own extinction', () => {
    const medium = { density: 1, scatter: [0, 0, 0], absorb: [1, 0.5, 0.1] };
    const camera = { ...FROM_FRONT, eye: [0, 0, 10] };
    // a bright wall behind the slab
    const wall: ObstaclePart = { ...defaultShape('box', [0, 0, -60], 1), size: [90, 90, 1] };
    const solids = solidsAt(compile(recipeOf({ obstacles: [wall] })).plan, 0);
    const look = {
      camera,
      medium,
      lights: [],
      sky: WHITE,
      solids: { seen: 'seen', colour: [1, 1, 1], shadows: false },
      quality: { ...quality, bounces: 0 },
    };
    const through = meanOf(rendered(SLAB, look, solids).rgba);
    const without = meanOf(rendered(SLAB, { ...look, medium: { ...medium, density: 0 } }, solids).rgba);
    [1, 0.5, 0.1].forEach((a, c) => {
      within(through[c] / without[c], Math.exp(-2 * a), 0.03);
    });
    expect(without[3]).toBeCloseTo(1, 5);
  });
  test.each([0, 0.6])('single scattering of the sun agrees with quadrature (g = %d)', (forward) => {
    const sun = { ...SUN, heading: 90, height: 0 };
    const { rgba } = rendered(SLAB, {
      camera: FROM_FRONT,
      medium: pure(0.3, 1, forward),
      lights: [sun],
      sky: DARK,
      quality,
    });
    const cosine = -directionOf({ heading: 90, height: 0 })[2];
    const phase = (1 - forward ** 2) / (1 + forward ** 2 - 2 * forward * cosine) ** 1.5;
    let exact = 0;
    for (let z = 0; z < 2; z += 0.001) exact += 0.001 * 0.3 * Math.exp(-0.6 * z) * phase;
    within(meanOf(rgba)[0], exact, 0.006);
  });
  test(
    'a point light in thin fog agrees with quadrature, and so do ' + 'small rectangles, discs and spots',
    () => {
      const place = [0.2, 0.3, 2.2];
      const aim = [0, 0, 0];
      const away = Math.hypot(...place);
      const exactOf = (facing: boolean): number => {
        let sum = 0;
        const n = 4000;
        for (let k = 0; k < n; k++) {
          const z = -1 + (2 * (k + 0.5)) / n;
          const to = [place[0], place[1], place[2] - z];
          const d = Math.hypot(...to);
          // toward the lamp the fog ends where its box does
          const leaves = ((1 - z) / to[2]) * d;
          const cosine = facing
            ? Math.max(0, (to[0] * place[0] + to[1] * place[1] + to[2] * place[2]) / d / away)
            : 1;
          sum += (2 / n) * 0.1 * Math.exp(-0.1 * (1 - z)) * Math.exp(-0.1 * leaves) * (cosine / (d * d));
        }

        return sum;
      };

      const lit = (light: object): number =>
        meanOf(
          rendered(SLAB, {
            camera: { ...FROM_FRONT, focal: 600, back: 10 },
            medium: pure(0.1, 1),
            lights: [{ ...SUN, position: place, aim, ...light }],
            sky: DARK,
            quality: { ...quality, ...(_ === 'true' ? { samples: 4096 } : {}) },
          }).rgba,
        )[0];
      within(lit({ kind: 'point', radius: 0 }), exactOf(false), 0.02);
      within(lit({ kind: 'spot', radius: 0, cone: 170, soft: 0 }), exactOf(false), 0.02);
      within(lit({ kind: 'disc', radius: 0.001 }), exactOf(true), 0.02);
      within(lit({ kind: 'rectangle', width: 0.002, length: 0.002 }), exactOf(true), 0.02);
    },
  );
  test('depth is where the medium begins and ends, and obstacles hold it out', () => {
    const look = { camera: FROM_FRONT, medium: pure(3, 0.5), lights: [], quality };
    const at = 8 * 16 + 8;
    const [front, , back] = depthsOf(SLAB, look).subarray(3 * at);
    expect(Math.abs(front - 9)).toBeLessThan(0.1);
    expect(back).toBeGreaterThan(9.5);
    const heldBy = (z: number): Rendered => {
      const wall: ObstaclePart = { ...defaultShape('box', [0, 0, z], 1), size: [8, 8, 1] };
      return rendered(SLAB, look, solidsAt(compile(recipeOf({ obstacles: [wall] })).plan, 0));
    };

    expect(Math.abs(meanOf(heldBy(0).rgba)[3] - (1 - Math.exp(-1.5)))).toBeLessThan(0.01);
    expect(meanOf(heldBy(4.5).rgba)[3]).toBe(0);
  });
  test('nothing in view is an empty, transparent picture', () => {
    const empty = { ...SLAB, density: new Float32Array(16 ** 3) };
    const look = { camera: FROM_FRONT, quality };
    expect(rendered(empty, look).rgba.every((v) => v === 0)).toBe(true);
    expect(depthsOf(empty, look).every((v) => v === 0)).toBe(true);
  });
});

/** First, mean and last depth of each pixel. */
const depthsOf = (volume: Volume, look: object): Float32Array =>
  renderWith(startThreadPool, volume, LOOK.parse(look)).layers.find(({ name }) => name === 'depth')!.values;

describe('transport theory', () => {
  test.each([
    [2, 0.9, 0],
    [8, 0.99, 0.35],
    [1, 0.5, -0.4],
  ])(
    'a slab of depth %d, albedo %d, g %d gives back and lets on what adding–doubling says',
    (depth, albedo, g) => {
      const h = 0.1;
      const volume = box([160, 160, 8], h);
      const exact = slabRadiance(depth, albedo, g);
      const look = (z: number): object => ({
        camera: { ...FROM_FRONT, eye: [0, 0, z], focal: 600, back: 4, width: 32, height: 32 },
        medium: pure(depth / (8 * h), albedo, g),
        lights: [{ ...SUN, heading: 90, height: 0 }],
        sky: DARK,
        quality: truly(512, 256),
      });
      for (const [z, wanted] of [
        [10, exact.back],
        [-10, exact.on],
      ]) {
        const { rgba, noise } = rendered(volume, look(z));
        // the mean of so many pixels is known to this part of it; irradiance is 4π of what the look says
        const error = noise / Math.sqrt(32 * 32) / meanOf(rgba)[0];
        within(meanOf(rgba)[0] / (4 * Math.PI), wanted, 0.004 + 2.5 * error);
        expect(error).toBeLessThan(0.005);
      }
    },
  );
  test('in a white furnace everything is white, medium and surfaces', () => {
    const ball = defaultShape('sphere', [0, 0.5, 0], 0.3);
    const solids = solidsAt(compile(recipeOf({ obstacles: [ball] })).plan, 0);
    for (const forward of [0, 0.6]) {
      const { rgba } = rendered(
        plume(32),
        {
          camera: { eye: [1.5, 1.15, 3.7], target: [0, 0.9, 0], width: 48, height: 32 },
          medium: { ...pure(14, 1, forward), backPart: 0.3 },
          lights: [],
          sky: WHITE,
          solids: { seen: 'seen', colour: [1, 1, 1] },
          quality: truly(16, 256),
        },
        forward === 0 ? [] : solids,
      );
      for (let n = 0; n < rgba.length; n += 4) expect(Math.abs(rgba[n] - rgba[n + 3])).toBeLessThan(2e-3);
      expect(meanOf(rgba)[3]).toBeGreaterThan(0.1);
    }
  });
  test('light through coloured ink is as its densities say, whatever carries the colour', () => {
    // absorbing by a constant and by a colour of the same worth
    const dims = SLAB.dims;
    const count = dims[0] * dims[1] * dims[2];
    const colour = [0.25, 0.5, 1].map((v) => new Float32Array(count).fill(v));
    const look = (medium: object): object => ({
      camera: FROM_FRONT,
      medium: { density: 1, forward: 0, ...medium },
      lights: [{ ...SUN, heading: 90, height: 0 }],
      sky: WHITE,
      quality: truly(2048, 8),
    });
    const carried = rendered(
      { ...SLAB, colour },
      look({ scatter: [0.2, 0.2, 0.2], absorb: [0.8, 0.8, 0.8], colour: 'carried', colours: 'absorb' }),
    );
    const even = rendered(
      SLAB,
      look({ scatter: [0.2, 0.2, 0.2], absorb: [0.25, 0.5, 1].map((v) => 0.8 * (1 - v)) }),
    );
    const [a, b] = [carried, even].map(({ rgba }) => meanOf(rgba));
    for (let c = 0; c < 4; c++) within(a[c], b[c], 0.02);
    expect(a[2]).toBeGreaterThan(a[0]);
  });
});

describe('both estimators', () => {
  const camera = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 96, height: 54 };
  const lights = [
    { ...SUN, heading: 140, height: 30 },
    { ...SUN, id: 'r', kind: 'rectangle', position: [-1.5, 1.5, 0.5], aim: [0, 1, 0], colour: [1, 0.6, 0.3] },
  ];
  const looks = (density: number): object => ({
    camera,
    medium: { density, scatter: [0.9, 0.92, 0.95], absorb: [0.1, 0.08, 0.05], forward: 0.35 },
    lights,
    sky: { stops: -1, colour: [0.6, 0.7, 0.9] },
  });
  const volume = plume(80);
  test('agree on single scattering', () => {
    const quick = meanOf(rendered(volume, { ...looks(10), quality: quickly() }).rgba);
    const exact = meanOf(rendered(volume, { ...looks(10), quality: truly(256, 0) }).rgba);
    for (let c = 0; c < 4; c++) within(quick[c], exact[c], 0.02);
  });
  test.each([2, 6, 12])('quick ones tell of many scatterings within a tenth (density %d)', (density) => {
    const quick = meanOf(rendered(volume, { ...looks(density), quality: quickly(4) }).rgba);
    const exact = meanOf(rendered(volume, { ...looks(density), quality: truly(64, 32) }).rgba);
    for (let c = 0; c < 4; c++) within(quick[c], exact[c], 0.1);
  });
  test('give the same bits with one thread and with two, and in one go or two', () => {
    const look = LOOK.parse({ ...looks(10), quality: truly(8, 4) });
    const solids = solidsAt(
      compile(recipeOf({ obstacles: [defaultShape('sphere', [0.3, 0.5, 0.3], 0.2)] })).plan,
      0,
    );
    const picture = (threads: number, goes: readonly number[]): [Float32Array, Float32Array] => {
      const compiled = compileLook(look, volume, { solids });
      const threadPool = startThreadPool(renderPages(compiled, threads), threads);
      const renderer = new LookRenderer(threadPool, compiled);
      const growing = new TruePicture(renderer);
      for (const go of goes) growing.trace(go);
      const both: [Float32Array, Float32Array] = [growing.rgba(), renderer.march()];
      threadPool.close();
      return both;
    };

    const [path, quick] = picture(1, [8]);
    for (const [p, q] of [picture(2, [8]), picture(2, [3, 5])]) {
      expect(p).toEqual(path);
      expect(q).toEqual(quick);
    }
  });
  test('a region is what the whole picture has there', () => {
    const compiled = compileLook(LOOK.parse({ ...looks(10), quality: truly(2, 2) }), volume);
    const threadPool = startThreadPool(renderPages(compiled, 1), 1);
    const renderer = new LookRenderer(threadPool, compiled);
    const whole = new TruePicture(renderer);
    whole.trace(2);
    const all = whole.rgba();
    const part = new TruePicture(renderer, { from: [40, 20], end: [60, 41] });
    part.trace(2);
    const some = part.rgba();
    for (let y = 0; y < 54; y++)
      for (let x = 0; x < 96; x++) {
        const n = 4 * (y * 96 + x);
        const inside = x >= 40 && x < 60 && y >= 20 && y < 41;
        expect(some[n + 3]).toBe(inside ? all[n + 3] : 0);
      }

    threadPool.close();
  });
});

describe('solids', () => {
  const look = (seen: string): object => ({
    camera: { eye: [0, 0, 5], target: [0, 0, 0], focal: 50, width: 128, height: 96 },
    medium: pure(1, 0.9),
    lights: [{ ...SUN, heading: 60, height: 40 }],
    sky: { stops: -2, colour: [1, 1, 1] },
    solids: { seen, colour: [0.5, 0.5, 0.5] },
    quality: truly(64, 1),
  });
  const ball = solidsAt(compile(recipeOf({ obstacles: [defaultShape('sphere', [0, 0, 0], 0.6)] })).plan, 0);
  const nothing = { ...SLAB, density: new Float32Array(16 ** 3) };
  test('a sphere that is seen covers what an exact one does, to a tenth of a pixel', () => {
    const { rgba } = rendered(nothing, look('seen'), ball);
    const covered = meanOf(rgba)[3] * 128 * 96;
    // the cone from the eye that touches it, in pixels
    const radius = (Math.tan(Math.asin(0.6 / 5)) * 50 * 128) / 36;
    const edge = 2 * Math.PI * radius;
    expect(Math.abs(covered - Math.PI * radius ** 2)).toBeLessThan(0.1 * edge);
  });
  test('both estimators light a bare sphere alike', () => {
    const quick = meanOf(rendered(nothing, { ...look('seen'), quality: quickly() }, ball).rgba);
    const exact = meanOf(rendered(nothing, { ...look('seen'), quality: truly(64, 0) }, ball).rgba);
    within(quick[0], exact[0], 0.02);
  });
  test('light goes from wall to wall in a vessel, in both', () => {
    const vessel: ObstaclePart = { ...defaultShape('box', [0, 0, 0], 1), size: [3, 3, 3], facing: 'vessel' };
    const solids = solidsAt(compile(recipeOf({ obstacles: [vessel] })).plan, 0);
    const within0 = {
      ...look('seen'),
      medium: pure(0.2, 0.9),
      lights: [{ ...SUN, kind: 'rectangle', position: [0, 1.2, 0], aim: [0, 0, 0], width: 1, length: 1 }],
      solids: { vessels: 'seen', walls: [0.8, 0.5, 0.2] },
    };
    const quick = meanOf(rendered(SLAB, { ...within0, quality: quickly(4) }, solids).rgba);
    const exact = meanOf(rendered(SLAB, { ...within0, quality: truly(64, 64) }, solids).rgba);
    for (let c = 0; c < 3; c++) within(quick[c], exact[c], 0.12);
    // white walls give back much more than what falls on them first
    const once = meanOf(rendered(SLAB, { ...within0, quality: truly(64, 0) }, solids).rgba);
    expect(exact[0] / once[0]).toBeGreaterThan(1.5);
  });
  test('the sky is held back by what stands before it, in both', () => {
    const roof: ObstaclePart = { ...defaultShape('box', [0, 1.6, 0], 1), size: [5, 0.2, 5] };
    const solids = solidsAt(compile(recipeOf({ obstacles: [roof] })).plan, 0);
    const under = {
      camera: { eye: [0, 0.4, 6], target: [0, 0.2, 0], focal: 40, width: 64, height: 48 },
      medium: pure(2, 0.95),
      lights: [],
      sky: { stops: 0, colour: [1, 1, 1] },
      solids: { seen: 'seen', colour: [0.3, 0.3, 0.3] },
    };
    const quick = meanOf(rendered(SLAB, { ...under, quality: quickly(4) }, solids).rgba);
    const exact = meanOf(rendered(SLAB, { ...under, quality: truly(64, 32) }, solids).rgba);
    within(quick[0], exact[0], 0.1);
  });
  test('a vessel hides nothing', () => {
    const vessel: ObstaclePart = { ...defaultShape('box', [0, 0, 0], 1), size: [2, 2, 2], facing: 'vessel' };
    const solids = solidsAt(compile(recipeOf({ obstacles: [vessel] })).plan, 0);
    const held = meanOf(rendered(SLAB, look('held-out'), solids).rgba);
    const free = meanOf(rendered(SLAB, look('held-out')).rgba);
    expect(held[3]).toBeCloseTo(free[3], 6);
    expect(free[3]).toBeGreaterThan(0.05);
  });
});

describe('a look', () => {
  test('of the first version is upgraded to the same picture’s settings', () => {
    const look = LOOK.parse({
      version: 1,
      name: 'Old',
      medium: { density: 4, albedo: [0.8, 0.7, 0.5], forward: 0.2, shadow: 1 },
      sun: { heading: 10, height: 20, stops: 1, colour: [1, 1, 1] },
      sky: { stops: 0, colour: [0.5, 0.5, 0.5] },
      camera: { ...FROM_FRONT, step: 0.5 },
    });
    expect(look.medium.scatter).toEqual([0.8, 0.7, 0.5]);
    look.medium.absorb.forEach((a, c) => expect(a).toBeCloseTo([0.2, 0.3, 0.5][c]));
    expect(look.lights).toMatchObject([{ kind: 'sun', heading: 10, height: 20, stops: 1, angle: 0 }]);
    expect(look.quality).toMatchObject({ mode: 'quick', step: 0.5, octaves: 0 });
  });
  test('begins with a sun, and may have none', () => {
    expect(LOOK.parse({}).lights.map((l) => l.kind)).toEqual(['sun']);
    expect(LOOK.parse({ lights: [] }).lights).toEqual([]);
  });
  test.each([
    [{ camera: { ...FROM_FRONT, target: FROM_FRONT.eye } }, /camera.target/],
    [{ lights: [SUN, SUN] }, /share the id/],
    [{ lights: [{ ...SUN, kind: 'spot', position: [0, 0, 0], aim: [0, 0, 0] }] }, /lights\[0\].aim/],
  ])('that cannot be is refused by its place (%#)', (look, where) => {
    expect(() => LOOK.parse(look)).toThrow(where);
  });
  test('asks for a channel that is missing in words', () => {
    const look: Look = LOOK.parse({ medium: { colour: 'carried' } });
    expect(() => compileLook(look, SLAB)).toThrow(/carries no colour/);
    expect(() => compileLook(LOOK.parse({ medium: { colour: 'ramp', channel: 'age' } }), SLAB)).toThrow(
      /hold no age/,
    );
  });
  test('clips what is faint, and shows density by a curve', () => {
    const density = SLAB.density.slice();
    density.fill(0.01, 0, 8 * 256);
    const clipped = compileLook(LOOK.parse({ medium: { clip: 0.02 } }), { ...SLAB, density });
    expect(clipped.medium.dims).toEqual([16, 16, 8]);
    const shown = (medium: object): number =>
      meanOf(
        rendered(SLAB, {
          camera: FROM_FRONT,
          medium: { ...pure(1, 1), ...medium },
          lights: [],
          quality: quickly(),
        }).rgba,
      )[3];
    const half: [number, number][] = [
      [0, 0],
      [1, 0.5],
    ];
    expect(shown({ remap: 'drawn', curve: half })).toBeCloseTo(shown({ density: 0.5 }), 3);
  });
  test('a black body is red when cool, white by day and bluish when hot', () => {
    const [r, g, b] = blackBody(6500);
    expect(Math.max(r, g, b) / Math.min(r, g, b)).toBeLessThan(1.1);
    expect(blackBody(2000)[0]).toBeGreaterThan(3 * blackBody(2000)[2]);
    expect(blackBody(12000)[2]).toBeGreaterThan(blackBody(12000)[0]);
    const luminance = blackBody(4000).reduce((s, v, c) => s + v * [0.2126, 0.7152, 0.0722][c], 0);
    expect(luminance).toBeCloseTo(1, 3);
  });
});
