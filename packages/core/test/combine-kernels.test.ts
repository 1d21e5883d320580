// The kernels of pictures against the same written plainly, on random pictures with alpha, with and without a
// mask.
import { MaskJoin, MaskSource, MeetMode, RemapTable } from '@bramblemist/kernels/seam';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { boxesOf, Pixels, remapTable, remapTables } from '@bramblemist/core/combine/pixels';
import { inverted, moved, scaled, times, turned, type Matrix } from '@bramblemist/core/combine/placing';
import { softenedGrain } from '@bramblemist/core/combine/operations';
import { throughTable } from '@bramblemist/core/files/cube/cube';
import { random } from './run';

const WIDTH = 37;
const HEIGHT = 23;
const COUNT = WIDTH * HEIGHT;

let pool: ThreadPool;
let pixels: Pixels;
beforeAll(() => {
  pool = startThreadPool(8, 2);
  pixels = new Pixels(pool, WIDTH, HEIGHT, 6, 2);
});
afterAll(() => pool.close());

type Pixel = readonly number[];

/** A picture with clear places, light without alpha, and light above 1; in memory as the nth. */
function filled(n: number, seed = n + 3): Pixel[] {
  const next = random(seed);
  const all = Array.from({ length: COUNT }, (_, p) => {
    const alpha = p % 11 === 0 ? 0 : Math.min(1, Math.max(0, 1.4 * next() - 0.2));
    const cover = p % 22 === 0 ? 0.5 : alpha;
    return [3 * next() ** 2 * cover, next() * cover, next() * cover, alpha];
  });
  pixels.view(pixels.picture(n)).set(all.flat());
  return [...chunked(pixels.view(pixels.picture(n)))];
}

function filledMask(n: number): number[] {
  const next = random(n + 41);
  pixels.viewMask(pixels.mask(n)).set(Array.from({ length: COUNT }, () => next()));
  return [...pixels.viewMask(pixels.mask(n))];
}

const chunked = (view: Float32Array): Pixel[] =>
  Array.from({ length: view.length / 4 }, (_, p) => [...view.subarray(4 * p, 4 * p + 4)]);
const shown = (n: number): Pixel[] => chunked(pixels.view(pixels.picture(n)));

function alike(got: readonly Pixel[], wanted: readonly Pixel[], within = 1e-5): void {
  let worst = 0;
  got.forEach((pixel, p) =>
    pixel.forEach((v, c) => {
      const off = Math.abs(v - wanted[p][c]) / Math.max(1, Math.abs(wanted[p][c]));
      if (!(off <= worst)) worst = off;
    }),
  );
  expect(worst).toBeLessThan(within);
}

/** An operation on one pixel, done everywhere and through a mask. */
function check(
  run: (picture: number, mask: number) => void,
  plain: (pixel: Pixel, n: number) => Pixel,
): void {
  const was = filled(0);
  run(pixels.picture(0), 0);
  alike(shown(0), was.map(plain));
  filled(0);
  const mask = filledMask(0);
  run(pixels.picture(0), pixels.mask(0));
  alike(
    shown(0),
    was.map((pixel, n) => plain(pixel, n).map((v, c) => pixel[c] + mask[n] * (v - pixel[c]))),
  );
}

const luminance = ([r, g, b]: Pixel): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;
const clamp = (v: number): number => Math.min(1, Math.max(0, v));

test('a matrix of colours', () => {
  const next = random(5);
  const columns = Array.from({ length: 16 }, () => next() - 0.3);
  check(
    (picture, mask) => pixels.matrix(picture, mask, columns),
    (pixel) => [0, 1, 2, 3].map((c) => pixel.reduce((sum, v, from) => sum + v * columns[4 * from + c], 0)),
  );
});

test('curves of colours without their alpha; what is clear stays clear', () => {
  const curves = [
    (v: number) => 0.1 + 0.7 * v,
    (v: number) => Math.sqrt(Math.max(0, v)) * 0.9,
    (v: number) => v * v,
  ];
  const tables = curves.map(remapTable);
  const looked = (c: number, v: number): number => {
    const table = tables[c];
    if (v < 0) return table[0] + v * table[RemapTable.BELOW];
    if (v >= 1) return table[RemapTable.STEPS] + (v - 1) * table[RemapTable.ABOVE];
    const place = Math.sqrt(v) * RemapTable.STEPS;
    const n = Math.min(RemapTable.STEPS - 1, Math.floor(place));
    return table[n] + (place - n) * (table[n + 1] - table[n]);
  };

  check(
    (picture, mask) => pixels.remap(picture, mask, remapTables(curves)),
    ([r, g, b, a]) =>
      [r, g, b].map((v, c) => (a > 0 ? looked(c, v / a) * a : looked(c, v) - looked(c, 0))).concat(a),
  );
  // and the table stands for the curve
  for (const v of [0.001, 0.02, 0.3, 0.77, 1]) expect(looked(1, v)).toBeCloseTo(curves[1](v), 5);
});

