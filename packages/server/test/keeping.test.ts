// Keeping: tools, refining and particles as jobs, looking over, locks, currency, the bin, a full disk, two
// servers at once.
import { zipSync } from 'fflate';
import { createConnection } from 'mariadb';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import type { BakeInfo, FrameInfo } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import type { StorageInfo } from '@bramblemist/contracts/payloads/storage';
import { routes } from '@bramblemist/contracts/routes';
import { decodePreview } from '@bramblemist/core/cache/preview';
import { openCache } from '@bramblemist/core/io/node/cache';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { Job } from '@bramblemist/server/models';
import { saveRecipe, testServer, until, type TestServer } from './harness';

let server: TestServer;
let production: number;
let shot: ShotInfo;
let bake: BakeInfo;
const SPACE = { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.05, lastFrame: 6 };

const shotNow = async (id = shot.id): Promise<ShotInfo> =>
  (await server.ask(routes.shot(id))).data as ShotInfo;

async function newShot(space: object = {}): Promise<ShotInfo> {
  const { id } = (
    await server.ask(routes.shots, {
      body: { productionId: production, name: 'Kept', example: 'warm-plume' },
    })
  ).data as { id: number };
  const s = await shotNow(id);
  const { recipe } = s.variants[0];
  await saveRecipe(server, s.variants[0].id, {
    ...recipe,
    space: { ...recipe.space, ...SPACE, ...space },
    keep: { ...recipe.keep, colour: true },
  });
  return shotNow(id);
}

const ended = (
  pick: (s: ShotInfo) => JobInfo | null | undefined,
  id = shot.id,
  states: string[] = ['done', 'failed', 'stopped', 'paused'],
): Promise<JobInfo> =>
  until(async () => {
    const job = pick(await shotNow(id));
    return job && states.includes(job.state) ? job : null;
  }, 60);
const startBake = async (s: ShotInfo, last = 6): Promise<number> =>
  (
    await server.ask(routes.bakes(s.variants[0].id), {
      body: { voxelSizeM: 0.05, frames: { first: 1, last } },
    })
  ).data.id as number;
const framesOf = async (id: number): Promise<FrameInfo[]> =>
  (await server.ask(routes.bakeFrames(id))).data as FrameInfo[];
const bakeOf = async (id: number): Promise<BakeInfo> => (await shotNow()).bakes.find((b) => b.id === id)!;

beforeAll(async () => {
  server = await testServer();
  production = (await server.ask(routes.productions, { body: { name: 'Test' } })).data.id as number;
  shot = await newShot();
  const id = await startBake(shot);
  await ended((s) => s.bakes.find((b) => b.id === id)?.job);
  bake = await bakeOf(id);
}, 60_000);
afterAll(() => server.close());

describe('a job while it runs and after', () => {
  test('has a log, a picture, and says what it kept', async () => {
    expect(bake.job).toMatchObject({ state: 'done', done: 6 });
    expect(bake).toMatchObject({
      made: null,
      locked: false,
      verified: null,
      channels: ['density', 'temperature', 'colour', 'velocity'],
      outOfDate: [],
    });
    const log = (await server.ask(routes.jobLog(bake.job!.id))).data as string;
    expect(log).toMatch(/started\n[^]*1 of 6: frame 1, \d+ bytes\n[^]*6 of 6: frame 6[^]*done\n$/);
    const picture = await fetch(server.address + routes.jobPicture(bake.job!.id));
    expect([picture.status, picture.headers.get('content-type')]).toEqual([200, 'image/png']);
  });
});

