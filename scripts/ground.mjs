// What start and test share: telling what is done, installing what is missing, a database of our own.
import { spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createConnection, createServer } from 'node:net';
import { setPriority } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

export function say(text) {
  console.log(text);
}

/** An error that is shown as it is, without a stack. */
export class Stop extends Error {}

export function which(program) {
  for (const folder of `${process.env.PATH}:/usr/sbin:/usr/local/sbin`.split(':'))
    if (existsSync(join(folder, program))) return join(folder, program);
  return null;
}

/** Installs Debian packages for programs or files that are missing. */
export function ensureDebian(wanted) {
  const missing = wanted
    .filter((w) => !(w.program ? which(w.program) : existsSync(w.file)))
    .map((w) => w.package);
  if (missing.length === 0) return;
  const list = missing.join(' ');
  if (process.getuid?.() !== 0)
    throw new Stop(
      `Missing Debian packages: ${list}. Install them once with:\n  sudo apt-get install ` +
        `--no-install-recommends ${list}\nand run this again.`,
    );
  if (!which('apt-get'))
    throw new Stop(
      `Missing: ${list}, and this system has no apt-get. Install them with its own package manager and ` +
        'run this again.',
    );
  say(`Installing ${list} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const install = () =>
    spawnSync('apt-get', ['install', '-y', '--no-install-recommends', ...missing], { env, encoding: 'utf8' });
  let result = install();
  if (result.status !== 0) {
    spawnSync('apt-get', ['update'], { env });
    result = install();
  }

  if (result.status !== 0)
    throw new Stop(
      `apt-get could not install ${list}. Is there a network? It ` +
        `said:\n${(result.stderr || result.stdout).trim().split('\n').slice(-4).join('\n')}`,
    );
}

/** npm packages, when the lock file changed since they were installed. */
export function ensureNpm() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules', '.installed-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  // npm notes what it installed; newer than the lock file means that `npm install` was run by hand
  const noted = join(root, 'node_modules', '.package-lock.json');
  if (existsSync(noted) && statSync(noted).mtimeMs >= statSync(join(root, 'package-lock.json')).mtimeMs)
    return;
  say('Installing npm packages …');
  const env = { ...process.env, PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD: '1' };
  const result = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    env,
    encoding: 'utf8',
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  if (result.status !== 0)
    throw new Stop(
      'npm could not install the packages. Is there a network? It ' +
        `said:\n${result.stderr.trim().split('\n').slice(-6).join('\n')}`,
    );
  writeFileSync(stamp, lock);
}

export function portIsFree(port) {
  return new Promise((done) => {
    const server = createServer();
    server.once('error', () => done(false));
    server.listen(port, '127.0.0.1', () => server.close(() => done(true)));
  });
}

function portAnswers(port) {
  return new Promise((done) => {
    const socket = createConnection({ port, host: '127.0.0.1' });
    const end = (value) => {
      socket.destroy();
      done(value);
    };

    socket.once('connect', () => end(true));
    socket.once('error', () => end(false));
    socket.setTimeout(500, () => end(false));
  });
}

const pause = (ms) => new Promise((done) => setTimeout(done, ms));

function alive(pid) {
  try {
    process.kill(pid, 0);
  } catch {
    return false;
  }

  try {
    // a killed process that nobody has collected yet still answers, but runs no more
    return !/^\d+ \(.*\) Z/s.test(readFileSync(`/proc/${pid}/stat`, 'utf8'));
  } catch {
    return true;
  }
}

/** The process that a pid file names, where it lives; null otherwise. */
export function livingPid(file) {
  const pid = existsSync(file) ? Number(readFileSync(file, 'utf8')) : 0;
  return pid > 0 && alive(pid) ? pid : null;
}

/**
 * MariaDB on loopback with its own data folder; writes database.json beside it.
 * @returns how to stop it again
 */
export async function startDatabase(folder, port, name) {
  const daemon = which('mariadbd');
  const install = which('mariadb-install-db');
  const data = join(folder, 'mariadb');
  const pidFile = join(folder, 'mariadb.pid');
  const settings = join(folder, 'database.json');
  const log = join(folder, 'mariadb.log');
  mkdirSync(folder, { recursive: true });
  const password = existsSync(settings)
    ? JSON.parse(readFileSync(settings, 'utf8')).password
    : randomBytes(18).toString('hex');
  writeFileSync(settings, JSON.stringify({ host: '127.0.0.1', port, user: 'bramblemist', password, name }), {
    mode: 0o600,
  });
  const running = livingPid(pidFile);
  if (running) {
    if (await portAnswers(port)) {
      say(`Using the database that is running already (process ${running}, port ${port}).`);
      return { stop: async () => {} };
    }

    throw new Stop(
      `A database of this folder runs already (process ${running}) but does not answer on port ` +
        `${port}. End it with: kill ${running}`,
    );
  }

  if (!(await portIsFree(port)))
    throw new Stop(
      `Port ${port}, which the database needs, is taken by another program. Choose another: ` +
        `BRAMBLEMIST_DATABASE_PORT=${port + 1}`,
    );
  const asRoot = process.getuid?.() === 0 ? ['--user=root'] : [];
  if (!existsSync(join(data, 'mysql'))) {
    say('Making an empty database …');
    rmSync(data, { recursive: true, force: true });
    const made = spawnSync(
      install,
      [
        '--no-defaults',
        `--datadir=${data}`,
        '--skip-test-db',
        '--auth-root-authentication-method=normal',
        ...asRoot,
      ],
      { encoding: 'utf8' },
    );
    if (made.status !== 0)
      throw new Stop(
        'The database could not be made in ' +
          `${data}:\n${(made.stderr || made.stdout).trim().split('\n').slice(-4).join('\n')}`,
      );
  }

  const init = join(folder, 'init.sql');
  writeFileSync(
    init,
    [
      `CREATE DATABASE IF NOT EXISTS \`${name}\` CHARACTER SET utf8mb4;`,
      `CREATE USER IF NOT EXISTS 'bramblemist'@'127.0.0.1' IDENTIFIED BY '${password}';`,
      `ALTER USER 'bramblemist'@'127.0.0.1' IDENTIFIED BY '${password}';`,
      `GRANT ALL ON \`${name}%\`.* TO 'bramblemist'@'127.0.0.1';`,
      '',
    ].join('\n'),
    { mode: 0o600 },
  );
  say(`Starting MariaDB on port ${port} …`);
  // a socket's path may be at most 107 bytes, so it lies in the temporary folder under a name of this data
  // folder
  const socket = join(
    process.env.TMPDIR ?? '/tmp',
    `bramblemist-${createHash('sha256').update(data).digest('hex').slice(0, 12)}.sock`,
  );
  const spawnDaemon = () =>
    spawn(
      daemon,
      [
        '--no-defaults',
        `--datadir=${data}`,
        `--port=${port}`,
        '--bind-address=127.0.0.1',
        `--socket=${socket}`,
        `--pid-file=${pidFile}`,
        `--log-error=${log}`,
        `--init-file=${init}`,
        '--skip-name-resolve',
        '--innodb-buffer-pool-size=64M',
        '--performance-schema=OFF',
        ...asRoot,
      ],
      { stdio: 'ignore', detached: true },
    );
  let child = spawnDaemon();
  let ended = false;
  let stopping = false;
  let ready = false;
  /** When it was started again lately: one that ends at once is not started for ever. */
  const again = [];
  const watch = () =>
    child.once('exit', (code, signal) => {
      ended = true;
      if (stopping || !ready) return;
      while (again[0] < Date.now() - 60_000) again.shift();
      if (again.push(Date.now()) > 5)
        return say(`The database ended again and again. Its log is ${log}. Start the application anew.`);
      say(`The database ended (${signal ?? code}); it is started again.`);
      child = spawnDaemon();
      ended = false;
      watch();
    });
  watch();
  for (let i = 0; i < 300; i++) {
    if (ended)
      throw new Stop(
        `MariaDB ended at once. Its log, ${log}, says:\n${readFileSync(log, 'utf8')
          .trim()
          .split('\n')
          .filter((l) => /ERROR/.test(l))
          .slice(-3)
          .join('\n')}`,
      );
    if (await portAnswers(port)) {
      ready = true;
      return {
        stop: async () => {
          stopping = true;
          child.kill('SIGTERM');
          for (let n = 0; n < 200 && !ended; n++) await pause(50);
        },
      };
    }

    await pause(100);
  }

  child.kill('SIGTERM');
  throw new Stop(`MariaDB did not answer within 30 seconds. Its log is ${log}.`);
}

