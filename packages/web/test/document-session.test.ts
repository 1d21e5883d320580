// The save queue of one variant: one request at a time, nothing lost when the server is slow, refuses, is
// away or has something newer.
import { COMBINE } from '@bramblemist/core/combine/combine';
import { LOOK } from '@bramblemist/core/look/look';
import { setAt } from '@bramblemist/core/recipe/paths';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import {
  DocumentSession,
  Stale,
  type Documents,
  type Kept,
  type SessionState,
} from '@bramblemist/web/data/document-session';

const START: Documents = { recipe: parseRecipe({}), look: LOOK.parse({}), combine: COMBINE.parse({}) };
const set = (documents: Documents, path: string, value: unknown): Documents => setAt(documents, path, value);

/** A server that can be slow, away, or have somebody else save. */
class Server {
  kept: Kept = { documents: START, revision: 1 };
  away = false;
  slowMs = 0;
  atOnce = 0;
  mostAtOnce = 0;
  saves = 0;

  async save(parts: Partial<Documents>, began: number): Promise<Kept> {
    this.mostAtOnce = Math.max(this.mostAtOnce, ++this.atOnce);
    try {
      if (this.slowMs) await new Promise((done) => setTimeout(done, this.slowMs));
      if (this.away) throw new Error('The server does not answer.');
      if (began !== this.kept.revision) throw new Stale(this.kept);
      this.saves++;
      this.kept = { documents: { ...this.kept.documents, ...parts }, revision: began + 1 };
      return this.kept;
    } finally {
      this.atOnce--;
    }
  }

  someoneElse(path: string, value: unknown): void {
    const { documents, revision } = this.kept;
    this.kept = { documents: set(documents, path, value), revision: revision + 1 };
  }
}

let server: Server;
let noted: { documents: Documents; began: Kept } | null;
let shown: SessionState;
let session: DocumentSession;

const open = (start?: { documents: Documents }): DocumentSession =>
  new DocumentSession(
    server.kept,
    {
      save: (parts, began) => server.save(parts, began),
      note: (unsaved) => (noted = unsaved),
      changed: (state) => (shown = state),
    },
    start,
  );
const change = (path: string, value: unknown): void =>
  session.change(path, set(session.state.documents, path, value));
const pass = (ms: number): Promise<void> => jest.advanceTimersByTimeAsync(ms);

beforeEach(() => {
  jest.useFakeTimers();
  server = new Server();
  noted = null;
  session = open();
});
afterEach(() => {
  session.close();
  jest.useRealTimers();
});

test('only what differs is sent, and the journal forgets it when the server has it', async () => {
  change('look.camera.focal', 50);
  expect(noted!.documents.look.camera.focal).toBe(50);
  await pass(600);
  expect(server.kept.documents.look.camera.focal).toBe(50);
  expect(noted).toBeNull();
  expect(shown.saving).toBe('saved');
});

test('a slow server gets one request at a time, and the last change', async () => {
  server.slowMs = 2000;
  for (let n = 1; n <= 8; n++) {
    change('recipe.wind.speed', n);
    await pass(700);
  }

  await pass(6000);
  expect(server.kept.documents.recipe.wind.speed).toBe(8);
  expect(server.mostAtOnce).toBe(1);
  expect(server.saves).toBeLessThan(6);
});

test('flush waits for what is on its way and for what came after it', async () => {
  server.slowMs = 1000;
  change('recipe.wind.speed', 1);
  await pass(600);
  change('recipe.wind.speed', 2);
  let done = false;
  void session.flush().then(() => (done = true));
  await pass(900);
  expect(done).toBe(false);
  await pass(2500);
  expect(done).toBe(true);
  expect(server.kept.documents.recipe.wind.speed).toBe(2);
});

test('flush says why it cannot; what is not saved stays noted and follows when it is back', async () => {
  server.away = true;
  change('recipe.wind.speed', 1);
  await expect(session.flush()).rejects.toThrow(/not saved yet: The server does not answer/);
  expect(shown).toMatchObject({ saving: 'failed', saveError: 'The server does not answer.' });
  expect(noted!.documents.recipe.wind.speed).toBe(1);
  server.away = false;
  await pass(5200);
  expect(server.kept.documents.recipe.wind.speed).toBe(1);
  expect(noted).toBeNull();
});

test('another window saved another setting: both are there, here and on the server', async () => {
  server.someoneElse('recipe.wind.heading', 45);
  change('recipe.wind.speed', 3);
  await pass(1500);
  expect(server.kept.documents.recipe.wind).toMatchObject({ speed: 3, heading: 45 });
  expect(shown.documents.recipe.wind).toMatchObject({ speed: 3, heading: 45 });
  // undoing takes back one’s own change only
  session.undo();
  await pass(1500);
  expect(server.kept.documents.recipe.wind).toMatchObject({ speed: 0, heading: 45 });
});

test('another window saved the same setting: nothing is saved until one is chosen', async () => {
  server.someoneElse('recipe.wind.speed', 9);
  change('recipe.wind.speed', 3);
  await pass(600);
  expect(shown.saving).toBe('asking');
  expect(shown.clashes).toMatchObject([{ path: ['recipe', 'wind', 'speed'], mine: 3, theirs: 9 }]);
  await expect(session.flush()).rejects.toThrow(/Choose which values stay/);
  expect(server.kept.documents.recipe.wind.speed).toBe(9);
  session.settle(shown.clashes[0], 'theirs');
  await pass(600);
  expect(shown).toMatchObject({ saving: 'saved', clashes: [] });
  expect(shown.documents.recipe.wind.speed).toBe(9);
});

test('a save that the server took but did not answer is no clash with oneself', async () => {
  const save = server.save.bind(server);
  server.save = async (parts, began) => {
    await save(parts, began);
    throw new Error('The server does not answer.');
  };

  change('recipe.wind.speed', 3);
  await pass(600);
  expect(shown.saving).toBe('failed');
  server.save = save;
  change('recipe.wind.speed', 4);
  await pass(6000);
  expect(shown).toMatchObject({ saving: 'saved', clashes: [] });
  expect(server.kept.documents.recipe.wind.speed).toBe(4);
});

test('a change that is heard of arrives without a save', () => {
  server.someoneElse('recipe.wind.heading', 45);
  session.received(server.kept);
  expect(shown.documents.recipe.wind.heading).toBe(45);
  expect(shown.saving).toBe('saved');
});

test('what a window left is saved by the next one, over what was saved since', async () => {
  change('recipe.wind.speed', 3);
  session.close(); // it was closed before the save
  server.someoneElse('recipe.wind.heading', 45);
  const { documents, began } = noted!;
  const left = { ...began };
  session = new DocumentSession(
    left,
    { save: (p, r) => server.save(p, r), note: (n) => (noted = n), changed: (s) => (shown = s) },
    { documents },
  );
  session.received(server.kept);
  await pass(1500);
  expect(server.kept.documents.recipe.wind).toMatchObject({ speed: 3, heading: 45 });
  expect(noted).toBeNull();
});

test('twenty windows’ changes of different settings are all there', async () => {
  const names = ['speed', 'heading', 'rise', 'gust'];
  for (let n = 0; n < 20; n++) {
    const [mine, other] = [names[n % 4], names[(n + 1) % 4]];
    server.someoneElse(`recipe.wind.${other}`, n + 0.5);
    change(`recipe.wind.${mine}`, n + 0.25);
    await pass(1500);
    expect(server.kept.documents.recipe.wind).toMatchObject({ [mine]: n + 0.25, [other]: n + 0.5 });
    expect(session.isSaved).toBe(true);
  }
});
