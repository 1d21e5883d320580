// Comps: the document, which frame of a feed stands when, where layers stand, and frames that are made.
import { COMBINE, combineAt, frameFor, type Combine } from '@bramblemist/core/combine/combine';
import { Composer } from '@bramblemist/core/combine/composer';
import {
  combineText,
  duplicated,
  emptied,
  movedTo,
  pastedCombine,
  withFile,
  withLayer,
  withMask,
  withNewest,
  withoutLayer,
  withoutMask,
  withOperation,
  withTrack,
} from '@bramblemist/core/combine/edit';
import type { FeedPicture } from '@bramblemist/core/combine/feed-picture';
import { gather, passesWanted, type Feeds } from '@bramblemist/core/combine/gather';
import { decoded, linearOf, wordsFor } from '@bramblemist/core/combine/light';
import { fontsFrom, writtenText } from '@bramblemist/core/combine/lettering';
import { shapeAt } from '@bramblemist/core/combine/masks';
import { measureGrain } from '@bramblemist/core/combine/measure-grain';
import {
  balanceGains,
  drawnCurve,
  levelsCurve,
  saturationMatrix,
  softenedGrain,
} from '@bramblemist/core/combine/operations';
import { Pixels } from '@bramblemist/core/combine/pixels';
import { bindingAt, inverted, mapped, placeOf, times } from '@bramblemist/core/combine/placing';
import { feedMoment } from '@bramblemist/core/combine/timing';
import { readCube, throughTable } from '@bramblemist/core/files/cube/cube';
import { gapsOf, readTrack, trackAt } from '@bramblemist/core/files/track/track';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { NodeFeeds } from '@bramblemist/core/io/node/feeds';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { LOOK } from '@bramblemist/core/look/look';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { random } from './run';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const layer = (id: string, more: object = {}): object => ({
  id,
  name: id,
  feed: { kind: 'render', render: 1 },
  ...more,
});
const comp = (more: object = {}): Combine =>
  COMBINE.parse({ frame: { width: 40, height: 30, first: 1, last: 20 }, layers: [layer('a')], ...more });

describe('the document', () => {
  test('one of version 1 becomes layers with operations', () => {
    const now = COMBINE.parse({
      version: 1,
      name: 'Old',
      element: { mode: 'screen', opacity: 0.5, tint: [2, 1, 1], stops: 1 },
      plate: { on: false, stops: -1 },
    });
    expect(now.version).toBe(2);
    expect(now.layers.map(({ id, meet, opacity, on }) => [id, meet, opacity, on])).toEqual([
      ['element', 'screen', 50, true],
      ['plate', 'over', 100, false],
    ]);
    expect(now.operations.map(({ layer: of, kind, stops, colour }) => [of, kind, stops, colour])).toEqual([
      ['element', 'exposure', 1, [1, 1, 1]],
      ['element', 'tint', 0, [2, 1, 1]],
      ['plate', 'exposure', -1, [1, 1, 1]],
    ]);
    expect(COMBINE.parse({ version: 1, name: 'Bare' }).operations).toEqual([]);
  });

  test.each([
    [{ layers: [layer('a'), layer('a')] }, /layers\[1\]\.id/],
    [{ layers: [layer('a', { feed: { kind: 'layer', layer: 'a' } })] }, /further down/],
    [{ frame: { first: 9, last: 3 } }, /frame\.last/],
    [
      {
        masks: [
          { id: 'm', name: 'm', with: 'n' },
          { id: 'n', name: 'n', with: 'm' },
        ],
      },
      /circle/,
    ],
    [
      {
        layers: [layer('b', { feed: { kind: 'layer', layer: 'a' } }), layer('a')],
        masks: [{ id: 'm', name: 'm', kind: 'taken', from: 'b' }],
      },
      /must not be a layer that is fed by another one/,
    ],
    [{ masks: [{ id: 'm', name: 'm', outline: [] }] }, /one shape at least/],
    [{ masks: [{ id: 'm', name: 'm', outline: [{ frame: 1, points: [[0, 0]] }] }] }, /3 to 128 corners/],
    [{ operations: [{ id: 'o', kind: 'melt' }] }, /operations\[0\]\.kind/],
    [
      { curves: [{ id: 'c', path: 'layers/a/time.start', keys: [{ frame: 1, value: 1, ease: 'even' }] }] },
      /takes no keys/,
    ],
  ])('what is wrong is named: %#', (data, why) =>
    expect(() => COMBINE.parse({ layers: [layer('a')], ...data })).toThrow(why),
  );

  test('keys change it over time, and its frame begins as the shot', () => {
    const keyed = comp({
      curves: [
        {
          id: 'c',
          path: 'layers/a/opacity',
          keys: [
            { frame: 1, value: 0, ease: 'even' },
            { frame: 11, value: 100, ease: 'even' },
          ],
        },
      ],
    });
    expect(combineAt(keyed, 6).layers[0].opacity).toBeCloseTo(50, 9);
    const recipe = parseRecipe({ space: { lastFrame: 77, frameRate: 25 } });
    expect(frameFor(recipe, LOOK.parse({ camera: { width: 640, height: 360 } }))).toMatchObject({
      width: 1280,
      height: 720,
      rate: 25,
      last: 77,
    });
  });

  test('edits keep what belongs together', () => {
    let n = 0;
    const newId = (): string => `new-${++n}`;
    const base = withOperation(withLayer(comp(), 'b', { name: 'B', place: { x: 5 } }), 'o', 'a', 'blur', {
      size: 9,
    });
    expect(base.layers.map(({ id }) => id)).toEqual(['b', 'a']);
    expect(base.layers[0].place).toMatchObject({ x: 5, scale: 100 });
    const keyed = COMBINE.parse({
      ...withMask(base, 'm', { name: 'M', from: 'a' }),
      curves: [{ id: 'c', path: 'operations/o/size', keys: [{ frame: 1, value: 3, ease: 'even' }] }],
    });
    const bound = COMBINE.parse(withTrack(keyed, 'a', 't'));
    expect(bound.layers.map(({ bind }) => [bind.how, bind.file])).toEqual([
      ['free', ''],
      ['follows', 't'],
    ]);
    expect(withTrack(keyed, 'none', 't')).toEqual(keyed);
    const nothing = COMBINE.parse(emptied(keyed));
    expect(nothing).toEqual({ ...keyed, layers: [], operations: [], masks: [], curves: [] });
    const twice = COMBINE.parse(duplicated(keyed, 'a', newId));
    expect(twice.layers.map(({ name }) => name)).toEqual(['B', 'a again', 'a']);
    expect(twice.operations.map(({ layer: of, size }) => [of, size])).toEqual([
      ['a', 9],
      [twice.layers[1].id, 9],
    ]);
    expect(twice.curves).toHaveLength(2);
    const less = COMBINE.parse(withoutLayer(keyed, 'a'));
    expect([less.operations, less.curves, less.masks[0].from]).toEqual([[], [], '']);
    const masked = { ...keyed, layers: keyed.layers.map((l) => ({ ...l, mask: 'm' })) };
    expect(withoutMask(masked, 'm').layers[0].mask).toBe('');
    expect(
      movedTo(
        ['x', 'y', 'z'].map((id) => ({ id })),
        'z',
        'x',
      ).map(({ id }) => id),
    ).toEqual(['z', 'x', 'y']);
    expect(
      withNewest(comp({ layers: [layer('a', { feed: { kind: 'render', render: 0 } })] }), 4).layers[0].feed
        .render,
    ).toBe(4);
    const movie = { kind: 'movie', notes: [] } as never;
    const added = withFile(comp(), 'f', { name: 'p.mp4', sha256: 'x', report: movie });
    expect(withFile(added.comp, 'g', { name: 'p.mp4', sha256: 'x', report: movie }).id).toBe('f');
    expect(() =>
      withFile(comp(), 'f', { name: 'p.obj', sha256: 'y', report: { kind: 'mesh' } as never }),
    ).toThrow(/no use in a comp/);
    expect(pastedCombine(comp({ name: 'Mine' }), combineText(keyed))).toEqual({ ...keyed, name: 'Mine' });
    expect(() => pastedCombine(comp(), '{"lights":[]}')).toThrow(/no comp/);
    expect(() => pastedCombine(comp(), 'hello')).toThrow(/no JSON/);
  });
});

