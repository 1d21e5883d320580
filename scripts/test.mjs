// npm test: installs what the tests need, then everything: format, lint, types, units, server, the page in a
// real browser.
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { constants, tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  demoFiles,
  ensureDebian,
  ensureNpm,
  heard,
  portIsFree,
  root,
  run,
  say,
  startDatabase,
  Stop,
} from './ground.mjs';

const only = process.argv.slice(2);
const began = performance.now();
const since = (start) => ((performance.now() - start) / 1000).toFixed(1);

async function freePort(from) {
  for (let port = from; port < from + 50; port++) if (await portIsFree(port)) return port;
  throw new Stop(`No port from ${from} to ${from + 49} is free for the test database.`);
}

async function main() {
  ensureDebian([
    { program: 'mariadbd', package: 'mariadb-server' },
    { program: 'chromium', package: 'chromium' },
    { program: 'firefox-esr', package: 'firefox-esr' },
    { file: '/usr/lib/python3/dist-packages/numpy', package: 'python3-numpy' },
    { file: '/usr/share/doc/python3-openvdb', package: 'python3-openvdb' },
    { program: 'exrheader', package: 'openexr' },
    { program: 'g++', package: 'g++' },
    { file: '/usr/include/OpenEXR/ImfCompositeDeepScanLine.h', package: 'libopenexr-dev' },
    { program: 'ffmpeg', package: 'ffmpeg' },
    { program: 'pgrep', package: 'procps' },
  ]);
  ensureNpm();
  const { build } = await import('./build.mjs');
  await build(undefined, say);
  const folder = mkdtempSync(join(tmpdir(), 'bramblemist-test-'));
  const database = await startDatabase(folder, await freePort(4850), 'bramblemist_test');
  const env = {
    ...process.env,
    BRAMBLEMIST_E2E_PORT: String(await freePort(4890)),
    BRAMBLEMIST_TEST_DATABASE: join(folder, 'database.json'),
  };
  const bin = (name) => join(root, 'node_modules', '.bin', name);
  const isAsked = ([name]) => only.length === 0 || only.some((o) => name.includes(o));
  // each keeps one core busy, so that they go on side by side
  const checks = [
    ['format', bin('prettier'), ['--check', '--log-level=warn', '.']],
    ['lint', bin('eslint'), ['.']],
    ['types', bin('tsc'), ['--noEmit', '-p', 'tsconfig.json']],
  ].filter(isAsked);
  // building has set NODE_ENV to production, where parts of the page cannot be drawn in tests
  const units = [['units and server', bin('jest'), [], { NODE_ENV: 'test' }]].filter(isAsked);
  const browser = [
    ['browser', bin('playwright'), ['test', '-c', 'e2e/playwright.config.ts'], { NODE_ENV: 'production' }],
  ].filter(isAsked);
  const all = [...checks, ...units, ...browser];
  const failed = [];

  /** One of them; what a check says is kept until its end, since others speak at the same time. */
  const go = async ([name, program, args, more], priority) => {
    const start = performance.now();
    const options = { env: { ...env, ...more }, priority };
    const isCheck = checks.some(([check]) => check === name);
    if (!isCheck) say(`\n— ${name}`);
    const { code, said } = isCheck
      ? await heard(program, args, options)
      : { code: await run(program, args, options), said: '' };
    if (code !== 0) say(said);
    say(`  ${name}: ${code === 0 ? 'well' : `FAILED (${code})`} after ${since(start)} s`);
    if (code !== 0) failed.push(name);
  };

  try {
    say(`\n${all.map(([name]) => name).join(', ')} …`);
    for (const step of units) await go(step);
    const seen = async (step) => {
      await demoFiles();
      await go(step);
    };

    // a page waits a quarter of its time, which the checks take
    const behind = browser.length > 0 ? constants.priority.PRIORITY_BELOW_NORMAL : undefined;
    await Promise.all([...browser.map(seen), ...checks.map((check) => go(check, behind))]);
  } finally {
    await database.stop();
    if (existsSync(folder)) rmSync(folder, { recursive: true, force: true });
  }

  say(`\nAll of it took ${since(began)} s.`);
  say(`${all.length - failed.length} passed, ${failed.length} failed`);
  process.exitCode = failed.length > 0 ? 1 : 0;
}

main().catch((error) => {
  console.error(error instanceof Stop ? `\n${error.message}` : error);
  process.exit(1);
});
