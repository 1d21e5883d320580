// Pictures as other programs write them: OpenEXR packed in every way, in tiles and parts, cropped and larger
// than the frame, by the reference tools; PNG of every depth; Radiance HDR in runs of all kinds. Each is read
// exactly, within what its packing keeps, or refused by name.
import { execFileSync } from 'node:child_process';
import { zlibSync } from 'fflate';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { importAsset } from '@bramblemist/core/assets/import-asset';
import { readExrColours } from '@bramblemist/core/files/exr/colours';
import { readExr, type ExrImage } from '@bramblemist/core/files/exr/reader';
import { writeExr, writeTiledExr } from '@bramblemist/core/files/exr/writer';
import { readHdr } from '@bramblemist/core/files/hdr/hdr';
import type { Texture } from '@bramblemist/core/files/picture';
import { readPngPicture } from '@bramblemist/core/files/png/png';
import { fromHalf, toHalf } from '@bramblemist/core/math/half';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { png } from './png';

/** Written by the format's own library from `image` below: lines, which its tools do not pack anew. */
const FIXTURES = join(__dirname, 'fixtures/exr');
const folder = mkdtempSync(join(tmpdir(), 'pictures-'));
afterAll(() => rmSync(folder, { recursive: true }));

const [W, H] = [67, 45];

/** Smooth, with an edge and some noise in its last bits, as pictures are. */
function image(type: 'half' | 'float', names = ['R', 'G', 'B', 'A'], width = W, height = H): ExrImage {
  return {
    width,
    height,
    channels: names.map((name, c) => ({
      name,
      type,
      values: Float32Array.from({ length: width * height }, (_, n) => {
        const [x, y] = [n % width, Math.floor(n / width)];
        const v = 0.2 + 0.01 * x + 0.02 * y * (c + 1) + (x > 30 ? 1 : 0) + 1e-3 * ((n * 7919) % 13);
        return type === 'half' ? fromHalf(toHalf(v)) : Math.fround(v);
      }),
    })),
  };
}

const valuesOf = ({ width, height, channels }: ExrImage): Float32Array => {
  const plane = (name: string): Float32Array | undefined => channels.find((c) => c.name === name)?.values;
  return Float32Array.from({ length: 4 * width * height }, (_, n) => {
    const own = plane('RGBA'[n & 3]) ?? (n % 4 === 3 ? undefined : plane('Y'));
    return own ? own[n >> 2] : 1;
  });
};

/** The greatest difference, as part of the value. */
function apart(a: Float32Array, b: Float32Array): number {
  let most = a.length === b.length ? 0 : Infinity;
  for (let n = 0; n < a.length; n++)
    most = Math.max(most, Math.abs(a[n] - b[n]) / Math.max(0.05, Math.abs(b[n])));
  return most;
}

