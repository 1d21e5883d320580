// ZIP files by their list: only what is asked for is read, sizes of 64 bits are followed, and what does not
// fit is refused with the name of the file in it.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import { ByteWriter, FileError } from '@bramblemist/core/files/bytes';
import { rangesOf, type ByteRanges } from '@bramblemist/core/files/ranges';
import { readZipDirectory } from '@bramblemist/core/files/sequence/zip-directory';
import { pureZip } from '@bramblemist/core/files/zip';
import { nodeZip, rangesOfFile, sha256, sha256OfFile } from '@bramblemist/core/io/node/files';
import { random } from './run';

const folder = mkdtempSync(join(tmpdir(), 'zip-'));
afterAll(() => rmSync(folder, { recursive: true }));

const next = random(3);
const frame = (n: number): Uint8Array => Uint8Array.from({ length: 40_000 }, (_, i) => n + (i % 7) * next());
const FRAMES = Object.fromEntries([1, 2, 3, 4].map((n) => [`fog.${n}.vdb`, frame(n)]));
const textOf = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/** Counts the bytes that are read. */
function counted(file: ByteRanges): ByteRanges & { bytes: number } {
  const own = {
    size: file.size,
    bytes: 0,
    read: (from: number, end: number): Uint8Array => {
      own.bytes += end - from;
      return file.read(from, end);
    },
  };
  return own;
}

test.each([
  ['stored', 0],
  ['deflated', 6],
] as const)('%s: of a file on disk what is asked for is read', (_, level) => {
  const path = join(folder, `frames-${level}.zip`);
  const bytes = zipSync(FRAMES, { level });
  writeFileSync(path, bytes);
  const file = counted(rangesOfFile(path));
  const entries = readZipDirectory(file, nodeZip);
  const third = entries.find(({ name }) => name === 'fog.3.vdb')!;
  expect(third.read()).toEqual(FRAMES['fog.3.vdb']);
  // its list, found within the longest remark that may stand at the end, and one of the four
  expect(file.bytes).toBeLessThan(66_000 + bytes.length / 3);
  for (const zip of [pureZip, nodeZip])
    for (const { name, size, read } of readZipDirectory(rangesOf(bytes), zip)) {
      expect(size).toBe(FRAMES[name].length);
      expect(read()).toEqual(FRAMES[name]);
    }

  expect(sha256OfFile(rangesOfFile(path))).toBe(sha256(bytes));
});

test('another program’s, with a remark at its end and names of other letters', () => {
  const path = join(folder, 'theirs.zip');
  execFileSync('/usr/bin/python3', [
    '-c',
    'import sys, zipfile\n' +
      'z = zipfile.ZipFile(sys.argv[1], "w", zipfile.ZIP_DEFLATED)\n' +
      'z.comment = b"PK" * 300\n' +
      'z.writestr("dimma på ån.1.csv", "x,y,z\\n1,2,3\\n")\n' +
      'z.close()',
    path,
  ]);
  const [entry] = readZipDirectory(rangesOfFile(path), nodeZip);
  expect(entry.name).toBe('dimma på ån.1.csv');
  expect(textOf(entry.read())).toBe('x,y,z\n1,2,3\n');
});

