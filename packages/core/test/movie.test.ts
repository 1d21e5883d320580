// Movies: what ffmpeg's own tools say of them, and what stands in their pixels.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeExr } from '@bramblemist/core/files/exr/writer';
import { rateOf, writeMovie, type MovieSettings } from '@bramblemist/core/io/node/movie';
import { encodePng } from '@bramblemist/core/io/node/png';
import { encodeSrgb, toExr } from '@bramblemist/core/look/picture';

const folder = mkdtempSync(join(tmpdir(), 'movie-'));
afterAll(() => rmSync(folder, { recursive: true }));
const WIDTH = 63;
const HEIGHT = 48;

/** A half-clear orange bar that goes right, on nothing. */
function pictureOf(frame: number, width = WIDTH): Parameters<typeof toExr>[0] {
  const rgba = new Float32Array(width * HEIGHT * 4);
  for (let p = 0; p < width * HEIGHT; p++)
    if (Math.abs((p % width) - 4 * frame) < 8) rgba.set([0.3, 0.15, 0.05, 0.5], 4 * p);
  return { width, height: HEIGHT, rgba, layers: [] };
}

const exrs = [1, 2, 4, 5].map((frame) => {
  const path = join(folder, `bar.000${frame}.exr`);
  writeFileSync(path, writeExr(toExr(pictureOf(frame))));
  return { frame, path };
});
const settings = (more: Partial<MovieSettings>): MovieSettings => ({
  kind: 'review',
  rate: 24,
  background: [0, 0, 0],
  burn: null,
  ...more,
});

interface Told {
  codec_name: string;
  pix_fmt: string;
  width: number;
  height: number;
  r_frame_rate: string;
  nb_read_frames: string;
  color_space?: string;
  color_primaries?: string;
  color_transfer?: string;
  color_range?: string;
}

function probe(path: string): Told {
  const said = execFileSync(
    'ffprobe',
    ['-v', 'error', '-count_frames', '-select_streams', 'v', '-show_streams', '-of', 'json', path],
    { encoding: 'utf8' },
  );
  return (JSON.parse(said) as { streams: Told[] }).streams[0];
}

/** A frame's red, green, blue and alpha, bytes. */
function frameOf(path: string, number: number): Uint8Array {
  const filter = `select=eq(n\\,${number})`;
  const args = [
    '-v',
    'error',
    '-i',
    path,
    '-vf',
    filter,
    '-frames:v',
    '1',
    '-f',
    'rawvideo',
    '-pix_fmt',
    'rgba',
    '-',
  ];
  return execFileSync('ffmpeg', args, { maxBuffer: 2 ** 24 });
}

const byte = (v: number): number => Math.round(255 * encodeSrgb(v));

test('a review movie is H.264 of even size over its background, its colours told', async () => {
  const out = join(folder, 'review.mp4');
  const seen: number[] = [];
  const made = await writeMovie(exrs, out, settings({ background: [0, 0, 0.2] }), (_, __, frame) =>
    seen.push(frame),
  );
  expect(made).toEqual({ frames: 5, held: 1 });
  expect(seen).toEqual([1, 2, 3, 4, 5]);
  expect(probe(out)).toMatchObject({
    codec_name: 'h264',
    pix_fmt: 'yuv420p',
    width: 64,
    height: 48,
    r_frame_rate: '24/1',
    nb_read_frames: '5',
    color_space: 'bt709',
    color_primaries: 'bt709',
    color_transfer: 'iec61966-2-1',
    color_range: 'tv',
  });
  const near = (at: number, wanted: readonly number[]): void =>
    wanted.forEach((v, c) => expect(Math.abs(frameOf(out, 0)[4 * at + c] - v)).toBeLessThan(8));
  near(24 * 64 + 4, [0.3, 0.15, 0.05 + 0.5 * 0.2].map(byte));
  near(24 * 64 + 50, [0, 0, 0.2].map(byte));
  // the missing one is held from the one before
  const [two, three] = [1, 2].map((n) => frameOf(out, n));
  expect(two.reduce((most, v, n) => Math.max(most, Math.abs(v - three[n])), 0)).toBeLessThan(12);
});