describe('OpenEXR by the reference tools', () => {
  const tiled = (type: 'half' | 'float', names: string[], ...options: string[]): Buffer => {
    const [from, to] = [join(folder, 'from.exr'), join(folder, 'to.exr')];
    writeFileSync(from, writeExr(image(type, names), nodeZip));
    execFileSync('exrmaketiled', [...options, from, to]);
    return readFileSync(to);
  };

  /** What each way to pack keeps of a half and of a float, as part of the value. */
  const PACKED: [string, number, number][] = [
    ['none', 0, 0],
    ['rle', 0, 0],
    ['zip', 0, 0],
    ['piz', 0, 0],
    ['pxr24', 0, 1e-4],
    ['b44', 0.05, 0],
    ['b44a', 0.05, 0],
    ['dwaa', 0.05, 0.05],
    ['dwab', 0.05, 0.05],
  ];
  const keptOf = (how: string, type: string): number =>
    PACKED.find(([h]) => h === how)![type === 'half' ? 1 : 2];
  test.each(readdirSync(FIXTURES).map((file) => [file, ...file.replace('.exr', '').split('_')] as const))(
    'lines, %s',
    async (file, how, type, names) => {
      const bytes = readFileSync(join(FIXTURES, file));
      if (how.startsWith('dwa') && names === 'Y')
        return expect(readExrColours(bytes, nodeZip)).rejects.toThrow(
          /packed by DWA., and of grey alone; save it/,
        );
      const { rgba } = await readExrColours(bytes, nodeZip);
      const wanted = valuesOf(image(type as 'half', names.split('')));
      expect(apart(rgba, wanted)).toBeLessThanOrEqual(keptOf(how, type));
    },
  );
  const cases = PACKED.flatMap(([how, half, float]) =>
    (['half', 'float'] as const).flatMap((type) =>
      [['R', 'G', 'B', 'A'], ['R', 'G', 'B'], ['Y']].map(
        (names) => [how, type, names.join(''), type === 'half' ? half : float] as const,
      ),
    ),
  );
  test.each(cases)('tiles, %s, %s, %s', async (how, type, names, kept) => {
    const bytes = tiled(type, names.split(''), '-z', how, '-t', '32', '16');
    if (how === 'dwaa' || (how === 'dwab' && names === 'Y'))
      return expect(readExrColours(bytes, nodeZip)).rejects.toThrow(
        /in tiles, packed by DWA., .*; save it with ZIP/,
      );
    const { width, height, rgba } = await readExrColours(bytes, nodeZip);
    expect([width, height]).toEqual([W, H]);
    const wanted = valuesOf(image(type, names.split('')));
    // alpha is kept as it is by all
    expect(apart(rgba, wanted)).toBeLessThanOrEqual(kept);
  });
  test.each(['half', 'float'] as const)('our tiles are what the tools find, %s', async (type) => {
    const own = image(type);
    const [from, to] = [join(folder, 'ours.exr'), join(folder, 'theirs.exr')];
    writeFileSync(from, writeTiledExr(own, nodeZip, { text: { owner: 'mill' } }));
    expect(execFileSync('exrheader', [from], { encoding: 'utf8' })).toMatch(/tile size 64 by 64 pixels/);
    execFileSync('exrmaketiled', ['-z', 'zip', '-t', '16', '32', from, to]);
    for (const path of [from, to]) {
      const { rgba } = await readExrColours(readFileSync(path), nodeZip);
      expect(apart(rgba, valuesOf(own))).toBe(0);
    }
  });
  test('in several sizes: the whole one', async () => {
    for (const mode of ['-m', '-r']) {
      const { rgba } = await readExrColours(
        tiled('half', ['R', 'G', 'B', 'A'], mode, '-t', '16', '16'),
        nodeZip,
      );
      expect(apart(rgba, valuesOf(image('half')))).toBe(0);
    }
  });
  test('of several parts: the first, and it is told', async () => {
    const [a, b, both] = ['a', 'b', 'both'].map((n) => join(folder, `${n}.exr`));
    writeFileSync(a, writeExr(image('half'), nodeZip));
    writeFileSync(b, writeExr(image('float', ['Y']), nodeZip));
    execFileSync('exrmultipart', [
      '-combine',
      '-i',
      `${a}::smoke`,
      `${b}::depth`,
      '-o',
      both,
      '-override',
      '1',
    ]);
    const { rgba, remarks } = await readExrColours(readFileSync(both), nodeZip);
    expect(apart(rgba, valuesOf(image('half')))).toBe(0);
    expect(remarks.join()).toMatch(/it has 2 parts; the first.*is taken/);
  });
  test('our windows, pixel aspect and what we say of a picture are what the tools find', () => {
    const path = join(folder, 'said.exr');
    const windows = {
      data: { min: [-3, 2], max: [W - 4, H + 1] },
      display: { min: [0, 0], max: [99, 49] },
    } as const;
    writeFileSync(
      path,
      writeExr({ ...image('half'), windows, pixelAspect: 2 }, nodeZip, {
        text: { owner: 'the Heron Mill', comments: 'dimma' },
        float: { focus: 2.5 },
        rational: { framesPerSecond: [24, 1] },
        matrix: { worldToCamera: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 1, 2, 3, 1] },
      }),
    );
    const header = execFileSync('exrheader', [path], { encoding: 'utf8' });
    expect(header).toMatch(/dataWindow \(type box2i\): \(-3 2\) - \(63 46\)/);
    expect(header).toMatch(/displayWindow \(type box2i\): \(0 0\) - \(99 49\)/);
    expect(header).toMatch(/pixelAspectRatio \(type float\): 2/);
    expect(header).toMatch(/owner \(type string\): "the Heron Mill"/);
    expect(header).toMatch(/framesPerSecond \(type rational\): 24\/1 \(24\)/);
    expect(header).toMatch(/chromaticities/);
    expect(header).toMatch(/worldToCamera \(type m44f\)/);
    const back = readExr(readFileSync(path), nodeZip);
    expect(back.windows).toEqual(windows);
    expect(back.pixelAspect).toBe(2);
  });
});

