// Volume and particle files that are broken, cut or hostile: each is refused in words or read as far as it is
// sound; none crashes, hangs, or allocates more than twice what an honest file of its size takes.
import { zipSync } from 'fflate';
import { importAsset } from '@bramblemist/core/assets/import-asset';
import { ByteWriter, FileError } from '@bramblemist/core/files/bytes';
import { readCsvCloud } from '@bramblemist/core/files/csv/particles';
import { readPlyCloud } from '@bramblemist/core/files/ply/ply';
import { writePlyCloud, type Columns } from '@bramblemist/core/files/ply/writer';
import { openSequence, type Sequence } from '@bramblemist/core/files/sequence/sequence';
import { rangesOf } from '@bramblemist/core/files/ranges';
import { toLeaves } from '@bramblemist/core/files/vdb/leaves';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { volumeFrom } from '@bramblemist/core/volume/volume';
import { decodePreview } from '@bramblemist/core/cache/preview';
import { random } from './run';

const openZip = (bytes: Uint8Array): Sequence => openSequence(rangesOf(bytes));
const next = random(11);
const DIMS: [number, number, number] = [20, 17, 19];
const COUNT = 20 * 17 * 19;
const density = Float32Array.from({ length: COUNT }, () => next());
const active = Uint8Array.from(density, (d) => Number(d > 0.5));
const base = {
  half: false,
  translation: [0.05, 0.05, 0.05],
  voxelSize: [0.1, 0.1, 0.1],
  tiles: [],
  background: [0],
} as const;
const HONEST = writeVdb([
  {
    ...base,
    name: 'density',
    kind: 'float',
    metadata: {},
    leaves: toLeaves([density], active, DIMS, [0, 0, 0]),
  },
]);
/** Where things stand in it: fixed, as it has no metadata and one grid called density. */
const AT = {
  version: 8,
  flag: 20,
  metadata: 57,
  grids: 61,
  nameLength: 65,
  typeLength: 76,
  type: 80,
  offsets: 100,
  compression: 124,
  gridMetadata: 128,
};
const patched = (patch: (view: DataView, bytes: Uint8Array) => void, from = HONEST): Uint8Array => {
  const bytes = from.slice();
  patch(new DataView(bytes.buffer), bytes);
  return bytes;
};

/** Byte of a text in the file. */
const find = (text: string, from = HONEST): number => Buffer.from(from).indexOf(text);
const word = (at: number, v: number) => patched((view) => view.setUint32(at, v, true));
const long = (at: number, v: bigint) => patched((view) => view.setBigInt64(at, v, true));
/**
 * The map's numbers come behind its name: three of a translation, then fifteen of scales; then the buffer
 * count and the root.
 */
const MAP = find('UniformScaleTranslateMap') + 24;
const BUFFERS = MAP + 8 * 18;
const ROOT = BUFFERS + 4;

const VOLUMES: [string, Uint8Array][] = [
  ['nothing', new Uint8Array(0)],
  ['seven bytes', HONEST.slice(0, 7)],
  ['a picture', Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, ...new Array<number>(200).fill(0)])],
  ['zeros', new Uint8Array(5000)],
  ['a version to come', word(AT.version, 999)],
  ['a version long gone', word(AT.version, 12)],
  ['a flag for offsets that are not there', patched((view) => view.setUint8(AT.flag, 0))],
  ['metadata without end', word(AT.metadata, 0xffffffff)],
  ['grids without end', word(AT.grids, 0x7fffffff)],
  ['less than no grids', word(AT.grids, 0x80000000)],
  ['two grids where there is one', word(AT.grids, 2)],
  ['a name longer than the file', word(AT.nameLength, 0x7fffffff)],
  ['a type longer than the file', word(AT.typeLength, 0xfffffff0)],
  ['a type that there is not', patched((_v, b) => b.set(Buffer.from('Tree_waffle'), AT.type))],
  ['a start before the file', long(AT.offsets, -5n)],
  ['a start behind the file', long(AT.offsets, 10n ** 15n)],
  ['an end behind the file', long(AT.offsets + 16, 10n ** 15n)],
  ['an end before the start', long(AT.offsets + 16, 70n)],
  ['a compression that there is not', word(AT.compression, 64)],
  ['values said to be packed otherwise', word(AT.compression, 6)],
  ['values said not to be packed', word(AT.compression, 2)],
  ['metadata of a grid without end', word(AT.gridMetadata, 0xffffff)],
  ['a map that there is not', patched((_v, b) => b.set(Buffer.from('FrustumPerspectiveMapXYZ'), MAP - 24))],
  ['voxels of no size', patched((view) => [24, 32, 40].forEach((o) => view.setFloat64(MAP + o, 0, true)))],
  ['voxels of a size that is no number', patched((view) => view.setFloat64(MAP + 24, NaN, true))],
  ['a place that is not finite', patched((view) => view.setFloat64(MAP, Infinity, true))],
  ['seven buffers', word(BUFFERS, 7)],
  ['tiles without end', word(ROOT + 4, 0xffffffff)],
  ['nodes without end', word(ROOT + 8, 0x7fffffff)],
  ['a million nodes', word(ROOT + 8, 1_000_000)],
  ['children that are not there', patched((_v, b) => b.fill(255, ROOT + 24, ROOT + 24 + 4096))],
  ['values that are not there', patched((_v, b) => b.fill(255, ROOT + 24 + 4096, ROOT + 24 + 8192))],
  ['a mask code that there is not', patched((view) => view.setUint8(ROOT + 24 + 8192, 99))],
  ['a node far out', word(ROOT + 12, 0x7fffffff)],
  [
    'its second half twice',
    Uint8Array.from([...HONEST.slice(0, HONEST.length / 2), ...HONEST.slice(HONEST.length / 4)]),
  ],
  [
    'noise behind a sound head',
    patched((_v, b) => {
      const r = random(5);
      for (let n = 300; n < b.length; n++) b[n] = r() * 256;
    }),
  ],
  ...[0.02, 0.1, 0.3, 0.6, 0.9, 0.999].map((part): [string, Uint8Array] => [
    `${100 * part} % of it`,
    HONEST.slice(0, Math.floor(part * HONEST.length)),
  ]),
];

