// A ZIP that is sent while it is written: whole with its checksums, or broken off at once.
import { createWriteStream, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { finished, PassThrough } from 'node:stream';
import { promisify } from 'node:util';
import { unzipSync } from 'fflate';
import { CHECKSUMS, verifyPackage } from '@bramblemist/core/io/node/package';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { sheetOf } from '@bramblemist/server/services/package-sheet';
import { CheckedArchive } from '@bramblemist/core/io/node/checked-archive';

const folder = mkdtempSync(join(tmpdir(), 'archive-'));
afterAll(() => rmSync(folder, { recursive: true }));
const mist = Buffer.alloc(40_000_000, 'mist');
writeFileSync(join(folder, 'mist.vdb'), mist);
const ignore = (): void => undefined;

test('entries come in their order, and their checksums last', async () => {
  const path = join(folder, 'whole.zip');
  const out = createWriteStream(path);
  const done = promisify(finished)(out);
  const archive = new CheckedArchive(out);
  await archive.data('{}', 'manifest.json');
  await archive.file(join(folder, 'mist.vdb'), 'volumes/mist.0001.vdb');
  await archive.end();
  await done;
  const found = unzipSync(readFileSync(path));
  expect(Object.keys(found)).toEqual(['manifest.json', 'volumes/mist.0001.vdb', CHECKSUMS]);
  expect(Buffer.from(found['volumes/mist.0001.vdb']).equals(mist)).toBe(true);
  expect(verifyPackage(path, ignore)).toEqual([]);
});

test('a file that is not there breaks it off', async () => {
  const to = new PassThrough();
  to.resume();
  const archive = new CheckedArchive(to);
  await archive.data('{}', 'manifest.json');
  await expect(archive.file(join(folder, 'gone.vdb'), 'volumes/gone.vdb')).rejects.toThrow();
});

test('whoever stops taking it ends it', async () => {
  // nobody reads: it waits after a few kilobytes
  const to = new PassThrough();
  const archive = new CheckedArchive(to);
  const sent = archive.file(join(folder, 'mist.vdb'), 'volumes/mist.0001.vdb');
  setTimeout(() => to.destroy(), 50);
  await expect(sent).rejects.toThrow(/abort/i);
});

test('the sheet lists a scene only where there is one, and no name breaks its page', () => {
  const recipe = parseRecipe({ name: 'Mist <b>', sources: [] });
  const about = {
    shot: 'Weir & "lip"',
    version: 2,
    note: 'Thin <i>',
    bake: 1,
    recipe,
    recipeSha256: 'ab',
    voxelSizeM: 0.1,
  };
  const frames = [1, 2, 3, 7];
  const pieces = [
    { kind: 'Volumes', name: recipe.name, first: 'volumes/a.1.vdb', frames, files: 4 },
  ] as const;
  const [without, whole] = [false, true].map((hasScene) => sheetOf({ ...about, hasScene }, pieces, []));
  expect([without.includes('scene.usda'), whole.includes('scene.usda')]).toEqual([false, true]);
  expect(whole).toContain('1–3, 7 (4 frames)');
  expect(whole).toContain('<h1>Weir &amp; &quot;lip&quot;</h1>');
  expect(whole).not.toContain('<b>');
});

test('a list that names what is outside of its folder finds nothing there', () => {
  const own = mkdtempSync(join(folder, 'package-'));
  const sum = '0'.repeat(64);
  writeFileSync(join(own, CHECKSUMS), `${sum}  ../mist.vdb\n${sum}  /etc/hostname\n`);
  expect(verifyPackage(own, ignore).map((d) => d.what)).toEqual(['it is not there', 'it is not there']);
  writeFileSync(join(own, CHECKSUMS), 'mist\n');
  expect(() => verifyPackage(own, ignore)).toThrow(/“mist” names no file/);
});
