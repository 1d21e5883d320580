// What the window of Light shows of a picture, apart from any screen.
import { display, valuesAt } from '@bramblemist/web/picture/pixels';

class Bytes {
  readonly data: Uint8ClampedArray;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.data = new Uint8ClampedArray(4 * width * height);
  }
}

Object.assign(globalThis, { ImageData: Bytes });
const one = (...rgba: number[]): { width: number; height: number; rgba: Float32Array } => ({
  width: rgba.length / 4,
  height: 1,
  rgba: Float32Array.from(rgba),
});

test('linear light is shown as a screen has it, exposure doubles it', () => {
  const grey = one(0.2140411, 0.2140411, 0.2140411, 1);
  expect(Array.from(display(grey, 0).data)).toEqual([128, 128, 128, 255]);
  const half = one(0.10702, 0.10702, 0.10702, 1);
  expect(Math.abs(display(half, 1).data[0] - 128)).toBeLessThanOrEqual(1);
  expect(display(one(9, 9, 9, 1), 0).data[0]).toBe(255);
});

test('where it is clear, squares show', () => {
  const row = display(one(...new Array<number>(4 * 24).fill(0)), 0).data;
  expect(row[0]).toBeGreaterThan(row[4 * 12]);
  expect(row[4 * 12]).toBeGreaterThan(30);
});

test('soft highlights keep what sRGB clips apart, and linear ones are as they are', () => {
  const bright = one(2, 4, 0.6, 1);
  const shown = (how: 'srgb' | 'soft' | 'linear'): number[] => [
    ...display(bright, 0, how).data.subarray(0, 3),
  ];
  expect(shown('srgb')).toEqual([255, 255, 203]);
  const [two, four, half] = shown('soft');
  expect(two).toBeLessThan(four);
  expect(four).toBeLessThan(255);
  expect(half).toBeLessThan(203);
  expect(shown('linear')).toEqual([255, 255, 153]);
});

test('the difference of two pictures is black where they are the same', () => {
  const a = one(0.5, 0.5, 0.5, 1, 0.2, 0.2, 0.2, 1);
  const b = one(0.5, 0.5, 0.5, 1, 0.3, 0.2, 0.2, 1);
  const { data } = display(a, 0, 'srgb', b);
  expect(Array.from(data.subarray(0, 3))).toEqual([0, 0, 0]);
  expect(data[4]).toBeGreaterThan(100);
  expect(data[5]).toBe(0);
});

test('values under the pointer, and none beside the picture', () => {
  const p = one(0.25, 0.5, 0.75, 1, 0, 0, 0, 0);
  expect(valuesAt(p, 0.7, 0.2)).toEqual([0.25, 0.5, 0.75, 1]);
  expect(valuesAt(p, 2, 0)).toBeNull();
  expect(valuesAt(p, 0, -1)).toBeNull();
});