describe('caches made of caches', () => {
  test('a tool runs as a job, its cache knows its history, and it can be worked on further', async () => {
    const steps = [
      { tool: 'trim', settings: { from: 2, until: 4 } },
      { tool: 'levels', settings: { highTo: 2 } },
    ];
    const made = await server.ask(routes.tools(bake.id), { body: { steps } });
    expect(made.status).toBe(201);
    expect(await ended((s) => s.bakes.find((b) => b.id === made.data.id)?.job)).toMatchObject({
      kind: 'tool',
      state: 'done',
      done: 3,
    });
    const b = await bakeOf(made.data.id as number);
    expect(b).toMatchObject({
      first: 2,
      last: 4,
      variantId: bake.variantId,
      made: { kind: 'tool', of: bake.id },
      outOfDate: [],
    });
    expect((await framesOf(b.id))[1].readings.mass / (await framesOf(bake.id))[2].readings.mass).toBeCloseTo(
      2,
      1,
    );
    const { manifest } = openCache(join(server.folder, 'bakes', String(b.id)));
    expect(manifest.made!.map((m) => m.by)).toEqual(['trim', 'levels']);
    expect((await fetch(server.address + routes.brick(b.id, 3))).status).toBe(200);
    const again = await server.ask(routes.tools(b.id), {
      body: { steps: [{ tool: 'merge', settings: { with: String(bake.id) } }] },
    });
    expect(await ended((s) => s.bakes.find((x) => x.id === again.data.id)?.job)).toMatchObject({
      state: 'done',
    });
    expect(
      openCache(join(server.folder, 'bakes', String(again.data.id))).manifest.made!.map((m) => m.by),
    ).toEqual(['trim', 'levels', 'merge']);
  }, 60_000);
  test('refining too; what is tried on a frame beforehand is what comes out', async () => {
    const settings = { times: 2, strength: 150 };
    const made = await server.ask(routes.refines(bake.id), { body: { settings } });
    expect(await ended((s) => s.bakes.find((b) => b.id === made.data.id)?.job)).toMatchObject({
      kind: 'refine',
      state: 'done',
      done: 6,
    });
    const b = await bakeOf(made.data.id as number);
    expect(b.voxelSizeM).toBeCloseTo(0.025, 9);
    // it kept no velocity: what would need it says so at once
    for (const [route, body] of [
      ['refines', { settings: {} }],
      ['particles', { settings: {}, format: 'ply' }],
    ] as const)
      expect((await server.ask(routes[route](b.id), { body })).data.error).toMatch(/keeps no velocity/);
    expect(b.channels).toEqual(['density', 'temperature', 'colour']);
    expect((await framesOf(b.id))[5].readings.mass / (await framesOf(bake.id))[5].readings.mass).toBeCloseTo(
      1,
      1,
    );
    const tried = await fetch(server.address + routes.tried(bake.id), {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ frame: 5, refine: settings }),
    });
    const { brick } = decodePreview(new Uint8Array(await tried.arrayBuffer()), nodeZip);
    const kept = decodePreview(
      new Uint8Array(await (await fetch(server.address + routes.brick(b.id, 5))).arrayBuffer()),
      nodeZip,
    ).brick;
    expect([brick.frame, brick.dims]).toEqual([5, kept.dims]);
    expect(Buffer.from(brick.bytes).equals(Buffer.from(kept.bytes))).toBe(true);
    await until(() => Promise.resolve(readdirSync(join(server.folder, 'uploads')).length === 0));
  }, 60_000);
  test('particles drift through it and come as a package', async () => {
    const made = await server.ask(routes.particles(bake.id), {
      body: { settings: { count: 500, seeds: 'density' }, format: 'ply' },
    });
    expect(await ended((s) => s.particleRuns.find((d) => d.id === made.data.id)?.job)).toMatchObject({
      kind: 'particles',
      state: 'done',
    });
    expect((await shotNow()).particleRuns[0]).toMatchObject({
      bakeId: bake.id,
      frames: 6,
      settings: { count: 500, way: 'forward' },
    });
    const zip = await fetch(server.address + routes.particlePackage(made.data.id as number));
    expect((await zip.arrayBuffer()).byteLength).toBeGreaterThan(20_000);
  }, 60_000);
  test.each([
    ['no step', 'tools', { steps: [] }, /must have a step/],
    ['an unknown tool', 'tools', { steps: [{ tool: 'melt', settings: {} }] }, /There are: trim/],
    ['a wrong setting', 'tools', { steps: [{ tool: 'smooth', settings: { radius: -1 } }] }, /smooth.radius/],
    [
      'frames that are not there',
      'tools',
      { steps: [{ tool: 'trim', settings: { from: 90 } }] },
      /frames 1 to 6/,
    ],
    ['a merge with a path', 'tools', { steps: [{ tool: 'merge', settings: { with: '../1' } }] }, /no bake/],
    ['a merge with nothing', 'tools', { steps: [{ tool: 'merge', settings: { with: '99999' } }] }, /no bake/],
    ['a fineness that there is not', 'refines', { settings: { times: 9 } }, /refine.times/],
    ['no such seeds', 'particles', { settings: { seeds: 'sky' }, format: 'ply' }, /particles.seeds/],
    ['another format', 'particles', { settings: {}, format: 'txt' }, /format/],
  ])('%s is refused', async (_name, route, body, says) => {
    const answer = await server.ask(routes[route as 'tools'](bake.id), { body });
    expect(answer.status).toBe(422);
    expect(JSON.stringify(answer.data)).toMatch(says);
  });
});

