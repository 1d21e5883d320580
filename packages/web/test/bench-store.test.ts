// Named undo, gestures and autosave, apart from any screen.
import { COMBINE } from '@bramblemist/core/combine/combine';
import { LOOK } from '@bramblemist/core/look/look';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { VariantInfo } from '@bramblemist/contracts/payloads/shot';

const requests: { path: string; began: string; body: { recipe: { wind: { speed: number } } } }[] = [];
let answer: () => { ok: boolean; status: number; json: () => Promise<unknown> };
Object.assign(globalThis, {
  window: { addEventListener() {} },
  fetch: (path: string, options: { body: string; headers: Record<string, string> }) => {
    requests.push({ path, began: options.headers['If-Match'], body: JSON.parse(options.body) as never });
    return Promise.resolve(answer());
  },
});
// after window is there, since the module listens to it
const { change, flush, openVariant, redo, undo, undoTo, useBench } = jest.requireActual<
  typeof import('@bramblemist/web/data/bench')
>('@bramblemist/web/data/bench');

const variant = (id: number): VariantInfo => ({
  id,
  number: 1,
  parent: null,
  note: '',
  recipe: parseRecipe({}),
  look: LOOK.parse({}),
  combine: COMBINE.parse({}),
  revision: 1,
  changedAt: '',
});
const speed = (): number => useBench.getState().documents!.recipe.wind.speed;
let nextId = 1;

beforeEach(() => {
  jest.useFakeTimers();
  requests.length = 0;
  answer = () => ({ ok: true, status: 200, json: () => Promise.resolve({ revision: 2 }) });
  openVariant(variant(nextId++));
});
afterEach(() => {
  jest.runOnlyPendingTimers();
  jest.useRealTimers();
});

test('changes are undone and redone by name', () => {
  change('Wind: speed', 'recipe', 'wind.speed', 3);
  change('Camera: focal length', 'look', 'camera.focal', 50);
  expect(useBench.getState().past.map((s) => s.label)).toEqual(['Wind: speed', 'Camera: focal length']);
  undo();
  expect(useBench.getState().documents!.look.camera.focal).toBe(LOOK.parse({}).camera.focal);
  expect(useBench.getState().future[0].label).toBe('Camera: focal length');
  undo();
  expect(speed()).toBe(0);
  redo();
  expect(speed()).toBe(3);
  undo();
  undo(); // nothing left: nothing happens
  expect(speed()).toBe(0);
});

test('going back to before a step undoes all from it on, and all of it can be redone', () => {
  for (const [n, name] of ['gust', 'rise', 'heading'].entries())
    change(`Wind: ${name}`, 'recipe', `wind.${name}`, n + 1);
  undoTo(1);
  expect(useBench.getState().past.map((s) => s.label)).toEqual(['Wind: gust']);
  expect(useBench.getState().documents!.recipe.wind).toMatchObject({ gust: 1, rise: 0, heading: 0 });
  expect(useBench.getState().future.map((s) => s.label)).toEqual(['Wind: rise', 'Wind: heading']);
  redo();
  redo();
  expect(useBench.getState().documents!.recipe.wind).toMatchObject({ gust: 1, rise: 2, heading: 3 });
});

test('a new change forgets what could be redone', () => {
  change('Wind: speed', 'recipe', 'wind.speed', 3);
  undo();
  change('Wind: gust', 'recipe', 'wind.gust', 1);
  expect(useBench.getState().future).toEqual([]);
});

test('a drag of one setting is one step, another setting is another', () => {
  for (let n = 1; n <= 30; n++) change('Wind: speed', 'recipe', 'wind.speed', n / 10);
  change('Wind: gust', 'recipe', 'wind.gust', 1);
  expect(useBench.getState().past).toHaveLength(2);
  undo();
  undo();
  expect(speed()).toBe(0);
});

