// Pictures that are broken, cut or hostile: each is refused in words that say what is wrong, before anything
// large is made.
import { readExrColours } from '@bramblemist/core/files/exr/colours';
import { writeExr, writeExrParts, writeTiledExr } from '@bramblemist/core/files/exr/writer';
import type { ExrImage } from '@bramblemist/core/files/exr/reader';
import { FileError } from '@bramblemist/core/files/bytes';
import { readHdr } from '@bramblemist/core/files/hdr/hdr';
import { readPngPicture } from '@bramblemist/core/files/png/png';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { png } from './png';
import { random } from './run';

type Patch = (view: DataView, bytes: Uint8Array) => void | Uint8Array;

const next = random(5);
const image = (names: string[], type: 'half' | 'float' | 'uint' = 'half'): ExrImage => ({
  width: 40,
  height: 40,
  channels: names.map((name) => ({
    name,
    type,
    values: Float32Array.from({ length: 1600 }, (_, n) =>
      type === 'uint' ? n : Math.floor(n / 9) + next() / 8,
    ),
  })),
});
const LINES = writeExr(image(['R', 'G', 'B', 'A']), nodeZip);
const TILES = writeTiledExr({ ...image(['R', 'G', 'B']), width: 40 }, nodeZip);
const PARTS = writeExrParts(image(['R', 'G', 'B', 'depth.Z']), nodeZip);

/** Where an attribute's value begins. */
function at(bytes: Uint8Array, name: string): number {
  const found = Buffer.from(bytes).indexOf(`${name}\0`);
  if (found < 0) throw new Error(`no ${name}`);
  return Buffer.from(bytes).indexOf(0, found + name.length + 1) + 5;
}

/** The table of chunks, behind the zero that ends a head. */
const tableOf = (bytes: Uint8Array): number => at(bytes, 'screenWindowWidth') + 5;
const patched = (bytes: Uint8Array, patch: Patch): Uint8Array => {
  const own = bytes.slice();
  return patch(new DataView(own.buffer), own) ?? own;
};

const set32 =
  (name: string, offset: number, value: number, bytes = LINES): Patch =>
  (v) =>
    v.setInt32(at(bytes, name) + offset, value, true);
const set8 =
  (name: string, offset: number, value: number, bytes = LINES): Patch =>
  (v) =>
    v.setUint8(at(bytes, name) + offset, value);
const renamed =
  (from: string, to: string): Patch =>
  (_, b) =>
    void b.set(Buffer.from(to), Buffer.from(b).indexOf(`${from}\0`));
const block = (v: DataView, n: number, bytes = LINES): number => v.getUint32(tableOf(bytes) + 8 * n, true);

