// A server on its own database, for tests: the database runs already (scripts/test.mjs), each suite gets a
// fresh schema.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { createConnection } from 'mariadb';
import type { ServerEvent } from '@bramblemist/contracts/payloads/events';
import { routes } from '@bramblemist/contracts/routes';
import type { Config } from '@bramblemist/server/config';
import { startServer, type Running } from '@bramblemist/server/server';

export interface TestServer extends Running {
  readonly folder: string;
  ask(
    path: string,
    options?: { method?: string; body?: unknown; headers?: Record<string, string> },
    // what routes answer is looked at field by field
    // eslint-disable-next-line @typescript-eslint/no-explicit-any
  ): Promise<{ status: number; data: any; headers: Headers }>;
}

/**
 * @param beside another server whose database and folder it shares
 * @throws Error where no test database runs
 */
export async function testServer(beside?: TestServer): Promise<TestServer> {
  const file = process.env.BRAMBLEMIST_TEST_DATABASE;
  if (!file) throw new Error('No test database. Run the tests with: npm test');
  // suites run beside each other: a schema for each worker
  const given = JSON.parse(readFileSync(file, 'utf8')) as Config['database'];
  const database = { ...given, name: `${given.name}_${process.env.JEST_WORKER_ID ?? '1'}` };
  if (!beside) await freshSchema(given, database.name);
  process.env.LOG_LEVEL = 'fatal';
  const folder = beside?.folder ?? mkdtempSync(join(tmpdir(), 'server-'));
  const config = {
    host: '127.0.0.1',
    port: 0,
    dataFolder: folder,
    webFolder: null,
    demoFolder: null,
    bakesDemo: false,
    volumesFolder: join(folder, 'allowed'),
    handOverFolder: join(folder, 'handed-over'),
    cli: resolve(__dirname, '../../cli/build/bramblemist.cjs'),
    database,
  };
  const running = await startServer(config, beside?.database);
  return {
    ...running,
    folder,
    close: async () => {
      await running.close();
      if (!beside) rmSync(folder, { recursive: true, force: true });
    },
    ask: async (path, options = {}) => {
      const response = await fetch(running.address + path, {
        method: options.method ?? (options.body === undefined ? 'GET' : 'POST'),
        headers: {
          ...(options.body === undefined ? {} : { 'Content-Type': 'application/json' }),
          ...options.headers,
        },
        ...(options.body === undefined ? {} : { body: JSON.stringify(options.body) }),
      });
      const text = await response.text();
      let data: unknown = text;
      try {
        data = JSON.parse(text);
      } catch {
        // not JSON: the text itself
      }

      return { status: response.status, data, headers: response.headers };
    },
  };
}

export async function freshSchema(given: Config['database'], name: string): Promise<void> {
  const connection = await createConnection({
    host: given.host,
    port: given.port,
    user: given.user,
    password: given.password,
  });
  await connection.query(`DROP DATABASE IF EXISTS \`${name}\``);
  await connection.query(`CREATE DATABASE \`${name}\` CHARACTER SET utf8mb4`);
  await connection.end();
}

/** Saves a variant's recipe over the newest one. */
export async function saveRecipe(
  server: Pick<TestServer, 'ask'>,
  variantId: number,
  recipe: object,
): Promise<void> {
  const path = `/api/variants/${variantId}`;
  const { revision } = (await server.ask(path)).data as { revision: number };
  const headers = { 'If-Match': `"${revision}"` };
  const { status, data } = await server.ask(path, { method: 'PATCH', body: { recipe }, headers });
  if (status !== 200) throw new Error(`Not saved: ${JSON.stringify(data)}`);
}

/** Waits until `look` gives something, at most `seconds`. */
export async function until<T>(look: () => Promise<T | null | undefined | false>, seconds = 40): Promise<T> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    const found = await look();
    if (found) return found;
    if (Date.now() > end) throw new Error('It did not happen in time.');
    await new Promise((done) => setTimeout(done, 100));
  }
}

/** What a window would hear from now on; ends with `stop`. */
export async function hearing(
  server: TestServer,
): Promise<{ heard: ServerEvent[]; stop: () => Promise<void> }> {
  const heard: ServerEvent[] = [];
  const gone = new AbortController();
  const stream = await fetch(server.address + routes.events, { signal: gone.signal });
  const reader = stream.body!.pipeThrough(new TextDecoderStream()).getReader();
  const listen = async (): Promise<void> => {
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return;
      for (const line of value.split('\n').filter((l) => l.startsWith('data: ')))
        heard.push(JSON.parse(line.slice(6)) as ServerEvent);
    }
  };

  const listening = listen().catch(() => undefined);
  return {
    heard,
    stop: async () => {
      gone.abort();
      await listening;
    },
  };
}
