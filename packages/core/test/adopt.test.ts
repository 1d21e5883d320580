// Volumes from elsewhere: which grid is taken as what, on which lattice, and what is told of gaps and
// differences.
import { zipSync } from 'fflate';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { adoptVolume, gridReports } from '@bramblemist/core/volume/adopt';
import { cornerOf, trilinearSampler, measureVolume } from '@bramblemist/core/volume/volume';
import type { VdbGrid } from '@bramblemist/core/files/vdb/format';
import { toLeaves } from '@bramblemist/core/files/vdb/leaves';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { bringVolumes, lookAtVolumes } from '@bramblemist/core/io/node/bring';
import { openCache } from '@bramblemist/core/io/node/cache';
import { dropParts } from '@bramblemist/core/io/node/files';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Triple } from '@bramblemist/core/math/vector';

const H = 0.2;
const DIMS: Triple = [10, 8, 9];
type Field = (x: number, y: number, z: number) => number;

function grid(name: string, fields: Field | [Field, Field, Field], more: Partial<VdbGrid> = {}): VdbGrid {
  const { translation = [0.1, 0.1, 0.1], voxelSize = [H, H, H] } = more;
  const parts = [fields].flat().map((f) =>
    Float32Array.from({ length: 720 }, (_, n) => {
      const [x, y, z] = [n % 10, Math.floor(n / 10) % 8, Math.floor(n / 80)].map(
        (c, a) => translation[a] + c * voxelSize[a],
      );
      return f(x, y, z);
    }),
  );
  const active = Uint8Array.from(parts[0], (v) => Number(parts.length === 3 || v !== 0));
  return {
    name,
    kind: parts.length === 3 ? 'vec3' : 'float',
    half: false,
    background: parts.map(() => 0),
    translation,
    voxelSize,
    metadata: {},
    tiles: [],
    ...more,
    leaves: toLeaves(parts, active, DIMS, [0, 0, 0]),
  };
}

const cloud: Field = (x, y, z) => Math.max(0, 0.6 - Math.hypot(x - 1, y - 0.8, z - 0.9));
const file = (...grids: VdbGrid[]): ReturnType<typeof readVdb> => readVdb(writeVdb(grids));
const mass = (v: Parameters<typeof measureVolume>[0]): number => measureVolume(v, 0, 0).mass!;

describe('what is taken as what', () => {
  test('grids that are called as ours stay as they are', () => {
    const { volume, notes } = adoptVolume(
      file(
        grid('density', cloud),
        grid('temperature', () => 5),
      ),
      3,
    );
    expect([volume.frame, [...volume.channels.keys()], notes]).toEqual([3, ['density', 'temperature'], []]);
    expect(trilinearSampler(volume, volume.channels.get('density')![0])(1, 0.8, 0.9)).toBeGreaterThan(0.4);
  });
  test('other names in use are known, and told; what is not known is left out, and told', () => {
    const { volume, notes } = adoptVolume(
      file(
        grid('smoke', cloud),
        grid('heat', () => 40),
        grid('Cd', [() => 1, () => 0.5, () => 0]),
        grid('fuel', () => 1),
      ),
      1,
    );
    expect([...volume.channels.keys()]).toEqual(['density', 'temperature', 'colour']);
    expect(notes.join('; ')).toMatch(
      /smoke is taken as the density.*heat is taken as temperature.*Cd is taken as colour.*left out: fuel/,
    );
  });
  test('velocity at the middles comes to the faces', () => {
    const { volume, notes } = adoptVolume(
      file(grid('density', cloud), grid('vel', [(x) => x, () => 2, () => 0])),
      1,
    );
    const u = trilinearSampler(volume, volume.channels.get('velocity')![0], 0);
    expect(u(1.03, 0.9, 0.9)).toBeCloseTo(1.03, 4);
    expect(notes.join()).toMatch(/brought to their faces/);
    const staggered = adoptVolume(
      file(
        grid('density', cloud),
        grid('vel', [(x) => x, () => 2, () => 0], { metadata: { class: 'staggered' } }),
      ),
      1,
    ).volume;
    expect(
      trilinearSampler(staggered, staggered.channels.get('velocity')![0], 0)(1.03, 0.9, 0.9),
    ).toBeCloseTo(1.13, 4);
  });
  test('a surface becomes a medium inside of it', () => {
    const ball: Field = (x, y, z) => Math.hypot(x - 1, y - 0.8, z - 0.9) - 0.5 || 1e-9;
    const { volume, notes } = adoptVolume(
      file(grid('surface', ball, { metadata: { class: 'level set' }, background: [0.6] })),
      1,
    );
    expect(mass(volume) / ((4 / 3) * Math.PI * 0.125)).toBeCloseTo(1, 0);
    expect(notes.join()).toMatch(/is a surface/);
  });
  test('what cannot be a medium says so', () => {
    expect(() => adoptVolume(file(grid('vel', [() => 1, () => 1, () => 1])), 1)).toThrow(
      /no float grid that can be a medium \(it holds: vel\)/,
    );
    expect(() => adoptVolume(file(grid('density', cloud, { voxelSize: [0.2, 0.1, 0.2] })), 1)).toThrow(
      /no cubes/,
    );
  });
});