const EXR: [string, Uint8Array, Patch, RegExp][] = [
  ['nothing', LINES, () => new Uint8Array(0), /not an OpenEXR file/],
  ['four bytes', LINES, (_, b) => b.slice(0, 4), /not an OpenEXR file/],
  ['a picture of another kind', LINES, () => Uint8Array.from({ length: 90 }, (_, n) => n), /not an OpenEXR/],
  ['another version', LINES, (v) => v.setUint8(4, 9), /version 9/],
  ['flags of a later kind', LINES, (v) => v.setUint8(6, 2), /flags 20000/],
  ['a head that does not end', LINES, (_, b) => b.slice(0, 60), /absurd size/],
  [
    'an attribute without end',
    LINES,
    (v) => v.setInt32(at(LINES, 'channels') - 4, 2 ** 30, true),
    /absurd size/,
  ],
  [
    'an attribute below nothing',
    LINES,
    (v) => v.setInt32(at(LINES, 'channels') - 4, -5, true),
    /absurd size/,
  ],
  ['a name without end', LINES, (_, b) => void b.fill(65, 9, 400), /name|absurd|lacks/],
  ['no channels', LINES, renamed('channels', 'chonnels'), /not an|lacks its channels|absurd|ends/],
  ['an empty list of channels', LINES, set8('channels', 0, 0), /lacks its channels|absurd|ends|is not/],
  ['a channel of no type', LINES, set32('channels', 2, 7), /unknown type/],
  ['a channel below all types', LINES, set32('channels', 2, -1), /unknown type/],
  ['a channel sampled never', LINES, set32('channels', 10, 0), /sampled every 0/],
  ['a channel sampled backward', LINES, set32('channels', 14, -2), /sampled every/],
  ['a channel of every other pixel', LINES, set32('channels', 10, 2), /channel A is subsampled/],
  ['packed in no known way', LINES, set8('compression', 0, 77), /packed in the way 77/],
  ['said to be packed by RLE', LINES, set8('compression', 0, 1), /offset is absurd/],
  ['said not to be packed', LINES, set8('compression', 0, 0), /offset is absurd/],
  ['said to be packed by PIZ', LINES, set8('compression', 0, 4), /cannot be unpacked|PIZ/],
  ['no data window', LINES, renamed('dataWindow', 'dotaWindow'), /lacks its channels or its data window/],
  ['a window of no width', LINES, set32('dataWindow', 8, -1), /absurd/],
  ['a window upside down', LINES, set32('dataWindow', 12, -9), /absurd/],
  ['a window of a million lines', LINES, set32('dataWindow', 12, 1e6), /larger than the file|absurd/],
  ['a window that overflows', LINES, set32('dataWindow', 0, -(2 ** 31)), /absurd|larger than/],
  ['a frame of no width', LINES, set32('displayWindow', 8, -1), /absurd/],
  ['a frame as large as a town', LINES, set32('displayWindow', 8, 2 ** 30), /absurd/],
  ['a table that is cut', LINES, (_, b) => b.slice(0, tableOf(LINES) + 11), /offset table/],
  ['a chunk behind the end', LINES, (v) => v.setUint32(tableOf(LINES), 2 ** 31 - 1, true), /block/i],
  ['a chunk before the file', LINES, (v) => v.setInt32(tableOf(LINES) + 4, -1, true), /block|offset/i],
  ['a chunk in the head', LINES, (v) => v.setUint32(tableOf(LINES), 8, true), /block/i],
  ['a line that is not there', LINES, (v) => v.setInt32(block(v, 0), 999, true), /not in the picture/],
  ['a line between blocks', LINES, (v) => v.setInt32(block(v, 0), 3, true), /not in the picture/],
  ['a block without end', LINES, (v) => v.setInt32(block(v, 0) + 4, 2 ** 30, true), /block/],
  ['a block below nothing', LINES, (v) => v.setInt32(block(v, 1) + 4, -8, true), /block/],
  ['a damaged block', LINES, (v, b) => void b.fill(0xaa, block(v, 1) + 20, block(v, 1) + 60), /unpacked/],
  ['cut in its pixels', LINES, (_, b) => b.slice(0, b.length - 200), /block/i],
  ['tiles of no size', TILES, set32('tiles', 0, 0, TILES), /how large its tiles are/],
  ['tiles larger than any', TILES, set32('tiles', 4, -1, TILES), /how large its tiles are/],
  ['a tile that is not there', TILES, (v) => v.setInt32(block(v, 0, TILES), 40, true), /not in the picture/],
  ['a tile of another size', TILES, (v) => v.setInt32(block(v, 0, TILES) + 8, 3, true), /not in the picture/],
  ['said to be deep', LINES, (v) => v.setUint8(5, 8), /deep/],
  [
    'a block of another part',
    PARTS,
    (v, b) => {
      const tables = Buffer.from(b).lastIndexOf('screenWindowWidth') + 17 + 7 + 4 + 4 + 2;
      v.setInt32(v.getUint32(tables, true), 1, true);
    },
    /another part/,
  ],
  [
    'depth without colours',
    writeExr(image(['Z'], 'float'), nodeZip),
    () => undefined,
    /neither the channels/,
  ],
];

describe('OpenEXR', () => {
  test('there are forty and more', () => expect(EXR.length).toBeGreaterThanOrEqual(40));
  test.each([LINES, TILES, PARTS])('the honest ones are read', async (bytes) => {
    expect((await readExrColours(bytes, nodeZip)).width).toBe(40);
  });
  test.each(EXR)('%s', async (_, bytes, patch, why) => {
    const own = patched(bytes, patch);
    await expect(readExrColours(own, nodeZip)).rejects.toThrow(FileError);
    await expect(readExrColours(own, nodeZip)).rejects.toThrow(why);
  });
});

