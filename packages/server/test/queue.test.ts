// The queue by force: servers that die alone, children that hang, what is cleared under a job, lanes, limits.
import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { readJson } from '@bramblemist/core/io/node/files';
import type { Config } from '@bramblemist/server/config';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import type { BakeInfo, RenderInfo } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { random } from '../../core/test/run';
import { freshSchema, saveRecipe, testServer, until, type TestServer } from './harness';

/** Moments at which a server is killed, each of a bake, a tool and a refine; more of them by hand. */
const TRIALS = Number(process.env.BRAMBLEMIST_TRIALS ?? 1);
const SPACE = { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.05, lastFrame: 40 };

type Ask = Pick<TestServer, 'ask'>;

async function newShot(server: Ask, space: object = {}): Promise<ShotInfo> {
  const board = (await server.ask(routes.productions)).data as { id: number }[];
  const productionId =
    board[0]?.id ?? ((await server.ask(routes.productions, { body: { name: 'Test' } })).data.id as number);
  const body = { productionId, name: 'Queue', example: 'warm-plume' };
  const { id } = (await server.ask(routes.shots, { body })).data as { id: number };
  const s = (await server.ask(routes.shot(id))).data as ShotInfo;
  const { recipe } = s.variants[0];
  await saveRecipe(server, s.variants[0].id, { ...recipe, space: { ...recipe.space, ...SPACE, ...space } });
  return s;
}

const shotNow = async (server: Ask, id: number): Promise<ShotInfo> =>
  (await server.ask(routes.shot(id))).data as ShotInfo;
const bakeOf = async (server: Ask, shot: number, id: number): Promise<BakeInfo> =>
  (await shotNow(server, shot)).bakes.find((b) => b.id === id)!;
const startBake = async (server: Ask, s: ShotInfo, last: number, voxelSizeM = 0.05): Promise<number> =>
  (
    await server.ask(routes.bakes(s.variants[0].id), {
      body: { voxelSizeM, frames: { first: 1, last } },
    })
  ).data.id as number;
const post = (server: Ask, path: string): ReturnType<TestServer['ask']> =>
  server.ask(path, { method: 'POST', body: {} });
/** Processes of the command line that work on a bake. */
const workersOn = (folder: string): number[] => {
  try {
    return execFileSync('pgrep', ['-f', `bramblemist.cjs .*${folder} `], { encoding: 'utf8' })
      .trim()
      .split('\n')
      .map(Number);
  } catch {
    return []; // none
  }
};

