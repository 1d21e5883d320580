// The shelf of files, and recipes that use them, against the real database and the real command line.
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { encode } from 'fast-png';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import { routes } from '@bramblemist/contracts/routes';
import { writeObj } from '@bramblemist/core/files/obj/obj';
import { LOOK } from '@bramblemist/core/look/look';
import { parseRecipe, RECIPE } from '@bramblemist/core/recipe/recipe';
import * as fieldNames from '@bramblemist/server/migrations/0006-field-names';
import { Variant } from '@bramblemist/server/models';
import { boxMesh } from '../../core/test/meshes';
import { saveRecipe, testServer, until, type TestServer } from './harness';

let server: TestServer;
beforeAll(async () => {
  server = await testServer();
});
afterAll(() => server.close());

async function bring(
  name: string,
  data: Uint8Array | string,
): Promise<{ status: number; data: FileInfo & { error?: string } }> {
  const form = new FormData();
  form.append('file', new Blob([data as BlobPart]), name);
  const r = await fetch(server.address + routes.files, { method: 'POST', body: form });
  return { status: r.status, data: (await r.json()) as FileInfo };
}

const OBJ = writeObj(boxMesh(0.3, 0.1, 0.3));

test('a mesh is checked, kept once, listed with where it is used, and served as it came', async () => {
  const first = await bring('steps.obj', OBJ);
  expect(first).toMatchObject({
    status: 201,
    data: { name: 'steps.obj', report: { kind: 'mesh', triangles: 12, openEdges: 0 } },
  });
  expect((await bring('again.obj', OBJ)).status).toBe(200);
  expect(await (await fetch(server.address + routes.fileData(first.data.sha256))).text()).toBe(OBJ);
  const picture = await bring(
    'spots.png',
    encode({ width: 3, height: 2, channels: 1, data: new Uint8Array(6) }),
  );
  expect(picture.data.report).toEqual({ kind: 'picture', width: 3, height: 2, notes: [] });

  const production = (await server.ask(routes.productions, { body: { name: 'Test' } })).data.id as number;
  const { id } = (await server.ask(routes.shots, { body: { productionId: production, name: 'Cellar' } }))
    .data as { id: number };
  const shot = (await server.ask(routes.shot(id))).data as ShotInfo;
  const recipe = parseRecipe({
    name: 'Cellar',
    space: { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.05, lastFrame: 2 },
    files: [{ id: 'f', name: 'steps.obj', sha256: first.data.sha256 }],
    sources: [{ id: 's', centre: [0, 0.8, 0], radius: 0.1 }],
    obstacles: [{ id: 'o', name: 'Steps', shape: 'mesh', file: 'f', centre: [0, 0.2, 0] }],
  });
  await saveRecipe(server, shot.variants[0].id, recipe);
  const list = (await server.ask(routes.files)).data as FileInfo[];
  expect(list.map((f) => [f.name, f.usedIn])).toEqual([
    ['spots.png', []],
    ['steps.obj', ['Cellar, variant 1']],
  ]);
  expect((await server.ask(routes.cost, { body: { recipe, voxelSizeM: 0.1 } })).status).toBe(200);
  await server.ask(routes.bakes(shot.variants[0].id), {
    body: { voxelSizeM: 0.1, frames: { first: 1, last: 2 } },
  });
  const job = await until(async () => {
    const now = ((await server.ask(routes.shot(id))).data as ShotInfo).bakes[0]?.job;
    return now && !['queued', 'running'].includes(now.state) ? now : null;
  });
  expect(job).toMatchObject({ state: 'done', message: null });
  const missing = { ...recipe, files: [{ ...recipe.files[0], sha256: 'f'.repeat(64) }] };
  expect((await server.ask(routes.cost, { body: { recipe: missing, voxelSizeM: 0.1 } })).data.error).toMatch(
    /steps\.obj is not in the folder/,
  );
});

test.each<[string, string, Uint8Array | string, RegExp]>([
  ['another kind', 'notes.txt', 'hello', /notes\.txt: No file of this kind is taken\. Meshes come as/],
  ['empty', 'empty.obj', '', /empty\.obj: The file is empty/],
  ['corrupt', 'cut.stl', new Uint8Array(200), /cut\.stl: It is no STL file/],
  ['NaN', 'nan.obj', 'v 0 0 nan\n', /nan\.obj: Line 1/],
  ['a picture by another name', 'mesh.png', OBJ, /mesh\.png: It is no PNG/],
])('%s: a clear refusal, nothing stored half', async (_name, name, data, words) => {
  const before = existsSync(join(server.folder, 'files')) ? readdirSync(join(server.folder, 'files')) : [];
  const answer = await bring(name, data);
  expect(answer.status).toBe(415);
  expect(answer.data.error).toMatch(words);
  expect(readdirSync(join(server.folder, 'uploads'))).toEqual([]);
  expect(existsSync(join(server.folder, 'files')) ? readdirSync(join(server.folder, 'files')) : []).toEqual(
    before,
  );
});

test('what is not on the shelf is not served', async () => {
  expect((await server.ask(routes.fileData('0'.repeat(64)))).status).toBe(404);
  expect((await server.ask('/api/files/..%2f..%2fdatabase.json/data')).status).toBe(404);
});

test.each([
  ['first', 1, { sources: [{ id: 'a', rate: 3 }] }, { sources: [{ density: { how: 'add', amount: 3 } }] }],
  [
    'second',
    2,
    {
      fading: { density: 7 },
      curves: [{ id: 'c', path: 'fading/density', keys: [{ frame: 1, value: 2, ease: 'hold' }] }],
    },
    { dissipation: { density: 7 }, curves: [{ path: 'dissipation/density' }] },
  ],
])('recipes of the %s version in the database are brought to this one', async (_, version, old, now) => {
  const q = Variant.sequelize!.getQueryInterface();
  const variant = (await Variant.findOne())!;
  await q.sequelize.query('UPDATE variants SET recipe = ? WHERE id = ?', {
    replacements: [JSON.stringify({ version, name: 'Old', ...old }), variant.id],
    type: QueryTypes.UPDATE,
  });
  await fieldNames.up(q);
  expect((await variant.reload()).recipe).toMatchObject({ version: RECIPE.version, ...now });
});

test('looks of earlier versions in the database come out in the form of this one', async () => {
  const variant = (await Variant.findOne())!;
  const old = { version: 1, name: 'Old', medium: { albedo: [0.5, 0.5, 0.5] }, sun: { heading: 10 } };
  await Variant.sequelize!.query('UPDATE variants SET look = ? WHERE id = ?', {
    replacements: [JSON.stringify(old), variant.id],
    type: QueryTypes.UPDATE,
  });
  const { look } = await variant.reload();
  expect(look).toMatchObject({
    version: LOOK.version,
    medium: { scatter: [0.5, 0.5, 0.5] },
    curves: [],
    files: [],
  });
  expect(look.lights[0].heading).toBe(10);
  expect(LOOK.parse(look)).toEqual(look);
});

test('pictures that a look is made with count as used', async () => {
  const variant = (await Variant.findOne())!;
  const sha256 = 'ab'.repeat(32);
  const look = LOOK.parse({ files: [{ id: 'p', name: 'sky.exr', sha256, kind: 'picture' }] });
  await variant.update({ look });
  expect((await variant.reload()).files).toContain(sha256);
  await variant.update({ recipe: variant.recipe });
  expect((await variant.reload()).files).toContain(sha256);
});