const GREY = png(
  0,
  8,
  9,
  7,
  Array.from({ length: 63 }, (_, n) => n * 4),
);
const PALETTE: [string, number[]] = ['PLTE', [0, 0, 0, 9, 9, 9]];
const pixels = (bytes: Uint8Array): number => Buffer.from(bytes).indexOf('IDAT');

const PNG: [string, Uint8Array, RegExp][] = [
  ['nothing', new Uint8Array(0), /no PNG/],
  ['its first bytes alone', GREY.slice(0, 8), /no PNG/],
  ['a head that is cut', GREY.slice(0, 30), /no PNG/],
  ['another picture', Uint8Array.from({ length: 99 }, (_, n) => n), /no PNG/],
  ['a head of another name', patched(GREY, (v) => v.setUint8(12, 74)), /no PNG/],
  ['no width', patched(GREY, (v) => v.setUint32(16, 0)), /no pixels/],
  ['no height', patched(GREY, (v) => v.setUint32(20, 0)), /no pixels/],
  ['a width of four milliards', patched(GREY, (v) => v.setUint32(16, 2 ** 32 - 1)), /more than it can hold/],
  ['as wide as the limit', patched(GREY, (v) => v.setUint32(16, 2 ** 25)), /more than it can hold/],
  ['more lines than it has', patched(GREY, (v) => v.setUint32(20, 9000)), /PNG|more than/],
  ['a depth of none', patched(GREY, (v) => v.setUint8(24, 0)), /PNG/],
  ['a depth of three', patched(GREY, (v) => v.setUint8(24, 3)), /PNG/],
  ['a kind that there is not', patched(GREY, (v) => v.setUint8(25, 5)), /PNG/],
  ['colours of four bits', patched(GREY, (v) => (v.setUint8(24, 4), v.setUint8(25, 2))), /PNG/],
  ['packed in another way', patched(GREY, (v) => v.setUint8(26, 1)), /PNG/],
  ['filtered in another way', patched(GREY, (v) => v.setUint8(27, 1)), /PNG/],
  ['interlaced in another way', patched(GREY, (v) => v.setUint8(28, 2)), /PNG/],
  [
    'interlaced with few bits',
    patched(png(0, 4, 4, 4, new Array<number>(16).fill(3)), (v) => v.setUint8(28, 1)),
    /interlaced/,
  ],
  ['a head whose checksum is wrong', patched(GREY, (v) => v.setUint8(30, 1)), /PNG/],
  ['pixels whose checksum is wrong', patched(GREY, (v, b) => v.setUint8(pixels(b) + 9, 1)), /PNG/],
  ['no pixels in it', patched(GREY, (_, b) => b.slice(0, pixels(b) - 4)), /PNG/],
  ['cut in its pixels', patched(GREY, (_, b) => b.slice(0, pixels(b) + 12)), /PNG/],
  ['a palette that is not there', png(3, 8, 2, 1, [0, 1]), /PNG/],
  ['a palette that is too short', png(3, 8, 2, 1, [0, 9], [PALETTE]), /PNG/],
  ['a palette of half a colour', png(3, 8, 2, 1, [0, 0], [['PLTE', [1, 2]]]), /PNG/],
  ['a curve of HDR video', png(0, 8, 1, 1, [9], [['cICP', [9, 16, 0, 1]]]), /curve 16/],
  ['a curve of film logs', png(0, 8, 1, 1, [9], [['cICP', [9, 9, 0, 1]]]), /curve 9/],
];

describe('PNG', () => {
  test('there are 25 and more', () => expect(PNG.length).toBeGreaterThanOrEqual(25));
  test('the honest one is read', () => expect(readPngPicture(GREY).picture.height).toBe(7));
  test.each(PNG)('%s', (_, bytes, why) => {
    expect(() => readPngPicture(bytes)).toThrow(FileError);
    expect(() => readPngPicture(bytes)).toThrow(why);
  });
});

const hdr = (head: string, ...body: number[]): Uint8Array =>
  Uint8Array.from([...new TextEncoder().encode(head), ...body]);