test('a cube of colours', () => {
  const size = 5;
  const next = random(9);
  const values = Float32Array.from({ length: 4 * size ** 3 }, (_, n) => (n % 4 === 3 ? 0 : next()));
  const table = { kind: 'cube', size, values, from: [0, 0, 0], to: [1, 1, 1], title: '' } as const;
  check(
    (picture, mask) => pixels.cube(picture, mask, values, size),
    ([r, g, b, a]) => {
      const out = throughTable(table, a > 0 ? [r / a, g / a, b / a] : [r, g, b]);
      return [...out.map((v, c) => (a > 0 ? v * a : v - values[c])), a];
    },
  );
});

test.each([0, 0.3, 1, 2.5, 8])('a medium %d times as dense', (power) => {
  check(
    (picture, mask) => pixels.thin(picture, mask, power),
    (pixel) => {
      const a = pixel[3];
      const now = 1 - (1 - a) ** power;
      const ratio = a > 1e-12 ? now / a : power;
      return pixel.map((v) => v * ratio);
    },
  );
});

test('haze by depth; nothing is infinitely far', () => {
  const depth = filled(1, 77).map(([r], n) => (n % 7 === 0 ? 0 : 10 * r));
  depth.forEach((v, n) => (pixels.view(pixels.picture(1))[4 * n] = v));
  const colour = [0.4, 0.5, 0.6];
  check(
    (picture, mask) => pixels.fog(picture, mask, pixels.picture(1), { near: 1, perMetre: 0.3, colour }),
    (pixel, n) => {
      const through = depth[n] > 0 ? Math.exp(-0.3 * Math.max(0, depth[n] - 1)) : 0;
      return [...[0, 1, 2].map((c) => pixel[c] * through + colour[c] * pixel[3] * (1 - through)), pixel[3]];
    },
  );
});

test('another picture added, its brightest parts, and edges taken back', () => {
  const other = filled(1);
  check(
    (picture, mask) => pixels.add(picture, pixels.picture(1), mask, 0.8, [0.5, -0.2, 1, 0.4]),
    (pixel, n) => {
      const factors = [0.5, -0.2, 1, 0.4];
      const sum = pixel.map((v, c) => 0.8 * v + factors[c] * other[n][c]);
      return [...sum.slice(0, 3), clamp(sum[3])];
    },
  );
  const was = filled(0);
  pixels.bright(pixels.picture(0), pixels.picture(2), 0.4);
  alike(
    shown(2),
    was.map((pixel) => {
      const part = luminance(pixel) > 0.4 ? (luminance(pixel) - 0.4) / luminance(pixel) : 0;
      return [...pixel.slice(0, 3).map((v) => v * part), 0];
    }),
  );
  check(
    (picture, mask) => pixels.softenEdges(picture, pixels.picture(1), mask),
    (pixel, n) => (pixel[3] <= 0 ? pixel : pixel.map((v) => v * clamp((2 * other[n][3]) / pixel[3] - 1))),
  );
});

test('a mask between two pictures', () => {
  const [was, becomes] = [filled(0), filled(1)];
  const mask = filledMask(0);
  pixels.mix(pixels.picture(0), pixels.picture(1), pixels.mask(0));
  alike(
    shown(0),
    was.map((pixel, n) => pixel.map((v, c) => v + mask[n] * (becomes[n][c] - v))),
  );
});

