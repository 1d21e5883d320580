// A server on its own database, for tests: the database runs already (scripts/test.mjs), each suite gets a fresh schema.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { createConnection } from 'mariadb';
import type { Config } from '@bramblemist/server/config';
import { startServer, type Running } from '@bramblemist/server/server';

export interface TestServer extends Running {
  readonly folder: string;
  ask(
    path: string,
    options?: { method?: string; body?: unknown; headers?: Record<string, string> },
  ): Promise<{ status: number; data: any; headers: Headers }>; // eslint-disable-line @typescript-eslint/no-explicit-any
}

/** @throws Error where no test database runs */
export async function testServer(): Promise<TestServer> {
  const file = process.env.BRAMBLEMIST_TEST_DATABASE;
  if (!file) throw new Error('No test database. Run the tests with: npm test');
  const database = JSON.parse(readFileSync(file, 'utf8')) as Config['database'];
  const connection = await createConnection({
    host: database.host,
    port: database.port,
    user: database.user,
    password: database.password,
    database: database.name,
  });
  const tables = (await connection.query('SHOW TABLES')) as Record<string, string>[];
  await connection.query('SET FOREIGN_KEY_CHECKS=0');
  for (const row of tables) await connection.query(`DROP TABLE \`${Object.values(row)[0]}\``);
  await connection.end();

  process.env.LOG_LEVEL = 'fatal';
  const folder = mkdtempSync(join(tmpdir(), 'server-'));
  const running = await startServer({
    host: '127.0.0.1',
    port: 0,
    dataFolder: folder,
    webFolder: null,
    demoFolder: null,
    cli: resolve(__dirname, '../../cli/build/bramblemist.cjs'),
    database,
  });
  return {
    ...running,
    folder,
    close: async () => {
      await running.close();
      rmSync(folder, { recursive: true, force: true });
    },
    ask: async (path, options = {}) => {
      const response = await fetch(running.address + path, {
        method: options.method ?? (options.body === undefined ? 'GET' : 'POST'),
        headers: { ...(options.body === undefined ? {} : { 'Content-Type': 'application/json' }), ...options.headers },
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