describe('which frame of a feed', () => {
  const at = (
    time: object,
    frame: number,
    range = { first: 1, last: 10, rate: 24 },
    rate = 24,
    curves: object[] = [],
  ): number | string | null => {
    const own = comp({ frame: { rate }, layers: [layer('a', { time })], curves });
    const moment = feedMoment(own, own.layers[0], range, frame);
    if (!moment) return null;
    return moment.part === 0 ? moment.frame : `${moment.frame}-${moment.next} ${moment.part.toFixed(3)}`;
  };

  test('offset, trim, hold, loop, swing, gone', () => {
    expect([1, 5, 10, 14].map((f) => at({}, f))).toEqual([1, 5, 10, 10]);
    expect([0, 1].map((f) => at({ start: 1 }, f))).toEqual([null, 1]);
    expect(at({ start: 5, before: 'hold' }, 2)).toBe(1);
    expect([5, 6].map((f) => at({ start: 5, from: 3, to: 7 }, f))).toEqual([3, 4]);
    expect([10, 11, 20, 21].map((f) => at({ after: 'loop' }, f))).toEqual([10, 1, 10, 1]);
    expect([10, 11, 18, 19, 20].map((f) => at({ after: 'swing' }, f))).toEqual([10, 9, 2, 1, 2]);
    expect([10, 11].map((f) => at({ after: 'gone' }, f))).toEqual([10, null]);
    expect([1, 2, 10].map((f) => at({ speed: -100 }, f))).toEqual([10, 9, 1]);
  });

  test('whole frames are exact at every rate, and frames are dropped or doubled evenly', () => {
    const range = (rate: number) => ({ first: 1, last: 100_000, rate });
    for (const rate of [24, 25, 30000 / 1001, 30, 60])
      for (const f of [1, 2, 1000, 86_400]) expect(at({}, f, range(rate), rate)).toBe(f);
    // 30 in 24: every fifth is dropped
    expect([1, 2, 3, 4, 5].map((f) => at({ between: 'nearest' }, f, range(30)))).toEqual([1, 2, 3, 5, 6]);
    // 24 in 60: each twice or three times
    const doubled = Array.from({ length: 10 }, (_, n) => at({ between: 'nearest' }, n + 1, range(24), 60));
    expect(new Set(doubled).size).toBe(5);
    // a second is a second
    expect(at({ between: 'nearest' }, 1 + 24 * 60, range(30000 / 1001), 24)).toBe(1799);
    expect(at({ speed: 50, between: 'blended' }, 4)).toBe('2-3 0.500');
    expect(at({ speed: 50, between: 'nearest' }, 4)).toBe(2);
  });

  test('a keyed speed adds up', () => {
    const curves = [
      {
        id: 'c',
        path: 'layers/a/time.speed',
        keys: [
          { frame: 1, value: 0, ease: 'even' },
          { frame: 5, value: 200, ease: 'even' },
        ],
      },
    ];
    // 0, 0.5, 1, 1.5 and then 2 a frame
    expect(at({ between: 'blended' }, 5, { first: 1, last: 90, rate: 24 }, 24, curves)).toBe(4);
    expect(at({ between: 'blended' }, 7, { first: 1, last: 90, rate: 24 }, 24, curves)).toBe(8);
  });
});

