// The server against the real database, with real jobs.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import type { PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import type { FrameInfo } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import type { SavingsSheet } from '@bramblemist/core/look/savings';
import { routes } from '@bramblemist/contracts/routes';
import { costOf } from '@bramblemist/core/analysis/cost';
import { example } from '@bramblemist/core/presets/examples';
import { defaultThreads } from '@bramblemist/core/io/node/thread-pool';
import { encodePng } from '@bramblemist/core/io/node/png';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { openCache } from '@bramblemist/core/io/node/cache';
import { nodeZip, readJson } from '@bramblemist/core/io/node/files';
import { CHECKSUMS, verifyPackage } from '@bramblemist/core/io/node/package';
import { DEFAULT_NAMES } from '@bramblemist/core/cache/file-names';
import { decodePreview } from '@bramblemist/core/cache/preview';
import { Bake, CombineRun, Job, Variant } from '@bramblemist/server/models';
import { saveRecipe, testServer, until, type TestServer } from './harness';

let server: TestServer;
let production: number;
let shot: ShotInfo;
const SMALL = { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.05, lastFrame: 4 };

beforeAll(async () => {
  server = await testServer();
  production = (await server.ask('/api/productions', { body: { name: 'Test' } })).data.id as number;
});
afterAll(() => server.close());

const shotNow = async (id: number): Promise<ShotInfo> => (await server.ask(routes.shot(id))).data as ShotInfo;

async function newShot(space: object = SMALL): Promise<ShotInfo> {
  const { id } = (
    await server.ask('/api/shots', {
      body: { productionId: production, name: 'Puff', example: 'warm-plume' },
    })
  ).data as {
    id: number;
  };
  const s = await shotNow(id);
  const { recipe } = s.variants[0];
  await saveRecipe(server, s.variants[0].id, { ...recipe, space: { ...recipe.space, ...space } });
  return shotNow(id);
}

/** Changes a shot's views or reference, over the newest revision. */
const changeShot = async (id: number, body: unknown): ReturnType<TestServer['ask']> =>
  server.ask(routes.shot(id), {
    method: 'PATCH',
    body,
    headers: { 'If-Match': `"${(await shotNow(id)).revision}"` },
  });

const ended = (
  shotId: number,
  pick: (s: ShotInfo) => JobInfo | null | undefined,
): Promise<{ job: JobInfo; shot: ShotInfo }> =>
  until(async () => {
    const s = await shotNow(shotId);
    const job = pick(s);
    return job && ['done', 'failed', 'stopped'].includes(job.state) ? { job, shot: s } : null;
  });