/** Starts a program, where asked behind all others (a priority of os.constants). */
function started(program, args, { priority, ...options }) {
  const child = spawn(program, args, { cwd: root, ...options });
  if (priority !== undefined && child.pid !== undefined) setPriority(child.pid, priority);
  return child;
}

/** Runs a program to its end with its output shown. */
export function run(program, args, options = {}) {
  return new Promise((done, fail) => {
    const child = started(program, args, { stdio: 'inherit', ...options });
    child.once('error', fail);
    child.once('exit', (code, signal) => done(code ?? (signal ? 1 : 0)));
  });
}

/** Runs a program, and gives back its code with all that it said. */
export function heard(program, args, options = {}) {
  return new Promise((done, fail) => {
    const child = started(program, args, options);
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => (said += data));
    child.once('error', fail);
    child.once('close', (code) => done({ code: code ?? 1, said }));
  });
}

/** What stands for all of the demo's files: the last of each kind that is made. */
const DEMO = ['weir_still_02.png', 'weir_spray.zip', 'jetty_still.png', 'jetty_track.csv'];

/** Makes the demo's meshes, pictures and moving plates where they are missing. @returns their folder */
export async function demoFiles() {
  const demo = join(root, 'demo', 'build', 'pictures');
  if (DEMO.every((f) => existsSync(join(demo, f)))) return demo;
  say('Making the demo’s meshes, pictures and moving plates (about a minute) …');
  if ((await run(process.execPath, [join(root, 'demo/build/make.cjs'), demo])) !== 0)
    throw new Stop('The demo’s files could not be made.');
  return demo;
}

/** What the built server needs to know of where things are. */
export function serverEnvironment(data, port, demo) {
  return {
    ...process.env,
    BRAMBLEMIST_DATA: data,
    BRAMBLEMIST_PORT: String(port),
    BRAMBLEMIST_WEB: join(root, 'packages/web/build'),
    BRAMBLEMIST_DEMO: demo,
    BRAMBLEMIST_CLI: join(root, 'packages/cli/build/bramblemist.cjs'),
    LOG_LEVEL: process.env.LOG_LEVEL ?? 'warn',
  };
}
