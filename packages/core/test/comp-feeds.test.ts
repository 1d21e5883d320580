// Feeds of comps from the disk: movies frame by frame, pictures of many kinds, what is broken, and frames
// that are written, read by the tools of others.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { COMBINE, type Combine, type CompFile } from '@bramblemist/core/combine/combine';
import { gather } from '@bramblemist/core/combine/gather';
import { packWords, unpackWords } from '@bramblemist/core/combine/raw-picture';
import { layersIn, readExrPasses } from '@bramblemist/core/files/exr/colours';
import { readExr } from '@bramblemist/core/files/exr/reader';
import { writeExr, writeExrParts } from '@bramblemist/core/files/exr/writer';
import { checkFile } from '@bramblemist/core/io/node/check-file';
import { writeComp } from '@bramblemist/core/io/node/comp';
import { NodeFeeds } from '@bramblemist/core/io/node/feeds';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { encodePngWords } from '@bramblemist/core/io/node/png';
import { decodeSrgb } from '@bramblemist/core/look/picture';

const folder = mkdtempSync(join(tmpdir(), 'bramblemist-feeds-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const at = (name: string): string => join(folder, name);
const ffmpeg = (...args: string[]): void =>
  void execFileSync('ffmpeg', ['-hide_banner', '-loglevel', 'error', '-y', ...args], { input: '' });
const file = (name: string, kind: CompFile['kind'], more: object = {}): CompFile =>
  COMBINE.parse({ files: [{ id: 'f', name, kind, ...more }] }).files[0];
const feeds = (): NodeFeeds => new NodeFeeds({ render: (id) => at(`render-${id}`), files: folder, rate: 24 });

const FRAMES = 40;
const [WIDTH, HEIGHT] = [64, 48];

/** Each frame has a grey of its own, by its number from 1. */
const greyOf = (frame: number): number => Math.round(40 + frame * 4);

function greys(): Buffer {
  return Buffer.concat(
    Array.from({ length: FRAMES }, (_, n) => Buffer.alloc(WIDTH * HEIGHT * 3, greyOf(n + 1))),
  );
}

beforeAll(() => {
  const raw = at('greys.rgb');
  writeFileSync(raw, greys());
  const source = ['-f', 'rawvideo', '-pixel_format', 'rgb24', '-video_size', `${WIDTH}x${HEIGHT}`];
  const rate = (r: string): string[] => [...source, '-framerate', r, '-i', raw];
  // pictures that depend on others, both ways
  ffmpeg(...rate('24'), '-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-bf', '3', '-g', '12', at('a.mp4'));
  ffmpeg(...rate('30000/1001'), '-c:v', 'png', at('b.mov'));
  ffmpeg(...rate('25'), '-c:v', 'prores_ks', '-pix_fmt', 'yuva444p10le', '-profile:v', '4444', at('c.mov'));
  ffmpeg(...rate('30'), '-c:v', 'mjpeg', '-q:v', '2', at('d.avi'));
});

describe('movies', () => {
  const greyAt = async (name: string, frame: number, own = feeds()): Promise<number | null> => {
    const raw = await own.raw(file(name, 'movie'), frame);
    return raw?.kind === 'words' ? Math.round(raw.words[4 * 20 * WIDTH] / 257) : null;
  };

  test.each([
    ['a.mp4', 24, false, 2],
    ['b.mov', 30000 / 1001, false, 0],
    ['c.mov', 25, true, 2],
    ['d.avi', 30, false, 3],
  ])('every frame of %s is the one of its number, in order and not', async (name, rate, hasAlpha, within) => {
    expect(await checkFile(at(name), name)).toMatchObject({
      kind: 'movie',
      frames: FRAMES,
      hasAlpha,
      width: WIDTH,
    });
    const own = feeds();
    const range = await own.range({ file: file(name, 'movie') });
    expect(range).toMatchObject({ first: 1, last: FRAMES });
    expect(range!.rate).toBeCloseTo(rate, 6);
    for (const frame of [1, 2, 3, 25, 26, 7, 40, 13, 12])
      expect(Math.abs((await greyAt(name, frame, own))! - greyOf(frame))).toBeLessThanOrEqual(within);
    expect(await greyAt(name, 41, own)).toBeNull();
    expect(await greyAt(name, 0, own)).toBeNull();
  });

  test('its rate may be told otherwise', async () => {
    expect((await feeds().range({ file: file('a.mp4', 'movie', { rate: 12 }) }))!.rate).toBe(12);
  });

  it.each(['libvpx', 'libvpx-vp9'])('with the alpha that %s keeps beside its pictures', async (encoder) => {
    const raw = at('half.rgba');
    // clearer from frame to frame
    const pixel = (n: number): number[] => [120, 120, 120, 250 - 5 * n];
    const frames = Array.from({ length: FRAMES }, (_, n) =>
      Buffer.alloc(WIDTH * HEIGHT * 4, Buffer.from(pixel(n + 1))),
    );
    writeFileSync(raw, Buffer.concat(frames));
    const source = [
      '-f',
      'rawvideo',
      '-pixel_format',
      'rgba',
      '-video_size',
      `${WIDTH}x${HEIGHT}`,
      '-i',
      raw,
    ];
    ffmpeg(
      ...source,
      '-pix_fmt',
      'yuva420p',
      '-c:v',
      encoder,
      '-auto-alt-ref',
      '0',
      '-crf',
      '4',
      '-b:v',
      '2M',
      at('e.webm'),
    );
    expect(await checkFile(at('e.webm'), 'e.webm')).toMatchObject({ frames: FRAMES, hasAlpha: true });
    const own = feeds();
    for (const frame of [1, 30, 12]) {
      const picture = await own.raw(file('e.webm', 'movie'), frame);
      if (picture?.kind !== 'words') throw new Error('no picture');
      expect(picture.hasAlpha).toBe(true);
      const middle = picture.words.subarray(4 * (20 * WIDTH + 30), 4 * (20 * WIDTH + 30) + 4);
      pixel(frame).forEach((v, c) => expect(Math.abs(middle[c] / 257 - v)).toBeLessThanOrEqual(4));
    }
  });
});

describe('pictures', () => {
  const words = Uint16Array.from({ length: 4 * WIDTH * HEIGHT }, (_, n) =>
    n % 4 === 3 ? 65535 : (n * 211) % 65536,
  );
  beforeAll(() => {
    writeFileSync(at('deep.png'), encodePngWords(words, WIDTH, HEIGHT, 16));
    for (const [name, ...how] of [
      ['one.jpg', '-q:v', '1'],
      ['one.webp', '-c:v', 'libwebp', '-lossless', '1'],
      ['one.tif', '-pix_fmt', 'rgb48le'],
      ['one.dpx', '-pix_fmt', 'gbrp10le'],
    ])
      ffmpeg('-i', at('deep.png'), '-frames:v', '1', ...how, at(name));
  });

  test.each([
    ['deep.png', 1],
    ['one.tif', 2],
    ['one.dpx', 140],
    ['one.webp', 400],
    ['one.jpg', 20_000],
  ])('%s has the values that were written, within %d of 65536', async (name, within) => {
    const raw = await feeds().raw(file(name, 'picture'), 1);
    if (raw?.kind !== 'words') throw new Error('no words');
    expect(raw).toMatchObject({ width: WIDTH, height: HEIGHT });
    let worst = 0;
    raw.words.forEach((v, n) => (worst = Math.max(worst, Math.abs(v - words[n]))));
    expect(worst).toBeLessThanOrEqual(within);
    // what goes to the page is the same there
    expect(unpackWords(packWords(raw))).toEqual(raw);
    expect(await checkFile(at(name), name)).toMatchObject({ kind: 'picture', width: WIDTH });
  });

  test('they mean light as the file part says', async () => {
    const light = async (more: object): Promise<number> =>
      (await feeds().picture({ file: file('deep.png', 'picture', more) }, 1, []))!.rgba[4];
    const v = words[4] / 65535;
    expect(await light({})).toBeCloseTo(decodeSrgb(v), 5);
    expect(await light({ encoding: 'linear' })).toBeCloseTo(v, 5);
    writeFileSync(at('invert.cube'), 'LUT_1D_SIZE 2\n1 1 1\n0 0 0\n');
    const own = feeds();
    const comp = COMBINE.parse({
      files: [
        { id: 'f', name: 'deep.png', kind: 'picture', encoding: 'table', table: 't' },
        { id: 't', name: 'invert.cube', kind: 'table' },
      ],
    });
    own.know(comp.files);
    expect((await own.picture({ file: comp.files[0] }, 1, []))!.rgba[4]).toBeCloseTo(decodeSrgb(1 - v), 4);
  });

  test('numbered pictures in a ZIP, with a gap', async () => {
    const png = (grey: number): Uint8Array =>
      encodePngWords(
        new Uint16Array(4 * 8 * 8).fill(grey).map((v, n) => (n % 4 === 3 ? 65535 : v)),
        8,
        8,
        16,
      );
    writeFileSync(
      at('seq.zip'),
      zipSync({ 'p.0003.png': png(1000), 'p.0004.png': png(2000), 'p.0006.png': png(3000) }),
    );
    expect(await checkFile(at('seq.zip'), 'seq.zip')).toMatchObject({
      kind: 'pictures',
      first: 3,
      last: 6,
      frames: 3,
      notes: ['1 frames between its first and last are missing'],
    });
    const own = feeds();
    const raw = await own.raw(file('seq.zip', 'sequence'), 4);
    expect(raw?.kind === 'words' && raw.words[0]).toBe(2000);
    expect(await own.raw(file('seq.zip', 'sequence'), 5)).toBeNull();
  });

  test('passes of OpenEXR, as layers and as parts, in a window of their own', async () => {
    const plane = (seed: number): Float32Array =>
      Float32Array.from({ length: 12 }, (_, n) => ((n * seed) % 17) / 16);
    const names = [
      'R',
      'G',
      'B',
      'A',
      'lights.sun.R',
      'lights.sun.G',
      'lights.sun.B',
      'depth.Z',
      'density.Y',
    ];
    const image = {
      width: 4,
      height: 3,
      channels: names.map((name, n) => ({ name, type: 'float' as const, values: plane(n + 3) })),
      windows: {
        data: { min: [1, 1] as [number, number], max: [4, 3] as [number, number] },
        display: { min: [0, 0] as [number, number], max: [5, 4] as [number, number] },
      },
    };
    for (const bytes of [writeExr(image, nodeZip), writeExrParts(image, nodeZip)]) {
      expect(layersIn(bytes).sort()).toEqual(['density', 'depth', 'lights.sun']);
      const read = await readExrPasses(bytes, ['lights.sun', 'depth', 'density', 'nothing'], nodeZip);
      expect([read.width, read.height, [...read.passes.keys()].sort()]).toEqual([
        6,
        5,
        ['density', 'depth', 'lights.sun'],
      ]);
      const pixel = 4 * (2 * 6 + 3);
      const inside = 1 * 4 + 2;
      expect([...read.rgba.subarray(pixel, pixel + 4)]).toEqual([3, 4, 5, 6].map((s) => plane(s)[inside]));
      expect([...read.passes.get('lights.sun')!.subarray(pixel, pixel + 4)]).toEqual(
        [7, 8, 9, 6].map((s) => plane(s)[inside]),
      );
      expect(read.passes.get('depth')![pixel]).toBe(plane(10)[inside]);
      expect([...read.passes.get('density')!.subarray(pixel, pixel + 3)]).toEqual(
        [0, 0, 0].map(() => plane(11)[inside]),
      );
      expect([...read.rgba.subarray(0, 4)]).toEqual([0, 0, 0, 0]);
    }
  });
});

describe('what is broken, absurd or called wrongly is refused in words, soon', () => {
  const movie = (): Buffer => readFileSync(at('a.mp4'));
  const png = (): Buffer => Buffer.from(encodePngWords(new Uint16Array(4 * 64), 8, 8, 8));
  const jpeg = (): Buffer => (
    ffmpeg('-i', at('deep.png'), '-frames:v', '1', at('whole.jpg')),
    readFileSync(at('whole.jpg'))
  );
  const noise = (n: number, seed: number): Buffer =>
    Buffer.from(Array.from({ length: n }, (_, k) => ((k + seed) * 2654435761) >>> 24));
  const head = (w: number, h: number): Buffer => {
    const own = Buffer.from(png());
    own.writeUInt32BE(w, 16);
    own.writeUInt32BE(h, 20);
    return own;
  };

  const dib = (): Buffer => Buffer.concat([Buffer.from('II*\\0'), noise(200, 5)]);
  const cases: readonly (readonly [string, () => Buffer])[] = [
    ...['mp4', 'mov', 'mkv', 'avi', 'webm', 'mxf', 'mpg', 'gif', 'm4v'].flatMap((e) => [
      [`empty.${e}`, () => Buffer.alloc(0)] as const,
      [`noise.${e}`, () => noise(5000, e.length)] as const,
    ]),
    ...['jpg', 'webp', 'tif', 'dpx', 'jpeg', 'tiff'].flatMap((e) => [
      [`empty.${e}`, () => Buffer.alloc(0)] as const,
      [`noise.${e}`, () => noise(3000, e.length + 9)] as const,
      [`text.${e}`, () => Buffer.from('This is no picture at all.\n'.repeat(20))] as const,
    ]),
    ['cut.mp4', () => movie().subarray(0, movie().length / 3)],
    ['head-only.mp4', () => movie().subarray(0, 48)],
    ['a-picture.mp4', png],
    ['playlist.mp4', () => Buffer.from('#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n')],
    ['list.mov', () => Buffer.from("ffconcat version 1.0\nfile '/etc/passwd'\n")],
    ['a-movie.jpg', movie],
    ['cut.jpg', () => jpeg().subarray(0, 30)],
    ['bad.tif', dib],
    [
      'huge.tif',
      () => {
        const b = Buffer.alloc(64);
        b.write('II*\\0', 'latin1');
        return b;
      },
    ],
    ['table.cube', () => Buffer.from('LUT_3D_SIZE 9\n0 0 0\n')],
    ['track.json', () => Buffer.from('{"frames":[]}')],
    ['wide.png', () => head(100_000, 100_000)],
    ['pictures.zip', () => Buffer.from(zipSync({ 'p.0001.png': noise(90, 1), 'p.0002.png': noise(90, 2) }))],
    ['mixed.zip', () => Buffer.from(zipSync({ 'p.0001.png': png(), 'p.0002.jpg': png() }))],
  ];

  test(`${cases.length} of them`, async () => {
    expect(cases.length).toBeGreaterThanOrEqual(40);
    for (const [name, make] of cases) {
      writeFileSync(at(`bad-${name}`), make());
      const began = performance.now();
      const answer = await checkFile(at(`bad-${name}`), name).then(
        (report) => `${name} was taken as ${JSON.stringify(report)}`,
        (error: Error) => error.message,
      );
      expect(answer).not.toMatch(/was taken as|undefined|\/tmp\//);
      expect(answer.length).toBeGreaterThan(8);
      expect(performance.now() - began).toBeLessThan(10_000);
    }
  });
});

describe('frames that are written', () => {
  const comp = (more: object = {}): Combine =>
    COMBINE.parse({
      name: 'Written',
      frame: { width: WIDTH, height: HEIGHT, rate: 24, first: 5, last: 6 },
      layers: [
        { id: 'wash', name: 'Wash', feed: { kind: 'plain', colour: [0.5, 0, 0] }, meet: 'add', opacity: 50 },
        { id: 'plate', name: 'Plate', feed: { kind: 'file', file: 'p' } },
      ],
      files: [{ id: 'p', name: 'b.mov', kind: 'movie', rate: 24, encoding: 'srgb' }],
      ...more,
    });

  test('are OpenEXR in linear light, PNG and JPEG as shown, by other tools too', async () => {
    const out = at('written');
    const own = comp();
    const seen: number[] = [];
    const output = { exr: 'float', png: 16, jpeg: true, scale: 1 } as const;
    await writeComp(own, [5, 6], out, feeds(), output, 2, (_, made) => void seen.push(made.frame));
    expect(seen).toEqual([5, 6]);
    expect(readdirSync(out).sort()).toEqual(
      ['exr', 'jpg', 'png'].flatMap((e) => [`written.0005.${e}`, `written.0006.${e}`]).sort(),
    );
    const light = decodeSrgb(greyOf(6) / 255);
    const { channels } = readExr(readFileSync(join(out, 'written.0006.exr')), nodeZip);
    const value = (name: string): number => channels.find((c) => c.name === name)!.values[500];
    expect(value('R')).toBeCloseTo(light + 0.25, 4);
    expect(value('G')).toBeCloseTo(light, 4);
    const told = execFileSync('exrheader', [join(out, 'written.0006.exr')], { encoding: 'utf8' });
    expect(told).toMatch(/R, 32-bit floating-point/);
    expect(told).toMatch(/framesPerSecond[^\n]*24/);
    const probe = (name: string): string =>
      execFileSync(
        'ffprobe',
        ['-v', 'error', '-show_entries', 'stream=width,height,pix_fmt', '-of', 'csv=p=0', join(out, name)],
        { encoding: 'utf8' },
      ).trim();
    expect(probe('written.0006.png')).toBe(`${WIDTH},${HEIGHT},rgba64be`);
    expect(probe('written.0006.jpg')).toMatch(new RegExp(`^${WIDTH},${HEIGHT},yuvj444p`));
    const raw = await feeds()
      .raw({ ...file('x', 'picture'), name: 'copy.png' }, 1)
      .catch(() => null);
    expect(raw).toBeNull();
  });

  test('have the same bits whatever the threads, and again', async () => {
    const own = comp({
      operations: [
        { id: '1', layer: 'plate', kind: 'blur', size: 7 },
        {
          id: '2',
          layer: 'plate',
          kind: 'curves',
          curve: [
            [0, 0],
            [0.5, 0.6],
            [1, 1],
          ],
        },
        { id: '3', layer: 'plate', kind: 'grain', amount: 100, size: 0.7 },
        { id: '4', layer: 'plate', kind: 'glow', size: 9, threshold: 0.1 },
      ],
    });
    const bits = async (name: string, threads: number): Promise<Buffer> => {
      await writeComp(own, [5], at(name), feeds(), { exr: 'float', png: 8, jpeg: false, scale: 1 }, threads);
      return readFileSync(join(at(name), 'written.0005.exr'));
    };

    const one = await bits('one', 1);
    expect((await bits('two', 2)).equals(one)).toBe(true);
    expect((await bits('four', 4)).equals(one)).toBe(true);
  });

  test('say what is missing', async () => {
    const notes = (await gather(comp({ files: [] }), 5, feeds())).notes;
    expect(notes).toEqual(['Plate is fed by nothing yet.']);
    await expect(
      gather(comp({ files: [{ id: 'p', name: 'none.mov', kind: 'movie' }] }), 5, feeds()),
    ).rejects.toThrow(/none\.mov is not in the folder of files/);
  });
});
