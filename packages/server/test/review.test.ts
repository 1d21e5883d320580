// Review: versions of a shot as moving pictures, and what is said of them.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { ReviewInfo, ReviewNoteInfo } from '@bramblemist/contracts/payloads/review';
import { routes } from '@bramblemist/contracts/routes';
import { encodePng } from '@bramblemist/core/io/node/png';
import { Bake, Job, Render, Variant } from '@bramblemist/server/models';
import { hearing, testServer, until, type TestServer } from './harness';

let server: TestServer;
let shot: number;
let render: number;
let bake: number;
const PNG = encodePng({ width: 2, height: 2, rgba: new Float32Array(16).fill(1) });

/** A bake with a loop and a render with pictures, as jobs would have left them. */
beforeAll(async () => {
  server = await testServer();
  const production = (await server.ask(routes.productions, { body: { name: 'Reviewed' } })).data.id as number;
  const body = { productionId: production, name: 'Fog', example: 'warm-plume' };
  shot = (await server.ask(routes.shots, { body })).data.id as number;
  const variant = (await Variant.findOne({ where: { shotId: shot } }))!;
  const { recipe, recipeSha256, look } = variant;
  const made = await Bake.create({
    ...{
      variantId: variant.id,
      recipe,
      recipeSha256,
      voxelSizeM: 0.1,
      firstFrame: 1,
      lastFrame: 9,
      solver: 1,
    },
  } as never);
  bake = made.id;
  await Job.create({ kind: 'bake', state: 'done', targetId: bake, shotId: shot } as never);
  render = (await Render.create({ bakeId: bake, look, firstFrame: 3, lastFrame: 4 } as never)).id;
  const put = (folder: string, frames: number[]): void => {
    mkdirSync(folder, { recursive: true });
    for (const f of frames) writeFileSync(join(folder, `fog.000${f}.png`), PNG);
  };

  put(join(server.folder, 'bakes', String(bake), 'loop'), [1, 4, 7]);
  put(join(server.folder, 'renders', String(render)), [3, 4]);
});
afterAll(() => server.close());

const review = async (): Promise<ReviewInfo> => (await server.ask(routes.review(shot))).data as ReviewInfo;
const say = (of: object): ReturnType<TestServer['ask']> =>
  server.ask(routes.review(shot), {
    body: { kind: 'render', of: render, frame: 4, text: 'Thinner at the left.', ...of },
  });

test('renders come before bakes, each with its frames, and their pictures are there', async () => {
  const { status, versions, notes } = await review();
  expect([status, notes]).toEqual(['work', []]);
  expect(versions).toMatchObject([
    { kind: 'render', id: render, frames: [3, 4], rate: 24 },
    { kind: 'bake', id: bake, frames: [1, 4, 7], about: expect.stringContaining('variant 1') as string },
  ]);
  for (const v of versions) {
    const answer = await fetch(server.address + v.picture.replace('{frame}', String(v.frames[1])));
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'image/png']);
    expect((await fetch(server.address + v.picture.replace('{frame}', '99'))).status).toBe(404);
  }
});

test('a note is said, done, said otherwise and removed; windows are told', async () => {
  const { heard, stop } = await hearing(server);
  const strokes = [[0.1, 0.2, 0.3, 0.4]];
  const { status, data } = await say({ author: 'Mara', strokes });
  expect(status).toBe(201);
  const { id } = data as ReviewNoteInfo;
  expect((await review()).notes).toMatchObject([
    { id, kind: 'render', of: render, frame: 4, author: 'Mara', strokes, done: false },
  ]);
  const patch = (body: object): ReturnType<TestServer['ask']> =>
    server.ask(routes.reviewNote(id), { method: 'PATCH', body });
  await patch({ done: true });
  await patch({ text: 'Thinner at the right.' });
  expect((await review()).notes).toMatchObject([
    { done: true, text: 'Thinner at the right.', author: 'Mara' },
  ]);
  await server.ask(routes.reviewNote(id), { method: 'DELETE' });
  expect((await review()).notes).toEqual([]);
  expect((await patch({ done: false })).status).toBe(404);
  const told = (): number => heard.filter((e) => e.kind === 'review' && e.shotId === shot).length;
  await until(() => Promise.resolve(told() === 4), 5);
  await stop();
});

test.each([
  ['nothing', { text: '' }, 'must not be empty'],
  ['a version that is not of the shot', { of: 999 }, 'has no render 999 with pictures'],
  ['a kind that there is not', { kind: 'movie' }, 'kind'],
  ['a line outside of the picture', { strokes: [[0, 0, 1.5, 0]] }, 'strokes'],
  ['half a point', { strokes: [[0, 0, 0.5, 0, 0.2]] }, 'must be pairs'],
  ['a point alone', { strokes: [[0, 0]] }, 'needs two points'],
])('%s is refused', async (_, of, says) => {
  const { status, data } = await say(of);
  expect(status).toBe(422);
  expect(JSON.stringify(data)).toContain(says);
});
