// What lights a medium besides lamps and an even sky: pictures of all directions and meshes that glow;
// surfaces that show their shadows only; cameras with crop and overscan; and keys of all that.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import { readExr } from '@bramblemist/core/files/exr/reader';
import { textureBy } from './textures';
import type { Texture } from '@bramblemist/core/files/picture';
import { renderFile } from '@bramblemist/core/io/node/pictures';
import { compileLook } from '@bramblemist/core/look/compile-look';
import { environmentOf } from '@bramblemist/core/look/environment';
import { directionOf, framingOf, LOOK, lookAt } from '@bramblemist/core/look/look';
import { plume } from '@bramblemist/core/look/plume';
import { groundAt, solidsAt, type Solid } from '@bramblemist/core/look/solids';
import { compile } from '@bramblemist/core/plan/compile';
import { recipeOf } from './run';
import { DARK, FROM_FRONT, meanOf, pure, quickly, rendered, SLAB, SUN, truly, within } from './rendered';
import { defaultShape } from './shapes';

const NOTHING = { ...SLAB, density: new Float32Array(16 ** 3) };
const PLAIN = textureBy(16, 8, (c) => [0.5, 0.7, 0.9][c]);
const only = (picture: Texture): object => ({ pictures: new Map([['p', picture]]) });
const pictured = { kind: 'picture', picture: 'p', stops: 0 };
const camera = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 64, height: 36 };

/** A dark picture with a small bright disc, and what a sun there gives. */
function discAt(heading: number, height: number, degrees: number): { picture: Texture; irradiance: number } {
  const [wide, high] = [360, 180];
  const toward = directionOf({ heading, height });
  const limit = Math.cos((degrees * Math.PI) / 360);
  let irradiance = 0;
  const isIn = (n: number): boolean => {
    // top row first: zenith; its middle is −z
    const e = (0.5 - (Math.floor(n / wide) + 0.5) / high) * Math.PI;
    const h = (((n % wide) + 0.5) / wide - 0.5) * 2 * Math.PI;
    const way = [Math.cos(e) * Math.sin(h), Math.sin(e), -Math.cos(e) * Math.cos(h)];
    const inside = way.reduce((sum, v, a) => sum + v * toward[a], 0) > limit;
    if (inside) irradiance += 100 * Math.cos(e) * (Math.PI / high) * ((2 * Math.PI) / wide);
    return inside;
  };

  const values = Float32Array.from({ length: wide * high }, (_, n) => (isIn(n) ? 100 : 0));
  return { picture: textureBy(wide, high, (_, n) => values[n]), irradiance };
}

