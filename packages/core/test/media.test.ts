// Several media over one another, and colours that are looked up in pictures.
import { textureBy } from './textures';
import { compileLook } from '@bramblemist/core/look/compile-look';
import { LOOK } from '@bramblemist/core/look/look';
import type { Volume } from '@bramblemist/core/look/colouring';
import {
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
} from './rendered';

const seen = { camera: FROM_FRONT, lights: [{ ...SUN, heading: 90, height: 0 }], sky: DARK };
const further = (more: object): object[] => [{ id: 'b', name: 'Other', bake: 1, ...more }];
const volumes = (volume: Volume): object => ({ volumes: new Map([['b', volume]]) });
const modes = [
  ['true', truly(256, 4)],
  ['quick', quickly(2)],
] as const;

describe.each(modes)('several media (%s)', (_, quality) => {
  test('halves of one are the whole', () => {
    const whole = rendered(SLAB, { ...seen, medium: pure(2, 0.9, 0.4), quality });
    const half = pure(1, 0.9, 0.4);
    const both = rendered(
      SLAB,
      { ...seen, medium: half, media: further(half), quality },
      [],
      2,
      volumes(SLAB),
    );
    const [a, b] = [whole, both].map(({ rgba }) => meanOf(rgba));
    for (let c = 0; c < 4; c++) within(b[c], a[c], 0.01);
  });
  test('one behind another hides as both do, and one that is off or has no frame hides nothing', () => {
    const clear = { ...seen, lights: [], medium: pure(0.5, 0.5), quality };
    const alphaOf = (media: object[], more: object): number =>
      meanOf(rendered(SLAB, { ...clear, media }, [], 2, more).rgba)[3];
    const other = { ...pure(0.7, 0.2), position: [0, 0, -4] };
    expect(alphaOf(further(other), volumes(SLAB))).toBeCloseTo(1 - Math.exp(-2 * (0.5 + 0.7)), 2);
    expect(alphaOf(further({ ...other, on: false }), volumes(SLAB))).toBeCloseTo(1 - Math.exp(-1), 2);
    expect(alphaOf(further(other), {})).toBeCloseTo(1 - Math.exp(-1), 2);
  });
  test('each takes its own channels', () => {
    const ink = (absorb: number[]): object => ({ density: 0.5, scatter: [0, 0, 0], absorb, forward: 0 });
    const { rgba } = rendered(
      SLAB,
      {
        ...seen,
        lights: [],
        sky: { ...WHITE, seen: 'seen' },
        medium: ink([1, 0.2, 0]),
        media: further(ink([0, 0.2, 0.6])),
        quality: { ...quality, samples: 1024 },
      },
      [],
      2,
      volumes(SLAB),
    );
    const mean = meanOf(rgba);
    [1, 0.4, 0.6].forEach((a, c) => within(mean[c], Math.exp(-2 * 0.5 * a), 0.02));
  });
});

test('each scatters its own way, also where they overlap', () => {
  const quality = truly(2048, 0);
  const scattered = (more: object, other: object = {}): number =>
    meanOf(rendered(SLAB, { ...seen, ...more, quality }, [], 2, other).rgba)[0];
  // of as much extinction as both have, and half as much that scatters
  const alone = (forward: number): number => scattered({ medium: pure(1, 0.5, forward) });
  const look = { medium: pure(0.5, 1, 0.6), media: further(pure(0.5, 1, -0.3)) };
  within(scattered(look, volumes(SLAB)), alone(0.6) + alone(-0.3), 0.02);
});

test('a mixture has the finest voxels of all, and media keep their masses in it', () => {
  const fine: Volume = { ...SLAB, voxelSizeM: SLAB.voxelSizeM / 2, corner: [-0.25, -0.5, -0.5] };
  const look = LOOK.parse({ medium: pure(1, 1), media: further(pure(3, 1)) });
  const { medium } = compileLook(look, SLAB, volumes(fine));
  expect(medium.voxelSizeM).toBe(SLAB.voxelSizeM / 2);
  expect(medium.dims).toEqual([34, 34, 34]);
  const total = medium.density.reduce((sum, v) => sum + v, 0) * medium.voxelSizeM ** 2;
  within(total, 2 ** 3 + 3 * 1, 0.02);
});

test('colours are looked up in a picture by two channels', () => {
  const count = SLAB.density.length;
  // red goes across by temperature, green upward by height
  const picture = textureBy(64, 64, (c, n) => [(n % 64) / 64, 1 - Math.floor(n / 64) / 64, 0.5][c]);
  const volume = { ...SLAB, channels: { temperature: new Float32Array(count).fill(75) } };
  const medium = {
    ...pure(1, 1),
    colour: 'picture',
    picture: 'p',
    channel: 'temperature',
    low: 50,
    high: 100,
    upward: 'height',
    bottom: -1,
    top: 1,
  };
  const pictures = new Map([['p', picture]]);
  const { tint } = compileLook(LOOK.parse({ medium }), volume, { pictures }).medium;
  const at = (j: number, c: number): number => tint![4 * (8 * 256 + j * 16 + 8) + c] / 65535;
  expect(at(4, 0)).toBeCloseTo(0.5, 1);
  expect(at(1, 1)).toBeLessThan(0.15);
  expect(at(14, 1)).toBeGreaterThan(0.85);
  const grey = compileLook(LOOK.parse({ medium: { ...medium, saturation: 0, exposure: -1 } }), volume, {
    pictures,
  });
  const [r, g, b] = [0, 1, 2].map((c) => grey.medium.tint![4 * (8 * 256 + 14 * 16 + 8) + c]);
  expect(r).toBe(g);
  expect(g).toBe(b);
  expect(() => compileLook(LOOK.parse({ medium }), SLAB, { pictures })).toThrow(/hold no temperature/);
  expect(() => compileLook(LOOK.parse({ medium }), volume)).toThrow(/not among the look’s files/);
});