describe('productions, shots and variants', () => {
  test('a shot starts from an example, is on the board, and its recipe is autosaved', async () => {
    shot = await newShot();
    expect(shot.variants[0].recipe.space.voxelSize).toBe(0.05);
    const board = (await server.ask('/api/productions')).data as {
      shots: { id: number; variants: number }[];
    }[];
    expect(board[0].shots).toMatchObject([{ id: shot.id, variants: 1 }]);
  });
  test('a save says which revision it began from; an older one is refused with the newer text', async () => {
    const s = await newShot();
    const { id, recipe, revision } = s.variants[0];
    const save = (speed: number, began?: number): ReturnType<TestServer['ask']> =>
      server.ask(routes.variant(id), {
        method: 'PATCH',
        body: { recipe: { ...recipe, wind: { ...recipe.wind, speed } } },
        headers: began === undefined ? {} : { 'If-Match': `"${began}"` },
      });
    expect((await save(1)).status).toBe(428);
    expect((await save(1, revision)).data.revision).toBe(revision + 1);
    const late = await save(2, revision);
    expect(late.status).toBe(409);
    expect(late.data.current).toMatchObject({ id, revision: revision + 1, recipe: { wind: { speed: 1 } } });
    expect((await shotNow(s.id)).variants[0].recipe.wind.speed).toBe(1);
    // of twenty at once from one revision, one is taken
    const answers = await Promise.all(Array.from({ length: 20 }, (_, n) => save(10 + n, revision + 1)));
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
    expect(answers.filter((a) => a.status === 409)).toHaveLength(19);
  });
  test('twenty new variants at once are numbered one by one', async () => {
    const s = await newShot();
    const answers = await Promise.all(
      Array.from({ length: 20 }, (_, n) => server.ask(routes.variants(s.id), { body: { note: `${n}` } })),
    );
    expect(answers.map((a) => a.status)).toEqual(new Array(20).fill(201));
    const numbers = (await shotNow(s.id)).variants.map((v) => v.number);
    expect(numbers).toEqual(Array.from({ length: 21 }, (_, n) => n + 1));
  });
  test('windows hear what others save and who is there', async () => {
    const s = await newShot();
    const [{ id, revision, recipe }] = s.variants;
    const heard: Record<string, unknown>[] = [];
    const ends = new AbortController();
    const stream = await fetch(`${server.address}/api/events`, { signal: ends.signal });
    const reading = (async () => {
      let text = '';
      const decoder = new TextDecoder();
      const reader = stream.body!.getReader();
      for (let part = await reader.read(); !part.done; part = await reader.read()) {
        text += decoder.decode(part.value, { stream: true });
        heard.length = 0;
        for (const line of text.split('\n'))
          if (line.startsWith('data: ')) heard.push(JSON.parse(line.slice(6)) as Record<string, unknown>);
      }
    })().catch(() => undefined);
    const present = { client: 'window-one', shotId: s.id, variantId: id };
    expect((await server.ask(routes.present, { body: present })).data.present).toHaveLength(1);
    await server.ask(routes.variant(id), {
      method: 'PATCH',
      body: { recipe: { ...recipe, name: 'Other' } },
      headers: { 'If-Match': `"${revision}"`, 'X-Client': 'window-two' },
    });
    const saved = { kind: 'document', shotId: s.id, variantId: id, client: 'window-two' };
    await until(() => Promise.resolve(heard.some((e) => e.kind === 'document')));
    expect(heard).toContainEqual({ ...saved, revision: revision + 1 });
    expect(heard).toContainEqual({
      kind: 'present',
      shotId: s.id,
      present: [{ client: 'window-one', variantId: id }],
    });
    ends.abort();
    await reading;
  });
  test('a new variant is numbered, knows its parent and starts from it', async () => {
    const made = (await server.ask(routes.variants(shot.id), { body: { note: 'slower' } })).data;
    expect(made).toMatchObject({
      number: 2,
      parent: shot.variants[0].id,
      note: 'slower',
      recipe: shot.variants[0].recipe,
    });
    // on another one than the last, with a recipe of its own
    const recipe = { ...shot.variants[0].recipe, wind: { ...shot.variants[0].recipe.wind, speed: 3 } };
    const first = shot.variants[0].id;
    const tried = (
      await server.ask(routes.variants(shot.id), { body: { note: 'windy', from: first, recipe } })
    ).data;
    expect(tried).toMatchObject({ number: 3, parent: first, recipe });
    expect((await server.ask(routes.variants(shot.id), { body: { from: 999999 } })).status).toBe(404);
    expect(
      (await server.ask(routes.variants(shot.id), { body: { recipe: { wind: { speed: -1 } } } })).status,
    ).toBe(422);
  });
  test('wrong recipes are refused by place, and the stored one stays', async () => {
    const variant = shot.variants[0];
    const answer = await server.ask(routes.variant(variant.id), {
      method: 'PATCH',
      body: { recipe: { ...variant.recipe, wind: { speed: -3 } } },
    });
    expect(answer.status).toBe(422);
    expect(answer.data.faults).toEqual([{ path: 'wind.speed', message: 'must be at least 0 m/s' }]);
    expect((await shotNow(shot.id)).variants[0].recipe).toEqual(variant.recipe);
  });
  test.each([
    ['/api/productions', { name: '' }, 422],
    ['/api/productions', { name: 'x'.repeat(200) }, 422],
    ['/api/productions', { name: 'A', extra: 1 }, 422],
    ['/api/shots', { productionId: 99999, name: 'A' }, 404],
    ['/api/shots', { productionId: 1, name: 'A', example: 'nothing' }, 422],
    ['/api/variants/1/bakes', { voxelSizeM: 0, frames: { first: 1, last: 2 } }, 422],
    ['/api/variants/1/bakes', { voxelSizeM: 0.1, frames: { first: 3, last: 2 } }, 422],
    ['/api/variants/1/bakes', { voxelSizeM: 0.1, frames: { first: 1, last: 9999 } }, 422],
    ['/api/variants/99999/bakes', { voxelSizeM: 0.1, frames: { first: 1, last: 2 } }, 404],
    ['/api/bakes/99999/renders', { look: {}, frames: { first: 1, last: 2 } }, 404],
  ])('%s with %j is refused with %d', async (path, body, status) => {
    const answer = await server.ask(path, { body });
    expect(answer.status).toBe(status);
    expect(typeof answer.data.error).toBe('string');
  });
});

describe('what a shot keeps for judging', () => {
  const view = { name: 'left', eye: [1, 2, 3], target: [0, 0, 0], focal: 38 };
  test('views and the use of its reference', async () => {
    const s = await newShot();
    const reference = {
      of: 'clip',
      place: 'over',
      opacity: 0.4,
      first: 7,
      matte: { by: 'luminance', from: 0.2, to: 0.8 },
    };
    expect((await changeShot(s.id, { views: [view] })).status).toBe(200);
    expect((await changeShot(s.id, { reference })).status).toBe(200);
    expect(await shotNow(s.id)).toMatchObject({ views: [view], reference });
  });
  test.each([
    ['a view without a name', { views: [{ ...view, name: ' ' }] }, 'views[0].name'],
    ['a view from nowhere', { views: [{ ...view, eye: [1, 2] }] }, 'views[0].eye'],
    ['a place that there is not', { reference: { place: 'behind' } }, 'reference.place'],
    [
      'an outline of two corners',
      {
        reference: {
          matte: {
            by: 'outline',
            from: 0,
            to: 1,
            points: [
              [0, 0],
              [1, 1],
            ],
          },
        },
      },
      'points',
    ],
    ['what it does not know', { name2: 'x' }, 'name2'],
  ])('%s is refused by its place', async (_name, body, place) => {
    const answer = await changeShot(shot.id, body);
    expect(answer.status).toBe(422);
    expect(JSON.stringify(answer.data)).toContain(place);
  });
  test('pictures of a sequence know theirs and their frame', async () => {
    const form = new FormData();
    for (const [k, v] of [
      ['kind', 'reference'],
      ['series', 'clip'],
      ['frame', '12'],
    ])
      form.append(k, v);
    form.append(
      'file',
      new Blob([encodePng({ width: 8, height: 4, rgba: new Float32Array(128).fill(0.5) }) as BlobPart]),
      'clip.0012.png',
    );
    const made = (await (
      await fetch(server.address + routes.assets(shot.id), { method: 'POST', body: form })
    ).json()) as object;
    expect(made).toMatchObject({ kind: 'reference', series: 'clip', frame: 12 });
    expect((await shotNow(shot.id)).assets.at(-1)).toMatchObject({ series: 'clip', frame: 12 });
  });
});