describe('a picture of all directions', () => {
  test('keeps its light, and is drawn with densities that sum to one', () => {
    const picture = textureBy(
      128,
      64,
      (c, n) => (Math.floor(n / 9) % 7) / 7 + (n === 2500 ? 300 * (c + 1) : 0),
    );
    const { side, table, even, suns } = environmentOf(picture, 30);
    const wide = side + 2;
    let drawn = 0;
    const flux = [0, 0, 0];
    for (let j = 0; j < side; j++)
      for (let i = 0; i < side; i++) {
        const at = 4 * ((j + 1) * wide + i + 1);
        drawn += table[at + 3] * (2 / side) ** 2;
        const [a, b] = [i, j].map((v) => (2 * (v + 0.5)) / side - 1);
        const y = 1 - Math.abs(a) - Math.abs(b);
        const solid =
          (2 / side) ** 2 / Math.hypot(y < 0 ? 1 - Math.abs(b) : a, y, y < 0 ? 1 - Math.abs(a) : b) ** 3;
        for (let c = 0; c < 3; c++) flux[c] += table[at + c] * solid;
      }

    expect(drawn).toBeCloseTo(1, 4);
    for (let c = 0; c < 3; c++) {
      let exact = 0;
      for (let n = 0; n < 128 * 64; n++) {
        const e = ((Math.floor(n / 128) + 0.5) / 64 - 0.5) * Math.PI;
        exact += picture.planes[c * 128 * 64 + n] * Math.cos(e) * (Math.PI / 64) ** 2;
      }

      within(flux[c], exact, 0.02);
      // an even part with suns is as much light as the picture
      const parted = even[c] * 4 * Math.PI + suns.reduce((sum, s) => sum + s.irradiance[c], 0);
      within(parted, flux[c], 0.01);
    }

    expect(suns.length).toBeGreaterThan(0);
  });
  test.each([
    ['true', truly(64, 8)],
    ['quick', quickly(2)],
  ])('of one colour is an even environment (%s)', (_, quality) => {
    const look = (sky: object): object => ({
      camera,
      medium: pure(8, 0.9, 0.5),
      lights: [],
      sky,
      quality,
    });
    const even = meanOf(rendered(plume(32), look({ stops: 0, colour: [0.5, 0.7, 0.9] })).rgba);
    const same = meanOf(rendered(plume(32), look(pictured), [], 2, only(PLAIN)).rgba);
    for (let c = 0; c < 4; c++) within(same[c], even[c], 0.015);
  });
  test.each([
    [140, 30],
    [-60, -20],
  ])('with one small bright place is a sun there (heading %d°, height %d°)', (heading, height) => {
    const { picture, irradiance } = discAt(heading, height, 6);
    const stops = Math.log2(irradiance / (4 * Math.PI));
    const look = (quality: object, lights: object[], sky: object): object => ({
      camera,
      medium: pure(10, 0.9, 0.35),
      lights,
      sky,
      quality,
    });
    const sun = [{ ...SUN, heading, height, angle: 6, stops }];
    const exact = meanOf(rendered(plume(48), look(truly(128, 2), sun, DARK)).rgba);
    const lit = meanOf(rendered(plume(48), look(truly(128, 2), [], pictured), [], 2, only(picture)).rgba);
    const quickSun = meanOf(rendered(plume(48), look(quickly(), sun, DARK)).rgba);
    const quick = meanOf(rendered(plume(48), look(quickly(), [], pictured), [], 2, only(picture)).rgba);
    within(lit[0], exact[0], 0.02);
    within(quick[0], quickSun[0], 0.04);
  });
  test('turns about the upright axis', () => {
    const { picture } = discAt(0, 10, 20);
    const towards = [0, 90].map((turn) => environmentOf(picture, turn).suns[0].toward);
    expect(towards[0][0]).toBeGreaterThan(0.8);
    expect(towards[1][2]).toBeGreaterThan(0.8);
  });
  test('is seen behind everything where it is asked for', () => {
    for (const quality of [truly(4, 1), quickly()]) {
      const look = {
        camera: FROM_FRONT,
        medium: pure(1, 0.9),
        lights: [],
        sky: { ...pictured, seen: 'seen' },
        quality,
      };
      const [r, g, b, a] = meanOf(rendered(NOTHING, look, [], 2, only(PLAIN)).rgba);
      [r, g, b, a].forEach((v, c) => expect(v).toBeCloseTo([0.5, 0.7, 0.9, 1][c], 3));
    }
  });
  test('that is not there is asked for in words', () => {
    const look = LOOK.parse({ sky: { kind: 'picture' } });
    expect(() => compileLook(look, SLAB)).toThrow(/no picture yet/);
    const lost = LOOK.parse({ sky: { kind: 'picture', picture: 'gone' } });
    expect(() => compileLook(lost, SLAB)).toThrow(/not among/);
  });
});

describe('surfaces', () => {
  const above = { eye: [0, 6, 0.01], target: [0, 0, 0], focal: 36, width: 48, height: 48 };
  const ball = solidsAt(
    compile(recipeOf({ obstacles: [{ ...defaultShape('sphere', [0, 1, 0], 0.5), id: 'ball' }] })).plan,
    0,
  );
  const catching = (quality: object, lights: object[], sky: object = DARK): object => ({
    camera: above,
    medium: pure(1, 0.9),
    lights,
    sky,
    solids: { seen: 'unseen', ground: 'catcher' },
    surfaces: [{ id: 'o', name: 'Ball', of: 'ball', seen: 'unseen' }],
    quality,
  });
  test.each([
    ['true', truly(16, 2)],
    ['quick', quickly()],
  ])('that catch shadows darken where light is held back (%s)', (_, quality) => {
    const sun = { ...SUN, heading: 0, height: 90 };
    const { rgba } = rendered(NOTHING, catching(quality, [sun]), ball);
    const sums = meanOf(rgba);
    // the shadow of a sphere under a sun overhead is its own circle
    const perPixel = (6 * 36) / 36 / 48;
    expect(sums[3] * 48 * 48 * perPixel ** 2).toBeCloseTo(Math.PI * 0.25, 1);
    expect(sums[0]).toBe(0);
    expect(rgba[3]).toBe(0);
  });
  test('that catch shadows count all light that there is', () => {
    const lights = [
      { ...SUN, heading: 0, height: 90 },
      { ...SUN, id: 't', heading: 0, height: 90, shadows: false },
    ];
    const middle = 4 * (24 * 48 + 24) + 3;
    expect(rendered(NOTHING, catching(truly(16, 1), lights), ball).rgba[middle]).toBeCloseTo(0.5, 3);
    expect(rendered(NOTHING, catching(quickly(), lights), ball).rgba[middle]).toBeCloseTo(0.5, 3);
    // under the sky alone a sphere hides a known part of it: the cosine-weighted part of its cone
    const sky = { stops: 0, colour: [1, 1, 1] };
    const shade = rendered(NOTHING, catching(truly(4096, 1), [], sky), ball).rgba[middle];
    expect(shade).toBeCloseTo(0.25, 1);
  });
  test('that glow light the medium as a lamp of their shape does', () => {
    const half = 0.25;
    const quad: Solid = {
      ...groundAt(0),
      id: 'quad',
      kind: 'obstacle',
      mesh: {
        positions: Float32Array.from([
          -half,
          -half,
          1.5,
          half,
          -half,
          1.5,
          half,
          half,
          1.5,
          -half,
          half,
          1.5,
        ]),
        triangles: Uint32Array.from([0, 1, 2, 0, 2, 3]),
      } as unknown as Solid['mesh'],
    };
    const look = (more: object): object => ({
      camera: { ...FROM_FRONT, eye: [10, 0, 0] },
      medium: pure(1, 0.8),
      lights: [],
      sky: DARK,
      solids: { seen: 'unseen' },
      quality: truly(256, 0),
      ...more,
    });
    const glows = {
      id: 'g',
      name: 'Panel',
      of: 'quad',
      seen: 'unseen',
      glows: true,
      stops: 2,
      glow: [1, 1, 1],
    };
    const lit = meanOf(rendered(SLAB, look({ surfaces: [glows] }), [quad]).rgba);
    // radiance L of an area A is an intensity of L A; a rectangle says 4π of that at a metre
    const stops = Math.log2((4 * (2 * half) ** 2) / (4 * Math.PI));
    const panel = {
      ...SUN,
      kind: 'rectangle',
      position: [0, 0, 1.5],
      aim: [0, 0, 0],
      width: 2 * half,
      length: 2 * half,
      stops,
    };
    const exact = meanOf(rendered(SLAB, look({ lights: [panel] })).rgba);
    within(lit[0], exact[0], 0.02);
    const quick = meanOf(rendered(SLAB, look({ surfaces: [glows], quality: quickly() }), [quad]).rgba);
    // a ball of light stands for it: alike all round, where a flat one shines more ahead
    within(quick[0], lit[0], 0.6);
  });
});