describe('a server that is killed alone', () => {
  let folder: string;
  let config: Config['database'];
  let running: { process: ChildProcess; address: string };
  const ask: TestServer['ask'] = async (path, options = {}) => {
    const response = await fetch(running.address + path, {
      method: options.method ?? (options.body === undefined ? 'GET' : 'POST'),
      headers: { 'Content-Type': 'application/json', ...options.headers },
      ...(options.body === undefined ? {} : { body: JSON.stringify(options.body) }),
    });
    return { status: response.status, data: await response.json(), headers: response.headers };
  };

  const start = async (): Promise<typeof running> => {
    const child = spawn(process.execPath, [resolve(__dirname, '../build/server.cjs')], {
      env: {
        ...process.env,
        BRAMBLEMIST_DATA: folder,
        BRAMBLEMIST_DATABASE: join(folder, 'database.json'),
        BRAMBLEMIST_PORT: '0',
        BRAMBLEMIST_CLI: resolve(__dirname, '../../cli/build/bramblemist.cjs'),
        LOG_LEVEL: 'fatal',
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const address = await new Promise<string>((done, fail) => {
      child.stdout.on('data', (data: Buffer) => {
        const match = /ready (\S+)/.exec(data.toString());
        if (match) done(match[1]);
      });
      child.once('exit', () => fail(new Error('The server ended.')));
    });
    return { process: child, address };
  };

  const gone = (child: ChildProcess): Promise<void> =>
    new Promise((done) => {
      if (child.exitCode !== null || child.signalCode !== null) return done();
      child.once('exit', () => done());
    });

  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'server-'));
    const given = JSON.parse(
      readFileSync(process.env.BRAMBLEMIST_TEST_DATABASE!, 'utf8'),
    ) as Config['database'];
    config = { ...given, name: `${given.name}_alone` };
    await freshSchema(given, config.name);
    writeFileSync(join(folder, 'database.json'), JSON.stringify(config));
    running = await start();
  });
  afterAll(async () => {
    running.process.kill('SIGTERM');
    await gone(running.process);
    rmSync(folder, { recursive: true, force: true });
  });

  const made = async (kind: 'bake' | 'tool' | 'refine', s: ShotInfo, source: number): Promise<number> => {
    const voxels = kind === 'bake' ? 0.04 : 0.05;
    if (kind === 'bake') return startBake({ ask }, s, 40, voxels);
    const path = kind === 'tool' ? routes.tools(source) : routes.refines(source);
    const steps = [{ tool: 'smooth', settings: { radius: 0.1 } }];
    const body = kind === 'tool' ? { steps } : { settings: { times: 2 } };
    return (await ask(path, { body })).data.id as number;
  };

  test('its child ends, and after the restart every frame has its row, once', async () => {
    const next = random(Date.now() % 1000);
    const s = await newShot({ ask });
    const source = await startBake({ ask }, s, 40);
    await until(async () => (await bakeOf({ ask }, s.id, source)).job?.state === 'done', 60);
    for (let trial = 0; trial < TRIALS; trial++)
      for (const kind of ['bake', 'tool', 'refine'] as const) {
        const id = await made(kind, s, source);
        const place = join(folder, 'bakes', String(id));
        await until(() => Promise.resolve(existsSync(join(place, 'manifest.json'))), 30);
        await new Promise((done) => setTimeout(done, next() * 2500));
        running.process.kill('SIGKILL');
        await gone(running.process);
        await until(() => Promise.resolve(workersOn(place).length === 0), 3);
        running = await start();
        let most = 0;
        const done = await until(async () => {
          most = Math.max(most, workersOn(place).length);
          const bake = await bakeOf({ ask }, s.id, id);
          return ['done', 'failed'].includes(bake.job!.state) ? bake : null;
        }, 60);
        expect(done.job).toMatchObject({ state: 'done', done: 40 });
        const { frames } = readJson(join(place, 'manifest.json')) as Manifest;
        expect(frames).toHaveLength(40);
        expect(done.frames.map((f) => [f.frame, f.bytes])).toEqual(frames.map((f) => [f.frame, f.bytes]));
        expect(most).toBeLessThanOrEqual(1);
      }
  }, 3_600_000);
});

