// The board: productions and shots are named, ordered, given to somebody, archived and brought back.
import type { ProductionCard, ShotCard } from '@bramblemist/contracts/payloads/board';
import { routes } from '@bramblemist/contracts/routes';
import { someOf } from '@bramblemist/server/services/board';
import { hearing, testServer, until, type TestServer } from './harness';

let server: TestServer;
beforeAll(async () => {
  server = await testServer();
});
afterAll(() => server.close());

const board = async (): Promise<ProductionCard[]> =>
  (await server.ask(routes.productions)).data as ProductionCard[];
const productionOf = async (id: number): Promise<ProductionCard> => (await board()).find((p) => p.id === id)!;
const newProduction = async (name: string): Promise<number> =>
  (await server.ask(routes.productions, { body: { name } })).data.id as number;
const newShot = async (productionId: number, name: string): Promise<number> =>
  (await server.ask(routes.shots, { body: { productionId, name } })).data.id as number;
const cardOf = async (id: number): Promise<ShotCard> =>
  (await board()).flatMap((p) => p.shots).find((s) => s.id === id)!;
const patch = (path: string, body: unknown): ReturnType<TestServer['ask']> =>
  server.ask(path, { method: 'PATCH', body });

test('a production is made, renamed, noted, archived and brought back', async () => {
  const id = await newProduction('First cut');
  expect(await productionOf(id)).toMatchObject({ name: 'First cut', note: '', archived: false, shots: [] });
  await patch(routes.production(id), { name: 'Second cut', note: 'For the festival.' });
  await patch(routes.production(id), { archived: true });
  expect(await productionOf(id)).toMatchObject({
    name: 'Second cut',
    note: 'For the festival.',
    archived: true,
  });
  await patch(routes.production(id), { archived: false });
  expect((await productionOf(id)).archived).toBe(false);
});

test('what is said of a shot changes field by field, and its documents stay as they are', async () => {
  const production = await newProduction('Cards');
  const id = await newShot(production, 'Fog bank');
  expect(await cardOf(id)).toMatchObject({ status: 'work', assignee: '', due: null, archived: false });
  await patch(routes.card(id), { status: 'review', assignee: 'Mara', due: '2027-02-28' });
  await patch(routes.card(id), { name: 'Fog bank, wide' });
  await patch(routes.card(id), { archived: true });
  expect(await cardOf(id)).toMatchObject({
    name: 'Fog bank, wide',
    status: 'review',
    assignee: 'Mara',
    due: '2027-02-28',
    archived: true,
  });
  const shot = (await server.ask(routes.shot(id))).data;
  expect(shot).toMatchObject({ name: 'Fog bank, wide', revision: 1 });
  expect(shot.variants[0].recipe.name).toBe('Fog bank');
  await patch(routes.card(id), { archived: false, due: null });
  expect(await cardOf(id)).toMatchObject({ archived: false, due: null, status: 'review' });
  await patch(routes.card(id), { due: '2027-03-01' });
  await patch(routes.card(id), { due: '' });
  expect((await cardOf(id)).due).toBeNull();
});

test('shots are put into an order; those that it does not name come behind, new ones last', async () => {
  const production = await newProduction('Order');
  const [a, b, c] = [
    await newShot(production, 'a'),
    await newShot(production, 'b'),
    await newShot(production, 'c'),
  ];
  const names = async (): Promise<string> =>
    (await productionOf(production)).shots.map((s) => s.name).join('');
  const changed = (await cardOf(a)).changedAt;
  const order = (shots: unknown): ReturnType<TestServer['ask']> =>
    server.ask(routes.shotOrder(production), { method: 'PUT', body: { shots } });
  expect(await names()).toBe('abc');
  await order([c, a, b]);
  expect(await names()).toBe('cab');
  await newShot(production, 'd');
  expect(await names()).toBe('cabd');
  await order([b, b]);
  expect(await names()).toBe('bcad');
  // where it stands is no change of a shot
  expect((await cardOf(a)).changedAt).toBe(changed);

  const elsewhere = await newShot(await newProduction('Elsewhere'), 'x');
  const { status, data } = await order([a, elsewhere]);
  expect(status).toBe(422);
  expect(data.error).toContain(`Shot ${elsewhere} is not of this production`);
  expect(await names()).toBe('bcad');
});

test.each([
  ['an empty name', { name: '' }, 'must not be empty'],
  ['a name with spaces around it', { name: ' Kept ' }, 'must not begin or end with a space'],
  ['a name beyond reason', { name: 'n'.repeat(121) }, 'at most 120 characters'],
  ['a status that there is not', { status: 'done' }, 'status'],
  ['a day that the calendar does not have', { due: '2027-02-30' }, 'must be a day such as'],
  ['a day in words', { due: 'next week' }, 'must be a day such as'],
  ['something else', { recipe: {} }, 'recipe'],
])('%s is refused', async (_, body, says) => {
  const id = await newShot(await newProduction('Refused'), 'Kept');
  const { status, data } = await patch(routes.card(id), body);
  expect(status).toBe(422);
  expect(JSON.stringify(data)).toContain(says);
  expect(await cardOf(id)).toMatchObject({ name: 'Kept', status: 'work', due: null });
});

test('what is not there is said to be missing', async () => {
  expect((await patch(routes.card(99999), { status: 'review' })).status).toBe(404);
  expect((await patch(routes.production(99999), { name: 'x' })).status).toBe(404);
  expect((await server.ask(routes.shotOrder(99999), { method: 'PUT', body: { shots: [] } })).status).toBe(
    404,
  );
});

test('other windows are told', async () => {
  const { heard, stop } = await hearing(server);
  const id = await newShot(await newProduction('Told'), 'Told');
  await patch(routes.card(id), { status: 'approved' });
  await until(() => Promise.resolve(heard.some((e) => e.kind === 'document' && e.shotId === id)), 5);
  expect(heard.some((e) => e.kind === 'board')).toBe(true);
  await stop();
});

test('at most so many of a list, evenly, from the first on', () => {
  expect(someOf([1, 2, 3], 4)).toEqual([1, 2, 3]);
  expect(someOf([0, 1, 2, 3, 4, 5, 6, 7, 8, 9], 4)).toEqual([0, 2, 5, 7]);
});
