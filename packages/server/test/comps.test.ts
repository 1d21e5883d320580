// Comps on the server: put aside, fed, and brought over from earlier programs.
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { unpackWords } from '@bramblemist/core/combine/raw-picture';
import { sha256 } from '@bramblemist/core/io/node/files';
import { encodePng } from '@bramblemist/core/io/node/png';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import * as comps from '@bramblemist/server/migrations/0012-comps';
import { BroughtFile, CombineRun, Variant } from '@bramblemist/server/models';
import { shelvePlates } from '@bramblemist/server/storage/shelve-plates';
import { Storage } from '@bramblemist/server/storage/storage';
import { testServer, type TestServer } from './harness';

let server: TestServer;
beforeAll(async () => {
  server = await testServer();
  await server.ask(routes.productions, { body: { name: 'Test' } });
});
afterAll(() => server.close());

const shotNow = async (id: number): Promise<ShotInfo> => (await server.ask(routes.shot(id))).data as ShotInfo;

test('comps are put aside, noted and taken away; feeds are told and decoded', async () => {
  const [{ id: productionId }] = (await server.ask(routes.productions)).data as { id: number }[];
  const made = await server.ask(routes.shots, {
    body: { productionId, name: 'Comps', example: 'warm-plume' },
  });
  const shotId = made.data.id as number;
  const variant = (await shotNow(shotId)).variants[0];
  expect(variant.combine).toMatchObject({ version: 2, name: 'Comps', layers: [] });
  expect(variant.combine.frame.last).toBe(variant.recipe.space.lastFrame);
  const settings = { name: 'a', layers: [{ id: 'l', name: 'L', feed: { kind: 'plain' } }] };
  const first = await server.ask(routes.comps(shotId), { body: { settings, note: 'first' } });
  const second = await server.ask(routes.comps(shotId), { body: { settings } });
  expect([first.status, first.data.number, second.data.number]).toEqual([201, 1, 2]);
  expect((await server.ask(routes.comps(shotId), { body: { settings: { layers: 3 } } })).status).toBe(422);
  expect((await server.ask(routes.comps(999_999), { body: { settings } })).status).toBe(404);
  await server.ask(routes.comp(first.data.id as number), { method: 'PATCH', body: { note: 'softer' } });
  await server.ask(routes.comp(second.data.id as number), { method: 'DELETE' });
  const { comps } = await shotNow(shotId);
  expect(comps.map(({ number, note, settings: s }) => [number, note, s.layers[0].name])).toEqual([
    [1, 'softer', 'L'],
  ]);

  const form = new FormData();
  const png = encodePng({ width: 8, height: 4, rgba: new Float32Array(128).fill(0.5) });
  form.append('file', new Blob([png as BlobPart]), 'plate.png');
  const info = (await (
    await fetch(server.address + routes.files, { method: 'POST', body: form })
  ).json()) as {
    sha256: string;
    report: object;
  };
  expect(info.report).toMatchObject({ kind: 'picture', width: 8 });
  const frame = await fetch(server.address + routes.fileFrame(info.sha256, 1));
  expect(frame.headers.get('x-kind')).toBe('words');
  const raw = unpackWords(new Uint8Array(await frame.arrayBuffer()));
  expect(raw).toMatchObject({ width: 8, height: 4, encoding: 'srgb' });
  expect((await fetch(server.address + routes.fileFrame('0'.repeat(64), 1))).status).toBe(404);
  expect((await server.ask(routes.renderFeed(999_999))).status).toBe(404);
  // a file that a comp uses is not cleared
  const combine = {
    ...variant.combine,
    files: [{ id: 'p', name: 'plate.png', sha256: info.sha256, kind: 'picture' }],
  };
  const saved = await server.ask(routes.variant(variant.id), {
    method: 'PATCH',
    body: { combine },
    headers: { 'If-Match': `"${variant.revision}"` },
  });
  expect(saved.status).toBe(200);
  const shelf = (await server.ask(routes.files)).data as unknown as { sha256: string; usedIn: string[] }[];
  expect(shelf.find(({ sha256 }) => sha256 === info.sha256)!.usedIn).toEqual(['Comps, variant 1']);
});

test('combines and plates of earlier programs become comps and files', async () => {
  const [{ id: productionId }] = (await server.ask(routes.productions)).data as { id: number }[];
  const made = await server.ask(routes.shots, { body: { productionId, name: 'Old', example: 'warm-plume' } });
  const shotId = made.data.id as number;
  const [variant] = (await shotNow(shotId)).variants;
  const database = Variant.sequelize!;
  const q = database.getQueryInterface();
  await comps.down(q);
  const now = new Date();
  const add = async (table: string, row: Record<string, unknown>): Promise<number> => {
    const [id] = await database.query(
      `INSERT INTO ${table} (${Object.keys(row).join(', ')}, created_at, updated_at) VALUES (?)`,
      { replacements: [[...Object.values(row), now, now]], type: QueryTypes.INSERT },
    );
    return id;
  };

  const png = encodePng({ width: 8, height: 4, rgba: new Float32Array(128).fill(0.25) });
  const storage = new Storage(server.folder);
  const hash = sha256(png);
  mkdirSync(dirname(storage.assetFile(hash)), { recursive: true });
  writeFileSync(storage.assetFile(hash), png);
  const plate = {
    shot_id: shotId,
    name: 'old.png',
    kind: 'plate',
    sha256: hash,
    bytes: png.length,
    width: 8,
    height: 4,
  };
  const plateId = await add('assets', { ...plate, series: '' });
  const bakeId = await add('bakes', {
    variant_id: variant.id,
    recipe: JSON.stringify(variant.recipe),
    recipe_sha256: 'x',
    voxel_size_m: 0.1,
    first_frame: 1,
    last_frame: 4,
    locked: false,
    files: '',
    emptied: false,
  });
  const range = { first_frame: 1, last_frame: 4, emptied: false };
  const renderId = await add('renders', { bake_id: bakeId, look: JSON.stringify(variant.look), ...range });
  const old = { version: 1, name: 'Old', element: { mode: 'screen', opacity: 0.5 }, plate: { stops: 1 } };
  const settings = JSON.stringify(old);
  const combineId = await add('combines', { render_id: renderId, plate_id: plateId, settings, ...range });
  await database.query('UPDATE variants SET combine = ? WHERE id = ?', {
    replacements: [settings, variant.id],
  });

  await comps.up(q);
  await shelvePlates(database, storage);
  const run = (await CombineRun.findByPk(combineId))!;
  expect(run).toMatchObject({ shotId, output: { exr: 'half', png: 8 } });
  for (const comp of [run.settings, (await Variant.findByPk(variant.id))!.combine]) {
    expect(
      comp.layers.map(({ feed, meet, opacity }) => [feed.kind, feed.render, feed.file, meet, opacity]),
    ).toEqual([
      ['render', renderId, '', 'screen', 50],
      ['file', 0, 'plate', 'over', 100],
    ]);
    expect(comp.files).toMatchObject([{ id: 'plate', name: 'old.png', sha256: hash, kind: 'picture' }]);
    expect(comp.frame.last).toBe(variant.recipe.space.lastFrame);
  }

  expect(await BroughtFile.findOne({ where: { sha256: hash } })).toMatchObject({ name: 'old.png' });
  expect(existsSync(join(server.folder, 'files', `${hash}.png`))).toBe(true);
  expect((await fetch(server.address + routes.fileFrame(hash, 1))).status).toBe(200);
});
