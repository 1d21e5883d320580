import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FileError } from '@bramblemist/core/files/bytes';
import { readExr, type ExrImage } from '@bramblemist/core/files/exr/reader';
import { writeExr } from '@bramblemist/core/files/exr/writer';
import { fromHalf, toHalf } from '@bramblemist/core/math/half';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { random } from './run';

function picture(width: number, height: number, noisy: boolean): ExrImage {
  const next = random(width * height);
  const values = (scale: number): Float32Array =>
    Float32Array.from({ length: width * height }, (_, n) =>
      fromHalf(toHalf(noisy ? next() * scale : Math.floor(n / 50) * scale)),
    );
  return {
    width,
    height,
    channels: [
      { name: 'R', type: 'half', values: values(1) },
      { name: 'A', type: 'half', values: values(0.01) },
      { name: 'depth.Z', type: 'float', values: values(100) },
    ],
  };
}

const byName = (image: ExrImage): Record<string, number[]> =>
  Object.fromEntries(image.channels.map((c) => [c.name, Array.from(c.values)]));

test.each([
  [64, 48, true],
  [33, 17, false],
  [1, 1, true],
  [7, 16, false],
] as const)('%d × %d (noisy: %s) comes back', (w, h, noisy) => {
  const image = picture(w, h, noisy);
  const back = readExr(writeExr(image));
  expect([back.width, back.height]).toEqual([w, h]);
  expect(back.channels.map((c) => c.name)).toEqual(['A', 'R', 'depth.Z']);
  expect(byName(back)).toEqual(byName(image));
});

describe('the reference library', () => {
  const folder = mkdtempSync(join(tmpdir(), 'exr-'));
  afterAll(() => rmSync(folder, { recursive: true }));
  test('reads our pixels, writes them anew, and we read the same', () => {
    const image = picture(70, 41, true);
    const ours = join(folder, 'ours.exr');
    const theirs = join(folder, 'theirs.exr');
    writeFileSync(ours, writeExr(image, nodeZip));
    const header = execFileSync('exrheader', [ours], { encoding: 'utf8' });
    expect(header).toMatch(/A, 16-bit floating-point/);
    expect(header).toMatch(/depth\.Z, 32-bit floating-point/);
    expect(header).toMatch(/zip, multi-scanline/);
    execFileSync('exrstdattr', ['-owner', 'test', ours, theirs]);
    const raw = readFileSync(theirs);
    expect(raw.equals(readFileSync(ours))).toBe(false);
    expect(byName(readExr(raw, nodeZip))).toEqual(byName(image));
  });
});

test('cut and damaged files are refused, never a crash', () => {
  const whole = writeExr(picture(40, 40, true));
  const next = random(4);
  for (let n = 0; n < whole.length - 1; n += 61)
    expect(() => readExr(whole.subarray(0, n))).toThrow(FileError);
  for (let n = 0; n < 300; n++) {
    const broken = whole.slice();
    broken[Math.floor(next() * (n % 2 ? 330 : broken.length))] = Math.floor(next() * 256);
    try {
      readExr(broken);
    } catch (error) {
      expect(error).toBeInstanceOf(FileError);
    }
  }

  const huge = whole.slice();
  const at = Buffer.from(whole).indexOf('dataWindow') + 'dataWindow\0box2i\0'.length + 4;
  new DataView(huge.buffer).setInt32(at + 8, 16000, true);
  new DataView(huge.buffer).setInt32(at + 12, 16000, true);
  expect(() => readExr(huge)).toThrow(/larger than the file can hold|ends inside|absurd/);
});
