// npm test: installs what the tests need, then everything: format, lint, types, units, server, the page in a
// real browser.
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
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
  const steps = [
    ['units and server', bin('jest'), []],
    ['browser', bin('playwright'), ['test', '-c', 'e2e/playwright.config.ts']],
  ].filter(isAsked);
  const failed = [];
  const ended = (name, code, start) => {
    const seconds = ((performance.now() - start) / 1000).toFixed(1);
    say(`  ${name}: ${code === 0 ? 'well' : `FAILED (${code})`} after ${seconds} s`);
    if (code !== 0) failed.push(name);
  };

  try {
    if (checks.length > 0) say(`\n— ${checks.map(([name]) => name).join(', ')}`);
    await Promise.all(
      checks.map(async ([name, program, args]) => {
        const start = performance.now();
        const { code, said } = await heard(program, args, { env });
        if (code !== 0) say(said);
        ended(name, code, start);
      }),
    );
    for (const [name, program, args] of steps) {
      say(`\n— ${name}`);
      const start = performance.now();
      if (name === 'browser') await demoFiles();
      // building has set it to production, where parts of the page cannot be drawn in tests
      const code = await run(program, args, {
        env: { ...env, NODE_ENV: name.startsWith('units') ? 'test' : 'production' },
      });
      ended(name, code, start);
    }
  } finally {
    await database.stop();
    if (existsSync(folder)) rmSync(folder, { recursive: true, force: true });
  }

  say(`\nAll of it took ${((performance.now() - began) / 1000).toFixed(0)} s.`);
  say(`${checks.length + steps.length - failed.length} passed, ${failed.length} failed`);
  process.exitCode = failed.length > 0 ? 1 : 0;
}

main().catch((error) => {
  console.error(error instanceof Stop ? `\n${error.message}` : error);
  process.exit(1);
});
