// OpenVDB files as other programs write them: read exactly, as the reference library reads them too, or
// refused by name; what was changed or left out is told.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { toDense } from '@bramblemist/core/files/vdb/leaves';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { fromHalf, toHalf } from '@bramblemist/core/math/half';
import type { Triple } from '@bramblemist/core/math/vector';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { adoptVolume, gridReports } from '@bramblemist/core/volume/adopt';
import { cornerOf } from '@bramblemist/core/volume/volume';
import { foreignVdb, numbers, scale, type Foreign, type ForeignLeaf } from './foreign-vdb';

const wave = (v: number): number => Math.fround(Math.sin(v * 0.37) * 3);
const third = (v: number): boolean => v % 3 === 0;
/** Active in every third voxel; inactive ones hold one of these. */
const leaf = (...off: number[]): ForeignLeaf => ({
  origin: [0, 0, 0],
  values: Array.from({ length: 512 }, (_, v) => (third(v) ? wave(v) : off[v % off.length])),
  active: third,
});
const plain = leaf(0);
const turn = [0.08, 0.06, 0, 0, -0.06, 0.08, 0, 0, 0, 0, 0.1, 0, 1, 2, 3, 1];
const affine = (x: number, y = x, z = x): number[] => [x, 0, 0, 0, 0, y, 0, 0, 0, 0, z, 0, 1, 2, 3, 1];

/** Files that are read with every value as it is. */
const GOOD: [string, readonly Foreign[], { version?: number; offsets?: boolean }?][] = [
  ['inactive values are the background', [{ leaves: [plain] }]],
  ['… another background', [{ background: 2.5, leaves: [leaf(2.5)] }]],
  ['… its negative', [{ background: 2.5, leaves: [leaf(-2.5)] }]],
  ['… one value', [{ background: 2.5, leaves: [leaf(7)] }]],
  ['… both signs of it', [{ background: 2.5, leaves: [leaf(2.5, -2.5)] }]],
  ['… it and another', [{ background: 2.5, leaves: [leaf(7, 2.5)] }]],
  ['… two others', [{ background: 2.5, leaves: [leaf(7, -4)] }]],
  ['… many', [{ background: 2.5, leaves: [leaf(7, -4, 1, 2.5)] }]],
  ...[0, 1, 2, 3].flatMap((flags) =>
    [leaf(2.5, -2.5), leaf(7, -4, 1)].map((l, n): (typeof GOOD)[number] => [
      `flags ${flags}, ${n === 0 ? 'signs' : 'all values'}`,
      [{ background: 2.5, flags, leaves: [l] }],
    ]),
  ),
  ['half floats', [{ half: true, leaves: [plain] }]],
  ['half floats, zip, signs', [{ half: true, flags: 3, background: 2.5, leaves: [leaf(2.5, -2.5)] }]],
  ['double precision', [{ type: 'double', leaves: [plain] }]],
  ['double precision, zip', [{ type: 'double', flags: 3, background: 2.5, leaves: [leaf(7, 2.5)] }]],
  ['double precision as halves', [{ type: 'double', half: true, leaves: [plain] }]],
  ['vectors', [{ type: 'vec3s', name: 'vel', leaves: [plain] }]],
  ['vectors, zip', [{ type: 'vec3s', name: 'vel', flags: 3, leaves: [plain] }]],
  ['vectors of double precision', [{ type: 'vec3d', name: 'vel', leaves: [plain] }]],
  ['a leaf far off', [{ leaves: [{ ...plain, origin: [-4096 * 3, 8, 40_000] }] }]],
  [
    'several leaves',
    [{ leaves: [plain, { ...leaf(0), origin: [8, 0, 120] }, { ...plain, origin: [0, 64, 8] }] }],
  ],
  ['tiles beside leaves', [{ leaves: [plain], tiles: [{ at: 5, value: 3, active: true }] }]],
  [
    'tiles alone',
    [
      {
        tiles: [
          { at: 0, value: 3, active: true },
          { at: 9, value: -1, active: false },
        ],
      },
    ],
  ],
  ['a tile at the root', [{ rootTiles: [{ origin: [4096, 0, 0], value: 2 }], leaves: [plain] }]],
  ['no voxels', [{}]],
  ['no voxels, zip', [{ flags: 3 }]],
  ['a scale and a place', [{ leaves: [plain], map: ['UniformScaleTranslateMap', [1, 2, 3, ...scale(0.2)]] }]],
  ['other scales on each axis', [{ leaves: [plain], map: ['ScaleMap', scale(0.1, 0.2, 0.3)] }]],
  ['a place alone', [{ leaves: [plain], map: ['TranslationMap', [4, 5, 6]] }]],
  ['a matrix that is a scale', [{ leaves: [plain], map: ['AffineMap', affine(0.2)] }]],
  ['a name of other letters', [{ name: 'rök_煙', leaves: [plain] }]],
  [
    'two grids of one name',
    [
      { name: 'a\u001e0', leaves: [plain] },
      { name: 'a\u001e1', leaves: [leaf(1)] },
    ],
  ],
  [
    'a grid that shares another’s voxels',
    [
      { name: 'density', leaves: [plain] },
      { name: 'later', of: 'density', map: ['UniformScaleMap', scale(0.5)] },
    ],
  ],
  ['an older version', [{ leaves: [plain] }], { version: 222 }],
  ['an older version, 223', [{ background: 2.5, leaves: [leaf(2.5, -2.5)] }], { version: 223 }],
];