const columns: Columns = new Map(
  ['x', 'y', 'z', 'vx', 'vy', 'vz'].map((n) => [n, Float32Array.from({ length: 400 }, () => next())]),
);
const CLOUD = writePlyCloud(columns);
const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);
const plyHead = (lines: string[]): Uint8Array =>
  utf8(`ply\nformat binary_little_endian 1.0\n${lines.join('\n')}\nend_header\n`);
const swapped = (from: string, to: string): Uint8Array =>
  Uint8Array.from(Buffer.from(Buffer.from(CLOUD).toString('latin1').replace(from, to), 'latin1'));
const CLOUDS: [string, Uint8Array, (b: Uint8Array) => unknown][] = [
  ['a PLY of nothing', utf8(''), readPlyCloud],
  ['a PLY without an end of its head', utf8('ply\nformat ascii 1.0\nelement vertex 3\n'), readPlyCloud],
  ['a PLY of more vertices than it can hold', swapped('vertex 400', 'vertex 999999999'), readPlyCloud],
  ['a PLY of less than no vertices', swapped('vertex 400', 'vertex -4'), readPlyCloud],
  ['a PLY of half a vertex', swapped('vertex 400', 'vertex 0.5'), readPlyCloud],
  ['a PLY with a type that there is not', swapped('property float x', 'property quaternion x'), readPlyCloud],
  ['a PLY without places', swapped('property float x', 'property float q'), readPlyCloud],
  [
    'a PLY in a format that there is not',
    swapped('binary_little_endian', 'binary_middle_endian'),
    readPlyCloud,
  ],
  ['a PLY that is cut', CLOUD.slice(0, CLOUD.length - 100), readPlyCloud],
  ['a PLY of one vertex more', swapped('vertex 400', 'vertex 401'), readPlyCloud],
  [
    'a PLY with a place that is no number',
    patched((view) => view.setFloat32(CLOUD.length - 24, NaN, true), CLOUD),
    readPlyCloud,
  ],
  [
    'a PLY whose lists never end',
    Uint8Array.from([
      ...plyHead([
        'element junk 5',
        'property list uint float a',
        'element vertex 1',
        'property float x',
        'property float y',
        'property float z',
      ]),
      255,
      255,
      255,
      255,
      0,
      0,
    ]),
    readPlyCloud,
  ],
  [
    'a PLY with lists in its vertices',
    plyHead(['element vertex 1', 'property list uchar float x']),
    readPlyCloud,
  ],
  [
    'a text PLY with words for numbers',
    utf8(
      'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float ' +
        'z\nend_header\n1 two 3\n',
    ),
    readPlyCloud,
  ],
  ['a table of nothing', utf8(''), readCsvCloud],
  ['a table without a head', utf8('1,2,3\n4,5,6\n'), readCsvCloud],
  ['a table with too few columns', utf8('x,y\n1,2\n'), readCsvCloud],
  ['a table with rows of several lengths', utf8('x,y,z\n1,2,3\n4,5\n'), readCsvCloud],
  ['a table with words for numbers', utf8('x,y,z\n1,2,three\n'), readCsvCloud],
  ['a table with places that are not finite', utf8('x,y,z\n1,2,Infinity\n'), readCsvCloud],
  ['a table of bytes', Uint8Array.from({ length: 4000 }, () => next() * 256), readCsvCloud],
  ['a ZIP of nothing', utf8(''), openZip],
  ['a ZIP that is none', utf8('PK\x03\x04 and then something else'), openZip],
  ['a ZIP that is cut', zipSync({ 'a.1.ply': CLOUD, 'a.2.ply': CLOUD }).slice(0, 300), openZip],
  ['a ZIP without numbers', zipSync({ 'a.ply': CLOUD, 'b.ply': CLOUD }), openZip],
  ['a ZIP of one number twice', zipSync({ 'a.1.ply': CLOUD, 'b.1.ply': CLOUD }), openZip],
  ['a ZIP of several kinds', zipSync({ 'a.1.ply': CLOUD, 'a.2.csv': utf8('x,y,z') }), openZip],
  [
    'a ZIP whose second frame is broken',
    zipSync({ 'a.1.ply': CLOUD, 'a.2.ply': CLOUD.slice(0, 90) }),
    (b) => {
      const s = openZip(b);
      return readPlyCloud(s.read(1));
    },
  ],
  ['a preview that is none', utf8('BMKX and more'), decodePreview],
  [
    'a preview of absurd size',
    Uint8Array.from([0x42, 0x4d, 0x4b, 0x32, 0, 0, 0, 0, 255, 255, 255, 255, 255, 255]),
    decodePreview,
  ],
];