describe('with a server of its own', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await testServer();
  });
  afterAll(() => server.close());

  const runs = async (shot: number, id: number, frames = 2): Promise<JobInfo> =>
    until(async () => {
      const { job } = await bakeOf(server, shot, id);
      return job?.state === 'running' && job.done >= frames ? job : null;
    });

  test('a child that hangs is stopped within three seconds, and the next job runs', async () => {
    const s = await newShot(server);
    const id = await startBake(server, s, 40, 0.02);
    const job = await runs(s.id, id);
    const place = join(server.folder, 'bakes', String(id));
    const [pid] = workersOn(place);
    process.kill(pid, 'SIGSTOP');
    const at = Date.now();
    await post(server, routes.stopJob(job.id));
    await until(() => Promise.resolve(workersOn(place).length === 0), 5);
    expect(Date.now() - at).toBeLessThan(3000);
    expect((await bakeOf(server, s.id, id)).job!.state).toBe('stopped');
    const quick = await startBake(server, s, 1, 0.1);
    await until(async () => (await bakeOf(server, s.id, quick)).job?.state === 'done');
  }, 60_000);

  test('a server that closes as it takes up a job hands it back', async () => {
    const s = await newShot(server);
    for (let trial = 0; trial < 2; trial++) {
      const other = await testServer(server);
      const id = await startBake(other, s, 40, 0.1);
      await new Promise((done) => setTimeout(done, trial * 60));
      await other.close();
      // where the one beside did not take it at once, nobody holds it
      const { job } = await bakeOf(server, s.id, id);
      expect(['queued', 'running', 'done']).toContain(job!.state);
      const done = await until(async () => (await bakeOf(server, s.id, id)).job?.state === 'done');
      expect(done).toBe(true);
    }
  }, 60_000);

  test('one picture does not wait behind a long bake', async () => {
    const s = await newShot(server);
    const small = await startBake(server, s, 2, 0.1);
    await until(async () => (await bakeOf(server, s.id, small)).job?.state === 'done');
    const long = await startBake(server, s, 40, 0.02);
    const job = await runs(s.id, long, 1);
    const body = { look: s.variants[0].look, frames: { first: 2, last: 2 } };
    const render = (await server.ask(routes.renders(small), { body })).data.id as number;
    const done = await until(async () => {
      const now: RenderInfo | undefined = (await shotNow(server, s.id)).renders.find((r) => r.id === render);
      return now?.job?.state === 'done' ? now : null;
    });
    expect(done.frames).toEqual([2]);
    expect((await bakeOf(server, s.id, long)).job!.state).toBe('running');
    await post(server, routes.stopJob(job.id));
  }, 60_000);

  test('frames of a render go to both slots, none twice; what somebody waits for goes first', async () => {
    const s = await newShot(server);
    const bake = await startBake(server, s, 40, 0.1);
    await until(async () => (await bakeOf(server, s.id, bake)).job?.state === 'done');
    const large = { ...s.variants[0].look };
    large.camera = { ...large.camera, width: 640, height: 360 };
    const ask = async (first: number, last: number): Promise<number> =>
      (await server.ask(routes.renders(bake), { body: { look: large, frames: { first, last } } })).data
        .id as number;
    const renderOf = async (id: number): Promise<RenderInfo> =>
      (await shotNow(server, s.id)).renders.find((r) => r.id === id)!;
    const long = await ask(1, 24);
    const place = join(server.folder, 'renders', String(long));
    const workers = (): number => workersOn(place).length;
    let most = 0;
    await until(async () => {
      most = Math.max(most, workers());
      return most === 2 && (await renderOf(long)).frames.length > 2;
    });
    // both slots are taken, and yet the one picture comes at once
    const one = await ask(20, 20);
    await until(async () => (await renderOf(one)).job?.state === 'done');
    const { job, frames } = await renderOf(long);
    expect(job!.state).toBe('running');
    expect(frames.length).toBeLessThan(24);
    await post(server, routes.pauseJob(job!.id));
    await until(() => Promise.resolve(workers() === 0), 5);
    const there = readdirSync(place).map((f) => [f, statSync(join(place, f)).mtimeMs] as const);
    await post(server, routes.goOnJob(job!.id));
    const done = await until(async () => {
      const now = await renderOf(long);
      return now.job?.state === 'done' ? now : null;
    }, 90);
    expect(done.frames).toEqual(Array.from({ length: 24 }, (_, n) => n + 1));
    expect(done.job).toMatchObject({ done: 24, total: 24 });
    const whole = there.filter(([f]) => there.some(([g]) => g === f.replace(/exr$/, 'png')));
    expect(whole.length).toBeGreaterThan(4);
    for (const [file, at] of whole) expect([file, statSync(join(place, file)).mtimeMs]).toEqual([file, at]);
  }, 180_000);

  test('what is half-made cannot be cleared, and what lies in the bin cannot be gone on with', async () => {
    const s = await newShot(server);
    const id = await startBake(server, s, 40, 0.04);
    const job = await runs(s.id, id);
    await post(server, routes.pauseJob(job.id));
    await until(async () => (await bakeOf(server, s.id, id)).job?.state === 'paused');
    const refused = await post(server, routes.clear('bakes', id));
    expect(refused.status).toBe(409);
    expect(refused.data.error).toMatch(/paused half-made\. Stop its job first/);
    await post(server, routes.stopJob(job.id));
    expect((await post(server, routes.clear('bakes', id))).status).toBe(200);
    const inBin = await post(server, routes.goOnJob(job.id));
    expect(inBin.status).toBe(409);
    expect(inBin.data.error).toMatch(/lies in the bin\. Bring it back first/);
    const look = { look: s.variants[0].look, frames: { first: 1, last: 1 } };
    const rendered = await server.ask(routes.renders(id), { body: look });
    expect([rendered.status, rendered.data.error]).toEqual([409, expect.stringMatching(/lies in the bin/)]);
    expect((await post(server, routes.restore('bakes', id))).status).toBe(200);
    expect((await post(server, routes.goOnJob(job.id))).status).toBe(200);
    await until(async () => (await bakeOf(server, s.id, id)).job?.state === 'done', 60);
  }, 90_000);

  test('a job has at most so many frames', async () => {
    const s = await newShot(server);
    const small = await startBake(server, s, 40, 0.1);
    await until(async () => (await bakeOf(server, s.id, small)).job?.state === 'done');
    const step = { tool: 'retime', settings: { speed: 5 } };
    const much = await server.ask(routes.tools(small), { body: { steps: [step, step, step, step, step] } });
    expect(much.status).toBe(422);
    expect(much.data.error).toMatch(/at most 20000\. Take fewer at once/);
    expect((await shotNow(server, s.id)).bakes).toHaveLength(1);
  }, 60_000);
});