const folder = mkdtempSync(join(tmpdir(), 'vdb-corpus-'));
afterAll(() => rmSync(folder, { recursive: true }));

/**
 * The library's Python module knows floats and vectors of floats only; and of zipped half floats with signs
 * it writes past its memory.
 */
const isKnownToIt = (grids: readonly Foreign[]): boolean =>
  grids.every(
    ({ type, half, flags, background }) =>
      type !== 'double' && type !== 'vec3d' && !(half && flags === 3 && background),
  );
const readBack = (n: number): ReturnType<typeof readVdb> =>
  readVdb(readFileSync(join(folder, `${n}.vdb`)), { zip: nodeZip });

beforeAll(() =>
  GOOD.forEach(([, grids, options], n) =>
    writeFileSync(join(folder, `${n}.vdb`), foreignVdb(grids, options)),
  ),
);

test.each(GOOD.map(([what], n) => [what, n] as const))('%s', (_, n) => {
  const [, grids] = GOOD[n];
  const file = readBack(n);
  expect(file.grids).toHaveLength(grids.length);
  grids.forEach((given, m) => {
    const leaves = given.of ? grids.find((g) => g.name === given.of)!.leaves! : (given.leaves ?? []);
    for (const l of leaves) {
      const [values] = toDense(file.grids[m], l.origin, [8, 8, 8]);
      l.values.forEach((value, v) => {
        const own = values[((v & 7) * 8 + ((v >> 3) & 7)) * 8 + (v >> 6)];
        const wanted =
          given.half && (l.active(v) || !Number.isInteger(2 * value)) ? fromHalf(toHalf(value)) : value;
        if (own !== Math.fround(wanted)) throw new Error(`voxel ${v}: ${own}, not ${wanted}`);
      });
    }
  });
});

test('the reference library reads the same, voxel by voxel', () => {
  expect(GOOD.length).toBeGreaterThanOrEqual(40);
  const known = GOOD.flatMap(([, grids], n) =>
    isKnownToIt(grids) ? [{ n, corners: grids.map((g) => g.leaves?.[0].origin ?? [0, 0, 0]) }] : [],
  );
  // 16³ voxels about each first leaf
  const script = `import pyopenvdb as vdb, json, os, sys
for file in json.loads(sys.argv[1]):
    # a process each, so that one cannot spoil the others
    child = os.fork()
    if child:
        assert os.waitpid(child, 0)[1] == 0, file
        continue
    grids, meta = vdb.readAll('%d.vdb' % file['n'])
    own = []
    for g, c in zip(grids, file['corners']):
        look = g.getConstAccessor()
        values = []
        for z in range(16):
            for y in range(16):
                for x in range(16):
                    v = look.getValue((c[0] + x, c[1] + y, c[2] + z))
                    values.append(v[0] if isinstance(v, tuple) else v)
        own.append(dict(n=g.activeVoxelCount(), values=values, size=list(g.transform.voxelSize()),
                        at=list(g.transform.indexToWorld((0, 0, 0)))))
    json.dump(own, open('%d.json' % file['n'], 'w'))
    sys.stdout.flush()
    os._exit(0)`;
  execFileSync('/usr/bin/python3', ['-c', script, JSON.stringify(known)], { cwd: folder });
  const theirs = known.map(
    ({ n }) =>
      JSON.parse(readFileSync(join(folder, `${n}.json`), 'utf8')) as {
        values: number[];
        size: number[];
        at: number[];
        n: number;
      }[],
  );
  known.forEach(({ n, corners }, k) => {
    const [what] = GOOD[n];
    readBack(n).grids.forEach((g, m) => {
      const there = theirs[k][m];
      const [values] = toDense(g, corners[m] as Triple, [16, 16, 16]);
      const apart = there.values.findIndex((v, i) => Math.fround(v) !== values[i]);
      expect([what, m, apart]).toEqual([what, m, -1]);
      const count = gridReports({ grids: [g], others: [], metadata: {}, remarks: [] })[0].voxels;
      expect([what, count]).toEqual([what, there.n]);
      for (let a = 0; a < 3; a++) {
        expect(g.voxelSize[a]).toBeCloseTo(there.size[a], 12);
        expect(g.translation[a]).toBeCloseTo(there.at[a], 12);
      }
    });
  });
});

