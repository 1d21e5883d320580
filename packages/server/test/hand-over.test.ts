// Handing over beyond one ZIP: grids under other names, a folder on the server's machine, a contact sheet,
// and bundles that are run elsewhere and come back.
import { execFile, execFileSync } from 'node:child_process';
import { appendFileSync, existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { promisify } from 'node:util';
import { unzipSync, zipSync } from 'fflate';
import type { PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import type { BroughtBack } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { DEFAULT_NAMES } from '@bramblemist/core/cache/file-names';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { nodeZip, sha256 } from '@bramblemist/core/io/node/files';
import { CHECKSUMS, verifyPackage } from '@bramblemist/core/io/node/package';
import { saveRecipe, testServer, until, type TestServer } from './harness';

const CLI = resolve(__dirname, '../../cli/build/bramblemist.cjs');
const LOOK = { camera: { eye: [0, 0.5, 4], target: [0, 0.4, 0], width: 64, height: 48 } };
let server: TestServer;
let shot: ShotInfo;
let bake: number;

const shotNow = async (id = shot.id): Promise<ShotInfo> =>
  (await server.ask(routes.shot(id))).data as ShotInfo;
const ended = (pick: (s: ShotInfo) => JobInfo | null | undefined): Promise<JobInfo> =>
  until(async () => {
    const job = pick(await shotNow());
    return job && ['done', 'failed', 'stopped'].includes(job.state) ? job : null;
  });
const packingNow = async (): Promise<PackingInfo> =>
  (await server.ask(routes.packing(bake))).data as PackingInfo;
const bytesAt = async (path: string): Promise<Buffer> =>
  Buffer.from(await (await fetch(server.address + path)).arrayBuffer());

async function newShot(productionId: number, name: string): Promise<ShotInfo> {
  const made = await server.ask(routes.shots, { body: { productionId, name, example: 'warm-plume' } });
  const s = await shotNow(made.data.id as number);
  const { recipe, id } = s.variants[0];
  const space = { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.1, lastFrame: 3 };
  await saveRecipe(server, id, { ...recipe, space: { ...recipe.space, ...space } });
  return shotNow(s.id);
}

beforeAll(async () => {
  server = await testServer();
  const production = (await server.ask(routes.productions, { body: { name: 'Mill' } })).data.id as number;
  shot = await newShot(production, 'Puff');
  const frames = { first: 1, last: 3 };
  bake = (await server.ask(routes.bakes(shot.variants[0].id), { body: { voxelSizeM: 0.1, frames } })).data
    .id as number;
  await ended((s) => s.bakes.find((b) => b.id === bake)?.job);
  const render = (await server.ask(routes.renders(bake), { body: { look: LOOK, frames } })).data.id as number;
  await ended((s) => s.renders.find((r) => r.id === render)?.job);
  const settings = { count: 40 };
  const run = (await server.ask(routes.particles(bake), { body: { settings, format: 'ply' } })).data
    .id as number;
  await ended((s) => s.particleRuns.find((d) => d.id === run)?.job);
});
afterAll(() => server.close());

test('names of channels are kept, and volumes, manifest and scene have them', async () => {
  const channels = { density: 'smoke', velocity: 'vel', temperature: '' };
  const kept = await server.ask(routes.channelPresets(), { body: { name: 'The house', channels } });
  expect(kept).toMatchObject({ status: 201, data: { name: 'The house', channels } });
  // of the same name there is one
  await server.ask(routes.channelPresets(), { body: { name: 'The house', channels } });
  const packing = await packingNow();
  expect(packing).toMatchObject({
    channels: ['density', 'temperature', 'velocity'],
    presets: [{ name: 'The house', channels }],
    isPictured: true,
  });
  const lines = packing.lines.map((l) => l.key);
  expect(lines).toEqual(expect.arrayContaining(['review', expect.stringMatching(/^particles:/)]));

  const made = await server.ask(routes.packages(bake), { body: { names: DEFAULT_NAMES, lines, channels } });
  const files = unzipSync(new Uint8Array(await bytesAt(routes.package(made.data.id))));
  const { grids } = readVdb(files['volumes/puff_v001.0003.vdb'], { zip: nodeZip });
  expect(grids.map((g) => g.name)).toEqual(['smoke', 'vel']);
  const manifest = JSON.parse(Buffer.from(files['volumes/manifest.json']).toString()) as Manifest;
  expect(manifest).toMatchObject({
    channels: ['density', 'velocity'],
    names: { density: 'smoke', velocity: 'vel' },
  });
  expect(manifest.frames[2].bytes).toBe(files['volumes/puff_v001.0003.vdb'].length);
  const usda = Buffer.from(files['scene.usda']).toString();
  expect(usda).toContain('token fieldName = "smoke"');
  expect(usda).not.toContain('"temperature"');
  expect(usda).toContain('def Points "Particles"');
  expect(Object.keys(files)).toEqual(
    expect.arrayContaining(['contact.png', 'contact.pdf', 'review.mp4', expect.stringMatching(/\.ply$/)]),
  );
  expect(Buffer.from(files['contact.pdf']).toString('latin1', 0, 5)).toBe('%PDF-');

  for (const [wrong, says] of [
    [{ density: 'a b' }, 'Channels: density: “a b” is no name for a grid'],
    [{ density: 'vel', velocity: 'vel' }, 'would both be called vel'],
  ] as const)
    expect(
      await server.ask(routes.packages(bake), { body: { names: DEFAULT_NAMES, lines, channels: wrong } }),
    ).toMatchObject({ status: 422, data: { error: expect.stringContaining(says) } });
  expect(
    (await server.ask(routes.channelPresets(), { body: { name: 'x', channels: { smoke: 'y' } } })).status,
  ).toBe(422);
  const [{ id }] = (await packingNow()).presets;
  expect((await server.ask(routes.channelPreset(id), { method: 'DELETE' })).status).toBe(200);
  expect((await packingNow()).presets).toEqual([]);
});

test('a package is written into the folder, gone on with, and verified', async () => {
  const lines = ['volumes', 'documents', 'scene'];
  const made = await server.ask(routes.packages(bake), { body: { names: DEFAULT_NAMES, lines } });
  const { id, version } = made.data as { id: number; version: number };
  const write = async (): Promise<string> => {
    expect((await server.ask(routes.packageFolder(id), { method: 'POST' })).status).toBe(202);
    const own = await until(async () => {
      const { packages } = await packingNow();
      const { folder } = packages.find((p) => p.id === id)!;
      return folder && ['done', 'failed'].includes(folder.state) ? folder : null;
    });
    expect(own).toMatchObject({ state: 'done', message: '' });
    return join((await packingNow()).handOverFolder, own.path);
  };

  const folder = await write();
  expect(folder.endsWith(`/mill/puff_v${String(version).padStart(3, '0')}`)).toBe(true);
  expect(verifyPackage(folder, () => undefined)).toEqual([]);
  execFileSync('sha256sum', ['-c', '--quiet', CHECKSUMS], { cwd: folder });
  // what was damaged is written anew, what is right stays as it is
  const [first, second] = readdirSync(join(folder, 'volumes'))
    .filter((name) => name.endsWith('.vdb'))
    .map((name) => join(folder, 'volumes', name));
  appendFileSync(first, 'x');
  const { mtimeMs } = statSync(second);
  expect(await write()).toBe(folder);
  expect(verifyPackage(folder, () => undefined)).toEqual([]);
  expect(statSync(second).mtimeMs).toBe(mtimeMs);
  expect(readdirSync(folder, { recursive: true }).filter((n) => String(n).includes('.part-'))).toEqual([]);
});

test('the contact sheet is shown before anything is packed', async () => {
  const answer = await fetch(server.address + routes.contactSheet(bake, 'now'));
  expect(answer.headers.get('content-type')).toBe('image/png');
  expect((await answer.arrayBuffer()).byteLength).toBeGreaterThan(500);
  expect((await fetch(server.address + routes.contactSheet(99_999, 'now'))).status).toBe(404);
});

describe('bundles', () => {
  const fetched = async (path: string, name: string): Promise<string> => {
    const zip = join(server.folder, name);
    writeFileSync(zip, await bytesAt(path));
    return zip;
  };

  // not waiting in this process, in whose server idle connections end meanwhile
  const runElsewhere = async (zip: string): Promise<string> => {
    await promisify(execFile)(process.execPath, [CLI, 'run', zip, '--threads', '1', '--json']);
    const stem = zip.replace(/\.zip$/, '');
    return join(`${stem}-run`, `${stem.slice(stem.lastIndexOf('/') + 1)}.result.zip`);
  };

  const bringBack = async (shotId: number, zip: string): Promise<{ status: number; data: unknown }> => {
    const form = new FormData();
    form.append('file', new Blob([readFileSync(zip)]), 'result.zip');
    const answer = await fetch(server.address + routes.bring(shotId), { method: 'POST', body: form });
    return { status: answer.status, data: await answer.json() };
  };

  test('a bake that is run elsewhere comes back as what a bake here would be, bit for bit', async () => {
    const zip = await fetched(routes.bakeBundle(shot.variants[0].id, 0.1), 'bake.zip');
    const result = await runElsewhere(zip);
    const back = await bringBack(shot.id, result);
    expect(back).toMatchObject({ status: 201, data: { what: 'bake', frames: 3, isResult: true } });
    const { id } = back.data as BroughtBack;
    const now = await shotNow();
    expect(now.bakes.find((b) => b.id === id)).toMatchObject({
      made: null,
      outOfDate: [],
      job: { state: 'done', done: 3 },
      frames: [{ frame: 1 }, { frame: 2 }, { frame: 3 }],
    });
    const of = (b: number): Promise<Buffer> => bytesAt(routes.volume(b, 3));
    expect((await of(id)).equals(await of(bake))).toBe(true);
    expect((await fetch(server.address + routes.brick(id, 2))).status).toBe(200);

    // to another shot it does not belong
    const other = await newShot(now.production.id, 'Other');
    expect(await bringBack(other.id, result)).toMatchObject({
      status: 409,
      data: { error: expect.stringContaining('Drop it on the shot that its bundle came from') },
    });
    // names that would lead elsewhere are refused, though its list of checksums is right
    const files = unzipSync(new Uint8Array(readFileSync(result)));
    const name = 'result/manifest.json';
    const told = Buffer.from(files[name]).toString();
    files[name] = Buffer.from(told.replace(/"file": "[^"]+"/, '"file": "../../database.json"'));
    files[CHECKSUMS] = Buffer.from(
      Object.entries(files)
        .filter(([n]) => n !== CHECKSUMS)
        .map(([n, data]) => `${sha256(data)}  ${n}\n`)
        .join(''),
    );
    const crafted = join(server.folder, 'crafted.zip');
    writeFileSync(crafted, zipSync(files, { level: 0 }));
    expect(await bringBack(shot.id, crafted)).toMatchObject({
      status: 415,
      data: { error: 'Frame 1 of the result has no volume of its own.' },
    });
    // one bit that is turned is found
    const bytes = readFileSync(result);
    bytes[bytes.indexOf('manifest.json') + 200] ^= 1;
    writeFileSync(result, bytes);
    expect(await bringBack(shot.id, result)).toMatchObject({
      status: 415,
      data: { error: expect.stringMatching(/result\/manifest\.json cannot be unpacked|is not what was/) },
    });
  });

  test('a run that was broken off goes on; another version is refused', async () => {
    const zip = await fetched(routes.bakeBundle(shot.variants[0].id, 0.1), 'again.zip');
    const run = (...args: string[]): string =>
      execFileSync(process.execPath, [CLI, 'run', zip, '--threads', '1', '--json', ...args], {
        encoding: 'utf8',
        stdio: 'pipe',
      });
    run();
    expect(() => run()).toThrow(/holds a run already\. Go on with it: --resume/);
    expect(run('--resume')).toContain('"event":"packed"');
    const head = join(server.folder, 'again-run', 'bundle', 'bundle.json');
    expect(existsSync(head)).toBe(true);
    expect(JSON.parse(readFileSync(head, 'utf8'))).toMatchObject({ what: 'bake', voxelSizeM: 0.1 });
  });

  test('a render comes back with its look and its pictures', async () => {
    const zip = await fetched(routes.renderBundle(bake), 'render.zip');
    const back = await bringBack(shot.id, await runElsewhere(zip));
    expect(back).toMatchObject({ status: 201, data: { what: 'render', frames: 3 } });
    const render = (await shotNow()).renders.find((r) => r.id === (back.data as BroughtBack).id)!;
    expect(render).toMatchObject({ bakeId: bake, frames: [1, 2, 3], job: { state: 'done' } });
    expect(render.look.camera.width).toBe((await shotNow()).variants[0].look.camera.width);
  });
});