describe('meeting', () => {
  const modes: Readonly<Record<string, (l: Pixel, b: Pixel) => Pixel>> = {
    OVER: (l, b) => l.map((v, c) => v + b[c] * (1 - l[3])),
    UNDER: (l, b) => l.map((v, c) => b[c] + v * (1 - b[3])),
    SCREEN: (l, b) => l.map((v, c) => v + b[c] * (1 - clamp(c < 3 ? v : l[3]))),
    ADD: (l, b) => l.map((v, c) => (c < 3 ? v + b[c] : Math.min(1, v + b[c]))),
    MULTIPLY: (l, b) =>
      l.map((v, c) => (c < 3 ? v * b[c] + v * (1 - b[3]) + b[c] * (1 - l[3]) : v + b[3] * (1 - v))),
    LIGHTEN: (l, b) =>
      l.map((v, c) =>
        c < 3 ? Math.max(v * b[3], b[c] * l[3]) + v * (1 - b[3]) + b[c] * (1 - l[3]) : v + b[3] * (1 - v),
      ),
    DIFFERENCE: (l, b) =>
      l.map((v, c) => (c < 3 ? v + b[c] - 2 * Math.min(v * b[3], b[c] * l[3]) : v + b[3] * (1 - v))),
  };
  const mattes: typeof modes = {
    ATOP: (l, b) => l.map((v, c) => v * b[3] + b[c] * (1 - l[3])),
    KEEP: (l, b) => b.map((v) => v * l[3]),
    CUT: (l, b) => b.map((v) => v * (1 - l[3])),
  };

  test.each([...Object.keys(modes), ...Object.keys(mattes)])('%s', (name) => {
    const [below, layer] = [filled(0), filled(1)];
    const mask = filledMask(0);
    const mode = MeetMode[name as keyof typeof MeetMode];
    pixels.meet(pixels.picture(0), pixels.picture(1), pixels.mask(0), 0.7, mode);
    const wanted = below.map((b, n) => {
      const part = 0.7 * mask[n];
      if (name in modes)
        return modes[name](
          layer[n].map((v) => v * part),
          b,
        );
      return mattes[name](layer[n], b).map((v, c) => b[c] + part * (v - b[c]));
    });
    alike(shown(0), wanted);
  });

  test('Porter and Duff: over by halves is over at once, and over is under turned round', () => {
    const at = [0, 1, 2, 3, 4].map((n) => pixels.picture(n));
    const whole = (): void => [0, 1, 2].forEach((n) => void filled(n));
    whole();
    // c over (b over a)
    pixels.meet(at[0], at[1], 0, 1, MeetMode.OVER);
    pixels.meet(at[0], at[2], 0, 1, MeetMode.OVER);
    const one = shown(0);
    whole();
    // (c over b) over a
    pixels.meet(at[1], at[2], 0, 1, MeetMode.OVER);
    pixels.meet(at[0], at[1], 0, 1, MeetMode.OVER);
    alike(shown(0), one);
    const a = filled(0);
    filled(1);
    pixels.meet(at[0], at[1], 0, 1, MeetMode.OVER);
    const over = shown(0);
    filled(1);
    pixels.view(at[2]).set(a.flat());
    pixels.meet(at[1], at[2], 0, 1, MeetMode.UNDER);
    alike(shown(1), over);
    // what is kept and what is cut out are the whole
    filled(1);
    for (const n of [2, 3]) pixels.view(at[n]).set(a.flat());
    pixels.meet(at[2], at[1], 0, 1, MeetMode.KEEP);
    pixels.meet(at[3], at[1], 0, 1, MeetMode.CUT);
    const [kept, cut] = [shown(2), shown(3)];
    alike(
      kept.map((pixel, n) => pixel.map((v, c) => v + cut[n][c])),
      a,
    );
  });

  test('the nearest pixel of a picture, for what has no mean', () => {
    const next = random(5);
    const source = { width: 9, height: 7, rgba: Float32Array.from({ length: 4 * 63 }, () => next()) };
    const back: Matrix = times(scaled(0.4, 0.4), times(moved(1.2, -0.7), turned(0.3)));
    const at = (x: number, y: number): [number, number] => [
      Math.floor(back[0] * (x + 0.5) + back[1] * (y + 0.5) + back[2]),
      Math.floor(back[3] * (x + 0.5) + back[4] * (y + 0.5) + back[5]),
    ];
    for (const isHeld of [false, true]) {
      pixels.placeNearest(source, pixels.picture(0), back, isHeld);
      alike(
        shown(0),
        shown(0).map((_, n) => {
          const [u, v] = at(n % WIDTH, Math.floor(n / WIDTH));
          const [i, j] = [Math.min(8, Math.max(0, u)), Math.min(6, Math.max(0, v))];
          if (!isHeld && (i !== u || j !== v)) return [0, 0, 0, 0];
          return [...source.rgba.subarray(4 * (j * 9 + i), 4 * (j * 9 + i) + 4)];
        }),
      );
    }
  });

  test('what lies over all leaves its depth where something of it is', () => {
    const [layer, depth, was] = [filled(0), filled(1), filled(2)];
    const mask = filledMask(0).map((v, n) => (n % 5 === 0 ? 0 : v));
    pixels.viewMask(pixels.mask(0)).set(mask);
    pixels.coverDepth(pixels.picture(0), pixels.mask(0), 0.5, pixels.picture(1), pixels.picture(2));
    const isThere = (n: number): boolean => depth[n][0] > 0 && mask[n] > 0 && layer[n][3] > 0;
    alike(
      shown(2),
      was.map((d, n) => [isThere(n) ? depth[n][0] : d[0], ...d.slice(1)]),
    );
  });
});

