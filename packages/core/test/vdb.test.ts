import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FileError } from '@bramblemist/core/files/bytes';
import type { VdbGrid } from '@bramblemist/core/files/vdb/format';
import { activeBounds, toDense, toLeaves } from '@bramblemist/core/files/vdb/leaves';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { random } from './run';

const DIMS: [number, number, number] = [21, 13, 18];
const ORIGIN: [number, number, number] = [-11, -3, 120];

function field(seed: number): Float32Array {
  const next = random(seed);
  return Float32Array.from({ length: DIMS[0] * DIMS[1] * DIMS[2] }, () => Math.fround(next() * 3 - 1));
}

function mask(seed: number, part: number): Uint8Array {
  const next = random(seed);
  return Uint8Array.from({ length: DIMS[0] * DIMS[1] * DIMS[2] }, () => (next() < part ? 1 : 0));
}

function grid(name: string, kind: 'float' | 'vec3', half: boolean, active = mask(5, 0.4)): VdbGrid {
  const parts = kind === 'vec3' ? [field(1), field(2), field(3)] : [field(4)];
  return {
    name,
    kind,
    half,
    background: kind === 'vec3' ? [0, 0, 0] : [0],
    translation: [0.05, 0.05, 0.05],
    voxelSize: [0.1, 0.1, 0.1],
    metadata: { class: kind === 'vec3' ? 'staggered' : 'fog volume' },
    leaves: toLeaves(parts, active, DIMS, ORIGIN),
    tiles: [],
  };
}

const MINE = [
  grid('density', 'float', false),
  grid('thin', 'float', true),
  grid('velocity', 'vec3', false),
  grid('slow', 'vec3', true),
];

function expectSame(a: VdbGrid, b: VdbGrid): void {
  expect(activeBounds(b)).toEqual(activeBounds(a));
  const da = toDense(a, ORIGIN, DIMS);
  const db = toDense(b, ORIGIN, DIMS);
  da.forEach((v, c) => {
    for (let n = 0; n < v.length; n++)
      if (Math.abs(v[n] - db[c][n]) > (a.half ? 2 ** -10 : 0))
        throw new Error(`${a.name} differs at ${n}: ${v[n]} and ${db[c][n]}`);
  });
}

describe('our files read by us', () => {
  test.each(['zip', 'lz4', 'none'] as const)(
    '%s: grids, transforms, metadata and values come back',
    (packing) => {
      const file = readVdb(
        writeVdb(MINE, { packing, metadata: { creator: 'test', count: 3, ratio: 0.5, yes: true } }),
      );
      expect(file.metadata).toEqual({ creator: 'test', count: 3, ratio: 0.5, yes: true });
      expect(file.grids.map((g) => g.name)).toEqual(MINE.map((g) => g.name));
      file.grids.forEach((g, n) => {
        expect(g).toMatchObject({
          kind: MINE[n].kind,
          half: MINE[n].half,
          voxelSize: [0.1, 0.1, 0.1],
          translation: [0.05, 0.05, 0.05],
        });
        expectSame(MINE[n], g);
      });
    },
  );
  test('equal grids give equal bytes; grids of one name are told apart', () => {
    expect(Buffer.compare(writeVdb(MINE), writeVdb(MINE))).toBe(0);
    const twins = readVdb(writeVdb([MINE[0], MINE[0]]));
    expect(twins.grids.map((g) => g.name)).toEqual(['density', 'density']);
  });
  test('an empty grid and a file without grids are files too', () => {
    const empty = readVdb(writeVdb([grid('nothing', 'float', true, mask(1, 0))]));
    expect(activeBounds(empty.grids[0])).toBeNull();
    expect(readVdb(writeVdb([])).grids).toEqual([]);
  });
  test('only the grids asked for are read', () => {
    const { grids, others } = readVdb(writeVdb(MINE), { only: new Set(['velocity']) });
    expect(grids.map((g) => g.name)).toEqual(['velocity']);
    const rest = MINE.map((g) => g.name).filter((name) => name !== 'velocity');
    expect(others.map((g) => g.name)).toEqual(rest);
  });
});