describe('trial sheets', () => {
  const varied = [{ path: 'buoyancy/lift', values: [0.01, 0.05] }];
  test('run in the queue, and their pictures are served', async () => {
    const s = await newShot();
    const made = await server.ask(routes.sheets(s.variants[0].id), {
      body: { varied, voxelSizeM: 0.1, last: 3 },
    });
    expect(made.status).toBe(201);
    const { job, shot: now } = await ended(s.id, (x) => x.sheets[0]?.job);
    expect(job).toMatchObject({ state: 'done', done: 6, total: 6, kind: 'sheet' });
    expect(now.sheets[0]).toMatchObject({
      varied,
      first: 1,
      last: 3,
      troubles: [null, null],
      variantNumber: 1,
    });
    const picture = await fetch(server.address + routes.sheetPicture(now.sheets[0].id, 1, 3));
    expect(picture.headers.get('content-type')).toBe('image/png');
    for (const [cell, f] of [
      [2, 3],
      [0, 4],
      ['..%2F0', 1],
      [-1, 1],
    ])
      expect((await fetch(server.address + routes.sheetPicture(now.sheets[0].id, cell, f))).status).toBe(404);
  }, 60_000);
  test.each([
    [
      'an unknown number',
      { varied: [{ path: 'wind/sped', values: [1] }], voxelSizeM: 0.1, last: 3 },
      'wind/sped',
    ],
    [
      'a value that is not allowed',
      { varied: [{ path: 'wind/speed', values: [-3] }], voxelSizeM: 0.1, last: 3 },
      'from 0',
    ],
    ['a frame that there is not', { varied, voxelSizeM: 0.1, last: 99 }, 'last frame'],
    ['nothing', { varied: [], voxelSizeM: 0.1, last: 3 }, 'varied'],
  ])('%s is refused', async (_name, body, says) => {
    const s = await newShot();
    const answer = await server.ask(routes.sheets(s.variants[0].id), { body });
    expect(answer.status).toBe(422);
    expect(JSON.stringify(answer.data)).toContain(says);
    expect((await shotNow(s.id)).sheets).toEqual([]);
  });
});

describe('cost', () => {
  test('a probe tells memory exactly, time and disk; what cannot be is refused', async () => {
    const recipe = example('warm-plume');
    const { status, data } = await server.ask(routes.cost, { body: { recipe, voxelSizeM: 0.1 } });
    expect(status).toBe(200);
    expect(data.bytes).toBe(costOf(recipe, 0.1, defaultThreads()).bytes);
    expect(data.frames).toBe(120);
    expect(data.substeps).toBeGreaterThanOrEqual(120);
    expect(data.seconds).toBeGreaterThan(0.1);
    expect(data.diskBytes).toBeGreaterThan(1000);
    // of what is kept the parts make the whole; velocity takes more than density, and what is not kept is
    // told too
    const { density, temperature, velocity, colour } = data.channels;
    expect((density + temperature + velocity) / data.diskBytes).toBeCloseTo(1, 1);
    expect(velocity).toBeGreaterThan(density);
    expect(colour).toBeGreaterThan(density);
    expect(
      (
        await server.ask(routes.cost, {
          body: { recipe: { ...recipe, turbulence: { strength: -1 } }, voxelSizeM: 0.1 },
        })
      ).status,
    ).toBe(422);
    expect((await server.ask(routes.cost, { body: { recipe, voxelSizeM: 0 } })).status).toBe(422);
    const tooMuch = await server.ask(routes.cost, { body: { recipe, voxelSizeM: 0.001 } });
    expect(tooMuch.status).toBe(422);
    expect(tooMuch.data.error).toMatch(/larger voxels/);
  });
});

