// Deep files against the reference library: what it makes of them laid flat, and merged with a picture of its
// own.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readExr } from '@bramblemist/core/files/exr/reader';
import { deepStem, framesAmong, renderFile } from '@bramblemist/core/io/node/pictures';
import { LOOK } from '@bramblemist/core/look/look';
import { plume } from '@bramblemist/core/look/plume';
import { pure, quickly, SUN, truly, WHITE } from './rendered';

const folder = mkdtempSync(join(tmpdir(), 'deep-'));
const program = join(folder, 'deep');
const camera = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 64, height: 72 };
const lookOf = (quality: object, more: object = {}): ReturnType<typeof LOOK.parse> =>
  LOOK.parse({
    camera: { ...camera, ...more },
    medium: pure(8, 0.9, 0.3),
    lights: [SUN],
    sky: { ...WHITE, stops: -2 },
    passes: { deep: true },
    quality,
  });

beforeAll(() => {
  execFileSync('g++', [
    '-std=c++17',
    '-I/usr/include/OpenEXR',
    '-I/usr/include/Imath',
    join(__dirname, 'fixtures', 'deep.cpp'),
    '-o',
    program,
    '-lOpenEXR-3_1',
    '-lImath-3_1',
  ]);
}, 120_000);
afterAll(() => rmSync(folder, { recursive: true }));

function flattenedBy(...files: string[]): Float32Array {
  const bytes = execFileSync(program, ['flatten', ...files], { maxBuffer: 2 ** 26 });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}

/** Premultiplied red, green, blue and alpha of a flat file. */
function flatOf(path: string): Float32Array {
  const { channels, width, height } = readExr(readFileSync(path));
  const planes = ['R', 'G', 'B', 'A'].map((name) => channels.find((c) => c.name === name)!.values);
  return Float32Array.from({ length: width * height * 4 }, (_, n) => planes[n % 4][n >> 2]);
}

const furthest = (a: Float32Array, b: Float32Array): number => {
  expect(a).toHaveLength(b.length);
  return a.reduce((most, v, n) => Math.max(most, Math.abs(v - b[n])), 0);
};

test.each([
  ['quick', quickly(2)],
  ['true', truly(16, 3)],
])('the library lays a deep file flat as the flat file is (%s)', (name, quality) => {
  const stem = join(folder, `${name}.0001`);
  const { exr } = renderFile(plume(32), stem, lookOf(quality), { threads: 2 });
  const deep = `${deepStem(stem)}.exr`;
  expect(deep.endsWith(`${name}.deep.0001.exr`)).toBe(true);
  expect(furthest(flattenedBy(deep), flatOf(exr))).toBeLessThan(1e-3);
  const header = execFileSync('exrheader', [deep], { encoding: 'utf8' });
  expect(header).toMatch(/type \(type string\): "deepscanline"/);
  expect(header).toMatch(/worldToCamera/);
});

test('passes are parts of one file where that is asked for', () => {
  const asked = { passes: { depth: true, density: true, orders: true } };
  const [layers, parts] = ['layers', 'parts'].map((files) => {
    const look = LOOK.parse({ ...lookOf(quickly(1)), ...asked, quality: { ...quickly(1), files } });
    return renderFile(plume(24), join(folder, `${files}.0001`), look, { threads: 2 }).exr;
  });
  const header = execFileSync('exrheader', [parts], { encoding: 'utf8' });
  const names = [...header.matchAll(/name \(type string\): "(\w+)"/g)].map((match) => match[1]);
  expect(names).toEqual(['beauty', 'density', 'depth', 'multiple', 'single']);
  expect(header).toMatch(/depth\.ZBack, 32-bit/);
  // the first part is the beauty, to the bit
  const own = readExr(readFileSync(parts));
  expect(own.channels.map(({ name }) => name)).toEqual(['A', 'B', 'G', 'R']);
  for (const { name, values } of own.channels)
    expect(values).toEqual(readExr(readFileSync(layers)).channels.find((c) => c.name === name)!.values);
  // every chunk is where its table says: the library takes the parts out one by one
  execFileSync('exrmultipart', ['-separate', '-i', parts, '-o', join(folder, 'alone')]);
  const alone = readdirSync(folder).filter((name) => name.startsWith('alone'));
  expect(alone).toHaveLength(names.length);
  const channels = alone.flatMap((name) => readExr(readFileSync(join(folder, name))).channels);
  expect(channels.map(({ name }) => name)).toContain('depth.ZMiddle');
});

test('a cropped one has its windows, and is no frame of its own', () => {
  const stem = join(folder, 'cropped.0001');
  const look = lookOf(quickly(1), { crop: { left: 25, right: 0, top: 0, bottom: 50 } });
  const { exr } = renderFile(plume(24), stem, look, { threads: 2 });
  const deep = `${deepStem(stem)}.exr`;
  expect(furthest(flattenedBy(deep), flatOf(exr))).toBeLessThan(1e-3);
  expect(execFileSync('exrheader', [deep], { encoding: 'utf8' })).toMatch(/dataWindow.*\(16 0\) - \(63 35\)/);
  expect(framesAmong(['cropped.0001.exr', 'cropped.deep.0001.exr'], 'exr')).toEqual([
    { frame: 1, file: 'cropped.0001.exr' },
  ]);
});

test('the library merges one with a deep picture of its own', () => {
  const stem = join(folder, 'merged.0001');
  const { exr } = renderFile(plume(32), stem, lookOf(quickly(0)), { threads: 2 });
  const deep = `${deepStem(stem)}.exr`;
  const flat = flatOf(exr);
  const merged = (depth: number): Float32Array => {
    const card = join(folder, `card-${depth}.exr`);
    execFileSync(program, ['card', card, '64', '72', String(depth), '0.5']);
    return flattenedBy(deep, card);
  };

  // before, within and behind the medium, which stands about 4 m away
  const [before, within, behind] = [1, 3.95, 50].map(merged);
  for (let p = 0; p < 64 * 72; p++) {
    const [g, a] = [flat[4 * p + 1], flat[4 * p + 3]];
    const at = (picture: Float32Array): number[] => [picture[4 * p + 1], picture[4 * p + 3]];
    expect(at(before)[0]).toBeCloseTo(0.5 * g, 2);
    expect(at(behind)[0]).toBeCloseTo(g, 2);
    // the card within hides some of the medium and is hidden by some
    expect(at(within)[0]).toBeGreaterThan(at(before)[0] - 0.01);
    expect(at(within)[0]).toBeLessThan(at(behind)[0] + 0.01);
    for (const picture of [before, within, behind]) expect(at(picture)[1]).toBeCloseTo(1 - 0.5 * (1 - a), 2);
  }

  const hidden = (picture: Float32Array): number =>
    picture.reduce((sum, v, n) => sum + (n % 4 === 1 ? v : 0), 0);
  const [least, middle, most] = [before, within, behind].map(hidden);
  expect(middle - least).toBeGreaterThan(0.1 * (most - least));
  expect(most - middle).toBeGreaterThan(0.1 * (most - least));
});