/** One stored file, as those beyond four gigabytes say it. */
function wide(change: { at?: number; size?: number; list?: number } = {}): Uint8Array {
  const body = strToU8('mist');
  const name = strToU8('a.1.csv');
  const crc = pureZip.crc32(body);
  const out = new ByteWriter();
  out.u32(0x04034b50);
  for (const v of [45, 0, 0, 0, 0]) out.u16(v);
  for (const v of [crc, body.length, body.length]) out.u32(v);
  for (const v of [name.length, 0]) out.u16(v);
  out.bytes(name);
  out.bytes(body);
  const list = out.length;
  out.u32(0x02014b50);
  for (const v of [45, 45, 0, 0, 0, 0]) out.u16(v);
  for (const v of [crc, 0xffffffff, 0xffffffff]) out.u32(v);
  for (const v of [name.length, 4 + 24, 0, 0, 0]) out.u16(v);
  for (const v of [0, 0xffffffff]) out.u32(v);
  out.bytes(name);
  out.u16(1);
  out.u16(24);
  for (const v of [change.size ?? body.length, body.length, change.at ?? 0]) out.i64(v);
  const end = out.length;
  out.u32(0x06064b50);
  out.i64(44);
  for (const v of [45, 45]) out.u16(v);
  for (const v of [0, 0]) out.u32(v);
  for (const v of [1, 1, end - list, change.list ?? list]) out.i64(v);
  out.u32(0x07064b50);
  out.u32(0);
  out.i64(end);
  out.u32(1);
  out.u32(0x06054b50);
  for (const v of [0xffff, 0xffff, 0xffff, 0xffff]) out.u16(v);
  for (const v of [0xffffffff, 0xffffffff]) out.u32(v);
  out.u16(0);
  return out.done();
}

test('sizes and places of 64 bits', () => {
  const [entry] = readZipDirectory(rangesOf(wide()), pureZip);
  expect([entry.size, textOf(entry.read())]).toEqual([4, 'mist']);
});

const plain = zipSync({ 'a.1.csv': [strToU8('x,y,z\n'.repeat(90)), { level: 6 }] });
const list = Buffer.from(plain).indexOf('PK\x01\x02', 0, 'latin1');
const end = Buffer.from(plain).indexOf('PK\x05\x06', 0, 'latin1');
const patched = (patch: (view: DataView) => void): Uint8Array => {
  const own = plain.slice();
  patch(new DataView(own.buffer));
  return own;
};

test.each<[string, Uint8Array, RegExp]>([
  ['without its end', plain.slice(0, end), /list of files at its end is not there/],
  ['without its beginning', plain.slice(40), /lies outside|not where/],
  ['a list that is not there', patched((v) => v.setUint32(end + 16, 3, true)), /cut or damaged/],
  ['a list behind the end', patched((v) => v.setUint32(end + 16, 1e9, true)), /lies outside/],
  ['a list of more files', patched((v) => v.setUint16(end + 10, 9, true)), /ends after 1 of 9/],
  ['a name without end', patched((v) => v.setUint16(list + 28, 60_000, true)), /ends inside of number 1/],
  [
    'a password',
    patched((v) => v.setUint16(list + 8, 1, true)),
    /a\.1\.csv cannot be unpacked: it has a password/,
  ],
  ['another packing', patched((v) => v.setUint16(list + 10, 14, true)), /packed in the way 14/],
  ['another checksum', patched((v) => v.setUint32(list + 16, 7, true)), /checksum does not fit/],
  ['a size of milliards', patched((v) => v.setUint32(list + 24, 4e9, true)), /larger than it can be/],
  ['more than it packs', patched((v) => v.setUint32(list + 24, 900, true)), /size|cannot be unpacked/],
  ['packed bytes behind the end', patched((v) => v.setUint32(list + 20, 4e6, true)), /outside of the file/],
  ['a place behind the end', patched((v) => v.setUint32(list + 42, 4e6, true)), /outside of the file/],
  ['a place within', patched((v) => v.setUint32(list + 42, 9, true)), /not where the list says/],
  ['damaged bytes', patched((v) => v.setUint32(40, 0x5555, true)), /cannot be unpacked/],
  ['a wide place behind the end', wide({ at: 2 ** 50 }), /outside of the file/],
  ['a wide size', wide({ size: 2 ** 50 }), /larger than it can be/],
  ['a wide list behind the end', wide({ list: 2 ** 52 }), /outside of it|lies outside/],
])('%s is refused', (_, bytes, why) => {
  const open = (): unknown => readZipDirectory(rangesOf(bytes), pureZip).map(({ read }) => read());
  expect(open).toThrow(FileError);
  expect(open).toThrow(why);
});