describe('doors', () => {
  test('headers isolate the page and keep scripts strict', async () => {
    const { headers } = await server.ask('/api/health');
    expect(headers.get('cross-origin-opener-policy')).toBe('same-origin');
    expect(headers.get('cross-origin-embedder-policy')).toBe('require-corp');
    expect(headers.get('content-security-policy')).toMatch(/script-src 'self' 'wasm-unsafe-eval'/);
    expect(headers.get('content-security-policy')).not.toMatch(/unsafe-eval';?.*'unsafe-eval'/);
  });
  test('other hosts and origins are refused', async () => {
    expect(
      (
        await server.ask('/api/productions', {
          body: { name: 'B' },
          headers: { Origin: 'http://elsewhere.example' },
        })
      ).status,
    ).toBe(403);
    const port = Number(new URL(server.address).port);
    const status = await new Promise((done) =>
      request({ host: '127.0.0.1', port, path: '/api/health', headers: { Host: 'elsewhere.example' } }, (r) =>
        done(r.statusCode),
      ).end(),
    );
    expect(status).toBe(421);
  });
  test.each([
    '/api/assets/..%2f..%2fetc%2fpasswd/file',
    '/api/bakes/..%2f1/frames/1/volume',
    '/api/renders/1/frames/1/..%2f..%2fdatabase.json',
    '/api/bakes/1e3/frames/1/brick',
    '/api/nothing',
  ])('%s leads nowhere', async (path) => {
    const { status } = await server.ask(path);
    expect([400, 404]).toContain(status);
  });
  test('broken JSON and huge bodies are told', async () => {
    const broken = await fetch(`${server.address}/api/productions`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: '{"name": ',
    });
    expect(broken.status).toBe(400);
    expect((await server.ask('/api/productions', { body: { name: 'x'.repeat(17e6) } })).status).toBe(413);
  });
});

describe('pictures brought in', () => {
  const send = async (
    data: Uint8Array,
    name: string,
  ): Promise<{ status: number; data: { error?: string; id?: number; width?: number } }> => {
    const form = new FormData();
    form.append('file', new Blob([data as BlobPart]), name);
    const r = await fetch(server.address + routes.assets(shot.id), { method: 'POST', body: form });
    return { status: r.status, data: (await r.json()) as { error?: string } };
  };

  test('a PNG is kept and served again', async () => {
    const png = encodePng({ width: 8, height: 4, rgba: new Float32Array(128).fill(0.5) });
    const answer = await send(png, 'plate.png');
    expect(answer).toMatchObject({ status: 201, data: { width: 8 } });
    const back = await fetch(server.address + routes.asset(answer.data.id!));
    expect(Buffer.from(await back.arrayBuffer()).equals(Buffer.from(png))).toBe(true);
  });
  test.each([
    ['text.png', Buffer.from('hello')],
    ['empty.png', Buffer.alloc(0)],
    [
      'cut.png',
      Buffer.from(encodePng({ width: 64, height: 64, rgba: new Float32Array(16384).fill(0.3) })).subarray(
        0,
        60,
      ),
    ],
  ])('%s is refused by name and nothing is left behind', async (name, data) => {
    const answer = await send(data, name);
    expect(answer.status).toBe(415);
    expect(answer.data.error).toContain(name);
    expect(readdirSync(join(server.folder, 'uploads'))).toEqual([]);
  });
});