const FORMAT = '#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n';
const RUN = [2, 2, 0, 9];
const plane = (...bytes: number[]): number[] => [...RUN, ...bytes];

const HDR: [string, Uint8Array, RegExp][] = [
  ['nothing', new Uint8Array(0), /no Radiance HDR/],
  ['another file', hdr('solid mill\n'), /no Radiance HDR/],
  ['a first line alone', hdr('#?RADIANCE\n'), /gives no size/],
  ['a head without a size', hdr('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n'), /gives no size/],
  ['no first line', hdr('FORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 1\n', 1, 1, 1, 1), /no Radiance HDR/],
  ['columns before lines', hdr(`${FORMAT}+X 1 -Y 1\n`, 1, 2, 3, 4), /gives no size/],
  ['a size in words', hdr(`${FORMAT}-Y one +X one\n`, 1, 2, 3, 4), /gives no size/],
  ['a size below nothing', hdr(`${FORMAT}-Y -1 +X 1\n`, 1, 2, 3, 4), /gives no size/],
  ['no lines', hdr(`${FORMAT}-Y 0 +X 4\n`), /more than the file/],
  ['no columns', hdr(`${FORMAT}-Y 4 +X 0\n`), /more than the file/],
  ['a size of many digits', hdr(`${FORMAT}-Y 999999999999 +X 999999999999\n`, 1), /more than the file/],
  ['more lines than it can hold', hdr(`${FORMAT}-Y 99999 +X 8\n`, 1, 2, 3, 4), /more than the file/],
  ['a size above the limit', hdr(`${FORMAT}-Y 65536 +X 65536\n`, 1, 2, 3, 4), /more than the file/],
  ['colours of another space', hdr('#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 1 +X 1\n', 1, 2, 3, 4), /xyze/],
  ['a format that there is not', hdr('#?RADIANCE\nFORMAT=mist\n\n-Y 1 +X 1\n', 1, 2, 3, 4), /kept as mist/],
  ['no pixels', hdr(`${FORMAT}-Y 1 +X 1\n`), /more than the file|ends inside/],
  ['half a pixel', hdr(`${FORMAT}-Y 1 +X 1\n`, 1, 2), /ends inside a line/],
  ['a line too few', hdr(`${FORMAT}-Y 2 +X 1\n`, 1, 2, 3, 4), /ends inside a line/],
  ['a run before any pixel', hdr(`${FORMAT}-Y 1 +X 4\n`, 1, 1, 1, 3, 9, 9, 9, 9), /longer than its line/],
  ['a run past its line', hdr(`${FORMAT}-Y 1 +X 3\n`, 9, 9, 9, 9, 1, 1, 1, 200), /longer than its line/],
  ['runs of runs past all', hdr(`${FORMAT}-Y 1 +X 3\n`, 9, 9, 9, 9, 1, 1, 1, 1, 1, 1, 1, 255), /longer than/],
  ['a plane that is cut', hdr(`${FORMAT}-Y 1 +X 9\n`, ...RUN), /longer|ends inside/],
  ['a plane’s run past its line', hdr(`${FORMAT}-Y 1 +X 9\n`, ...plane(200, 1)), /longer than its line/],
  ['a plane’s run of nothing', hdr(`${FORMAT}-Y 1 +X 9\n`, ...plane(0)), /longer than its line/],
  ['a plane’s values cut', hdr(`${FORMAT}-Y 1 +X 9\n`, ...plane(9, 1, 2, 3)), /ends inside a line/],
  ['planes missing', hdr(`${FORMAT}-Y 1 +X 9\n`, ...plane(137, 1, 137, 1)), /longer|ends inside/],
];

describe('Radiance HDR', () => {
  test('there are 25 and more', () => expect(HDR.length).toBeGreaterThanOrEqual(25));
  test('the honest one is read', () => {
    const body = [137, 8, 137, 8, 137, 8, 137, 128];
    expect(readHdr(hdr(`${FORMAT}-Y 1 +X 9\n`, ...plane(...body))).picture.width).toBe(9);
  });
  test.each(HDR)('%s', (_, bytes, why) => {
    expect(() => readHdr(bytes)).toThrow(FileError);
    expect(() => readHdr(bytes)).toThrow(why);
  });
});