describe('OpenEXR that is cropped, larger than its frame, or odd', () => {
  const framed = async (
    data: [number, number, number, number],
    display: [number, number, number, number],
  ) => {
    const box = ([x0, y0, x1, y1]: readonly number[]) => ({ min: [x0, y0], max: [x1, y1] }) as const;
    const own = image('half', ['R', 'G', 'B', 'A'], data[2] - data[0] + 1, data[3] - data[1] + 1);
    const windows = { data: box(data), display: box(display) };
    return { own, found: await readExrColours(writeExr({ ...own, windows }, nodeZip), nodeZip) };
  };

  test('a cropped one keeps its place in the frame, empty around', async () => {
    const { own, found } = await framed([10, 5, 29, 19], [0, 0, 59, 39]);
    expect([found.width, found.height]).toEqual([60, 40]);
    const inside = 4 * (7 * 60 + 12);
    expect(found.rgba[inside]).toBe(own.channels[0].values[2 * 20 + 2]);
    expect(found.rgba[inside + 3]).toBe(own.channels[3].values[2 * 20 + 2]);
    expect([...found.rgba.subarray(0, 4)]).toEqual([0, 0, 0, 0]);
    expect(found.remarks).toEqual(['its pixels fill 20 × 15 of 60 × 40; around them it is empty']);
  });
  test('of one that is larger what is in the frame is taken', async () => {
    const { own, found } = await framed([-8, -4, 67, 43], [0, 0, 59, 39]);
    expect(found.rgba[0]).toBe(own.channels[0].values[4 * 76 + 8]);
    expect(found.remarks).toEqual(['of 76 × 48 pixels those in the frame of 60 × 40 are taken']);
  });
  test('a frame that lies elsewhere', async () => {
    const { own, found } = await framed([100, 100, 119, 119], [100, 100, 119, 119]);
    expect([found.width, found.remarks, found.rgba[0]]).toEqual([20, [], own.channels[0].values[0]]);
  });
  test.each([
    ['another version', (v: DataView) => v.setUint8(4, 3), /file version 3; version 2 is read/],
    ['flags of a later kind', (v: DataView) => v.setUint8(5, 0x40), /flags 4000 are not known/],
    ['deep', (v: DataView) => v.setUint8(5, 0x08), /deep, in lines, packed by ZIP; save it with ZIPS/],
    [
      'tiles that are not there',
      (v: DataView) => v.setUint8(5, 0x02),
      /does not say how large its tiles are/,
    ],
  ] as const)('%s is refused by name', async (_, patch, why) => {
    const bytes = writeExr(image('half'), nodeZip);
    patch(new DataView(bytes.buffer));
    await expect(readExrColours(bytes, nodeZip)).rejects.toThrow(why);
  });
  test('without colours it says what it has; of several types it is left to us, or refused', async () => {
    await expect(readExrColours(writeExr(image('half', ['Z', 'id']), nodeZip))).rejects.toThrow(
      /neither the channels R, G, B nor Y \(it has: Z, id\)/,
    );
    const mixed = {
      ...image('half'),
      channels: [...image('half').channels.slice(0, 3), image('float', ['A']).channels[0]],
    };
    const bytes = writeExr(mixed, nodeZip);
    expect(apart((await readExrColours(bytes, nodeZip)).rgba, valuesOf(mixed))).toBe(0);
    const at = Buffer.from(bytes).indexOf('compression\0compression\0') + 28;
    bytes[at] = 4;
    await expect(readExrColours(bytes, nodeZip)).rejects.toThrow(
      /in lines, packed by PIZ, with colours of several types; save it with ZIP/,
    );
  });
});

/** Its head says that it is a million pixels high. */
function widened(bytes: Uint8Array): Uint8Array {
  const out = bytes.slice();
  out.set([0, 15, 66, 64], 20);
  return out;
}

/** Red of a pixel, top row first. */
const red = ({ width, height, planes }: Texture, n: number): number =>
  planes[(height - 1 - Math.floor(n / width)) * width + (n % width)];
const srgb = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