describe('the lattice', () => {
  test('one that is shifted by whole voxels keeps its values and its place', () => {
    const { volume, notes } = adoptVolume(
      file(grid('density', cloud, { translation: [0.1 + 3 * H, 0.1 - H, 0.1] })),
      1,
    );
    expect(notes).toEqual([]);
    expect(volume.translation).toEqual([H / 2, H / 2, H / 2]);
    const wanted = cloud(1.1, 0.7, 0.9);
    expect(trilinearSampler(volume, volume.channels.get('density')![0])(1.1, 0.7, 0.9)).toBeCloseTo(
      wanted,
      5,
    );
  });
  test('one that lies between ours stays there, value by value', () => {
    const shifted = file(grid('density', cloud, { translation: [0.16, 0.02, 0.1] }));
    const { volume, notes } = adoptVolume(shifted, 1);
    expect(notes).toEqual([]);
    const [u, v, w] = cornerOf(volume).map((c) => c / H - Math.floor(c / H));
    expect([u, v]).toEqual([expect.closeTo(0.3, 5), expect.closeTo(0.6, 5)]);
    expect(Math.min(w, 1 - w)).toBeCloseTo(0, 5);
    expect(Math.max(...volume.channels.get('density')![0])).toBe(
      Math.max(...shifted.grids[0].leaves.flatMap((l) => [...l.values])),
    );
  });
  test('a grid on another lattice is left out, and told', () => {
    const { volume, notes } = adoptVolume(
      file(
        grid('density', cloud),
        grid('temperature', () => 1, { voxelSize: [0.1, 0.1, 0.1] }),
      ),
      1,
    );
    expect([...volume.channels.keys()]).toEqual(['density']);
    expect(notes.join()).toMatch(/another lattice/);
  });
});

test('a list says of each grid its type, box, range and voxels', () => {
  const [density, velocity] = gridReports(
    file(grid('density', cloud), grid('vel', [() => 3, () => 4, () => 0])),
  );
  expect(density).toMatchObject({ name: 'density', type: 'float', voxelSizeM: H });
  expect(density.range![1]).toBeLessThanOrEqual(0.6);
  expect(velocity).toMatchObject({
    type: 'vec3',
    voxels: 720,
    range: [5, 5],
    box: { least: [0, 0, 0].map(() => expect.closeTo(0, 6) as number) },
  });
});