describe('the reference library', () => {
  const folder = mkdtempSync(join(tmpdir(), 'vdb-'));
  afterAll(() => rmSync(folder, { recursive: true }));
  const python = (script: string): string =>
    execFileSync('/usr/bin/python3', ['-c', `import pyopenvdb as vdb, json, sys\n${script}`], {
      cwd: folder,
      encoding: 'utf8',
    });

  test.each(['zip', 'lz4', 'none'] as const)('reads our %s files voxel by voxel', (packing) => {
    writeFileSync(join(folder, 'ours.vdb'), writeVdb(MINE, { packing, zip: nodeZip }));
    const out = JSON.parse(
      python(`
grids, meta = vdb.readAll('ours.vdb')
result = {}
for g in grids:
    voxels = []
    for item in g.citerOnValues():
        assert item.count == 1
        v = item.value
        voxels.append([list(item.min), list(v) if isinstance(v, tuple) else [v]])
    at = list(g.transform.indexToWorld((0, 0, 0)))
    size = list(g.transform.voxelSize())
    result[g.name] = dict(voxels=voxels, size=size, at=at, half=g.saveFloatAsHalf, cls=g['class'])
print(json.dumps(result))`),
    ) as Record<
      string,
      { voxels: [number[], number[]][]; size: number[]; at: number[]; half: boolean; cls: string }
    >;
    for (const g of MINE) {
      const theirs = out[g.name];
      const dense = toDense(g, ORIGIN, DIMS);
      expect(theirs.voxels.length).toBe(activeBounds(g)!.voxels);
      expect(theirs).toMatchObject({ half: g.half, cls: g.metadata.class });
      theirs.size.forEach((s) => expect(s).toBeCloseTo(0.1, 12));
      theirs.at.forEach((s) => expect(s).toBeCloseTo(0.05, 12));
      for (const [p, v] of theirs.voxels) {
        const n = ((p[2] - ORIGIN[2]) * DIMS[1] + p[1] - ORIGIN[1]) * DIMS[0] + p[0] - ORIGIN[0];
        v.forEach((x, c) => {
          if (Math.abs(x - dense[c][n]) > (g.half ? 2 ** -10 : 0))
            throw new Error(`${g.name} at ${p.join()}: ${x}, not ${dense[c][n]}`);
        });
      }
    }
  });

  test(
    'writes files that we read: its own compression, half floats, tiles, negative coordinates, several ' +
      'grids',
    () => {
      const expected = JSON.parse(
        python(`
a = vdb.FloatGrid(0.25)
a.name = 'blob'
a.fill((-20, -5, -9), (50, 40, 30), 2.5)      # tiles and leaves
a.fill((0, 0, 0), (3, 3, 3), -1.0, False)     # inactive values that are not the background
acc = a.getAccessor()
for n in range(300): acc.setValueOn((n * 7 % 90 - 45, n * 13 % 70 - 35, n * 29 % 50 - 25), n * 0.125 - 8)
a.transform = vdb.createLinearTransform(0.2)
h = a.deepCopy(); h.name = 'half'; h.saveFloatAsHalf = True
v = vdb.Vec3SGrid((0, 0, 0)); v.name = 'flow'; va = v.getAccessor()
for n in range(200): va.setValueOn((n % 11 - 300, n % 17, n % 23), (n, -n, n * 0.5))
b = vdb.BoolGrid(); b.name = 'mask'; b.fill((0, 0, 0), (4, 4, 4), True)
vdb.write('theirs.vdb', grids=[a, b, h, v])
r = {}
places = [(n % 80 - 30, n * 7 % 60 - 20, n * 3 % 50 - 15) for n in range(400)]
for g in [a, h]:
    look = g.getConstAccessor()
    r[g.name] = dict(n=g.activeVoxelCount(), probe=[look.getValue(p) for p in places])
r['flow'] = dict(n=v.activeVoxelCount())
print(json.dumps(r))`),
      ) as Record<string, { n: number; probe: number[] }>;
      const file = readVdb(readFileSync(join(folder, 'theirs.vdb')), { zip: nodeZip });
      expect(file.grids.map((g) => g.name)).toEqual(['blob', 'half', 'flow']);
      expect(file.others.map((g) => g.name)).toEqual(['mask']);
      for (const g of file.grids) expect(activeBounds(g)!.voxels).toBe(expected[g.name].n);
      for (const g of file.grids.slice(0, 2)) {
        const [dense] = toDense(g, [-30, -20, -15], [80, 60, 50]);
        expected[g.name].probe.forEach((value, n) => {
          const got = dense[(((n * 3) % 50) * 60 + ((n * 7) % 60)) * 80 + (n % 80)];
          expect(Math.abs(got - value)).toBeLessThanOrEqual(g.half ? Math.abs(value) * 2 ** -10 : 0);
        });
        expect(g.voxelSize[0]).toBeCloseTo(0.2, 12);
      }

      const [x, y, z] = toDense(file.grids[2], [-300, 0, 0], [11, 17, 23]);
      expect([x, y, z].map((c) => c[((15 % 23) * 17 + 15) * 11 + 4])).toEqual([15, -15, 7.5]);
    },
  );
});

describe('damaged and hostile files', () => {
  const whole = writeVdb([MINE[0], MINE[3]], { zip: nodeZip });
  const outcome = (data: Uint8Array): string => {
    const start = performance.now();
    try {
      readVdb(data, { zip: nodeZip });
      return 'read';
    } catch (error) {
      if (!(error instanceof FileError)) throw error;
      return error.message;
    } finally {
      expect(performance.now() - start).toBeLessThan(3000);
    }
  };

  test('a file cut off anywhere is refused', () => {
    for (let n = 0; n < whole.length; n += Math.max(1, Math.floor(whole.length / 300)))
      expect(outcome(whole.subarray(0, n))).not.toBe('read');
  });
  test('flipped bytes never crash or hang', () => {
    const next = random(11);
    for (let n = 0; n < 400; n++) {
      const broken = whole.slice();
      for (let f = 0; f < 3; f++)
        broken[Math.floor(next() * (n % 2 ? 6000 : broken.length))] = Math.floor(next() * 256);
      outcome(broken);
    }
  });
  test('absurd counts are refused before anything is allocated', () => {
    const count = 8 + 4 * 3 + 1 + 36; // where the number of metadata stands
    for (const at of [count, count + 4]) {
      const broken = whole.slice();
      new DataView(broken.buffer).setUint32(at, 0x7fffffff, true);
      expect(outcome(broken)).toMatch(/cannot fit|absurd/);
    }
  });
  test('other files are told apart', () => {
    expect(outcome(new TextEncoder().encode('not a volume at all'))).toMatch(/not an OpenVDB file/);
    expect(outcome(new Uint8Array(0))).toMatch(/not an OpenVDB file/);
    const old = whole.slice();
    old[8] = 200;
    expect(outcome(old)).toMatch(/version 200 is not supported/);
  });
});