describe('PNG', () => {
  test.each([1, 2, 4, 8, 16])('grey of %d bits', (depth) => {
    const most = 2 ** depth - 1;
    const samples = Array.from({ length: 7 * 5 }, (_, n) => (n * 37) % (most + 1));
    const { picture } = readPngPicture(png(0, depth, 7, 5, samples));
    samples.forEach((v, n) => expect(red(picture, n)).toBeCloseTo(srgb(v / most), 5));
  });
  test.each([1, 2, 4, 8])('a palette of %d bits', (depth) => {
    const samples = Array.from({ length: 21 }, (_, n) => n % 2 ** depth);
    const palette = Array.from({ length: 2 ** depth }, (_, n) => [(n * 50) % 256, 0, 255]).flat();
    const { picture } = readPngPicture(png(3, depth, 7, 3, samples, [['PLTE', palette]]));
    samples.forEach((v, n) => expect(red(picture, n)).toBeCloseTo(srgb(((v * 50) % 256) / 255), 5));
  });
  test.each([
    [2, 8],
    [2, 16],
    [4, 8],
    [4, 16],
    [6, 8],
    [6, 16],
  ])('kind %d of %d bits', (kind, depth) => {
    const parts = { 2: 3, 4: 2, 6: 4 }[kind]!;
    const samples = Array.from({ length: 6 * parts }, (_, n) => (n * 9973) % 2 ** depth);
    const { picture } = readPngPicture(png(kind, depth, 3, 2, samples));
    for (let n = 0; n < 6; n++)
      expect(red(picture, n)).toBeCloseTo(srgb(samples[n * parts] / (2 ** depth - 1)), 5);
  });
  test.each(Array.from({ length: 12 }, (_, n) => [n + 1, 12 - n]))('%d × %d pixels', (width, height) => {
    const samples = Array.from({ length: 3 * width * height }, (_, n) => (n * 41) % 256);
    const { picture } = readPngPicture(png(2, 8, width, height, samples));
    expect([picture.width, picture.height]).toEqual([width, height]);
    for (let n = 0; n < width * height; n++)
      expect(red(picture, n)).toBeCloseTo(srgb(samples[3 * n] / 255), 5);
  });
  const grey = (...chunks: [string, number[]][]): ReturnType<typeof readPngPicture> =>
    readPngPicture(png(0, 8, 1, 1, [128], chunks));
  const gamma = (v: number): [string, number[]] => ['gAMA', [0, (v >> 16) & 255, (v >> 8) & 255, v & 255]];
  test('gamma, sRGB, a profile, the codes of H.273', () => {
    expect(red(grey(gamma(100_000)).picture, 0)).toBeCloseTo(128 / 255, 5);
    expect(grey(gamma(100_000)).remarks).toEqual(['its gamma of 1 is followed']);
    expect(red(grey(gamma(45_455)).picture, 0)).toBeCloseTo(srgb(128 / 255), 5);
    expect(red(grey(['sRGB', [0]], gamma(100_000)).picture, 0)).toBeCloseTo(srgb(128 / 255), 5);
    expect(grey(['iCCP', [65, 0, 0, ...zlibSync(new Uint8Array(8))]]).remarks.join()).toMatch(
      /colour profile, which is not followed/,
    );
    expect(red(grey(['cICP', [1, 8, 0, 1]]).picture, 0)).toBeCloseTo(128 / 255, 5);
    expect(() => grey(['cICP', [9, 16, 0, 1]])).toThrow(/curve 16 of H\.273/);
  });
  test.each([
    ['no picture', new Uint8Array(40), /no PNG picture/],
    ['cut', png(0, 8, 9, 9, new Array<number>(81).fill(3)).slice(0, 60), /no PNG picture that can be read/],
    [
      'a palette that is too short',
      png(3, 8, 2, 1, [0, 9], [['PLTE', [1, 2, 3]]]),
      /no PNG picture that can be read/,
    ],
    ['a head that says too much', widened(png(0, 8, 5, 1, [1])), /more than it can hold/],
    ['no pixels', png(0, 8, 0, 4, []), /has no pixels/],
  ] as const)('%s is refused', (_, bytes, why) => expect(() => readPngPicture(bytes)).toThrow(why));
  test('interlaced with few bits is refused by name', () => {
    const bytes = png(0, 4, 4, 4, new Array<number>(16).fill(3));
    bytes[28] = 1;
    expect(() => readPngPicture(bytes)).toThrow(/interlaced with less than 8 bits/);
  });
});