describe('blurs', () => {
  /** One box along a line, as it is written in the paper. */
  const box = (line: readonly number[], deviation: number): number[] => {
    const { radius, part } = boxesOf(deviation);
    const at = (n: number): number => line[Math.min(line.length - 1, Math.max(0, n))];
    return line.map((_, n) => {
      let sum = part * (at(n - radius - 1) + at(n + radius + 1));
      for (let k = -radius; k <= radius; k++) sum += at(n + k);
      return sum / (2 * radius + 1 + 2 * part);
    });
  };

  const three = (line: readonly number[], deviation: number): number[] =>
    box(box(box(line, deviation), deviation), deviation);

  test.each([0.4, 1.7, 6, 40])('three boxes along both ways (deviation %d)', (deviation) => {
    const was = filled(0);
    pixels.blur(pixels.picture(0), pixels.picture(1), pixels.picture(2), deviation);
    const out = was.map((p) => [...p]);
    for (let c = 0; c < 4; c++) {
      for (let y = 0; y < HEIGHT; y++)
        three(
          Array.from({ length: WIDTH }, (_, x) => out[y * WIDTH + x][c]),
          deviation,
        ).forEach((v, x) => (out[y * WIDTH + x][c] = v));
      for (let x = 0; x < WIDTH; x++)
        three(
          Array.from({ length: HEIGHT }, (_, y) => out[y * WIDTH + x][c]),
          deviation,
        ).forEach((v, y) => (out[y * WIDTH + x][c] = v));
    }

    alike(shown(1), out);
  });

  test('a Gaussian: its variance, its shape within 6 % of its height, light kept', () => {
    for (const deviation of [1, 2.3, 5]) {
      const line = new Array<number>(201).fill(0);
      line[100] = 1;
      const out = three(line, deviation);
      expect(out.reduce((a, b) => a + b)).toBeCloseTo(1, 12);
      const variance = out.reduce((sum, v, n) => sum + v * (n - 100) ** 2, 0);
      expect(variance).toBeCloseTo(deviation ** 2, 9);
      const peak = 1 / (deviation * Math.sqrt(2 * Math.PI));
      out.forEach((v, n) =>
        expect(Math.abs(v - peak * Math.exp(-((n - 100) ** 2) / 2 / deviation ** 2))).toBeLessThan(
          0.06 * peak,
        ),
      );
    }
  });

  test('a wide one by halves is the one at full size', () => {
    const own = new Pixels(pool, 200, 160, 4, 1);
    const isIn = (n: number): boolean => Math.hypot((n % 200) - 100, Math.floor(n / 200) - 80) < 30;
    own
      .view(own.picture(0))
      .set(Float32Array.from({ length: 4 * 200 * 160 }, (_, n) => (isIn(n >> 2) ? 1 : 0)));
    for (const deviation of [5, 12]) {
      own.blur(own.picture(0), own.picture(1), own.picture(2), deviation);
      // several narrow ones one after another are never halved
      own.copy(own.picture(0), own.picture(3));
      const times = Math.ceil((deviation / 3.5) ** 2);
      for (let n = 0; n < times; n++)
        own.blur(own.picture(3), own.picture(3), own.picture(2), deviation / Math.sqrt(times));
      const [got, wanted] = [own.view(own.picture(1)), own.view(own.picture(3))];
      const mean = wanted.reduce((a, b) => a + b) / wanted.length;
      let square = 0;
      let spread = 0;
      got.forEach((v, n) => {
        square += (v - wanted[n]) ** 2;
        spread += (wanted[n] - mean) ** 2;
      });
      expect(Math.sqrt(square / spread)).toBeLessThan(0.015);
      expect(got.reduce((a, b) => a + b) / got.length).toBeCloseTo(mean, 3);
    }
  });

  const between = (all: readonly Pixel[], x: number, y: number): number[] => {
    const px = Math.min(WIDTH - 1, Math.max(0, x));
    const py = Math.min(HEIGHT - 1, Math.max(0, y));
    const [i, j] = [Math.floor(px), Math.floor(py)];
    const at = (u: number, v: number, c: number): number =>
      all[Math.min(v, HEIGHT - 1) * WIDTH + Math.min(u, WIDTH - 1)][c];
    return [0, 1, 2, 3].map((c) => {
      const top = at(i, j, c) + (px - i) * (at(i + 1, j, c) - at(i, j, c));
      const bottom = at(i, j + 1, c) + (px - i) * (at(i + 1, j + 1, c) - at(i, j + 1, c));
      return top + (py - j) * (bottom - top);
    });
  };

  test('along a line', () => {
    const was = filled(0);
    pixels.smear(pixels.picture(0), pixels.picture(1), 5, -3);
    const places = Math.ceil(Math.hypot(5, 3));
    const wanted = was.map((_, n) => {
      const sum = [0, 0, 0, 0];
      for (let p = 0; p < places; p++) {
        const t = (p + 0.5) / places - 0.5;
        between(was, (n % WIDTH) + t * 5, Math.floor(n / WIDTH) - t * 3).forEach(
          (v, c) => (sum[c] += v / places),
        );
      }

      return sum;
    });
    alike(shown(1), wanted, 2e-5);
  });

  test('carried along its motion', () => {
    const was = filled(0);
    const ways = filled(2).map(([u, v]) => [4 * u, -3 * v]);
    ways.forEach(([u, v], n) => pixels.view(pixels.picture(2)).set([u, v], 4 * n));
    pixels.carry(pixels.picture(0), pixels.picture(1), pixels.picture(2), 0.5);
    alike(
      shown(1),
      was.map((_, n) =>
        between(was, (n % WIDTH) - 0.5 * ways[n][0], Math.floor(n / WIDTH) - 0.5 * ways[n][1]),
      ),
      5e-5,
    );
  });

  test('motion blur of a moving disc is near to its mean over moments', () => {
    const wide = 96;
    const own = new Pixels(pool, wide, 48, 4, 1);
    const disc = (cx: number, n: number): number => {
      const d = Math.hypot((n % wide) + 0.5 - cx, Math.floor(n / wide) + 0.5 - 24);
      return Math.min(1, Math.max(0, 10.5 - d));
    };

    const pixel = (cx: number): number[][] =>
      Array.from({ length: wide * 48 }, (_, n) => new Array<number>(4).fill(disc(cx, n)));
    own.view(own.picture(0)).set(pixel(48).flat());
    const way = 16;
    own
      .view(own.picture(1))
      .set(
        Array.from({ length: wide * 48 }, (_, n) => (disc(48, n) > 0 ? [way, 0, 0, 1] : [0, 0, 0, 1])).flat(),
      );
    own.blurByVectors(own.picture(0), own.picture(2), own.picture(1), 1);
    const moments = Array.from({ length: 64 }, (_, m) => pixel(48 + way * ((m + 0.5) / 64 - 0.5)));
    const got = chunked(own.view(own.picture(2)));
    const off = got.map((p, n) => Math.abs(p[3] - moments.reduce((sum, one) => sum + one[n][3] / 64, 0)));
    const plain = got.map((_, n) =>
      Math.abs(disc(48, n) - moments.reduce((sum, one) => sum + one[n][3] / 64, 0)),
    );
    const mean = (all: number[]): number => all.reduce((a, b) => a + b, 0) / all.length;
    expect(mean(off)).toBeLessThan(0.15 * mean(plain));
    expect(Math.max(...off)).toBeLessThan(0.2);
  });
});