describe('cameras', () => {
  test('crop and overscan move nothing', () => {
    const folder = mkdtempSync(join(tmpdir(), 'frame-'));
    try {
      const written = (more: object): ReturnType<typeof readExr> => {
        const look = LOOK.parse({ camera: { ...camera, ...more }, quality: quickly() });
        const { exr } = renderFile(plume(32), join(folder, 'one'), look, {});
        return readExr(readFileSync(exr));
      };

      const whole = written({});
      const more = written({ overscan: 25, crop: { left: 0, right: 50, top: 25, bottom: 0 } });
      expect(more.windows).toEqual({
        data: { min: [-16, 9], max: [31, 44] },
        display: { min: [0, 0], max: [63, 35] },
      });
      expect(more.width).toBe(48);
      const red = (image: typeof whole): ArrayLike<number> =>
        image.channels.find(({ name }) => name === 'R')!.values;
      for (let y = 10; y < 36; y += 5)
        for (let x = 0; x < 32; x += 3)
          expect(red(more)[(y - 9) * 48 + x + 16]).toBeCloseTo(red(whole)[y * 64 + x], 2);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
  test('a frame cannot be cropped away', () => {
    expect(() => LOOK.parse({ camera: { crop: { left: 60, right: 40 } } })).toThrow(/camera.crop/);
  });
  test('further ones see the same world', () => {
    const look = LOOK.parse({ cameras: [{ id: 'side', name: 'Side', eye: [9, 1, 0], focal: 85 }] });
    expect(lookAt(look, 1, 'side').camera).toMatchObject({ eye: [9, 1, 0], focal: 85 });
    expect(lookAt(look, 1).camera).toBe(look.camera);
    expect(framingOf(look).box).toEqual({ from: [0, 0], end: [640, 360] });
  });
});

test('numbers of a look are keyed over frames, and faults are named by their place', () => {
  const keys = [
    { frame: 10, value: -2, ease: 'even' },
    { frame: 20, value: 2, ease: 'even' },
  ];
  const look = LOOK.parse({
    curves: [{ id: 'c', path: 'lights/sun/stops', keys, after: 'hold' }],
  });
  expect([1, 15, 30].map((frame) => lookAt(look, frame).lights[0].stops)).toEqual([-2, 0, 2]);
  expect(() => LOOK.parse({ curves: [{ id: 'c', path: 'lights/gone/stops', keys }] })).toThrow(/id gone/);
  expect(() => LOOK.parse({ curves: [{ id: 'c', path: 'camera/width', keys }] })).toThrow(/takes no keys/);
  expect(() =>
    LOOK.parse({ curves: [{ id: 'c', path: 'sky/stops', keys: [{ ...keys[0], value: 99 }] }] }),
  ).toThrow(/curves\[0\].keys\[0\].value/);
});
