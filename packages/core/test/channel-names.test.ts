// Grids under other names: voxels untouched, other programs read them, our own finds them again.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checkChannelNames, parseChannelNames } from '@bramblemist/core/cache/channel-names';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { renamedVdb } from '@bramblemist/core/files/vdb/rename';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { bake } from '@bramblemist/core/io/node/bake';
import { openCache, verifyCache } from '@bramblemist/core/io/node/cache';
import { renameCache } from '@bramblemist/core/io/node/channels';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { gridsFrom, PUFF, recipeOf, simulate } from './run';

const folder = mkdtempSync(join(tmpdir(), 'channels-'));
afterAll(() => rmSync(folder, { recursive: true }));

const recipe = recipeOf({
  space: { lastFrame: 3 },
  sources: [PUFF],
  buoyancy: { lift: 0.03 },
  keep: { temperature: true, velocity: true },
});

test('names of any length leave the voxels as they are, and a grid can be left out', () => {
  const s = simulate(recipe);
  s.advanceFrame();
  const bytes = writeVdb(gridsFrom(s), { zip: nodeZip });
  const before = readVdb(bytes, { zip: nodeZip });
  const names: Record<string, string | null> = { density: 'd', temperature: null, velocity: 'v'.repeat(60) };
  const after = readVdb(
    renamedVdb(bytes, (name) => names[name]),
    { zip: nodeZip },
  );
  expect(after.grids.map((g) => g.name)).toEqual(['d', 'v'.repeat(60)]);
  expect(after.grids.map((g) => g.metadata.name)).toEqual(['d', 'v'.repeat(60)]);
  const [density, , velocity] = before.grids;
  expect(after.grids[0]).toEqual({
    ...density,
    name: 'd',
    metadata: { ...density.metadata, name: 'd' },
  });
  expect(after.grids[1].leaves).toEqual(velocity.leaves);
  // there and back again is the same file
  const back = renamedVdb(
    renamedVdb(bytes, (name) => `${name}_x`),
    (name) => name.slice(0, -2),
  );
  expect(Buffer.from(back).equals(Buffer.from(bytes))).toBe(true);
});

test('the reference library reads it', () => {
  const s = simulate(recipe);
  s.advanceFrame();
  const path = join(folder, 'renamed.vdb');
  writeFileSync(
    path,
    renamedVdb(writeVdb(gridsFrom(s)), (name) => ({ density: 'smoke', velocity: 'vel' })[name] ?? null),
  );
  const said = execFileSync(
    '/usr/bin/python3',
    [
      '-c',
      `import pyopenvdb as vdb
grids, _ = vdb.readAll(${JSON.stringify(path)})
print([(g.name, g.metadata['name'], g.activeVoxelCount() > 0) for g in grids])`,
    ],
    { encoding: 'utf8' },
  );
  expect(said.trim()).toBe("[('smoke', 'smoke', True), ('vel', 'vel', True)]");
});

test('what is no such file, or would be none, is refused', () => {
  const bytes = writeVdb(gridsFrom(simulate(recipe)));
  expect(() => renamedVdb(new Uint8Array(80), (n) => n)).toThrow('This is not an OpenVDB file');
  expect(() => renamedVdb(bytes.subarray(0, 200), (n) => n)).toThrow(/at byte \d+/);
  expect(() => renamedVdb(bytes, () => null)).toThrow('No grid is left of it');
  expect(() => renamedVdb(bytes, () => 'same')).toThrow('Two grids would be called same');
});

test.each([
  [{ density: 'my smoke' }, 'density: “my smoke” is no name for a grid'],
  [{ density: 'vel', velocity: 'vel' }, 'density and velocity would both be called vel'],
  [{ density: 'temperature' }, 'density and temperature would both be called temperature'],
  [{ density: '', temperature: '', velocity: '' }, 'No channel is left'],
  [{ smoke: 'density' }, 'There is no channel smoke'],
])('names %j are refused', (names, says) => {
  expect(() => checkChannelNames(names as object, ['density', 'temperature', 'velocity'])).toThrow(says);
});

test('names as they are typed', () => {
  expect(parseChannelNames('density=smoke, velocity = vel,age=')).toEqual({
    density: 'smoke',
    velocity: 'vel',
    age: '',
  });
  expect(() => parseChannelNames('density')).toThrow('“density” is not of the form channel=name');
});

test('a cache under other names is whole, and opens as what it is', () => {
  const own = join(folder, 'own');
  bake(recipe, { folder: own, threads: 1, bricks: false, onFrame: () => undefined });
  const source = openCache(own);
  const to = join(folder, 'theirs');
  const made = renameCache(source, { density: 'smoke', temperature: '' }, to, () => undefined);
  expect(made).toMatchObject({
    complete: true,
    channels: ['density', 'velocity'],
    names: { density: 'smoke', velocity: 'velocity' },
  });
  const theirs = openCache(to);
  expect(verifyCache(to, () => undefined)).toEqual([]);
  expect([...theirs.read(3).channels.keys()]).toEqual(['density', 'velocity']);
  expect(theirs.read(3).channels.get('density')).toEqual(source.read(3).channels.get('density'));
  const grids = readVdb(readFileSync(join(to, theirs.manifest.frames[0].file)), { zip: nodeZip }).grids;
  expect(grids.map((g) => g.name)).toEqual(['smoke', 'velocity']);
});