describe('placing', () => {
  const source = {
    width: 16,
    height: 12,
    rgba: Float32Array.from({ length: 16 * 12 * 4 }, (_, n) => Math.sin(n) ** 2),
  };
  const at = (x: number, y: number, c: number): number =>
    x < 0 || y < 0 || x >= 16 || y >= 12 ? 0 : source.rgba[4 * (y * 16 + x) + c];

  test('whole pixels away each is itself, with nothing or the edge beside', () => {
    for (const isHeld of [false, true]) {
      pixels.place(source, pixels.picture(0), inverted(moved(5, 3))!, isHeld);
      const clampTo = (v: number, most: number): number => (isHeld ? Math.min(most, Math.max(0, v)) : v);
      alike(
        shown(0),
        Array.from({ length: COUNT }, (_, n) =>
          [0, 1, 2, 3].map((c) =>
            at(clampTo((n % WIDTH) - 5, 15), clampTo(Math.floor(n / WIDTH) - 3, 11), c),
          ),
        ),
        1e-7,
      );
    }
  });

  test('turned, enlarged and seen from aside it is looked up between pixels', () => {
    const place: Matrix = times(
      [1.3, 0.2, 6, -0.1, 1.4, 2, 0.002, 0.001, 1],
      times(turned(20), scaled(1.2, 1.1)),
    );
    const back = inverted(place)!;
    pixels.place(source, pixels.picture(0), back, false);
    const clampTo = (v: number, most: number): number => Math.min(most, Math.max(0, v));
    const wanted = Array.from({ length: COUNT }, (_, n) => {
      const [x, y] = [(n % WIDTH) + 0.5, Math.floor(n / WIDTH) + 0.5];
      const w = back[6] * x + back[7] * y + back[8];
      const [u, v] = [0, 3].map((r) => (back[r] * x + back[r + 1] * y + back[r + 2]) / w);
      // how far a pixel reaches there, and how much of it lies in the picture
      const reach = [u, v].map((p, a) =>
        [0, 1].reduce((sum, b) => sum + Math.abs((back[3 * a + b] - back[6 + b] * p) / w), 0),
      );
      const part = clamp(Math.min(u, 16 - u) / reach[0] + 0.5) * clamp(Math.min(v, 12 - v) / reach[1] + 0.5);
      const [i, j] = [Math.floor(u - 0.5), Math.floor(v - 0.5)];
      const held = (p: number, q: number, c: number): number => at(clampTo(p, 15), clampTo(q, 11), c);
      return [0, 1, 2, 3].map((c) => {
        const top = held(i, j, c) + (u - 0.5 - i) * (held(i + 1, j, c) - held(i, j, c));
        const bottom = held(i, j + 1, c) + (u - 0.5 - i) * (held(i + 1, j + 1, c) - held(i, j + 1, c));
        return part * (top + (v - 0.5 - j) * (bottom - top));
      });
    });
    alike(shown(0), wanted, 1e-4);
  });

  test('shrunk it keeps its light: a checkerboard becomes grey, not a pattern', () => {
    const size = 128;
    const board = {
      width: size,
      height: size,
      rgba: Float32Array.from(
        { length: size * size * 4 },
        (_, n) => ((n >> 2) + Math.floor((n >> 2) / size)) % 2,
      ),
    };
    for (const shrink of [2, 3.3, 7, 20]) {
      pixels.place(board, pixels.picture(0), scaled(shrink, shrink), true);
      const inside = shown(0).filter(
        (_, n) =>
          (n % WIDTH) * shrink < size - 2 * shrink && Math.floor(n / WIDTH) * shrink < size - 2 * shrink,
      );
      for (const [v] of inside) expect(Math.abs(v - 0.5)).toBeLessThan(0.13);
      expect(inside.reduce((sum, [v]) => sum + v, 0) / inside.length).toBeCloseTo(0.5, 1);
    }
  });
});

