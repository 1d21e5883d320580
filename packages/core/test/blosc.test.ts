// Blosc chunks of LZ4 blocks: what was packed comes back, the same bytes from the same bytes, and damage is
// noticed. The reference library reads them in vdb.test.ts.
import { FileError } from '@bramblemist/core/files/bytes';
import { packBlosc, unpackBlosc } from '@bramblemist/core/files/vdb/blosc';
import { packLz4, unpackLz4 } from '@bramblemist/core/files/vdb/lz4';
import { toHalves } from '@bramblemist/core/math/half';
import { random } from './run';

const bytes = (length: number, of: (n: number) => number): Uint8Array =>
  Uint8Array.from({ length }, (_, n) => of(n));
const noise = (length: number): Uint8Array => {
  const next = random(3);
  return bytes(length, () => Math.floor(next() * 256));
};

/** Runs of every length that takes another byte to say: literals and matches of 14 … 15 … 270 and more. */
const runs = (): Uint8Array => {
  const next = random(5);
  const parts = [1, 3, 4, 14, 15, 16, 18, 19, 20, 269, 270, 271, 525, 800].flatMap((long) => [
    bytes(long, () => Math.floor(next() * 256)),
    bytes(long + 5, () => 7),
  ]);
  return Uint8Array.from(parts.flatMap((p) => [...p]));
};

const smooth = (voxels: number): Uint8Array => {
  const values = Float32Array.from({ length: voxels }, (_, n) => 0.5 + 0.4 * Math.sin(n / 40));
  return new Uint8Array(toHalves(values).buffer);
};

const DATA: readonly (readonly [string, Uint8Array])[] = [
  ['nothing', new Uint8Array(0)],
  ['one byte', bytes(1, () => 9)],
  ['a few', bytes(12, (n) => n)],
  ['alike', bytes(4096, () => 3)],
  ['noise', noise(3000)],
  ['runs', runs()],
  ['a leaf of halves', smooth(512)],
  ['some voxels of a leaf', smooth(301)],
  ['a leaf of full vectors', noise(6144)],
];

const NOISY = ['noise', 'a leaf of full vectors'];

describe.each(DATA)('%s', (name, data) => {
  test('comes back from an LZ4 block', () => {
    const out = new Uint8Array(2 * data.length + 32);
    const many = packLz4(data, out, 3)!;
    const back = new Uint8Array(data.length);
    unpackLz4(out.subarray(3, 3 + many), back);
    expect(Buffer.compare(back, data)).toBe(0);
  });

  test('comes back from a chunk, which is smaller or is none', () => {
    const chunk = packBlosc(data);
    if (data.length < 100 || NOISY.includes(name)) return expect(chunk).toBeNull();
    if (!chunk) throw new Error('It has not become smaller.');
    expect(chunk.length).toBeLessThan(data.length);
    expect(Buffer.compare(unpackBlosc(chunk, data.length), data)).toBe(0);
    // whatever was packed in between
    packBlosc(noise(500));
    expect(Buffer.compare(packBlosc(data)!, chunk)).toBe(0);
  });
});

test('an LZ4 block that has no room is none', () => {
  expect(packLz4(noise(500), new Uint8Array(300), 0)).toBeNull();
});

test('chunks that are cut or say another size are refused', () => {
  const data = smooth(512);
  const chunk = packBlosc(data)!;
  expect(() => unpackBlosc(chunk, data.length - 1)).toThrow(FileError);
  for (const length of [0, 15, 19, 40, chunk.length - 1])
    expect(() => unpackBlosc(chunk.subarray(0, length), data.length)).toThrow(FileError);
});
