// A whole application with fresh demo data in a temporary folder, for browser tests: node e2e/serve.mjs PORT
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoFiles, portIsFree, root, serverEnvironment, startDatabase } from '../scripts/ground.mjs';

const port = Number(process.argv[2]);
const data = mkdtempSync(join(tmpdir(), 'bramblemist-e2e-'));
const demo = await demoFiles();
let databasePort = port + 1;
while (!(await portIsFree(databasePort))) databasePort++;
const database = await startDatabase(data, databasePort, 'bramblemist');
const server = spawn(process.execPath, [join(root, 'packages/server/build/server.cjs')], {
  stdio: 'inherit',
  env: serverEnvironment(data, port, demo),
});
let stopping = false;

async function stop() {
  if (stopping) return;
  stopping = true;
  server.kill('SIGTERM');
  if (server.exitCode === null) await new Promise((done) => server.once('exit', done));
  await database.stop();
  rmSync(data, { recursive: true, force: true });
  process.exit(0);
}

process.on('SIGTERM', () => void stop());
process.on('SIGINT', () => void stop());
server.once('exit', () => void stop());