describe('a surface that the library made', () => {
  test('is inside where it is inside', () => {
    execFileSync('/usr/bin/python3', [
      '-c',
      `import pyopenvdb as vdb
s = vdb.createLevelSetSphere(radius=2.0, center=(1, 2, 3), voxelSize=0.1, halfWidth=3.0)
s.name = 'surface'
vdb.write('${join(folder, 'ball.vdb')}', grids=[s])`,
    ]);
    const file = readVdb(readFileSync(join(folder, 'ball.vdb')), { zip: nodeZip });
    const { volume, notes } = adoptVolume(file, 1);
    const [density] = volume.channels.get('density')!;
    const full = density.reduce((sum, d) => sum + d, 0) * 0.1 ** 3;
    expect(full / ((4 / 3) * Math.PI * 8)).toBeCloseTo(1, 1);
    expect(notes.join()).toMatch(/surface is a surface/);
    const corner = cornerOf(volume);
    corner.forEach((c, a) => expect(Math.abs(c - ([1, 2, 3][a] - 2.1))).toBeLessThan(0.21));
  });
});

describe('what is told', () => {
  const adopted = (...grids: Foreign[]) => adoptVolume(readVdb(foreignVdb(grids)), 1);
  test('axes that are turned, sheared or mirrored are refused, and left out beside the medium', () => {
    expect(() => adopted({ leaves: [plain], map: ['AffineMap', turn] })).toThrow(
      /axes of density are turned or sheared\. Resample it to an upright grid first/,
    );
    expect(() => adopted({ leaves: [plain], map: ['AffineMap', affine(-0.1)] })).toThrow(/mirrored/);
    expect(() => adopted({ leaves: [plain], map: ['ScaleMap', scale(-0.1)] })).toThrow(/mirrored/);
    expect(() => adopted({ leaves: [plain], map: ['ScaleMap', scale(0.1, 0.1, 0.2)] })).toThrow(/no cubes/);
    const { notes } = adopted(
      { leaves: [plain] },
      { name: 'heat', leaves: [plain], map: ['AffineMap', turn] },
    );
    expect(notes.join('; ')).toMatch(/axes of heat are turned or sheared, and is left out/);
  });
  test('double precision, infinities, other capitals', () => {
    const { notes, volume } = adopted({ name: 'Density', type: 'double', leaves: [plain] });
    expect(notes.join('; ')).toMatch(/Density is of double precision.*Density is taken as the density/);
    expect(volume.channels.has('density')).toBe(true);
    const wild = { ...plain, values: plain.values.with(3, Infinity).with(6, NaN) };
    const { notes: told, volume: tame } = adopted({ leaves: [wild] });
    expect(told.join('; ')).toMatch(/2 active voxels of density are infinite or no numbers/);
    expect(tame.channels.get('density')![0].every(Number.isFinite)).toBe(true);
  });
  test('a lattice half a voxel off keeps its values and its place', () => {
    const { notes, volume } = adopted({ leaves: [plain] });
    expect(notes).toEqual([]);
    expect(volume.voxelSizeM).toBeCloseTo(0.1, 12);
    cornerOf(volume).forEach((c) => expect(Math.abs(c + 0.05)).toBeLessThan(0.11));
    const [density] = volume.channels.get('density')!;
    const least = plain.values.filter((v, n) => third(n) && v > 1e-6);
    expect(density.filter((d) => d > 0).length).toBe(least.length);
    expect(Math.max(...density)).toBe(Math.max(...least));
  });
  test('metadata of every type', () => {
    const metadata: Foreign['metadata'] = [
      ['v3d', 'vec3d', numbers('f64', [1.5, 2, 3])],
      ['v2i', 'vec2i', numbers('i32', [4, 5])],
      ['v4s', 'vec4s', numbers('f32', [1, 2, 3, 0.5])],
      ['m4', 'mat4d', numbers('f64', affine(2))],
      ['odd', 'somebody’s own', new Uint8Array(3)],
      ['word', 'string', new TextEncoder().encode('dimma på ån')],
    ];
    const [grid] = readVdb(foreignVdb([{ leaves: [plain], metadata }])).grids;
    expect(grid.metadata).toEqual({
      v3d: [1.5, 2, 3],
      v2i: [4, 5],
      v4s: [1, 2, 3, 0.5],
      m4: affine(2),
      word: 'dimma på ån',
    });
  });
  test('an instance of a grid that is not there is refused', () => {
    expect(() => readVdb(foreignVdb([{ of: 'nobody' }]))).toThrow(/shares the voxels of nobody/);
  });
  test('two voxels far apart are refused before they are made', () => {
    const far: ForeignLeaf = { ...plain, origin: [120, 120, 120] };
    expect(adopted({ leaves: [plain, far] }).volume.dims).toEqual([128, 128, 128]);
    const tile = { rootTiles: [{ origin: [4096, 4096, 4096], value: 1 }], leaves: [plain] };
    expect(() => adopted(tile)).toThrow(/too large to work on at once/);
  });
});