describe('masks', () => {
  const line: [number, number][] = [
    [6, 4],
    [30, 6],
    [24, 20],
    [15, 11],
    [8, 19],
  ];
  const distance = (x: number, y: number): number => {
    let nearest = Infinity;
    let inside = false;
    line.forEach(([bx, by], n) => {
      const [ax, ay] = line[(n + line.length - 1) % line.length];
      const [dx, dy] = [bx - ax, by - ay];
      const t = clamp(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy));
      nearest = Math.min(nearest, Math.hypot(x - ax - t * dx, y - ay - t * dy));
      if (ay > y !== by > y && x < ax + ((y - ay) * dx) / dy) inside = !inside;
    });
    return inside ? nearest : -nearest;
  };

  test.each([
    [0.5, 0.5],
    [2, 5],
    [0, 9],
  ])('an outline that fades over %d and %d', (inner, outer) => {
    pixels.outline(line, inner, outer, pixels.mask(0));
    const wanted = Array.from({ length: COUNT }, (_, n) => {
      const s = clamp((distance((n % WIDTH) + 0.5, Math.floor(n / WIDTH) + 0.5) + outer) / (inner + outer));
      return [s * s * (3 - 2 * s)];
    });
    alike(
      [...pixels.viewMask(pixels.mask(0))].map((v) => [v]),
      wanted,
      2e-5,
    );
  });

  test('taken from a picture, joined, turned round', () => {
    const was = filled(0);
    for (const [source, value] of [
      [MaskSource.RED, (p: Pixel) => p[0]],
      [MaskSource.ALPHA, (p: Pixel) => p[3]],
      [MaskSource.LUMINANCE, luminance],
    ] as const) {
      pixels.maskFrom(pixels.picture(0), source, 0.7, 0.2, pixels.mask(0));
      alike(
        [...pixels.viewMask(pixels.mask(0))].map((v) => [v]),
        was.map((p) => [clamp((value(p) - 0.7) / -0.5)]),
      );
    }

    const joins: [number, (a: number, b: number) => number][] = [
      [MaskJoin.BOTH, (a, b) => a * b],
      [MaskJoin.EITHER, (a, b) => a + b - a * b],
      [MaskJoin.WITHOUT, (a, b) => a * (1 - b)],
      [MaskJoin.INVERT, (a) => 1 - a],
    ];
    for (const [how, plain] of joins) {
      const [a, b] = [filledMask(0), filledMask(1)];
      pixels.joinMasks(pixels.mask(0), pixels.mask(1), how);
      alike(
        [...pixels.viewMask(pixels.mask(0))].map((v) => [v]),
        a.map((v, n) => [plain(v, b[n])]),
      );
    }
  });
});

