// An application of one's own on a free port, with an empty database: for trials and benches.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { portIsFree, root, serverEnvironment, startDatabase } from '../scripts/ground.mjs';

/** @param name of its folder, for whoever looks at what runs */
export async function ownApplication(name) {
  let port = 4940;
  while (!(await portIsFree(port))) port++;
  const data = mkdtempSync(join(tmpdir(), `bramblemist-${name}-`));
  const database = await startDatabase(data, port + 1, 'bramblemist');
  const address = `http://127.0.0.1:${port}`;
  let server;

  async function start() {
    server = spawn(process.execPath, [join(root, 'packages/server/build/server.cjs')], {
      env: { ...serverEnvironment(data, port, ''), BRAMBLEMIST_DEMO: '', LOG_LEVEL: 'fatal' },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    await new Promise((done) => server.stdout.once('data', done));
  }

  async function end(signal) {
    server.kill(signal);
    await new Promise((done) => server.once('exit', done));
  }

  await start();
  return {
    address,
    /** A request with JSON both ways. */
    ask: async (path, body, method = 'POST', headers = {}) =>
      (
        await fetch(address + path, {
          ...(body === undefined ? {} : { method, body: JSON.stringify(body) }),
          headers: { 'Content-Type': 'application/json', ...headers },
        })
      ).json(),
    start,
    kill: () => end('SIGKILL'),
    async stop() {
      await end('SIGTERM');
      await database.stop();
      rmSync(data, { recursive: true, force: true });
    },
  };
}
