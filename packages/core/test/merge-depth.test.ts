// Layers merged by depth: the kernel against the same written plainly, deep files read, and both against what
// the reference library makes of the same files.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { Composer } from '@bramblemist/core/combine/composer';
import type { DeepPixels, FeedPicture } from '@bramblemist/core/combine/feed-picture';
import { gather, type Feeds } from '@bramblemist/core/combine/gather';
import { Pixels, type Merged } from '@bramblemist/core/combine/pixels';
import { pictureFrom } from '@bramblemist/core/combine/raw-picture';
import { writeDeepExr, type ExrDeepImage } from '@bramblemist/core/files/exr/deep';
import { readDeepExr } from '@bramblemist/core/files/exr/deep-reader';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { random } from './run';

const WIDTH = 24;
const HEIGHT = 18;
const COUNT = WIDTH * HEIGHT;
const IDENTITY = [1, 0, 0, 0, 1, 0, 0, 0, 1] as const;
/** Premultiplied red, green, blue, alpha, where it begins and where it ends. */
type Sample = readonly number[];

const folder = mkdtempSync(join(tmpdir(), 'merge-'));
const program = join(folder, 'deep');
let pool: ThreadPool;
beforeAll(() => {
  pool = startThreadPool(8, 2);
  const flags = ['-std=c++17', '-I/usr/include/OpenEXR', '-I/usr/include/Imath'];
  const fixture = join(__dirname, 'fixtures', 'deep.cpp');
  execFileSync('g++', [...flags, fixture, '-o', program, '-lOpenEXR-3_1', '-lImath-3_1']);
}, 120_000);
afterAll(() => {
  pool.close();
  rmSync(folder, { recursive: true });
});

/** Samples of a pixel as whole numbers of a half have them, so that a file keeps them. */
function samplesFor(next: () => number): Sample[] {
  const count = Math.floor(5 * next());
  let depth = 1 + 2 * next();
  return Array.from({ length: count }, () => {
    const near = depth;
    const far = next() < 0.3 ? near : near + next();
    depth = far + (next() < 0.5 ? 0 : 0.3 * next());
    const alpha = next() < 0.1 ? 1 : Math.round(230 * next()) / 256;
    const own = [next() * alpha, next() * alpha, 0.5 * alpha, alpha].map((v) => Math.round(v * 512) / 512);
    return [...own, Math.fround(near), Math.fround(far)];
  });
}

function imageOf(pixels: readonly (readonly Sample[])[]): ExrDeepImage {
  return {
    width: WIDTH,
    height: HEIGHT,
    counts: Uint32Array.from(pixels, (p) => p.length),
    samples: Float32Array.from(pixels.flat(2)),
  };
}

const randomPixels = (seed: number): Sample[][] => {
  const next = random(seed);
  return Array.from({ length: COUNT }, () => samplesFor(next));
};

function deepOf({ width, height, counts, samples }: ExrDeepImage): DeepPixels {
  const starts = new Uint32Array(counts.length + 1);
  counts.forEach((count, n) => (starts[n + 1] = starts[n] + count));
  return { width, height, starts, samples };
}

/** All samples of a ray, the topmost layer's first, parted wherever one begins or ends. */
function laidFlat(all: readonly Sample[]): number[] {
  const bounds = [...new Set(all.flatMap((s) => [s[4], s[5]]))].sort((a, b) => a - b);
  const out = [0, 0, 0, 0];
  let left = 1;
  const over = (rgb: readonly number[], alpha: number): void => {
    rgb.forEach((v, c) => (out[c] += v * left));
    out[3] += alpha * left;
    left *= 1 - alpha;
  };

  bounds.forEach((bound, n) => {
    for (const s of all) if (s[4] === bound && s[5] === bound) over(s.slice(0, 3), s[3]);
    if (n === bounds.length - 1) return;
    const here = all.filter((s) => s[5] > s[4] && s[4] <= bound && s[5] >= bounds[n + 1]);
    if (here.length === 0) return;
    const opaque = here.filter(([, , , a]) => a === 1);
    if (opaque.length > 0)
      return over(
        [0, 1, 2].map((c) => opaque.reduce((t, s) => t + s[c], 0) / opaque.length),
        1,
      );
    const parts = here.map(([r, g, b, a, near, far]) => {
      const thickness = -Math.log(1 - a);
      const own = (thickness * (bounds[n + 1] - bound)) / (far - near);
      return { own, rgb: [r, g, b].map((v) => (a > 0 ? (v / a) * own : 0)) };
    });
    const sum = parts.reduce((t, { own }) => t + own, 0);
    const alpha = 1 - Math.exp(-sum);
    over(
      [0, 1, 2].map((c) => (sum > 0 ? (parts.reduce((t, { rgb }) => t + rgb[c], 0) * alpha) / sum : 0)),
      alpha,
    );
  });
  return out;
}