test.each([
  ['prores', 'prores', /yuva444p1[02]le/, 6],
  ['png', 'png', /rgba64be/, 1],
] as const)('a movie with alpha keeps it (%s)', async (kind, codec, format, off) => {
  const out = join(folder, `${kind}.mov`);
  await writeMovie(exrs, out, settings({ kind, rate: 23.976 }));
  const told = probe(out);
  expect(told.codec_name).toBe(codec);
  expect(told.pix_fmt).toMatch(format);
  expect(told.r_frame_rate).toBe('24000/1001');
  expect([told.width, told.height]).toEqual([WIDTH, HEIGHT]);
  const pixels = frameOf(out, 0);
  const at = 4 * (24 * WIDTH + 4);
  // straight: the bar's own colour, half clear
  [...[0.6, 0.3, 0.1].map(byte), 128].forEach((v, c) =>
    expect(Math.abs(pixels[at + c] - v)).toBeLessThanOrEqual(off),
  );
  expect(pixels[4 * (24 * WIDTH + 50) + 3]).toBe(0);
});

test('what is burnt in stands below, with the number of the frame', async () => {
  const plain = join(folder, 'plain.mp4');
  const words = join(folder, 'words.mp4');
  await writeMovie(exrs, plain, settings({}));
  await writeMovie(exrs, words, settings({ burn: "Weir: it's 100 % \\ [v3], done" }));
  const [without, first, last] = [frameOf(plain, 0), frameOf(words, 0), frameOf(words, 4)];
  const changed = (a: Uint8Array, b: Uint8Array, y0: number, y1: number, x0 = 0): number => {
    let count = 0;
    for (let y = y0; y < y1; y++)
      for (let x = x0; x < 63; x++)
        count += Number(Math.abs(a[4 * (64 * y + x) + 1] - b[4 * (64 * y + x) + 1]) > 30);
    return count;
  };

  expect(changed(without, first, 24, 48)).toBeGreaterThan(40);
  expect(changed(without, first, 0, 15)).toBe(0);
  expect(changed(first, last, 24, 48, 50)).toBeGreaterThan(1);
});

test('pictures of PNG are taken too', async () => {
  const frames = [7, 8].map((frame) => {
    const path = join(folder, `png.000${frame}.png`);
    writeFileSync(path, encodePng(pictureOf(frame)));
    return { frame, path };
  });
  const out = join(folder, 'png.mp4');
  expect(await writeMovie(frames, out, settings({}))).toEqual({ frames: 2, held: 0 });
  expect(probe(out).nb_read_frames).toBe('2');
});

test('what cannot be made is said, and nothing is left behind', async () => {
  const out = join(folder, 'broken.mp4');
  const other = join(folder, 'wide.0006.exr');
  writeFileSync(other, writeExr(toExr(pictureOf(6, 40))));
  await expect(writeMovie([...exrs, { frame: 6, path: other }], out, settings({}))).rejects.toThrow(
    /wide\.0006\.exr is 40 × 48; the movie began with 63 × 48/,
  );
  const broken = join(folder, 'broken.0001.exr');
  writeFileSync(broken, 'no picture');
  await expect(writeMovie([{ frame: 1, path: broken }], out, settings({}))).rejects.toThrow(
    /broken\.0001\.exr: /,
  );
  await expect(writeMovie([], out, settings({}))).rejects.toThrow(/no pictures/);
  const missing = join(folder, 'no-such-program');
  await expect(writeMovie(exrs, out, settings({}), undefined, missing)).rejects.toThrow(/not installed/);
  expect(existsSync(out)).toBe(false);
  expect(readdirSync(folder).filter((name) => name.includes('.part-'))).toEqual([]);
});

test('rates are told as the trade counts them', () => {
  expect([24, 23.976, 29.97, 59.94, 25, 12.5].map(rateOf)).toEqual([
    '24',
    '24000/1001',
    '30000/1001',
    '60000/1001',
    '25',
    '12.5',
  ]);
});
