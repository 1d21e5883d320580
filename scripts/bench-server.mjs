// npm run bench:server: a production of 200 shots, 2 000 bakes of 240 frames, and how long the server takes
// to tell of it, while others' requests are looked at for how long they are held up.
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mariadb';
import { build } from './build.mjs';
import { portIsFree, root, serverEnvironment, startDatabase } from './ground.mjs';

const SHOTS = 200;
const BAKES = 2000;
const FRAMES = 240;
const ROUNDS = 5;

async function freePort(from) {
  for (let port = from; ; port++) if (await portIsFree(port)) return port;
}

/** Rows as a season of work leaves them; the recipe is a real one, the readings are a real frame's. */
async function fill(settings, address, data) {
  const ask = async (path, body) =>
    (
      await fetch(address + path, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      })
    ).json();
  const { id: productionId } = await ask('/api/productions', { name: 'A season' });
  const { id } = await ask('/api/shots', { productionId, name: 'First', example: 'weir-at-dawn' });
  const db = await createConnection({ ...settings, database: settings.name, multipleStatements: true });
  const readings = JSON.stringify(
    Object.fromEntries(
      ['mass', 'volume', 'height', 'front', 'speed', 'cfl', 'substeps', 'residual', 'energy', 'leak'].map(
        (k, n) => [k, 1.2345678 * (n + 1)],
      ),
    ),
  );
  await db.query(
    `INSERT INTO shots (production_id, name, note, views, reference, created_at, updated_at)
     SELECT ?, CONCAT('Shot ', seq), '', '[]', '{}', NOW(), NOW() FROM seq_2_to_${SHOTS}`,
    [productionId],
  );
  const columns = 'note, recipe, look, combine, recipe_sha256, touched, files';
  await db.query(
    `INSERT INTO variants (shot_id, number, ${columns}, created_at, updated_at)
     SELECT s.id, n.seq, ${columns
       .split(', ')
       .map((c) => `v.${c}`)
       .join(', ')}, NOW(), NOW()
     FROM shots s JOIN seq_1_to_4 n JOIN variants v ON v.shot_id = ? WHERE NOT (s.id = ? AND n.seq = 1)`,
    [id, id],
  );
  await db.query(
    `INSERT INTO bakes (variant_id, recipe, recipe_sha256, voxel_size_m, first_frame, last_frame, files,
       bytes, created_at, updated_at)
     SELECT v.id, v.recipe, v.recipe_sha256, 0.05, 1, ${FRAMES}, v.files, 1e9, NOW(), NOW()
     FROM variants v JOIN seq_1_to_3 n ORDER BY n.seq, v.id LIMIT ${BAKES}`,
  );
  await db.query(
    `INSERT INTO frames (bake_id, frame, file, bytes, sha256, readings, notices, created_at, updated_at)
     SELECT b.id, n.seq, CONCAT('weir.', n.seq, '.vdb'), 4000000, REPEAT('a', 64), ?, '[]', NOW(), NOW()
     FROM bakes b JOIN seq_1_to_${FRAMES} n`,
    [readings],
  );
  await db.query(
    `INSERT INTO jobs (kind, state, target_id, shot_id, done, total, created_at, updated_at)
     SELECT 'bake', 'done', b.id, v.shot_id, ${FRAMES}, ${FRAMES}, NOW(), NOW()
     FROM bakes b JOIN variants v ON v.id = b.variant_id`,
  );
  const [{ bake }] = await db.query('SELECT MAX(id) AS bake FROM bakes');
  await db.end();
  for (let n = 0; n < ROUNDS; n++) {
    const folder = join(data, 'bakes', String(bake - n));
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, 'manifest.json'), '{}');
  }

  return { shot: id, bake: Number(bake) };
}

/** The longest that a small question waits while something else is answered. */
async function timed(address, path, options) {
  let held = 0;
  let done = false;
  const watch = (async () => {
    while (!done) {
      const at = performance.now();
      await fetch(`${address}/api/health`);
      held = Math.max(held, performance.now() - at);
    }
  })();
  const at = performance.now();
  const response = await fetch(address + path, options);
  const text = await response.text();
  const ms = performance.now() - at;
  done = true;
  await watch;
  if (!response.ok) throw new Error(`${path}: ${text}`);
  return { ms, held, kB: text.length / 1000 };
}

await build(undefined, () => {});
const data = mkdtempSync(join(tmpdir(), 'bramblemist-bench-'));
const port = await freePort(4930);
const database = await startDatabase(data, await freePort(port + 1), 'bramblemist');
const environment = { ...serverEnvironment(data, port, ''), BRAMBLEMIST_DEMO: '', LOG_LEVEL: 'fatal' };
const server = spawn(process.execPath, [join(root, 'packages/server/build/server.cjs')], {
  env: environment,
  stdio: ['ignore', 'pipe', 'inherit'],
});
try {
  await new Promise((done) => server.stdout.once('data', done));
  const address = `http://127.0.0.1:${port}`;
  const settings = JSON.parse(readFileSync(join(data, 'database.json'), 'utf8'));
  const { shot, bake } = await fill(settings, address, data);
  const post = { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{}' };
  const rows = [];
  for (const [what, path, options] of [
    ['board', () => '/api/productions'],
    ['a shot', () => `/api/shots/${shot}`],
    ['readings of a bake', () => `/api/bakes/${bake}/frames`],
    ['storage', () => '/api/storage'],
    ['clear a bake', (n) => `/api/storage/bakes/${bake - n}/clear`, post],
  ]) {
    const all = [];
    for (let n = 0; n < ROUNDS; n++) all.push(await timed(address, path(n), options));
    const middle = (key) => all.map((a) => a[key]).sort((a, b) => a - b)[ROUNDS >> 1];
    rows.push({
      what,
      'ms, median': Math.round(middle('ms')),
      'ms, most': Math.round(Math.max(...all.map((a) => a.ms))),
      'others held up, ms': Math.round(middle('held')),
      kB: Math.round(middle('kB')),
    });
  }

  if (process.argv.includes('--json')) console.log(JSON.stringify(rows));
  else console.table(rows);
} finally {
  server.kill('SIGTERM');
  await new Promise((done) => server.once('exit', done));
  await database.stop();
  rmSync(data, { recursive: true, force: true });
}