describe('jobs', () => {
  test(
    'bake, render and combine run one after the other and hand over a package that the reference tools ' +
      'read',
    async () => {
      const s = await newShot();
      const events: JobInfo[] = [];
      const listening = new AbortController();
      const stream = await fetch(server.address + routes.events, { signal: listening.signal });
      void (async () => {
        for await (const chunk of stream.body as unknown as AsyncIterable<Uint8Array>) {
          for (const line of Buffer.from(chunk).toString().split('\n'))
            if (line.startsWith('data: ')) events.push((JSON.parse(line.slice(6)) as { job: JobInfo }).job);
        }
      })().catch(() => {});
      const bake = (
        await server.ask(routes.bakes(s.variants[0].id), {
          body: { voxelSizeM: 0.1, frames: { first: 1, last: 4 } },
        })
      ).data.id as number;
      const baked = await ended(s.id, (x) => x.bakes.find((b) => b.id === bake)?.job);
      expect(baked.job).toMatchObject({ state: 'done', done: 4, total: 4, message: null });
      expect(baked.shot.bakes[0].frames.map((f) => f.frame)).toEqual([1, 2, 3, 4]);
      const said = (await server.ask(routes.bakeFrames(baked.shot.bakes[0].id))).data as FrameInfo[];
      expect(said[3].readings.mass).toBeGreaterThan(0);
      expect(baked.shot.bakes[0].outOfDate).toEqual([]);
      expect(events.filter((e) => e.kind === 'bake').map((e) => e.state)).toEqual(
        expect.arrayContaining(['queued', 'running', 'done']),
      );

      const { brick, glimpse } = decodePreview(
        new Uint8Array(await (await fetch(server.address + routes.brick(bake, 4))).arrayBuffer()),
      );
      expect(brick).toMatchObject({ frame: 4, dims: [12, 10, 10], colour: null });
      expect(glimpse!.dims).toEqual([12, 10, 10]);
      expect(said[3].incidents).toEqual(expect.any(Array));
      const volume = readVdb(
        new Uint8Array(await (await fetch(server.address + routes.volume(bake, 4))).arrayBuffer()),
        { zip: nodeZip },
      );
      expect(volume.grids.map((g) => g.name)).toEqual(['density', 'temperature', 'velocity']);

      const look = {
        camera: { eye: [0, 0.5, 4], target: [0, 0.4, 0], width: 64, height: 48 },
        passes: { deep: true },
      };
      const render = (
        await server.ask(routes.renders(bake), { body: { look, frames: { first: 3, last: 4 } } })
      ).data.id as number;
      expect(
        (await ended(s.id, (x) => x.renders.find((r) => r.id === render)?.job)).shot.renders[0].frames,
      ).toEqual([3, 4]);
      const combine = (
        await server.ask(routes.combines(s.id), {
          body: {
            settings: {
              name: 'puff',
              frame: { width: 64, height: 48, first: 3, last: 4 },
              layers: [{ id: 'element', name: 'Element', feed: { kind: 'render' } }],
            },
            frames: { first: 3, last: 4 },
            output: { exr: 'float', png: 16, jpeg: true },
          },
        })
      ).data.id as number;
      expect((await ended(s.id, (x) => x.combines.find((c) => c.id === combine)?.job)).job.state).toBe(
        'done',
      );

      const movieOf = async (of: 'renders' | 'combines', id: number, wanted: object): Promise<Response> => {
        const answer = await server.ask(routes.movies(of, id), { body: wanted });
        expect(answer.status).toBe(201);
        const { job } = await ended(s.id, (x) => x.movies.find((m) => m.id === answer.data.id)?.job);
        expect(job).toMatchObject({ state: 'done', kind: 'movie', done: 2, total: 2, message: null });
        return fetch(server.address + routes.movieFile(answer.data.id));
      };

      const review = await movieOf('renders', render, { kind: 'review', burn: true, note: 'colder: 3 %' });
      expect(review.headers.get('content-type')).toBe('video/mp4');
      const clear = await movieOf('combines', combine, { kind: 'prores' });
      for (const [name, answer, codec] of [
        ['review.mp4', review, 'h264'],
        ['clear.mov', clear, 'prores'],
      ] as const) {
        const path = join(server.folder, name);
        writeFileSync(path, Buffer.from(await answer.arrayBuffer()));
        const args = [
          '-v',
          'error',
          '-show_entries',
          'stream=codec_name,width,r_frame_rate',
          '-of',
          'csv',
          path,
        ];
        expect(execFileSync('ffprobe', args, { encoding: 'utf8' }).trim()).toBe(`stream,${codec},64,24/1`);
      }

      const listed = await shotNow(s.id);
      expect(listed.movies.map((m) => [m.renderId, m.combineId, m.bytes! > 1000])).toEqual([
        [render, null, true],
        [null, combine, true],
      ]);
      expect((await server.ask(routes.movies('renders', render), { body: { kind: 'avi' } })).status).toBe(
        422,
      );
      expect((await server.ask(routes.movies('renders', 99_999), { body: { kind: 'png' } })).status).toBe(
        404,
      );
      expect((await fetch(server.address + routes.movieFile(99_999))).status).toBe(404);

      const sheet = (await server.ask(routes.savings(bake), { body: { look, frame: 4 } })).data.id as number;
      const measured = await ended(s.id, (x) => x.savings.find((r) => r.id === sheet)?.job);
      expect(measured.job).toMatchObject({ state: 'done', message: null });
      const savings = (await server.ask(routes.savingsSheet(sheet))).data as SavingsSheet;
      expect(savings.savings.length).toBeGreaterThan(3);
      for (const name of [savings.picture, savings.savings[0].map]) {
        const answer = await fetch(server.address + routes.savingsPicture(sheet, name));
        expect(answer.headers.get('content-type')).toBe('image/png');
      }

      const refused = [
        await server.ask(routes.savingsPicture(sheet, '..%2fsavings.json')),
        await server.ask(routes.savings(bake), { body: { look, frame: 99 } }),
        await server.ask(routes.renderCost(bake), { body: { look: { camera: { width: 1 } } } }),
      ];
      expect(refused.map(({ status }) => status)).toEqual([404, 409, 422]);
      expect((await server.ask(routes.renderCost(bake), { body: { look } })).data).toMatchObject({
        frames: 4,
        bytes: expect.any(Number),
      });

      const packing = (await server.ask(routes.packing(bake))).data as PackingInfo;
      expect(packing).toMatchObject({ next: 1, packages: [], shot: 'puff', production: 'test' });
      const lines = packing.lines.map((l) => l.key);
      const choose = (of: object): ReturnType<TestServer['ask']> =>
        server.ask(routes.packages(bake), { body: { names: DEFAULT_NAMES, lines, ...of } });
      const made = await choose({ note: 'For the compositor.' });
      expect(made).toMatchObject({ status: 201, data: { version: 1 } });
      const zip = join(server.folder, 'package.zip');
      writeFileSync(
        zip,
        Buffer.from(await (await fetch(server.address + routes.package(made.data.id))).arrayBuffer()),
      );
      const names = execFileSync(
        '/usr/bin/python3',
        [
          '-c',
          `import zipfile; z = zipfile.ZipFile(${JSON.stringify(zip)}); assert z.testzip() is None; ` +
            `z.extractall(${JSON.stringify(join(server.folder, 'out'))}); print('\\n'.join(z.namelist()))`,
        ],
        { encoding: 'utf8' },
      )
        .trim()
        .split('\n');
      expect(names).toEqual(
        expect.arrayContaining([
          'volumes/manifest.json',
          'read-me.html',
          'contact.png',
          'scene.glb',
          'scene.usda',
          'documents/recipe.json',
          `documents/render_${render}.look.json`,
          'documents/notes.txt',
          'volumes/puff_v001.0001.vdb',
          `render_${render}/puff_v001.0004.exr`,
          `render_${render}_deep/puff_v001.0004.exr`,
          expect.stringMatching(/^movie_\d+\/puff_v001\.mp4$/),
          `comp_${combine}/puff_v001.0004.png`,
        ]),
      );
      // the package as it came, and unpacked; a bit that is turned is found in both
      const out = join(server.folder, 'out');
      const ignore = (): void => undefined;
      execFileSync('sha256sum', ['-c', '--quiet', CHECKSUMS], { cwd: out });
      const sums = readFileSync(join(out, CHECKSUMS), 'utf8').trim().split('\n');
      expect(sums.map((line) => line.slice(66)).sort()).toEqual(names.filter((n) => n !== CHECKSUMS).sort());
      expect([verifyPackage(zip, ignore), verifyPackage(out, ignore)]).toEqual([[], []]);
      const whole = readFileSync(zip);
      whole[whole.indexOf('volumes/puff_v001.0002.vdb') + 900] ^= 4;
      writeFileSync(zip, whole);
      expect(verifyPackage(zip, ignore).map((d) => d.file)).toEqual(['volumes/puff_v001.0002.vdb']);
      const turned = readFileSync(join(out, 'volumes/puff_v001.0003.vdb'));
      turned[turned.length - 9] ^= 1;
      writeFileSync(join(out, 'volumes/puff_v001.0003.vdb'), turned);
      expect(readFileSync(join(out, 'read-me.html'), 'utf8')).toMatch(/1–4 \(4 frames\)/);
      rmSync(join(out, 'read-me.html'));
      expect(verifyPackage(out, ignore)).toEqual([
        { file: 'volumes/puff_v001.0003.vdb', what: 'its content is not what was written' },
        { file: 'read-me.html', what: 'it is not there' },
      ]);
      const usda = readFileSync(join(server.folder, 'out', 'scene.usda'), 'utf8');
      const named = [...usda.matchAll(/@\.\/([^@]+)@/g)].map(([, path]) => path);
      expect(named).toHaveLength(new Set(named).size * (usda.match(/OpenVDBAsset/g) ?? []).length);
      expect(names).toEqual(expect.arrayContaining(named));
      expect(
        execFileSync('exrheader', [join(server.folder, 'out', `render_${render}`, 'puff_v001.0004.exr')], {
          encoding: 'utf8',
        }),
      ).toMatch(/depth\.Z, 32-bit/);

      // another one, of some frames and under other names: its volumes are a cache of their own
      const names2 = '{production}/{what}_{version}/{frame:6}';
      const some = { names: names2, lines: ['volumes', 'scene'], frames: { first: 2, last: 3 } };
      const second = await choose(some);
      expect(second.data).toMatchObject({ version: 2 });
      const found = unzipSync(
        new Uint8Array(await (await fetch(server.address + routes.package(second.data.id))).arrayBuffer()),
      );
      expect(Object.keys(found)).toEqual([
        ...['test/volumes_2/000002.vdb', 'test/volumes_2/000003.vdb', 'test/volumes_2/manifest.json'],
        ...['scene.usda', 'scene.glb', 'read-me.html', CHECKSUMS],
      ]);
      const cache = join(server.folder, 'cache');
      mkdirSync(cache);
      for (const [name, data] of Object.entries(found))
        if (name.startsWith('test/volumes_2/')) writeFileSync(join(cache, name.slice(15)), data);
      expect(openCache(cache)).toMatchObject({ first: 2, last: 3, manifest: { complete: true } });
      expect(Buffer.from(found['scene.usda']).toString()).toContain('@./test/volumes_2/000003.vdb@');
      expect(Buffer.from(found['scene.usda']).toString()).not.toContain('000004.vdb');
      for (const [of, says] of [
        [{ names: '{what}' }, 'Names: The pattern needs {frame} once'],
        [{ lines: ['render:99:exr'] }, 'There is no “render:99:exr” to hand over'],
        [{ frames: { first: 40, last: 50 } }, 'None of the frames 40 to 50 is there'],
      ] as const)
        expect(await choose(of)).toMatchObject({
          status: 422,
          data: { error: expect.stringContaining(says) },
        });
      expect(((await server.ask(routes.packing(bake))).data as PackingInfo).packages).toMatchObject([
        { version: 2, names: names2, gone: null, wanted: { lines: some.lines, frames: some.frames } },
        { version: 1, note: 'For the compositor.', wanted: { frames: null } },
      ]);
      listening.abort();
    },
  );

  test('a changed setting marks the bake out of date by its name', async () => {
    const s = (await server.ask('/api/productions')).data[0].shots.at(-1) as { id: number };
    const now = await shotNow(s.id);
    const { recipe, id } = now.variants[0];
    await saveRecipe(server, id, { ...recipe, wind: { ...recipe.wind, speed: 1.5 } });
    expect((await shotNow(s.id)).bakes[0].outOfDate).toMatchObject([
      { path: 'wind.speed', from: 0, to: 1.5 },
    ]);
  });

  const long = { ...SMALL, voxelSize: 0.02, lastFrame: 2000 };
  const startLong = async (): Promise<{ shotId: number; bakeId: number; job: JobInfo }> => {
    const s = await newShot(long);
    const bakeId = (
      await server.ask(routes.bakes(s.variants[0].id), {
        body: { voxelSizeM: 0.025, frames: { first: 1, last: 2000 } },
      })
    ).data.id as number;
    const job = await until(async () => {
      const j = (await shotNow(s.id)).bakes.find((b) => b.id === bakeId)?.job;
      return j?.state === 'running' && j.done >= 2 ? j : null;
    });
    return { shotId: s.id, bakeId, job };
  };

  test('a bake that is killed fails with the reason and keeps whole frames only', async () => {
    const { shotId, bakeId } = await startLong();
    const pid = execFileSync('pgrep', ['-f', `bakes/${bakeId} `], { encoding: 'utf8' })
      .trim()
      .split('\n')
      .map(Number)
      .find((p) => p !== process.pid)!;
    process.kill(pid, 'SIGKILL');
    const { job, shot: after } = await ended(shotId, (x) => x.bakes.find((b) => b.id === bakeId)?.job);
    expect(job).toMatchObject({
      state: 'failed',
      message: expect.stringMatching(/SIGKILL.*whole and kept/) as string,
    });
    for (const f of after.bakes[0].frames) {
      const data = new Uint8Array(
        await (await fetch(server.address + routes.volume(bakeId, f.frame))).arrayBuffer(),
      );
      expect(readVdb(data, { zip: nodeZip }).grids).toHaveLength(3);
    }
  });
  test('a running job stops when told to, and the next one runs', async () => {
    const { shotId, bakeId, job } = await startLong();
    await server.ask(routes.stopJob(job.id), { method: 'POST', body: {} });
    expect((await ended(shotId, (x) => x.bakes.find((b) => b.id === bakeId)?.job)).job.state).toBe('stopped');
    const s = await newShot();
    const next = (
      await server.ask(routes.bakes(s.variants[0].id), {
        body: { voxelSizeM: 0.1, frames: { first: 1, last: 1 } },
      })
    ).data.id as number;
    expect((await ended(s.id, (x) => x.bakes.find((b) => b.id === next)?.job)).job.state).toBe('done');
  });
  test('a recipe that cannot run fails with its own message', async () => {
    const s = await newShot({ size: [900, 900, 900], corner: [0, 0, 0] });
    const bake = (
      await server.ask(routes.bakes(s.variants[0].id), {
        body: { voxelSizeM: 0.05, frames: { first: 1, last: 1 } },
      })
    ).data.id as number;
    const { job } = await ended(s.id, (x) => x.bakes.find((b) => b.id === bake)?.job);
    expect(job).toMatchObject({
      state: 'failed',
      message: expect.stringMatching(/GiB.*larger voxels/) as string,
    });
    expect(existsSync(join(server.folder, 'bakes', String(bake), 'manifest.json'))).toBe(false);
  });
  test('a bake that failed goes on with more substeps, from a state before that', async () => {
    const s = await newShot({ ...SMALL, voxelSize: 0.04, lastFrame: 26 });
    const bakeId = (
      await server.ask(routes.bakes(s.variants[0].id), {
        body: { voxelSizeM: 0.04, frames: { first: 1, last: 26 } },
      })
    ).data.id as number;
    const of = async (): Promise<ShotInfo['bakes'][number]> => (await shotNow(s.id)).bakes[0];
    await until(async () => ((await of()).frames.length >= 15 ? true : null));
    const press = async (): Promise<number> =>
      (await server.ask(routes.moreSubstepsOfJob((await of()).job!.id), { method: 'POST', body: {} })).status;
    expect(await press()).toBe(409);
    const pids = execFileSync('pgrep', ['-f', `bakes/${bakeId} `], { encoding: 'utf8' })
      .trim()
      .split('\n');
    process.kill(
      pids.map(Number).find((p) => p !== process.pid)!,
      'SIGKILL',
    );
    await until(async () => ((await of()).job!.state === 'failed' ? true : null));
    expect(await press()).toBe(200);
    await ended(s.id, (x) => (x.bakes[0].job!.state === 'done' ? x.bakes[0].job : null));
    const { substeps, recipe, frames } = readJson(
      join(server.folder, 'bakes', String(bakeId), 'manifest.json'),
    ) as Manifest;
    // a state is kept every ten frames, and the bake may have gone on before it was ended
    const before = substeps![0].until;
    expect([10, 20]).toContain(before);
    expect(substeps).toEqual([{ until: before, least: 1, most: 8 }]);
    expect(recipe.space.substepsLeast).toBe(2);
    expect(frames.map((f) => f.readings.substeps >= 2)).toEqual(frames.map((f) => f.frame > before));
    expect((await of()).outOfDate.map((d) => d.path)).toEqual(['space.substepsLeast']);
    expect(await press()).toBe(409);
  });
  test('a bake by an earlier edition of the solver is out of date', async () => {
    const s = await newShot();
    const bake = (
      await server.ask(routes.bakes(s.variants[0].id), {
        body: { voxelSizeM: 0.1, frames: { first: 1, last: 1 } },
      })
    ).data.id as number;
    const done = await ended(s.id, (x) => x.bakes.find((b) => b.id === bake)?.job);
    expect(done.shot.bakes[0].outOfDate).toEqual([]);
    await Bake.update({ solver: 1 }, { where: { id: bake } });
    expect((await shotNow(s.id)).bakes[0].outOfDate).toMatchObject([{ path: 'solver', from: 1 }]);
  });
  test(
    'a bake that is paused, killed and stopped goes on to the ' + 'same bits as one that never was',
    async () => {
      const space = { ...SMALL, voxelSize: 0.04, lastFrame: 40 };
      const [broken, whole] = [await newShot(space), await newShot(space)];
      const begin = async (s: ShotInfo): Promise<number> =>
        (
          await server.ask(routes.bakes(s.variants[0].id), {
            body: { voxelSizeM: 0.04, frames: { first: 1, last: 40 } },
          })
        ).data.id as number;
      const bakeId = await begin(broken);
      const of = async (): Promise<ShotInfo['bakes'][number]> => (await shotNow(broken.id)).bakes[0];
      const frames = (n: number): Promise<unknown> =>
        until(async () => ((await of()).frames.length >= n ? true : null));
      const act = async (path: (id: number) => string): Promise<void> =>
        void (await server.ask(path((await of()).job!.id), { method: 'POST', body: {} }));
      await frames(3);
      await act(routes.pauseJob);
      await until(async () => ((await of()).job!.state === 'paused' ? true : null));
      await act(routes.goOnJob);
      await frames(12);
      const pids = execFileSync('pgrep', ['-f', `bakes/${bakeId} `], { encoding: 'utf8' })
        .trim()
        .split('\n')
        .map(Number);
      process.kill(
        pids.find((p) => p !== process.pid)!,
        'SIGKILL',
      );
      await until(async () => ((await of()).job!.state === 'failed' ? true : null));
      await act(routes.goOnJob);
      await frames(22);
      await act(routes.stopJob);
      await act(routes.goOnJob);
      await ended(broken.id, (x) => (x.bakes[0].job!.state === 'done' ? x.bakes[0].job : null));
      const wholeId = await begin(whole);
      await ended(whole.id, (x) => x.bakes.find((b) => b.id === wholeId)?.job);
      const sums = (id: number): string[] =>
        (readJson(join(server.folder, 'bakes', String(id), 'manifest.json')) as Manifest).frames.map(
          (f) => `${f.frame} ${f.sha256} ${f.state}`,
        );
      expect(sums(bakeId)).toHaveLength(40);
      expect(sums(bakeId)).toEqual(sums(wholeId));
      expect((await of()).frames.map((f) => f.frame)).toEqual(Array.from({ length: 40 }, (_, n) => n + 1));
    },
    120_000,
  );
  test('a job that is put first goes before those that came earlier', async () => {
    const { job: busy } = await startLong();
    const s = await newShot();
    const ids: number[] = [];
    for (let n = 0; n < 3; n++)
      ids.push(
        (
          await server.ask(routes.bakes(s.variants[0].id), {
            body: { voxelSizeM: 0.1, frames: { first: 1, last: 1 } },
          })
        ).data.id as number,
      );
    const jobOf = async (bake: number): Promise<JobInfo> =>
      (await shotNow(s.id)).bakes.find((b) => b.id === bake)!.job!;
    expect(
      (await server.ask(routes.firstJob((await jobOf(ids[2])).id), { method: 'POST', body: {} })).status,
    ).toBe(200);
    await server.ask(routes.stopJob(busy.id), { method: 'POST', body: {} });
    await until(async () =>
      (await Promise.all(ids.map(jobOf))).every((j) => j.state === 'done') ? true : null,
    );
    const began = (await Promise.all(ids.map(jobOf))).map((j) => Date.parse(j.startedAt!));
    expect(began[2]).toBeLessThanOrEqual(began[0]);
    expect(began[0]).toBeLessThanOrEqual(began[1]);
  }, 60_000);
  test('a job that a dead server left running is taken up, one of a living server is not', async () => {
    const s = await newShot();
    const left = (beatAt: Date | null): Promise<Job> =>
      Job.create({
        kind: 'bake',
        state: 'running',
        targetId: 1,
        shotId: s.id,
        total: 5,
        owner: 'another',
        beatAt,
      });
    const dead = await left(new Date(Date.now() - 60_000));
    const living = await left(new Date(Date.now() + 60_000));
    // it waits again, and the server of this test begins it
    await until(async () => (await dead.reload()).owner !== 'another');
    expect(await living.reload()).toMatchObject({ state: 'running', owner: 'another' });
    await living.destroy();
  });
});

test('what a row names is there: a variant’s parent, a comp’s shot', async () => {
  const shot = (await server.ask(routes.shots, {
    body: {
      productionId: ((await server.ask(routes.productions)).data as { id: number }[])[0].id,
      name: 'Kin',
      example: 'warm-plume',
    },
  })) as { data: { id: number } };
  const variant = (await Variant.findOne({ where: { shotId: shot.data.id } }))!;
  await expect(variant.update({ parentId: 999_999 })).rejects.toThrow(/foreign key/i);
  await expect(
    CombineRun.create({
      shotId: 999_999,
      settings: {} as never,
      output: { exr: 'half', png: 8, jpeg: false, scale: 1 },
      firstFrame: 1,
      lastFrame: 1,
    }),
  ).rejects.toThrow(/foreign key/i);
});