test('grain: even, the same for a seed, as strong as told, softer as told', () => {
  const own = new Pixels(pool, 200, 160, 3, 1);
  const [grain, soft, room] = [0, 1, 2].map((n) => own.picture(n));
  const deviation = (at: number): number => {
    const values = [...own.view(at)].filter((_, n) => n % 4 === 1);
    const mean = values.reduce((a, b) => a + b) / values.length;
    expect(Math.abs(mean)).toBeLessThan(0.02);
    return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length);
  };

  own.grain(grain, 12);
  const first = own.view(grain).slice();
  expect(deviation(grain)).toBeCloseTo(1, 1);
  own.grain(grain, 13);
  expect(own.view(grain)).not.toEqual(first);
  own.grain(grain, 12);
  expect(own.view(grain)).toEqual(first);
  for (const size of [0.6, 1.5]) {
    own.blur(grain, soft, room, size);
    expect(deviation(soft) / softenedGrain(size)).toBeGreaterThan(0.93);
    expect(deviation(soft) / softenedGrain(size)).toBeLessThan(1.07);
  }

  const noise = filled(1);
  check(
    (picture, mask) => pixels.addGrain(picture, pixels.picture(1), mask, [0.1, 0.2, 0.3], 0.25),
    (pixel, n) => {
      const part = (0.25 + 0.75 * Math.sqrt(clamp(luminance(pixel)))) * pixel[3];
      return [0, 1, 2, 3].map((c) => pixel[c] + (c < 3 ? noise[n][c] * [0.1, 0.2, 0.3][c] * part : 0));
    },
  );
});

test('noise taken out: like pixels are taken together', () => {
  const was = filled(0);
  const mask = filledMask(0);
  pixels.quiet(pixels.picture(0), pixels.picture(1), pixels.mask(0), 0.5, 2);
  const wanted = was.map((own, n) => {
    const [x, y] = [n % WIDTH, Math.floor(n / WIDTH)];
    const sum = [0, 0, 0, 0];
    let weights = 0;
    was.forEach((other, m) => {
      if (Math.abs((m % WIDTH) - x) > 2 || Math.abs(Math.floor(m / WIDTH) - y) > 2) return;
      const far = [0, 1, 2].reduce((s, c) => s + (other[c] - own[c]) ** 2, 0);
      const weight = Math.max(0, 1 - far / 0.25) ** 2;
      other.forEach((v, c) => (sum[c] += weight * v));
      weights += weight;
    });
    return own.map((v, c) => v + mask[n] * (sum[c] / weights - v));
  });
  alike(shown(1), wanted);
});