describe('what we write', () => {
  const grid = {
    name: 'density',
    kind: 'float',
    half: false,
    background: [0],
    translation: [0.05, 0.05, 0.05],
    voxelSize: [0.1, 0.1, 0.1],
    metadata: { class: 'fog volume' },
  } as const;
  const even = {
    origin: [8, 0, 0] as const,
    active: new Uint8Array(64).fill(255),
    values: new Float32Array(512).fill(2),
  };
  const mixed = {
    origin: [0, 0, 0] as const,
    active: new Uint8Array(64).fill(170),
    values: Float32Array.from({ length: 512 }, (_, v) => wave(v)),
  };

  test.each([false, true])(
    'leaves of one value are tiles, and the library finds its statistics (half: %s)',
    (half) => {
      const bytes = writeVdb([{ ...grid, half, leaves: [even, mixed] }], {
        zip: nodeZip,
        ofGrids: { frame: 12, time: 0.5, unit: 'm', centre: [0.5, 1, 2] },
      });
      const path = join(folder, 'ours.vdb');
      writeFileSync(path, bytes);
      const said = JSON.parse(
        execFileSync(
          '/usr/bin/python3',
          [
            '-c',
            `import pyopenvdb as vdb, json, sys
g = vdb.readAll(sys.argv[1])[0][0]
m = vdb.readGridMetadata(sys.argv[1], 'density').metadata
print(json.dumps(dict(
    n=g.activeVoxelCount(), leaves=g.leafCount(), a=g.getConstAccessor().getValue((9, 1, 1)),
    min=list(m['file_bbox_min']), max=list(m['file_bbox_max']), count=m['file_voxel_count'],
    how=m['file_compression'], frame=m['frame'], centre=list(m['centre']))))`,
            path,
          ],
          { encoding: 'utf8' },
        ),
      ) as object;
      expect(said).toEqual({
        n: 512 + 256,
        leaves: 1,
        a: 2,
        min: [0, 0, 0],
        max: [15, 7, 7],
        count: 768,
        how: 'zip + active values',
        frame: 12,
        centre: [0.5, 1, 2],
      });
      const [back] = readVdb(bytes, { zip: nodeZip }).grids;
      expect([back.leaves.length, back.tiles.length]).toEqual([1, 1]);
      expect(toDense(back, [8, 0, 0], [8, 8, 8])[0]).toEqual(new Float32Array(512).fill(2));
    },
  );
});