describe('volumes from elsewhere', () => {
  const send = async (
    name: string,
    data: Uint8Array,
  ): Promise<{ status: number; data: { id?: number; error?: string } }> => {
    const form = new FormData();
    form.append('file', new Blob([data as BlobPart]), name);
    const r = await fetch(server.address + routes.bring(shot.id), { method: 'POST', body: form });
    return { status: r.status, data: (await r.json()) as { id?: number; error?: string } };
  };

  const frames = (): Record<string, Uint8Array> => {
    const folder = join(server.folder, 'bakes', String(bake.id));
    return Object.fromEntries(
      bake.frames.slice(0, 3).map((f) => [
        `fog.${f.frame}.vdb`,
        readFileSync(
          readdirSync(folder)
            .filter((n) => n.endsWith(`${String(f.frame).padStart(4, '0')}.vdb`))
            .map((n) => join(folder, n))[0],
        ),
      ]),
    );
  };

  test('a ZIP of them becomes a cache like any other, and its upload goes', async () => {
    const made = await send('fog.zip', zipSync(frames()));
    expect(made.status).toBe(201);
    expect(await ended((s) => s.bakes.find((b) => b.id === made.data.id)?.job)).toMatchObject({
      kind: 'bring',
      state: 'done',
      done: 3,
    });
    const b = await bakeOf(made.data.id!);
    expect(b).toMatchObject({
      first: 1,
      last: 3,
      outOfDate: [],
      channels: ['density', 'temperature', 'colour', 'velocity'],
      made: { kind: 'brought', name: 'fog.zip' },
    });
    expect((await framesOf(b.id))[2].readings.mass / (await framesOf(bake.id))[2].readings.mass).toBeCloseTo(
      1,
      2,
    );
    expect(readdirSync(join(server.folder, 'brought'))).toEqual([]);
    const steps = [{ tool: 'smooth', settings: { radius: 0.1 } }];
    const tool = await server.ask(routes.tools(b.id), { body: { steps } });
    expect(await ended((s) => s.bakes.find((x) => x.id === tool.data.id)?.job)).toMatchObject({
      state: 'done',
    });
  }, 60_000);
  test('from the folder that the server may read, by its name alone', async () => {
    mkdirSync(join(server.folder, 'allowed', 'mist'), { recursive: true });
    for (const [name, data] of Object.entries(frames()))
      writeFileSync(join(server.folder, 'allowed', 'mist', name), data);
    symlinkSync(join(server.folder, 'bakes'), join(server.folder, 'allowed', 'out'));
    expect((await server.ask(routes.volumesFolder)).data).toMatchObject({ names: ['mist'] });
    const made = await server.ask(routes.bring(shot.id), { body: { name: 'mist' } });
    expect(await ended((s) => s.bakes.find((b) => b.id === made.data.id)?.job)).toMatchObject({
      state: 'done',
    });
    for (const name of ['../bakes', '..', '.', 'out', 'mist/fog.1.vdb', '/etc', 'mist\u0000', '%2e%2e'])
      expect((await server.ask(routes.bring(shot.id), { body: { name } })).status).toBe(404);
  }, 60_000);
  test.each([
    ['fog.vdb', Buffer.from('no volume'), /fog.vdb: This is not an OpenVDB file/],
    ['fog.zip', Buffer.from('no zip'), /no ZIP file/],
    ['fog.exe', Buffer.from('no'), /come as a .vdb file/],
    ['cut.vdb', 'cut', /cut.vdb: /],
  ])('%s is refused by its name and nothing stays', async (name, data, says) => {
    const bytes = data === 'cut' ? Object.values(frames())[0].subarray(0, 3000) : (data as Buffer);
    const made = await send(name, bytes);
    expect([made.status, made.data.error]).toEqual([415, expect.stringMatching(says)]);
    expect(readdirSync(join(server.folder, 'brought'))).toEqual([]);
    await until(() => Promise.resolve(readdirSync(join(server.folder, 'uploads')).length === 0));
  });
});