/** Bytes that typed arrays and buffers are made with while something runs. */
function allocated(act: () => void): number {
  const names = [
    'Uint8Array',
    'Float32Array',
    'Float64Array',
    'Int32Array',
    'Uint32Array',
    'Uint16Array',
    'ArrayBuffer',
  ] as const;
  const own = globalThis as unknown as Record<string, new (...a: unknown[]) => { byteLength: number }>;
  const before = names.map((n) => own[n]);
  let bytes = 0;
  names.forEach((n, i) => {
    own[n] = new Proxy(before[i], {
      construct(target, args, self) {
        const made = Reflect.construct(target, args, self) as { byteLength: number };
        if (!(args[0] instanceof before[6]) && !ArrayBuffer.isView(args[0])) bytes += made.byteLength;
        return made;
      },
    });
  });
  try {
    act();
  } finally {
    names.forEach((n, i) => (own[n] = before[i]));
  }

  return bytes;
}

/** What happens with a file, within two seconds and twice the memory of the honest one. */
function tried(read: () => void, most: number): string {
  const began = performance.now();
  let said = 'read';
  const bytes = allocated(() => {
    try {
      read();
    } catch (error) {
      if (!(error instanceof FileError)) throw error;
      said = error.message;
    }
  });
  expect(performance.now() - began).toBeLessThan(2000);
  expect(bytes).toBeLessThan(2 * most + 2 ** 20);
  return said;
}

const readVolume = (bytes: Uint8Array): void => void volumeFrom(readVdb(bytes), 1);

describe('volumes', () => {
  const most = allocated(() => readVolume(HONEST));
  test('the honest one is read', () => expect(tried(() => readVolume(HONEST), most)).toBe('read'));
  /** A file that is sound all the same: what was changed is not needed. */
  const SOUND = ['a flag for offsets that are not there', 'a node far out'];
  test.each(VOLUMES)('%s', (name, bytes) => {
    const said = tried(() => readVolume(bytes), most);
    if (!SOUND.includes(name)) expect(said).not.toBe('read');
    expect(said.length).toBeGreaterThan(3);
  });
  test('three hundred files with some bytes of chance', () => {
    const r = random(77);
    let refused = 0;
    for (let n = 0; n < 300; n++) {
      const bytes = HONEST.slice();
      for (let c = 0; c < 1 + r() * 6; c++) bytes[Math.floor(r() * Math.min(bytes.length, 9000))] = r() * 256;
      if (tried(() => readVolume(bytes), most) !== 'read') refused++;
    }

    expect(refused).toBeGreaterThan(30);
  });
});

describe('particles, sequences and previews', () => {
  test.each(CLOUDS)('%s', (_name, bytes, read) => {
    expect(tried(() => void read(bytes), 400_000)).not.toBe('read');
  });
  test('there are forty kinds and more', () => expect(VOLUMES.length + CLOUDS.length).toBeGreaterThan(70));
  test('a file that is called otherwise than it is is told so', async () => {
    await expect(importAsset('spray.ply', HONEST)).rejects.toThrow(FileError);
    await expect(importAsset('volume.obj', HONEST)).rejects.toThrow(FileError);
    await expect(importAsset('spray.exe', CLOUD)).rejects.toThrow(/No file of this kind/);
  });
});

test('a writer’s bytes beyond what was written are not there', () => {
  const w = new ByteWriter(4);
  w.u32(1);
  expect(w.done()).toHaveLength(4);
});