describe('Radiance HDR', () => {
  const [w, h] = [11, 6];
  const pixel = (n: number): number[] => [
    (n * 31) % 256,
    (n * 7) % 256,
    n % 3 === 0 ? 90 : 200,
    120 + (n % 20),
  ];
  const head = (size: string, extra = ''): number[] => [
    ...new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n${extra}\n${size}\n`),
  ];
  const flat = Array.from({ length: w * h }, (_, n) => pixel(n)).flat();
  const value = (n: number, c = 0): number => pixel(n)[c] * 2 ** (pixel(n)[3] - 136);
  const fresh = (): number[] => {
    const out: number[] = [];
    for (let y = 0; y < h; y++) {
      out.push(2, 2, 0, w);
      for (let c = 0; c < 4; c++) {
        const line = Array.from({ length: w }, (_, x) => pixel(y * w + x)[c]);
        out.push(4, ...line.slice(0, 4));
        for (const v of line.slice(4)) out.push(129, v);
      }
    }

    return out;
  };

  test.each([
    ['as they are', flat],
    ['in runs of the new kind', fresh()],
  ])('pixels %s, to the last bit', (_, body) => {
    const { picture, remarks } = readHdr(Uint8Array.from([...head(`-Y ${h} +X ${w}`), ...body]));
    for (let n = 0; n < w * h; n++) expect(red(picture, n)).toBe(value(n));
    expect(remarks).toEqual([]);
  });
  const turns = ['-Y +X', '-Y -X', '+Y +X', '+Y -X'].flatMap((order) =>
    [flat, fresh()].flatMap((body) =>
      ['', 'EXPOSURE=0.5\n', 'SOFTWARE=by hand\n'].map((extra) => ({ order, body, extra })),
    ),
  );
  test.each(turns)('$order, $extra', ({ order, body, extra }) => {
    const [y, x] = order.split(' ');
    const { picture } = readHdr(Uint8Array.from([...head(`${y} ${h} ${x} ${w}`, extra), ...body]));
    const scale = extra.startsWith('EXPOSURE') ? 2 : 1;
    for (let n = 0; n < w * h; n++) {
      const [column, line] = [n % w, Math.floor(n / w)];
      const from = (y === '-Y' ? line : h - 1 - line) * w + (x === '+X' ? column : w - 1 - column);
      expect(red(picture, n)).toBe(scale * value(from));
    }
  });
  test('runs of the old kind', () => {
    const body = [...pixel(1), 1, 1, 1, 3, ...pixel(2), 1, 1, 1, 1, 1, 1, 1, 1];
    const wide = 1 + 3 + 1 + 1 + 256;
    const { picture } = readHdr(Uint8Array.from([...head(`-Y 1 +X ${wide}`), ...body]));
    expect([0, 3, 4, 6, wide - 1].map((n) => red(picture, n))).toEqual([1, 1, 2, 2, 2].map((n) => value(n)));
  });
  test('exposures are taken back, and other orders of lines are followed', () => {
    const twice = head(`-Y ${h} +X ${w}`, 'EXPOSURE=2\nEXPOSURE= 2\n');
    const { picture, remarks } = readHdr(Uint8Array.from([...twice, ...flat]));
    expect(red(picture, 5)).toBe(value(5) / 4);
    expect(remarks).toEqual(['its exposure of 4 is taken back']);
    const turned = readHdr(Uint8Array.from([...head(`+Y ${h} -X ${w}`), ...flat])).picture;
    expect(red(turned, 0)).toBe(value(w * h - 1));
  });
  test.each([
    ['a cut line', [...head(`-Y ${h} +X ${w}`), ...fresh().slice(0, 50)], /ends inside a line/],
    ['a run that is too long', [...head('-Y 1 +X 9'), 2, 2, 0, 9, 200, 1], /longer than its line/],
    ['a run before any pixel', [...head('-Y 1 +X 4'), 1, 1, 1, 3, 0, 0, 0, 0], /longer than its line/],
    [
      'other colours',
      [...new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 1 +X 1\n'), 0, 0, 0, 0],
      /32-bit_rle_xyze/,
    ],
    ['a false head', head('-Y 9000 +X 9000'), /more than the file can hold/],
  ])('%s is refused', (_, body, why) => expect(() => readHdr(Uint8Array.from(body))).toThrow(why));
});

test('what was changed is told with the asset', async () => {
  const own = image('half', ['R', 'G', 'B', 'A'], 20, 10);
  const windows = { data: { min: [0, 0], max: [19, 9] }, display: { min: [0, 0], max: [39, 9] } } as const;
  const found = await importAsset('plate.exr', writeExr({ ...own, windows }, nodeZip), nodeZip);
  expect(found).toMatchObject({
    kind: 'picture',
    picture: { width: 40, height: 10 },
    remarks: ['its pixels fill 20 × 10 of 40 × 10; around them it is empty'],
  });
});