describe('trust', () => {
  test('looking over finds nothing, then what was damaged', async () => {
    const verify = async (): Promise<JobInfo> => {
      await server.ask(routes.verify(bake.id), { body: {} });
      return until(async () => {
        const job = await Job.findOne({
          where: { kind: 'verify', targetId: bake.id },
          order: [['id', 'DESC']],
        });
        return job && ['done', 'failed'].includes(job.state) ? (job as unknown as JobInfo) : null;
      });
    };

    expect((await verify()).state).toBe('done');
    expect((await bakeOf(bake.id)).verified).toMatchObject({ damages: [] });
    const folder = join(server.folder, 'bakes', String(bake.id));
    const file = readdirSync(folder).find((f) => f.endsWith('.0003.vdb'))!;
    const whole = readFileSync(join(folder, file));
    appendFileSync(join(folder, file), 'x');
    expect(await verify()).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('0003.vdb') as string,
    });
    expect((await bakeOf(bake.id)).verified!.damages).toMatchObject([
      { frame: 3, what: expect.stringMatching(/bytes where/) as string },
    ]);
    writeFileSync(join(folder, file), whole);
  }, 60_000);
  test('currency names the setting, when it was changed, and the channels that it reaches', async () => {
    const s = await newShot();
    const id = await startBake(s, 2);
    await ended((x) => x.bakes.find((b) => b.id === id)?.job, s.id);
    const { recipe } = s.variants[0];
    const [source] = recipe.sources;
    const before = Date.now();
    await saveRecipe(server, s.variants[0].id, {
      ...recipe,
      sources: [{ ...source, colour: { ...source.colour, amount: [1, 0, 0] } }],
    });
    const colour = (await shotNow(s.id)).bakes[0].outOfDate;
    expect(colour.length).toBeGreaterThan(0);
    for (const d of colour) {
      expect(d.channels).toEqual(['colour']);
      expect(Date.parse(d.at!)).toBeGreaterThanOrEqual(before - 1000);
    }

    await saveRecipe(server, s.variants[0].id, { ...recipe, wind: { ...recipe.wind, speed: 2 } });
    expect((await shotNow(s.id)).bakes[0].outOfDate).toMatchObject([
      { path: 'wind.speed', to: 2, channels: ['density', 'temperature', 'colour', 'velocity'] },
    ]);
  }, 60_000);
});

describe('the bin', () => {
  const storage = async (): Promise<StorageInfo> => (await server.ask(routes.storage)).data as StorageInfo;
  test('what is cleared can come back until the bin is emptied; what is locked stays', async () => {
    const id = await startBake(shot);
    await ended((s) => s.bakes.find((b) => b.id === id)?.job);
    expect((await server.ask(routes.bake(id), { method: 'PATCH', body: { locked: true } })).status).toBe(200);
    const refused = await server.ask(routes.clear('bakes', id), { body: {} });
    expect([refused.status, refused.data.error]).toEqual([409, expect.stringMatching(/locked/)]);
    await server.ask(routes.bake(id), { method: 'PATCH', body: { locked: false } });
    const item = (await storage()).items.find((i) => i.kind === 'bakes' && i.id === id)!;
    expect(item).toMatchObject({ shotId: shot.id, production: 'Test', kept: null });
    expect(item.bytes).toBeGreaterThan(10_000);
    // the first bake of the same size has been replaced by it
    expect((await storage()).items.find((i) => i.kind === 'bakes' && i.id === bake.id)!.safe).toMatch(
      /newer bake/,
    );

    const cleared = (await server.ask(routes.clear('bakes', id), { body: {} })).data as StorageInfo;
    expect(cleared.bin).toMatchObject([{ kind: 'bakes', id, bytes: item.bytes }]);
    expect(await bakeOf(id)).toBeUndefined();
    expect(existsSync(join(server.folder, 'bakes', String(id)))).toBe(false);
    expect((await server.ask(routes.clear('bakes', id), { body: {} })).status).toBe(409);
    expect(
      (await server.ask(routes.tools(id), { body: { steps: [{ tool: 'trim', settings: {} }] } })).status,
    ).toBe(404);

    await server.ask(routes.restore('bakes', id), { body: {} });
    expect((await bakeOf(id)).frames).toHaveLength(6);
    expect((await fetch(server.address + routes.volume(id, 4))).status).toBe(200);

    await server.ask(routes.clear('bakes', id), { body: {} });
    const emptied = (await server.ask(routes.emptyBin, { body: {} })).data as StorageInfo & { freed: number };
    expect(emptied.freed).toBe(item.bytes);
    expect(emptied.bin).toEqual([]);
    expect((await server.ask(routes.restore('bakes', id), { body: {} })).status).toBe(404);
  }, 60_000);
  test.each([
    '/api/storage/..%2fbakes/1/clear',
    '/api/storage/jobs/1/clear',
    '/api/storage/bakes/..%2f1/clear',
    '/api/storage/bakes/99999/clear',
  ])('%s leads nowhere', async (path) => {
    expect([400, 404]).toContain((await server.ask(path, { body: {} })).status);
  });
});