test('what waits is saved once, after a pause', async () => {
  change('Wind: speed', 'recipe', 'wind.speed', 1);
  change('Wind: gust', 'recipe', 'wind.gust', 2);
  expect(useBench.getState().saving).toBe('waiting');
  expect(requests).toHaveLength(0);
  await jest.advanceTimersByTimeAsync(600);
  expect(requests.map((r) => r.path)).toEqual([`/api/variants/${nextId - 1}`]);
  expect(requests[0].body.recipe.wind).toMatchObject({ speed: 1, gust: 2 });
  expect(useBench.getState().saving).toBe('saved');
});

test('a refused save says why, keeps the change and tries again', async () => {
  answer = () => ({ ok: false, status: 500, json: () => Promise.resolve({ error: 'The disk is full.' }) });
  change('Wind: speed', 'recipe', 'wind.speed', 1);
  await expect(flush()).rejects.toThrow('The disk is full.');
  expect(useBench.getState()).toMatchObject({ saving: 'failed', saveError: 'The disk is full.' });
  expect(speed()).toBe(1);
  answer = () => ({ ok: true, status: 200, json: () => Promise.resolve({ revision: 2 }) });
  await jest.advanceTimersByTimeAsync(5100);
  expect(useBench.getState()).toMatchObject({ saving: 'saved', saveError: null });
});

test('opening another variant starts with a clean history', () => {
  change('Wind: speed', 'recipe', 'wind.speed', 1);
  openVariant(variant(nextId++));
  expect(useBench.getState()).toMatchObject({ past: [], future: [] });
  expect(speed()).toBe(0);
});

test('a variant that was left before its save still gets it, as its own', async () => {
  const first = nextId - 1;
  answer = () => ({ ok: false, status: 500, json: () => Promise.resolve({ error: 'away' }) });
  change('Wind: speed', 'recipe', 'wind.speed', 7);
  openVariant(variant(nextId++));
  await jest.advanceTimersByTimeAsync(700);
  expect(useBench.getState()).toMatchObject({ saving: 'saved', unsavedElsewhere: 1 });
  change('Wind: speed', 'recipe', 'wind.speed', 1);
  answer = () => ({ ok: true, status: 200, json: () => Promise.resolve({ revision: 2 }) });
  requests.length = 0;
  await jest.advanceTimersByTimeAsync(6000);
  const sent = Object.fromEntries(requests.map((r) => [r.path, r.body.recipe.wind.speed]));
  expect(sent).toEqual({ [`/api/variants/${first}`]: 7, [`/api/variants/${nextId - 1}`]: 1 });
  expect(useBench.getState().unsavedElsewhere).toBe(0);
});

test('a variant that is gone back to while its save is on its way is as it was left', async () => {
  const first = variant(nextId - 1);
  change('Wind: speed', 'recipe', 'wind.speed', 7);
  openVariant(variant(nextId++));
  openVariant(first);
  expect(speed()).toBe(7);
  await jest.advanceTimersByTimeAsync(700);
  openVariant({ ...first, revision: 1 });
  expect(speed()).toBe(7);
});

test('what could be undone is there once the last save of a page that went has arrived', async () => {
  const { Journal } = jest.requireActual<typeof import('@bramblemist/web/data/journal')>(
    '@bramblemist/web/data/journal',
  );
  const first = variant(nextId++);
  const { look, combine } = first;
  const recipe = parseRecipe({ wind: { speed: 3 } });
  const past = [{ label: 'Wind: speed', documents: { recipe: first.recipe, look, combine } }];
  const history = jest
    .spyOn(Journal.prototype, 'history')
    .mockResolvedValue({ documents: { recipe, look, combine }, past, future: [] });
  openVariant(first);
  await jest.advanceTimersByTimeAsync(0);
  expect(useBench.getState().past).toEqual([]);
  openVariant({ ...first, recipe, revision: 2 });
  await jest.advanceTimersByTimeAsync(0);
  expect(useBench.getState().past.map((s) => s.label)).toEqual(['Wind: speed']);
  undo();
  expect(speed()).toBe(0);
  history.mockRestore();
});
