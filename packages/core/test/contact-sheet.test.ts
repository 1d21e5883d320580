// A contact sheet: which frames are on it, where they lie, and what is refused.
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chosenFrames, CONTACT_SHEET, writeContactSheet } from '@bramblemist/core/io/node/contact-sheet';
import type { MovieFrame } from '@bramblemist/core/io/node/movie';
import { decodeSrgb, encodeSrgb } from '@bramblemist/core/look/picture';
import { encodePng, readPng } from '@bramblemist/core/io/node/png';

const folder = mkdtempSync(join(tmpdir(), 'contact-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** A picture of one grey, as a screen shows it, 0 to 255. */
function frameOf(frame: number, grey: number, height = 18): MovieFrame {
  const path = join(folder, `grey.${String(frame).padStart(4, '0')}.png`);
  const rgba = Float32Array.from({ length: 4 * 32 * height }, (_, n) =>
    n % 4 === 3 ? 1 : decodeSrgb(grey / 255),
  );
  writeFileSync(path, encodePng({ width: 32, height, rgba }));
  return { frame, path };
}

const GREYS = [30, 60, 90, 120, 150];
const frames = GREYS.map((grey, n) => frameOf(n + 1, grey));

test('frames are taken at equal steps, the first among them', () => {
  const of = (many: number, most: number): number[] =>
    chosenFrames(
      Array.from({ length: many }, (_, n) => ({ frame: n + 1, path: '' })),
      most,
    ).map((f) => f.frame);
  expect(of(5, 20)).toEqual([1, 2, 3, 4, 5]);
  expect(of(5, 3)).toEqual([1, 3, 5]);
  expect(of(120, 20)).toHaveLength(20);
  expect(of(121, 20)).toHaveLength(18);
});

test('pictures lie in their order, beside and below each other, with their numbers', async () => {
  const out = join(folder, 'sheets', 'contact.png');
  expect(await writeContactSheet(frames, out, { ...CONTACT_SHEET, columns: 2, most: 3 })).toBe(3);
  const { width, height, rgba } = readPng(out);
  expect([width, height]).toEqual([8 + 2 * 328, 8 + 2 * 188]);
  const at = (x: number, y: number): number => Math.round(encodeSrgb(rgba[4 * (y * width + x)]) * 255);
  const middles = [at(168, 60), at(496, 60), at(168, 248)];
  [30, 90, 150].forEach((grey, n) => expect(Math.abs(middles[n] - grey)).toBeLessThan(4));
  // the last place is empty, and a number stands at the lower right of the first
  expect(at(496, 248)).toBeLessThan(40);
  const below = Array.from({ length: 60 * 40 }, (_, n) => at(265 + (n % 60), 145 + Math.floor(n / 60)));
  expect(Math.max(...below) - Math.min(...below)).toBeGreaterThan(100);
});

test('what it cannot be made of is refused, and nothing is left', async () => {
  const out = join(folder, 'refused', 'contact.png');
  await expect(writeContactSheet([], out)).rejects.toThrow('There are no pictures');
  await expect(writeContactSheet([...frames, frameOf(6, 10, 20)], out)).rejects.toThrow(
    /grey\.0006\.png is 32 × 20; the sheet began with 32 × 18/,
  );
  await expect(writeContactSheet(frames, out, CONTACT_SHEET, 'no-such-program')).rejects.toThrow('ffmpeg');
  expect(readdirSync(join(folder, 'refused'))).toEqual([]);
});