test(
  'a disk that is nearly full pauses a job with a message, and ' + 'it goes on when there is room',
  async () => {
    process.env.BRAMBLEMIST_RESERVE_MB = '1e12';
    // small files go through in any case: the checkpoint behind the tenth frame is not small
    const s = await newShot({ lastFrame: 14 });
    const id = await startBake(s, 14);
    const job = await ended((x) => x.bakes.find((b) => b.id === id)?.job, s.id);
    expect(job).toMatchObject({
      state: 'paused',
      message: expect.stringMatching(/nearly full[^]*Clear something/) as string,
    });
    const folder = join(server.folder, 'bakes', String(id));
    expect(readdirSync(folder, { recursive: true }).filter((f) => String(f).includes('.part-'))).toEqual([]);
    delete process.env.BRAMBLEMIST_RESERVE_MB;
    await server.ask(routes.goOnJob(job.id), { body: {} });
    expect((await ended((x) => x.bakes.find((b) => b.id === id)?.job, s.id, ['done', 'failed'])).state).toBe(
      'done',
    );
  },
  60_000,
);

test('a database that goes away under a job is waited for', async () => {
  const s = await newShot({ lastFrame: 40 });
  const id = await startBake(s, 40);
  await until(async () => ((await Job.findOne({ where: { kind: 'bake', targetId: id } }))?.done ?? 0) > 1);
  const { host, port, user, password } = JSON.parse(
    readFileSync(process.env.BRAMBLEMIST_TEST_DATABASE!, 'utf8'),
  ) as Record<string, string>;
  const other = await createConnection({ host, port: Number(port), user, password });
  const name = Job.sequelize!.getDatabaseName();
  for (let n = 0; n < 6; n++) {
    const open = await other.query<{ id: bigint }[]>(
      'SELECT id FROM information_schema.processlist WHERE db = ?',
      [name],
    );
    for (const c of open) await other.query(`KILL ${c.id}`).catch(() => {});
    await new Promise((done) => setTimeout(done, 200));
  }

  await other.end();
  await new Promise((done) => setTimeout(done, 1000));
  expect(await ended((x) => x.bakes.find((b) => b.id === id)?.job, s.id)).toMatchObject({
    state: 'done',
    done: 40,
  });
  expect((await shotNow(s.id)).bakes.find((b) => b.id === id)!.frames).toHaveLength(40);
}, 60_000);

test('two servers on one database never run one job twice', async () => {
  const other = await testServer(server);
  try {
    const s = await newShot();
    const ids = await Promise.all(Array.from({ length: 6 }, () => startBake(s, 2)));
    await until(
      async () => (await Job.count({ where: { kind: 'bake', targetId: ids, state: 'done' } })) === 6,
      60,
    );
    const jobs = await Job.findAll({ where: { kind: 'bake', targetId: ids } });
    for (const job of jobs) {
      const log = readFileSync(join(server.folder, 'jobs', `${job.id}.log`), 'utf8');
      expect(log.match(/ started\n/g)).toHaveLength(1);
    }

    expect(new Set(jobs.map((j) => j.owner)).size).toBe(2);
  } finally {
    await other.close();
  }
}, 90_000);
