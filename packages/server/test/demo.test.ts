// What a newcomer finds: the demo's shots are baked by themselves, and the board shows it.
import type { ProductionCard } from '@bramblemist/contracts/payloads/board';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { bakeDemo } from '@bramblemist/server/demo';
import { Bake, Job } from '@bramblemist/server/models';
import { saveRecipe, testServer, until, type TestServer } from './harness';

const SPACE = { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.005, lastFrame: 4 };

let server: TestServer;
beforeAll(async () => (server = await testServer()));
afterAll(() => server.close());

const board = async (): Promise<ProductionCard> =>
  ((await server.ask(routes.productions)).data as ProductionCard[])[0];

test('the first variant of each shot is baked behind all else, and pictured on the board', async () => {
  const { id: productionId } = (await server.ask(routes.productions, { body: { name: 'Test' } })).data as {
    id: number;
  };
  for (const name of ['One', 'Two']) {
    const body = { productionId, name, example: 'warm-plume' };
    const { id } = (await server.ask('/api/shots', { body })).data as { id: number };
    const { variants } = (await server.ask(routes.shot(id))).data as ShotInfo;
    const { recipe } = variants[0];
    await saveRecipe(server, variants[0].id, { ...recipe, space: { ...recipe.space, ...SPACE } });
    await server.ask(routes.variants(id), { body: { note: 'another' } });
  }

  expect((await board()).shots.map((s) => s.picture)).toEqual([null, null]);
  await bakeDemo(server.engine);
  const bakes = await Bake.findAll();
  expect(bakes.map((b) => b.voxelSizeM)).toEqual([1 / 64, 1 / 64]);
  expect(new Set((await Job.findAll()).map((j) => j.priority))).toEqual(new Set([-1]));
  const cards = await until(async () => {
    const { shots } = await board();
    return shots.every((s) => s.picture !== null) && shots;
  }, 120);
  for (const { picture, bakes: many } of cards) {
    expect(many).toBe(1);
    const shown = await fetch(server.address + picture!);
    expect(shown.headers.get('Content-Type')).toBe('image/png');
  }
}, 150_000);