const pixelsOf = (view: Float32Array): number[][] =>
  Array.from({ length: view.length / 4 }, (_, p) => [...view.subarray(4 * p, 4 * p + 4)]);

function furthest(got: Float32Array, wanted: readonly (readonly number[])[]): number {
  expect(got).toHaveLength(4 * wanted.length);
  return pixelsOf(got).reduce(
    (most, pixel, p) => Math.max(most, ...pixel.map((v, c) => Math.abs(v - wanted[p][c]))),
    0,
  );
}

describe('the kernel', () => {
  let pixels: Pixels;
  const deep = [randomPixels(1), randomPixels(2)];
  const flat = deep.map((layer) => layer.map(laidFlat));
  /** The nth picture and its depth picture. */
  const merged = (n: number, more: object = {}): Merged => ({
    picture: pixels.picture(n),
    depth: 0,
    mask: 0,
    opacity: 1,
    ...more,
  });
  const asDeep = (n: number, more: object = {}): Merged =>
    merged(n, { deep: { pixels: deepOf(imageOf(deep[n])), back: IDENTITY }, ...more });
  beforeEach(() => {
    pixels = new Pixels(pool, WIDTH, HEIGHT, 6, 1);
    flat.forEach((picture, n) => pixels.put(pixels.picture(n), Float32Array.from(picture.flat())));
  });
  const run = (layers: readonly Merged[]): Float32Array => {
    pixels.mergeByDepth(layers, pixels.picture(4), pixels.picture(5));
    return pixels.view(pixels.picture(4));
  };

  test('one alone is itself', () => {
    expect(furthest(run([asDeep(0)]), flat[0])).toBeLessThan(2e-6);
    // how far away its first surface is
    const depth = pixels.view(pixels.picture(5));
    deep[0].forEach((own, n) => {
      const first = own.find((s) => s[3] > 0);
      expect(depth[4 * n]).toBe(first ? first[4] : 0);
    });
  });

  test('two media that reach through one another', () => {
    const wanted = deep[0].map((own, n) => laidFlat([...own, ...deep[1][n]]));
    expect(furthest(run([asDeep(0), asDeep(1)]), wanted)).toBeLessThan(5e-6);
  });

  test('a flat card between, before and behind; where it says nothing it is infinitely far', () => {
    const card = [0.2, 0.1, 0.3, 0.6];
    const depth = (n: number): number => [0, 0.5, 2.2, 3, 40][n % 5];
    pixels.fill(pixels.picture(1), card as never);
    pixels.put(
      pixels.picture(2),
      Float32Array.from({ length: 4 * COUNT }, (_, n) => (n % 4 === 0 ? Math.fround(depth(n >> 2)) : 9)),
    );
    const at = (n: number): number => Math.fround(depth(n)) || 1e9;
    const wanted = deep[0].map((own, n) => laidFlat([...own, [...card, at(n), at(n)]]));
    expect(furthest(run([asDeep(0), merged(1, { depth: pixels.picture(2) })]), wanted)).toBeLessThan(3e-6);
  });

  test('of several flat ones the nearer lies over the farther, whatever their order', () => {
    const cards = [
      { colour: [0.1, 0, 0, 0.3], depth: 5 },
      { colour: [0, 0.2, 0, 0.5], depth: 2 },
      { colour: [0, 0, 0.3, 0.4], depth: 3 },
    ];
    const next = new Float32Array(4 * COUNT);
    const layers = cards.map(({ colour, depth }, n) => {
      pixels.fill(pixels.picture(n), colour as never);
      return { colour, depth, n, next };
    });
    // one picture of depth serves one at a time, so that each card is merged with the ground in its turn
    const wanted = laidFlat(cards.map(({ colour, depth }) => [...colour, depth, depth]));
    const single = (depth: number): DeepPixels =>
      deepOf(imageOf(Array.from({ length: COUNT }, () => [[0, 0, 0, 1, depth, depth]])));
    const got = run(
      layers.map(({ n, depth }) => merged(n, { deep: { pixels: single(depth), back: IDENTITY } })),
    );
    expect(
      furthest(
        got,
        Array.from({ length: COUNT }, () => wanted),
      ),
    ).toBeLessThan(1e-6);
  });

  test('graded, behind a mask, at a part: as much as its pixel says, where its samples are', () => {
    const next = random(8);
    const mask = Float32Array.from({ length: COUNT }, () => next());
    pixels.viewMask(pixels.mask(0)).set(mask);
    const graded = flat[0].map(([r, g, b, a]) => [2 * r + 0.1 * a, 0.3 * g, b, 0.8 * a]);
    pixels.put(pixels.picture(0), Float32Array.from(graded.flat()));
    const alone = run([asDeep(0, { mask: pixels.mask(0), opacity: 0.7 })]);
    const part = graded.map((pixel, n) => pixel.map((v) => v * mask[n] * 0.7));
    expect(furthest(alone, part)).toBeLessThan(3e-6);
    // a card behind half of the samples: what is before it covers as much of it as it does of all
    const card = [1, 1, 1, 1];
    pixels.fill(pixels.picture(1), card as never);
    pixels.fill(pixels.picture(2), [2.4, 0, 0, 0]);
    const got = run([
      asDeep(0, { mask: pixels.mask(0), opacity: 0.7 }),
      merged(1, { depth: pixels.picture(2) }),
    ]);
    const before = deep[0].map((own) =>
      laidFlat(
        own.flatMap((s) => {
          const share = s[5] > 2.4 && s[4] < 2.4 ? (2.4 - s[4]) / (s[5] - s[4]) : 1;
          if (s[4] > 2.4) return [];
          const alpha = 1 - (1 - s[3]) ** share;
          return [[0, 0, 0, s[3] === 1 ? 1 : alpha, s[4], Math.min(s[5], 2.4)]];
        }),
      ),
    );
    let compared = 0;
    pixelsOf(got).forEach((pixel, n) => {
      // parted within a sample the share of a thinner medium differs
      if (flat[0][n][3] === 0 || deep[0][n].some((s) => s[4] < 2.4 && s[5] > 2.4)) return;
      const covered = (before[n][3] / flat[0][n][3]) * part[n][3];
      expect(pixel[3]).toBeCloseTo(1, 5);
      expect(1 - covered).toBeCloseTo(through(pixel, part[n], before[n][3] / flat[0][n][3], n), 5);
      compared++;
    });
    expect(compared).toBeGreaterThan(100);

    /** What is left of the white card in blue, whose share of the samples is even. */
    function through(pixel: number[], own: readonly number[], share: number, n: number): number {
      expect(flat[0][n][3]).toBeGreaterThan(0);
      return pixel[2] - own[2] * share;
    }
  });

  test('moved, and beside its picture', () => {
    const back = [1, 0, -5, 0, 1, 3, 0, 0, 1] as const;
    const moved = Array.from({ length: COUNT }, (_, n) => {
      const [x, y] = [(n % WIDTH) - 5, Math.floor(n / WIDTH) + 3];
      return x >= 0 && y < HEIGHT ? y * WIDTH + x : -1;
    });
    const picture = moved.map((from) => (from < 0 ? [0, 0, 0, 0] : flat[0][from]));
    pixels.put(pixels.picture(0), Float32Array.from(picture.flat()));
    const layers = [
      merged(0, { deep: { pixels: deepOf(imageOf(deep[0])), back } }),
      merged(1, { deep: { pixels: deepOf(imageOf(deep[1])), back: IDENTITY } }),
    ];
    const wanted = moved.map((from, n) => laidFlat([...(from < 0 ? [] : deep[0][from]), ...deep[1][n]]));
    expect(furthest(run(layers), wanted)).toBeLessThan(5e-6);
  });
});