describe('tracks and tables', () => {
  const track = readTrack(bytes('frame,x,y,scale,rotation\n1,20,15,1,0\n3,24,11,2,90\n9,0,0,1,0\n'));

  test('tracks as CSV and JSON, with gaps', () => {
    expect(trackAt(track, 2)).toMatchObject({ x: 22, y: 13, scale: 1.5, turn: 45 });
    expect(trackAt(track, -5).x).toBe(20);
    expect(trackAt(track, 50).x).toBe(0);
    expect(gapsOf(track)).toBe(6);
    const json = readTrack(
      bytes('{"width":100,"height":50,"frames":[{"frame":1,"corners":[[0,0],[10,0],[10,5],[0,5]]}]}'),
    );
    expect(json.size).toEqual([100, 50]);
    expect(json.rows[0]).toMatchObject({ x: 5, y: 2.5 });
  });

  test.each([
    ['', /first row must name/],
    ['frame,x,y\n', /no frame/],
    ['frame,x,y\n1,2\n', /Row 2 has 2 values/],
    ['frame,x,y\n1,a,2\n', /Row 2: x is no number/],
    ['frame,x,y\n1,,2\n', /Row 2: x is no number/],
    ['frame,x,y\n2,1,1\n1,1,1\n', /frames must rise/],
    ['frame,x,y,scale\n1,1,1,0\n', /above 0/],
    ['frame,x,y\n1,1e9,1\n', /absurdly far/],
    ['{"frames":[{"frame":1}]}', /x is missing/],
    ['{"frames":[{"frame":1,"corners":[[0,0]]}]}', /four pairs/],
    ['{"frames":1}', /list called frames/],
    ['{', /no JSON/],
  ])('what is no track is refused: %s', (text, why) => expect(() => readTrack(bytes(text))).toThrow(why));

  test('tables as .cube', () => {
    const line = readCube(bytes('# remark\nTITLE "Inverted"\nLUT_1D_SIZE 2\n1 1 1\n0 0 0\n'));
    expect(line.title).toBe('Inverted');
    throughTable(line, [0.25, 0, 1]).forEach((v, c) => expect(v).toBeCloseTo([0.75, 1, 0][c], 6));
    const rows = Array.from(
      { length: 27 },
      (_, n) => `${(n % 3) / 2} ${(Math.floor(n / 3) % 3) / 2} ${Math.floor(n / 9) / 2}`,
    );
    const cube = readCube(bytes(`LUT_3D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 2 2\n${rows.join('\n')}\n`));
    // what changes nothing but the domain
    throughTable(cube, [0.3, 1.7, 5]).forEach((v, c) => expect(v).toBeCloseTo([0.15, 0.85, 1][c], 6));
  });

  test.each([
    ['0 0 0', /must come first/],
    ['LUT_3D_SIZE 2\n0 0 0', /1 rows; its size tells 8/],
    ['LUT_3D_SIZE 500', /from 2 to 129/],
    ['LUT_1D_SIZE 2\n0 0\n', /three numbers/],
    ['LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1\n', /more rows/],
    ['LUT_1D_SIZE 2\nHELLO 1\n', /not known/],
    ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\n0 0 0\n1 1 1', /above DOMAIN_MIN/],
    ['', /no table of colours/],
  ])('what is no table is refused: %s', (text, why) => expect(() => readCube(bytes(text))).toThrow(why));

  test('what follows a track moves with it, what is steadied stands still, corners are met', () => {
    const own = comp();
    const bind = { frame: 0, file: 't' } as const;
    const way = bindingAt(own, { ...bind, how: 'follows' }, track, 3);
    // what was at 20, 15 is at 24, 11; a pixel to the right of it is two below
    expect(mapped(way, [20, 15]).map((v) => Number(v.toFixed(6)))).toEqual([24, 11]);
    expect(mapped(way, [21, 15]).map((v) => Number(v.toFixed(6)))).toEqual([24, 13]);
    const steadied = bindingAt(own, { ...bind, how: 'steadied' }, track, 3);
    times(way, steadied).forEach((v, n) => expect(v).toBeCloseTo(n % 4 === 0 ? 1 : 0, 9));
    const corners = [
      [3, 4],
      [35, 2],
      [38, 27],
      [1, 22],
    ];
    const four = readTrack(bytes(JSON.stringify([{ frame: 1, corners }])));
    const pinned = COMBINE.parse({ ...own, layers: [layer('a', { bind: { how: 'pinned', file: 't' } })] });
    const place = placeOf(pinned, pinned.layers[0], { width: 8, height: 6, pixelAspect: 1 }, four, 1);
    [
      [0, 0],
      [8, 0],
      [8, 6],
      [0, 6],
    ].forEach((p, n) =>
      mapped(place, p as [number, number]).forEach((v, a) => expect(v).toBeCloseTo(corners[n][a], 9)),
    );
    times(place, inverted(place)!).forEach((v, n) => expect(v).toBeCloseTo(n % 4 === 0 ? 1 : 0, 9));
  });

  test('size, place, turn and anchor', () => {
    const placed = (place: object, picture = { width: 20, height: 30, pixelAspect: 1 }) => {
      const own = comp({ layers: [layer('a', { place })] });
      return placeOf(own, own.layers[0], picture, null, 1);
    };

    const round = (p: number[]): number[] => p.map((v) => Number(v.toFixed(6)) + 0);
    expect(round(mapped(placed({ fit: 'fill' }), [10, 15]))).toEqual([20, 15]);
    expect(round(mapped(placed({ fit: 'fill' }), [0, 0]))).toEqual([0, -15]);
    expect(round(mapped(placed({ fit: 'fit' }), [0, 0]))).toEqual([10, 0]);
    expect(round(mapped(placed({ fit: 'own', x: 3, y: -2 }), [0, 0]))).toEqual([13, -2]);
    expect(round(mapped(placed({ fit: 'stretch' }), [20, 30]))).toEqual([40, 30]);
    expect(round(mapped(placed({ fit: 'own', turn: 90 }), [20, 15]))).toEqual([20, 25]);
    expect(round(mapped(placed({ fit: 'own', scale: 200, anchorX: -10, anchorY: -15 }), [0, 0]))).toEqual([
      10, 0,
    ]);
    expect(round(mapped(placed({ fit: 'own' }, { width: 20, height: 30, pixelAspect: 2 }), [20, 0]))).toEqual(
      [40, 0],
    );
  });

  test('an outline goes from shape to shape', () => {
    const shapes = [
      {
        frame: 1,
        points: [
          [0, 0],
          [10, 0],
          [0, 10],
        ],
      },
      {
        frame: 5,
        points: [
          [4, 0],
          [14, 8],
          [4, 10],
        ],
      },
    ] as const;
    expect(shapeAt(shapes, 3)).toEqual([
      [2, 0],
      [12, 4],
      [2, 10],
    ]);
    expect(shapeAt(shapes, 0)).toEqual(shapes[0].points);
    expect(shapeAt(shapes, 9)).toEqual(shapes[1].points);
  });
});

