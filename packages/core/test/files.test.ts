import { ByteReader, ByteWriter, FileError } from '@bramblemist/core/files/bytes';
import { fromHalf, toHalf } from '@bramblemist/core/math/half';
import { pureZip } from '@bramblemist/core/files/zip';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { decodePreview, encodePreview } from '@bramblemist/core/cache/preview';
import { fileStem, frameName } from '@bramblemist/core/cache/manifest';
import { random } from './run';

describe('half floats', () => {
  test('every half survives the way to a float and back', () => {
    const wrong = Array.from({ length: 65536 }, (_, h) => h).filter((h) => {
      const v = fromHalf(h);
      return Number.isNaN(v) ? (toHalf(v) & 0x7c00) !== 0x7c00 : toHalf(v) !== h;
    });
    expect(wrong).toEqual([]);
  });
  test('values between halves go to the nearest, ties to even', () => {
    expect(toHalf(1 + 2 ** -11)).toBe(toHalf(1));
    expect(toHalf(1 + 3 * 2 ** -11)).toBe(toHalf(1 + 2 ** -9));
    expect(toHalf(65520)).toBe(0x7c00);
    expect(toHalf(65519)).toBe(0x7bff);
    expect(toHalf(2 ** -26)).toBe(0);
    const next = random(3);
    for (let n = 0; n < 20000; n++) {
      const v = (next() - 0.5) * 2 ** Math.floor(next() * 40 - 24);
      const h = fromHalf(toHalf(v));
      if (Math.abs(v) < 65504)
        expect(Math.abs(h - v)).toBeLessThanOrEqual(Math.max(Math.abs(v) * 2 ** -11, 2 ** -25));
    }
  });
});

describe('bytes', () => {
  test('what is written is read, past many growths of the buffer', () => {
    const w = new ByteWriter(1);
    for (let n = 0; n < 1000; n++) {
      w.u8(n & 255);
      w.u16(n);
      w.i32(-n);
      w.f32(n / 3);
      w.f64(n / 7);
      w.i64(n * 2 ** 33);
    }

    const r = new ByteReader(w.done());
    for (let n = 0; n < 1000; n++) {
      expect([r.u8(), r.u16(), r.i32() + n, r.f32(), r.f64(), r.i64()]).toEqual([
        n & 255,
        n,
        0,
        Math.fround(n / 3),
        n / 7,
        n * 2 ** 33,
      ]);
    }

    expect(r.left).toBe(0);
    expect(() => r.u8()).toThrow(FileError);
  });
  test('absurd lengths are refused before anything is allocated', () => {
    const w = new ByteWriter();
    w.u32(0xffffffff);
    expect(() => new ByteReader(w.done()).text()).toThrow(/absurd/);
  });
});

describe.each([
  ['pure', pureZip],
  ['platform', nodeZip],
] as const)('the %s zip codec', (_name, zip) => {
  const data = Uint8Array.from({ length: 5000 }, (_, n) => (n * n) >> 6);
  test('unpacks what either packed', () => {
    for (const other of [pureZip, nodeZip])
      expect(zip.inflate(other.deflate(data), data.length)).toEqual(new Uint8Array(data));
  });
  test('notices damage and wrong sizes', () => {
    const packed = zip.deflate(data);
    const broken = packed.slice();
    broken[packed.length >> 1] ^= 0x55;
    expect(() => zip.inflate(broken, data.length)).toThrow();
    expect(() => zip.inflate(packed, data.length - 1)).toThrow();
    expect(() => zip.inflate(packed.subarray(0, packed.length - 8), data.length)).toThrow();
  });
});

describe('a preview', () => {
  const dims: [number, number, number] = [4, 3, 2];
  const corner: [number, number, number] = [1, 2, 3];
  const bytes = Uint8Array.from({ length: 24 }, (_, n) => n);
  const bare = { frame: 7, dims, corner, voxelSizeM: 0.5, greatest: 2, bytes, colour: null };
  const colour = {
    dims: [2, 1, 1] as [number, number, number],
    bytes: Uint8Array.of(255, 0, 10, 255, 0, 0, 0, 0),
  };
  // what halves can say
  const glimpse = {
    frame: 7,
    dims: [1, 2, 1] as [number, number, number],
    corner,
    cellM: 1,
    values: Float32Array.of(0, 1, 0.5, -2, 8, 0.25, 3, -1, 0, 4),
  };
  test.each([
    ['bare', { brick: bare, glimpse: null }],
    ['with colour', { brick: { ...bare, colour }, glimpse: null }],
    ['with the air', { brick: bare, glimpse }],
    ['with both', { brick: { ...bare, colour }, glimpse }],
  ])('%s comes back as it was', (_name, preview) => {
    expect(decodePreview(encodePreview(preview))).toEqual(preview);
  });
  test('of the first form is read too', () => {
    const out = new ByteWriter();
    out.u32(0x314b4d42);
    out.i32(7);
    for (const d of dims) out.u16(d);
    for (const c of [...corner, 0.5, 2]) out.f32(c);
    out.bytes(pureZip.deflate(bytes));
    expect(decodePreview(out.done())).toEqual({ brick: bare, glimpse: null });
  });
  test('damage is noticed, wherever it ends', () => {
    const whole = encodePreview({ brick: { ...bare, colour }, glimpse });
    expect(() => decodePreview(new Uint8Array(10))).toThrow(FileError);
    for (let n = 4; n < whole.length; n++) expect(() => decodePreview(whole.subarray(0, n))).toThrow();
  });
});

test('file names are safe and number their frames', () => {
  expect(frameName('weir', 7, 'vdb')).toBe('weir.0007.vdb');
  expect(fileStem('Weir at dawn')).toBe('weir_at_dawn');
  expect(fileStem('../../etc/passwd')).toBe('etc_passwd');
  expect(fileStem('…')).toBe('untitled');
  expect(fileStem('Крыша мельницы')).toBe('крыша_мельницы');
  expect(fileStem('水車 3')).toBe('水車_3');
  expect(fileStem('Café')).toBe('cafe');
  expect(fileStem('CON')).toBe('con_');
});