describe('deep files', () => {
  const fileOf = (name: string, image: ExrDeepImage): string => {
    writeFileSync(join(folder, name), writeDeepExr(image, nodeZip));
    return join(folder, name);
  };

  const flattenedBy = (...files: string[]): number[][] => {
    const bytes = execFileSync(program, ['flatten', ...files], { maxBuffer: 2 ** 26 });
    return pixelsOf(new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length)));
  };

  const cardOf = (name: string, depth: number, alpha: number): string => {
    const path = join(folder, name);
    execFileSync(program, ['card', path, String(WIDTH), String(HEIGHT), String(depth), String(alpha)]);
    return path;
  };

  test('what is written is read again', () => {
    const image = imageOf(randomPixels(5));
    const read = readDeepExr(readFileSync(fileOf('again.exr', image)), nodeZip);
    expect(read.counts).toEqual(image.counts);
    expect(read.samples).toEqual(image.samples);
  });

  test('those of the library, which say no end', () => {
    const { counts, samples } = readDeepExr(readFileSync(cardOf('card.exr', 4.5, 0.25)));
    expect(counts).toEqual(new Uint32Array(COUNT).fill(1));
    expect(samples).toEqual(
      Float32Array.from({ length: 6 * COUNT }, (_, n) => [0, 0, 0, 0.25, 4.5, 4.5][n % 6]),
    );
  });

  test('samples that overlap are parted', () => {
    const one = [0.25, 0, 0, 0.5, 1, 3];
    const two = [0, 0.375, 0, 0.5, 2, 4];
    const image = imageOf(Array.from({ length: COUNT }, (_, n) => (n === 7 ? [two, one] : [])));
    const path = fileOf('overlap.exr', image);
    const { counts, samples } = readDeepExr(readFileSync(path));
    expect(counts[7]).toBe(3);
    for (let n = 0; n < 2; n++) expect(samples[6 * n + 5]).toBe(samples[6 * n + 10]);
    const wanted = laidFlat([one, two]);
    laidFlat(Array.from({ length: 3 }, (_, n) => [...samples.subarray(6 * n, 6 * n + 6)])).forEach((v, c) =>
      expect(v).toBeCloseTo(wanted[c], 6),
    );
  });

  test.each([
    ['no deep picture', (bytes: Uint8Array) => bytes.slice(0, 40), /absurd/],
    [
      'a table that counts back',
      (bytes: Uint8Array) => {
        const cut = bytes.slice();
        cut.fill(0xff, bytes.length - 200, bytes.length - 100);
        return cut;
      },
      /./,
    ],
    ['its end missing', (bytes: Uint8Array) => bytes.slice(0, bytes.length - 300), /ends|not in/],
  ])('refused by name: %s', (_, spoilt, said) => {
    const whole = writeDeepExr(imageOf(randomPixels(6)), nodeZip);
    expect(() => readDeepExr(spoilt(whole))).toThrow(said);
  });

  /** A comp of deep pictures, each merged by depth. */
  async function merged(
    files: readonly string[],
    { layers: given, ...more }: { layers?: object; masks?: object[] } = {},
  ): Promise<Float32Array> {
    const layers = files.map((_, n) => ({
      id: `l${n}`,
      name: `l${n}`,
      feed: { kind: 'render', render: n + 1 },
      meet: 'depth',
      place: { fit: 'own' },
      ...given,
    }));
    const own: Combine = COMBINE.parse({ frame: { width: WIDTH, height: HEIGHT }, layers, ...more });
    const pictures = await Promise.all(
      files.map((path) =>
        pictureFrom({ kind: 'exr', bytes: readFileSync(path) }, null, {
          key: path,
          name: path,
          passes: ['deep'],
          table: null,
          zip: nodeZip,
        }),
      ),
    );
    const feeds: Feeds = {
      range: async () => ({ first: 1, last: 1, rate: 24 }),
      picture: async (feed): Promise<FeedPicture> => pictures['render' in feed ? feed.render - 1 : 0],
      track: async () => Promise.reject(new Error('no track')),
      table: async () => Promise.reject(new Error('no table')),
      fonts: async () => Promise.reject(new Error('no font')),
    };
    const ingredients = await gather(own, 1, feeds);
    expect(ingredients.notes).toEqual([]);
    return new Composer(pool, own, 1).compose(ingredients).rgba.slice();
  }

  test('in a comp two media reach through one another, masked, beside a plate of known depth', async () => {
    const [a, b] = [randomPixels(21), randomPixels(22)];
    const [one, two] = [fileOf('a.exr', imageOf(a)), fileOf('b.exr', imageOf(b))];
    const own = await merged([one, two]);
    expect(
      furthest(
        own,
        a.map((samples, n) => laidFlat([...samples, ...b[n]])),
      ),
    ).toBeLessThan(5e-6);
    // through a mask that holds everything back there is nothing of them
    const nothing = await merged([one, two], {
      layers: { mask: 'm' },
      masks: [{ id: 'm', name: 'M', kind: 'drawn', inner: 0, outer: 0, place: { x: 5000 } }],
    });
    expect(nothing.every((v) => v === 0)).toBe(true);
  });

  test('a comp merges deep pictures as the library does, which knows surfaces alone', async () => {
    const surfaces = (seed: number): ExrDeepImage =>
      imageOf(randomPixels(seed).map((own) => own.map((s) => [...s.slice(0, 5), s[4]])));
    const one = fileOf('one.exr', surfaces(11));
    const two = fileOf('two.exr', surfaces(12));
    const card = cardOf('between.exr', 2.5, 0.5);
    expect(furthest(await merged([one]), flattenedBy(one))).toBeLessThan(1e-5);
    expect(furthest(await merged([one, card]), flattenedBy(one, card))).toBeLessThan(1e-5);
    expect(furthest(await merged([one, two, card]), flattenedBy(one, two, card))).toBeLessThan(1e-5);
  });
});