describe('light and grading', () => {
  test('what is read and shown again is the same', () => {
    const words = Uint16Array.from({ length: 4096 * 4 }, (_, n) => (n % 4 === 3 ? 65535 : (n * 37) % 65536));
    for (const [encoding, display] of [
      ['srgb', 'srgb'],
      ['rec709', 'rec709'],
      ['linear', 'linear'],
    ] as const) {
      const back = wordsFor(linearOf(words, 4096, 1, encoding, 'none'), display, null);
      expect(back.reduce((worst, v, n) => Math.max(worst, Math.abs(v - words[n])), 0)).toBeLessThanOrEqual(2);
    }

    expect(decoded(0.5, 'rec709')).toBeCloseTo(0.2597, 3);
  });

  test('straight, multiplied and left-out alpha', () => {
    const words = Uint16Array.of(32768, 0, 0, 32768);
    const half = 32768 / 65535;
    const one = (alpha: 'straight' | 'multiplied' | 'none') => [
      ...linearOf(words, 1, 1, 'linear', alpha).rgba,
    ];
    one('straight').forEach((v, c) => expect(v).toBeCloseTo([half * half, 0, 0, half][c], 4));
    one('multiplied').forEach((v, c) => expect(v).toBeCloseTo([half, 0, 0, half][c], 4));
    one('none').forEach((v, c) => expect(v).toBeCloseTo([half, 0, 0, 1][c], 4));
  });

  test('levels, curves, hue and balance keep what they should', () => {
    const o = { black: 0.1, white: 0.8, gamma: 1.7, low: 0, high: 1 } as never;
    const back = { black: 0, white: 1, gamma: 1 / 1.7, low: 0.1, high: 0.8 } as never;
    for (const v of [0.02, 0.2, 0.5, 1.4]) expect(levelsCurve(back)(levelsCurve(o)(v))).toBeCloseTo(v, 9);
    const straight = drawnCurve({
      curve: [
        [0, 0],
        [1, 1],
      ],
    } as never);
    for (const v of [0, 0.01, 0.4, 1, 3]) expect(straight(v)).toBeCloseTo(v, 6);
    const bent = drawnCurve({
      curve: [
        [0, 0],
        [0.4, 0.7],
        [1, 1],
      ],
    } as never);
    expect(bent(0.1)).toBeGreaterThan(0.2);
    const rgb = [0.8, 0.3, 0.1];
    const through = (m: number[]): number[] =>
      [0, 1, 2].map((c) => rgb.reduce((sum, v, from) => sum + v * m[4 * from + c], 0));
    const light = (v: readonly number[]): number => 0.2126 * v[0] + 0.7152 * v[1] + 0.0722 * v[2];
    through(saturationMatrix(1, 0)).forEach((v, c) => expect(v).toBeCloseTo(rgb[c], 9));
    through(saturationMatrix(0, 0)).forEach((v) => expect(v).toBeCloseTo(light(rgb), 9));
    for (const hue of [30, 120, 250])
      expect(light(through(saturationMatrix(1, hue)))).toBeCloseTo(light(rgb), 3);
    expect(light(balanceGains(4000, 0.2))).toBeCloseTo(1, 9);
    balanceGains(6500, 0).forEach((v) => expect(v).toBeCloseTo(1, 9));
    expect(balanceGains(9000, 0)[0]).toBeGreaterThan(balanceGains(9000, 0)[2]);
  });
});

