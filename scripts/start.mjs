// npm start: installs what is missing, builds what changed, starts the database and the server, stops both on
// Ctrl-C.
import { spawn } from 'node:child_process';
import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  ensureDebian,
  ensureNpm,
  livingPid,
  portIsFree,
  root,
  demoFiles,
  say,
  serverEnvironment,
  startDatabase,
  Stop,
} from './ground.mjs';

const data = process.env.BRAMBLEMIST_DATA ?? join(root, 'data');
const port = Number(process.env.BRAMBLEMIST_PORT ?? 4810);
const databasePort = Number(process.env.BRAMBLEMIST_DATABASE_PORT ?? 4811);
const began = performance.now();

async function main() {
  const pidFile = join(data, 'server.pid');
  const other = livingPid(pidFile);
  if (other)
    throw new Stop(
      `Bramblemist runs already from this folder (process ${other}): open http://127.0.0.1:${port}/ or ` +
        'end it first.',
    );
  if (!(await portIsFree(port)))
    throw new Stop(
      `Port ${port} is taken by another program. Choose another: BRAMBLEMIST_PORT=${port + 10} npm start`,
    );
  ensureDebian([
    { program: 'mariadbd', package: 'mariadb-server' },
    { program: 'ffmpeg', package: 'ffmpeg' },
  ]);
  ensureNpm();
  const { build } = await import('./build.mjs');
  await build(undefined, say);
  const demo = await demoFiles();
  const database = await startDatabase(data, databasePort, 'bramblemist');
  const server = spawn(process.execPath, [join(root, 'packages/server/build/server.cjs')], {
    cwd: root,
    detached: true, // Ctrl-C reaches only this script, which then stops the server and the database in order
    stdio: ['ignore', 'pipe', 'inherit'],
    // frames to play and light are there soon after a first start
    env: { BRAMBLEMIST_DEMO_BAKES: 'yes', ...serverEnvironment(data, port, demo) },
  });
  writeFileSync(pidFile, String(server.pid));
  let stopping = false;
  const stop = async (code) => {
    if (stopping) return;
    stopping = true;
    if (server.exitCode === null && server.signalCode === null) {
      const gone = new Promise((done) => server.once('exit', done));
      server.kill('SIGTERM');
      await gone;
    }

    await database.stop();
    rmSync(pidFile, { force: true });
    say('Stopped.');
    process.exit(code);
  };

  process.on('SIGINT', () => void stop(0));
  process.on('SIGTERM', () => void stop(0));
  server.stdout.on('data', (text) => {
    const ready = /ready (\S+)/.exec(String(text));
    if (ready)
      say(
        `\nBramblemist is ready after ${((performance.now() - began) / 1000).toFixed(1)} s:  ` +
          `${ready[1]}/\nCtrl-C stops it.`,
      );
  });
  server.once('exit', (code) => void stop(code ?? 1));
}

main().catch((error) => {
  console.error(error instanceof Stop ? `\n${error.message}` : error);
  process.exit(1);
});