describe('a sequence', () => {
  const folder = mkdtempSync(join(tmpdir(), 'bring-'));
  const write = (name: string, ...grids: VdbGrid[]): void =>
    writeFileSync(join(folder, name), writeVdb(grids));
  mkdirSync(join(folder, 'some'));
  for (const n of [3, 4, 7])
    write(
      `some/fog_${n}.vdb`,
      grid('density', (x, y, z) => cloud(x - 0.05 * n, y, z)),
      ...(n === 4 ? [grid('heat', () => 9)] : []),
    );
  afterAll(() => rmSync(folder, { recursive: true }));

  test('with gaps and grids that come and go is told, and brought in whole', () => {
    const { report } = lookAtVolumes(join(folder, 'some'));
    expect(report).toMatchObject({ first: 3, last: 7, voxelSizeM: H });
    expect(report.channels).toEqual(['density', 'temperature']);
    expect(report.notes.join('; ')).toMatch(
      /frames 5, 6 are missing: the frame before stands in; frames 4 hold other grids/,
    );
    const { manifest } = bringVolumes(join(folder, 'some'), 'fog', parseRecipe({ name: 'Shot' }), {
      folder: join(folder, 'cache'),
      bricks: true,
      onFrame: () => {},
    });
    expect(manifest).toMatchObject({ complete: true, made: [{ by: 'brought', settings: { name: 'fog' } }] });
    expect(manifest.frames.map((f) => f.frame)).toEqual([3, 4, 5, 6, 7]);
    const cache = openCache(join(folder, 'cache'));
    expect(mass(cache.read(5))).toBeCloseTo(mass(cache.read(4)), 6);
    expect([...cache.read(7).channels.keys()]).toEqual(['density', 'temperature']);
    expect(manifest.frames[0].readings.mass).toBeGreaterThan(0);
  });
  test('what a killed process left half-written goes, wherever it lies', () => {
    const cache = join(folder, 'cache');
    for (const part of ['fog.0009.vdb.part-77', 'preview/fog.0009.brick.part-77'])
      writeFileSync(join(cache, part), 'half');
    dropParts(cache);
    expect((readdirSync(cache, { recursive: true }) as string[]).filter((n) => n.includes('part'))).toEqual(
      [],
    );
    expect(readdirSync(join(cache, 'preview'))).toHaveLength(5);
  });
  test('as a ZIP it is the same', () => {
    const bytes = writeVdb([grid('density', cloud)]);
    writeFileSync(join(folder, 'fog.zip'), zipSync({ 'fog.0001.vdb': bytes, 'fog.0002.vdb': bytes }));
    expect(lookAtVolumes(join(folder, 'fog.zip')).report).toMatchObject({ first: 1, last: 2, notes: [] });
  });
  test.each([
    [
      'a folder without volumes',
      () => {
        mkdirSync(join(folder, 'none'), { recursive: true });
        return 'none';
      },
      /no numbered .vdb files/,
    ],
    [
      'a ZIP of something else',
      () => {
        writeFileSync(join(folder, 'other.zip'), zipSync({ 'a.1.csv': new Uint8Array(3) }));
        return 'other.zip';
      },
      /not of .csv/,
    ],
    [
      'two sizes of voxels',
      () => {
        mkdirSync(join(folder, 'two'), { recursive: true });
        write('two/a1.vdb', grid('density', cloud));
        write(
          'two/a2.vdb',
          grid('density', cloud, { voxelSize: [0.1, 0.1, 0.1], translation: [0.05, 0.05, 0.05] }),
        );
        return 'two';
      },
      /a2.vdb: its voxels are of 0.1 m/,
    ],
    [
      'one number twice',
      () => {
        mkdirSync(join(folder, 'twice'), { recursive: true });
        write('twice/a1.vdb', grid('density', cloud));
        write('twice/b1.vdb', grid('density', cloud));
        return 'twice';
      },
      /have the number 1/,
    ],
    [
      'a broken file',
      () => {
        mkdirSync(join(folder, 'bad'), { recursive: true });
        writeFileSync(join(folder, 'bad/a1.vdb'), 'hello there');
        return 'bad';
      },
      /a1.vdb: This is not an OpenVDB file/,
    ],
  ])('%s is refused by its name', (_name, make, says) => {
    expect(() => lookAtVolumes(join(folder, make()))).toThrow(says);
  });
});