describe('frames', () => {
  const [WIDTH, HEIGHT] = [40, 30];
  let pool: ThreadPool;
  beforeAll(() => (pool = startThreadPool(16, 2)));
  afterAll(() => pool.close());

  const picture = (seed: number, passes: Record<string, Float32Array> = {}): FeedPicture => {
    const next = random(seed);
    const rgba = Float32Array.from({ length: 4 * WIDTH * HEIGHT }, () => 0);
    for (let n = 0; n < rgba.length; n += 4) {
      rgba[n + 3] = n % 24 === 0 ? 0 : next();
      for (let c = 0; c < 3; c++) rgba[n + c] = next() * rgba[n + 3];
    }

    return {
      key: `p${seed}`,
      width: WIDTH,
      height: HEIGHT,
      pixelAspect: 1,
      rgba,
      passes: new Map(Object.entries(passes)),
    };
  };

  /** Renders by their numbers, each with as many frames as pictures. */
  const feeds = (pictures: Readonly<Record<number, readonly (FeedPicture | null)[]>>): Feeds => ({
    range: async (feed) => {
      const own = 'render' in feed ? pictures[feed.render] : undefined;
      return own ? { first: 1, last: own.length, rate: 24 } : null;
    },
    picture: async (feed, frame) => ('render' in feed ? (pictures[feed.render][frame - 1] ?? null) : null),
    track: async () => readTrack(bytes('frame,x,y\n1,20,15\n2,23,15\n')),
    table: async () => readCube(bytes('LUT_1D_SIZE 2\n0 0 0\n1 1 1')),
    fonts: () => new NodeFeeds({ render: () => null, files: '', rate: 24 }).fonts(),
  });
  const made = async (
    own: Combine,
    from: Feeds,
    frame = 1,
  ): Promise<{ rgba: Float32Array; notes: readonly string[] }> => {
    const ingredients = await gather(own, frame, from);
    return { rgba: new Composer(pool, own, 1).compose(ingredients).rgba.slice(), notes: ingredients.notes };
  };

  const near = (a: Float32Array, b: ArrayLike<number>, within = 1e-5): void => {
    let worst = 0;
    a.forEach((v, n) => (worst = Math.max(worst, Math.abs(v - b[n]))));
    expect(worst).toBeLessThan(within);
  };

  const over = (l: Float32Array, b: ArrayLike<number>, opacity = 1): Float32Array =>
    l.map((v, n) => v * opacity + b[n] * (1 - l[n - (n % 4) + 3] * opacity));

  test('layers over one another, and over a ground', async () => {
    const [a, b] = [picture(1), picture(2)];
    const own = comp({
      frame: { width: WIDTH, height: HEIGHT, ground: 'colour', colour: [0.1, 0.2, 0.3] },
      layers: [
        layer('top', { opacity: 60 }),
        layer('low', { feed: { kind: 'render', render: 2 } }),
        layer('off', { on: false }),
      ],
    });
    const ground = a.rgba.map((_, n) => [0.1, 0.2, 0.3, 1][n % 4]);
    near((await made(own, feeds({ 1: [a], 2: [b] }))).rgba, over(a.rgba, over(b.rgba, ground), 0.6));
  });

  test('relight by passes is the render with those lights', async () => {
    const [sun, lamp] = [picture(5).rgba, picture(6).rgba];
    const whole = picture(7);
    const beauty = whole.rgba.map((v, n) => (n % 4 === 3 ? v : sun[n] + lamp[n]));
    const source = {
      ...whole,
      rgba: beauty,
      passes: new Map([
        ['lights.sun', sun],
        ['lights.lamp', lamp],
      ]),
    };
    const own = comp({
      operations: [
        { id: 'x', layer: 'a', kind: 'exposure', stops: 1 },
        { id: 's', layer: 'a', kind: 'relight', light: 'sun', stops: -1, colour: [1, 0.5, 0.25] },
        { id: 'l', layer: 'a', kind: 'relight', light: 'lamp', stops: 2 },
      ],
    });
    const colour = [1, 0.5, 0.25];
    near(
      (await made(own, feeds({ 1: [source] }))).rgba,
      beauty.map((v, n) => (n % 4 === 3 ? v : 2 * (0.5 * colour[n % 4] * sun[n] + 4 * lamp[n]))),
    );
    const { notes } = await made(own, feeds({ 1: [whole] }));
    expect(notes).toEqual([
      'a: its pictures have no pass called lights.sun.',
      'a: its pictures have no pass called lights.lamp.',
    ]);
  });

  test('by depth the medium goes between two things of the plate', async () => {
    const flat = (rgba: number[], depth: (x: number) => number): FeedPicture => ({
      ...picture(9),
      rgba: Float32Array.from({ length: 4 * WIDTH * HEIGHT }, (_, n) => rgba[n % 4]),
      passes: new Map([
        ['depth', Float32Array.from({ length: 4 * WIDTH * HEIGHT }, (_, n) => depth((n >> 2) % WIDTH))],
      ]),
    });
    const plate = flat([0.2, 0.2, 0.2, 1], (x) => (x < 20 ? 2 : 8));
    const mist = flat([0.3, 0.3, 0.3, 0.5], () => 5);
    const own = comp({
      layers: [layer('mist', { meet: 'depth' }), layer('plate', { feed: { kind: 'render', render: 2 } })],
    });
    expect(passesWanted(own, own.layers[1])).toEqual({ needed: [], welcome: ['depth'] });
    const { rgba } = await made(own, feeds({ 1: [mist], 2: [plate] }));
    expect(rgba[4 * 5]).toBeCloseTo(0.2, 6);
    expect(rgba[4 * 30]).toBeCloseTo(0.3 + 0.1, 6);
  });

  describe('text', () => {
    const slate = (feed: object, more: object = {}): Combine =>
      COMBINE.parse({
        name: 'Weir',
        frame: { width: 200, height: 100, first: 1, last: 20 },
        layers: [{ id: 't', name: 't', feed: { kind: 'text', size: 40, colour: [1, 1, 1], ...feed } }],
        ...more,
      });
    const shown = async (own: Combine, frame = 1): Promise<Float32Array> =>
      (await made(own, feeds({}), frame)).rgba;
    const covered = (rgba: Float32Array): number =>
      rgba.reduce((sum, v, n) => sum + (n % 4 === 3 ? v : 0), 0);
    /** The columns and rows in which something is. */
    const reach = (rgba: Float32Array): number[] => {
      const at = [...rgba.keys()].filter((n) => n % 4 === 3 && rgba[n] > 0.02).map((n) => (n - 3) / 4);
      const [xs, ys] = [at.map((p) => p % 200), at.map((p) => Math.floor(p / 200))];
      return [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    };

    test('a bar is as large as the font says, and stands in the middle', async () => {
      // the vertical bar: a rectangle in the font
      const font = fontsFrom(await feeds({}).fonts())[0];
      const { x1, x2, y1, y2 } = font.charToGlyph('|').getBoundingBox();
      const rgba = await shown(slate({ text: '|' }));
      const scale = 40 / font.unitsPerEm;
      expect(covered(rgba)).toBeCloseTo((x2 - x1) * (y2 - y1) * scale * scale, 2);
      const [left, right] = reach(rgba);
      expect((left + right + 1) / 2).toBeCloseTo(100, 0);
      expect(rgba.every((v) => v >= 0 && v <= 1)).toBe(true);
    });

    test('holes stay open, and joined strokes do not count twice', async () => {
      const font = fontsFrom(await feeds({}).fonts())[0];
      // the area by the outline’s own corners, bends in a thousand pieces
      const area = (letter: string): number => {
        let sum = 0;
        let [ax, ay, fx, fy] = [0, 0, 0, 0];
        const to = (x: number, y: number): void => {
          sum += (ax * y - x * ay) / 2;
          [ax, ay] = [x, y];
        };

        for (const c of font.charToGlyph(letter).getPath(0, 0, 40).commands)
          if (c.type === 'M') [ax, ay, fx, fy] = [c.x, c.y, c.x, c.y];
          else if (c.type === 'L') to(c.x, c.y);
          else if (c.type === 'Z') to(fx, fy);
          else {
            const [sx, sy] = [ax, ay];
            for (let n = 1; n <= 1000; n++) {
              const [t, s] = [n / 1000, 1 - n / 1000];
              if (c.type === 'Q')
                to(s * s * sx + 2 * s * t * c.x1 + t * t * c.x, s * s * sy + 2 * s * t * c.y1 + t * t * c.y);
              else
                to(
                  s ** 3 * sx + 3 * s * s * t * c.x1 + 3 * s * t * t * c.x2 + t ** 3 * c.x,
                  s ** 3 * sy + 3 * s * s * t * c.y1 + 3 * s * t * t * c.y2 + t ** 3 * c.y,
                );
            }
          }

        return Math.abs(sum);
      };

      for (const letter of ['O', 'g', '8'])
        expect(covered(await shown(slate({ text: letter }))) / area(letter)).toBeCloseTo(1, 1.7);
    });

    test('fields, lines and the ground behind them', async () => {
      expect(writtenText('{comp}, {frame} {else}', slate({ text: '' }), 12)).toBe('Weir, 0012 {else}');
      const [one, twelve] = [
        await shown(slate({ text: '{frame}' })),
        await shown(slate({ text: '{frame}' }), 12),
      ];
      expect(one).not.toEqual(twelve);
      expect(twelve).toEqual(await shown(slate({ text: '0012' })));
      const [a, b] = [slate({ text: 'IIII\nI', align: 'left' }), slate({ text: 'IIII\nI', align: 'right' })];
      const lower = (rgba: Float32Array): number[] => reach(rgba.map((v, n) => (n < 4 * 200 * 50 ? 0 : v)));
      const [left, right] = [await shown(a), await shown(b)];
      expect(lower(left)[0]).toBe(reach(left)[0]);
      expect(lower(right)[1]).toBe(reach(right)[1]);
      expect(lower(left)[1]).toBeLessThan(lower(right)[0]);
      // within the ground: no letter gets lighter, and the rest is hidden by half
      const ground = await shown(slate({ text: 'I', ground: 50, second: [0.2, 0, 0] }));
      const bare = await shown(slate({ text: 'I' }));
      const p = 4 * (50 * 200 + 93);
      expect([...ground.subarray(p, p + 4)]).toEqual([0.1, 0, 0, 0.5].map(Math.fround));
      expect(ground.every((v, n) => v >= bare[n] - 1e-6)).toBe(true);
      expect(covered(await shown(slate({ text: ' \n' })))).toBe(0);
    });

    test('half the size is the same text, as near as pixels allow', async () => {
      const own = slate({ text: 'Mist' });
      const whole = await shown(own);
      const half = new Composer(pool, own, 0.5).compose(await gather(own, 1, feeds({})));
      expect(4 * covered(half.rgba)).toBeCloseTo(covered(whole), -1);
    });
  });

  test('bound to a track, a layer moves; a layer may be fed by one below it', async () => {
    const a = picture(3);
    const own = comp({
      layers: [
        layer('copy', { feed: { kind: 'layer', layer: 'a' }, on: true, meet: 'cut' }),
        layer('a', { bind: { how: 'follows', file: 't' } }),
      ],
      files: [{ id: 't', name: 't.csv', kind: 'track' }],
    });
    const alone = { ...own, layers: own.layers.slice(1) };
    const moved = (await made(alone, feeds({ 1: [a, a] }), 2)).rgba;
    for (const [x, y] of [
      [10, 4],
      [33, 20],
    ])
      for (let c = 0; c < 4; c++)
        expect(moved[4 * (y * WIDTH + x) + c]).toBeCloseTo(a.rgba[4 * (y * WIDTH + x - 3) + c], 6);
    // what is cut out by itself leaves what it does not cover
    near(
      (await made(own, feeds({ 1: [a, a] }), 2)).rgba,
      moved.map((v, n) => v * (1 - moved[n - (n % 4) + 3])),
    );
  });

  test('between frames they are blended, or carried along their motion', async () => {
    const disc = (cx: number): FeedPicture => ({
      ...picture(1),
      key: `disc ${cx}`,
      rgba: Float32Array.from({ length: 4 * WIDTH * HEIGHT }, (_, n) =>
        Math.min(
          1,
          Math.max(
            0,
            4.5 - Math.hypot(((n >> 2) % WIDTH) + 0.5 - cx, Math.floor((n >> 2) / WIDTH) + 0.5 - 15),
          ),
        ),
      ),
      passes: new Map([
        ['motion', Float32Array.from({ length: 4 * WIDTH * HEIGHT }, (_, n) => (n % 4 === 0 ? 6 : 0))],
      ]),
    });
    const from = feeds({ 1: [disc(15), disc(21)] });
    const half = (between: string): Combine =>
      comp({ layers: [layer('a', { time: { speed: 50, between } })] });
    const blended = (await made(half('blended'), from, 2)).rgba;
    const [one, two] = [disc(15).rgba, disc(21).rgba];
    near(
      blended,
      one.map((v, n) => (v + two[n]) / 2),
      1e-6,
    );
    near((await made(half('motion'), from, 2)).rgba, disc(18).rgba, 0.02);
    // another way between the same two frames is made anew
    const composer = new Composer(pool, half('blended'), 1);
    composer.compose(await gather(half('blended'), 2, from));
    near(composer.compose(await gather(half('motion'), 2, from)).rgba, disc(18).rgba, 0.02);
  });

  test('masks limit layers and operations, joined and turned round', async () => {
    const a = picture(4);
    const square = {
      frame: 1,
      points: [
        [-20, -15],
        [0, -15],
        [0, 15],
        [-20, 15],
      ],
    };
    const low = {
      frame: 1,
      points: [
        [-20, 0],
        [20, 0],
        [20, 15],
        [-20, 15],
      ],
    };
    const masks = [
      { id: 'left', name: 'left', smooth: 'straight', outline: [square], outer: 0, with: 'low' },
      { id: 'low', name: 'low', smooth: 'straight', outline: [low], outer: 0, invert: true },
      { id: 'own', name: 'own', kind: 'taken', from: 'a', channel: 'alpha' },
    ];
    const limited = (await made(comp({ layers: [layer('a', { mask: 'left' })], masks }), feeds({ 1: [a] })))
      .rgba;
    const isIn = (x: number, y: number): boolean => x < 20 && y < 15;
    for (const [x, y] of [
      [5, 5],
      [15, 10],
      [30, 5],
      [5, 25],
      [30, 25],
    ])
      expect(limited[4 * (y * WIDTH + x) + 3]).toBeCloseTo(
        isIn(x, y) ? a.rgba[4 * (y * WIDTH + x) + 3] : 0,
        5,
      );
    // a mask of what is not there just now lets nothing through
    const later = comp({
      layers: [layer('a', { mask: 'own' }), layer('b', { on: false, time: { start: 9 } })],
      masks: [{ ...masks[2], from: 'b' }],
    });
    expect((await made(later, feeds({ 1: [a] }))).rgba.every((v) => v === 0)).toBe(true);
    const graded = comp({
      masks,
      operations: [{ id: 'x', layer: 'a', kind: 'exposure', stops: 1, mask: 'own' }],
    });
    near(
      (await made(graded, feeds({ 1: [a] }))).rgba,
      a.rgba.map((v, n) => (n % 4 === 3 ? v : v * (1 + a.rgba[n - (n % 4) + 3]))),
    );
  });

  test('missing frames are held, left out or a reason to stop', async () => {
    const from = feeds({ 1: [picture(1), null, picture(3)] });
    const own = (gaps: string): Combine => comp({ layers: [layer('a', { time: { gaps } })] });
    const held = await made(own('hold'), from, 2);
    near(held.rgba, picture(1).rgba);
    expect(held.notes).toEqual(['a: its frame 2 is missing; 1 is held.']);
    near((await made(own('gone'), from, 2)).rgba, new Float32Array(4 * WIDTH * HEIGHT));
    await expect(made(own('stop'), from, 2)).rejects.toThrow(/a: its frame 2 is missing/);
    expect(
      (await made(comp({ layers: [layer('a', { feed: { kind: 'render', render: 0 } })] }), from)).notes[0],
    ).toMatch(/no render of this shot yet/);
    expect(
      (await made(comp({ layers: [layer('a', { feed: { kind: 'render', render: 8 } })] }), from)).notes[0],
    ).toMatch(/is not there/);
    expect((await made(comp({ layers: [layer('a', { place: { x: 400 } })] }), from)).notes).toEqual([
      'a lies outside of the frame.',
    ]);
  });

  test('grain is measured as it was given, over a picture of its own', () => {
    const [wide, high] = [320, 192];
    const pixels = new Pixels(pool, wide, high, 3, 1);
    const [plate, grain, room] = [0, 1, 2].map((n) => pixels.picture(n));
    for (const [size, dark] of [
      [0, 0.2],
      [0.7, 0.5],
    ] as const) {
      // a sky that goes from dark to light, with something busy in the middle of it
      const light = (n: number): number => {
        const [x, y] = [(n >> 2) % wide, Math.floor((n >> 2) / wide)];
        return n % 4 === 3 ? 1 : 0.03 + (0.6 * x) / wide + (y > 80 && y < 112 ? 0.1 * Math.sin(x) : 0);
      };

      pixels.put(
        plate,
        Float32Array.from({ length: 4 * wide * high }, (_, n) => light(n)),
      );
      pixels.grain(grain, 5);
      pixels.blur(grain, grain, room, size);
      const strength = 1 / softenedGrain(size);
      pixels.addGrain(plate, grain, 0, [0.03 * strength, 0.02 * strength, 0.04 * strength], dark);
      const measured = measureGrain({ width: wide, height: high, rgba: pixels.view(plate).slice() })!;
      measured.grain.forEach((v, c) => expect(Math.abs(v / [0.03, 0.02, 0.04][c] - 1)).toBeLessThan(0.15));
      expect(Math.abs(measured.dark / 100 - dark)).toBeLessThan(0.15);
      expect(Math.abs(measured.size - size)).toBeLessThan(0.2);
    }

    expect(measureGrain({ width: 8, height: 8, rgba: new Float32Array(256) })).toBeNull();
  });

  test('what is kept of layers changes nothing, whatever is changed in between', async () => {
    const [a, b] = [picture(1), picture(2)];
    const from = feeds({ 1: [a], 2: [b] });
    const base = comp({
      layers: [layer('a', { mask: 'm' }), layer('b', { feed: { kind: 'render', render: 2 } })],
      masks: [
        {
          id: 'm',
          name: 'm',
          outer: 9,
          outline: [
            {
              frame: 1,
              points: [
                [-9, -9],
                [9, -9],
                [0, 9],
              ],
            },
          ],
        },
      ],
      operations: [
        { id: 'g', layer: 'a', kind: 'grain', amount: 100, size: 0.5 },
        { id: 'u', layer: 'b', kind: 'blur', size: 3 },
      ],
    });
    const other = startThreadPool(16, 1);
    const composer = new Composer(pool, base, 1);
    const edits: ((c: Combine) => Combine)[] = [
      (c) => c,
      (c) => ({ ...c, layers: [...c.layers].reverse() }),
      (c) => ({ ...c, operations: c.operations.map((o) => ({ ...o, size: o.size + 1 })) }),
      (c) => ({ ...c, layers: c.layers.map((l) => ({ ...l, place: { ...l.place, x: l.place.x + 2 } })) }),
      (c) => ({ ...c, masks: c.masks.map((m) => ({ ...m, outer: 2 })) }),
      (c) => c,
    ];
    for (const edit of edits)
      for (const frame of [1, 2]) {
        const ingredients = await gather(edit(base), frame, from);
        const kept = composer.compose(ingredients).rgba.slice();
        // in a memory of its own
        expect(new Composer(other, base, 1).compose(ingredients).rgba).toEqual(kept);
      }

    other.close();
  });

  test('a smaller frame is the larger one made smaller', async () => {
    const own = comp({
      frame: { width: 160, height: 120 },
      operations: [{ id: 'u', layer: 'a', kind: 'blur', size: 6 }],
    });
    const from = feeds({ 1: [picture(1)] });
    const ingredients = await gather(own, 1, from);
    const whole = new Composer(pool, own, 1).compose(ingredients).rgba.slice();
    const half = new Composer(pool, own, 0.5).compose(ingredients).rgba.slice();
    for (let y = 4; y < 56; y += 7)
      for (let x = 4; x < 76; x += 5) {
        const mean =
          [0, 1]
            .flatMap((j) => [0, 1].map((i) => whole[4 * ((2 * y + j) * 160 + 2 * x + i) + 1]))
            .reduce((p, q) => p + q) / 4;
        expect(Math.abs(half[4 * (y * 80 + x) + 1] - mean)).toBeLessThan(0.02);
      }
  });
});
