// Builds what changed: kernels, worker, command line, server, page. Each target remembers a hash of its
// inputs.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const stamps = join(root, '.stamps');

function filesBelow(path) {
  if (!existsSync(path)) return [];
  if (statSync(path).isFile()) return [path];
  return readdirSync(path, { withFileTypes: true })
    .filter((e) => !['node_modules', 'build', 'dist', 'test'].includes(e.name))
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .flatMap((e) => filesBelow(join(path, e.name)));
}

function hashOf(inputs) {
  const hash = createHash('sha256');
  for (const file of inputs.flatMap((i) => filesBelow(join(root, i))))
    hash.update(file.slice(root.length)).update('\0').update(readFileSync(file));
  return hash.digest('hex');
}

async function bundle(entry, outfile) {
  const { build } = await import('esbuild');
  await build({
    entryPoints: [join(root, entry)],
    outfile: join(root, outfile),
    bundle: true,
    platform: 'node',
    format: 'cjs',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    logLevel: 'warning',
    tsconfig: join(root, 'tsconfig.json'),
  });
}

async function compileKernels(...flags) {
  const asc = (await import('assemblyscript/asc')).default;
  const here = process.cwd();
  process.chdir(join(root, 'packages/kernels'));
  const { error, stderr } = await asc.main(flags);
  process.chdir(here);
  if (error) throw new Error(`The kernels do not compile:\n${stderr.toString()}`);
}

async function kernels() {
  await compileKernels('--config', 'asconfig.json');
  await compileKernels('--config', 'asconfig.exact.json');
  const { writeExact, writeSeam } = await import('./kernel-seam.mjs');
  const below = (path) => join(root, 'packages/kernels', path);
  writeSeam(below('assembly'), below('generated/seam.ts'));
  writeExact(below('build/exact.wasm'), below('generated/exact.ts'));
}

async function page() {
  const { build } = await import('vite');
  await build({
    root: join(root, 'packages/web'),
    configFile: join(root, 'packages/web/vite.config.ts'),
    logLevel: 'warn',
  });
}

const core = [
  'packages/core/src',
  'packages/kernels/src',
  'packages/kernels/assembly',
  'package-lock.json',
  'tsconfig.json',
  'scripts/build.mjs',
];
const TARGETS = [
  {
    name: 'kernels',
    inputs: [
      'packages/kernels/assembly',
      'packages/kernels/asconfig.json',
      'packages/kernels/asconfig.exact.json',
      'scripts/kernel-seam.mjs',
      'scripts/kernel-parser.mjs',
    ],
    output: 'packages/kernels/build/kernels.wasm',
    make: kernels,
  },
  {
    name: 'worker',
    inputs: core,
    output: 'packages/core/build/frame-writer-worker.cjs',
    make: async () => {
      for (const name of ['thread-worker', 'frame-writer-worker'])
        await bundle(`packages/core/src/io/node/${name}.ts`, `packages/core/build/${name}.cjs`);
    },
  },
  {
    name: 'pictures',
    inputs: [...core, 'packages/core/test/rendering-report.ts', 'packages/core/test/transport.ts'],
    output: 'packages/core/build/pictures.cjs',
    make: () => bundle('packages/core/test/rendering-report.ts', 'packages/core/build/pictures.cjs'),
  },
  {
    name: 'physics',
    inputs: [...core, 'packages/core/test/physics'],
    output: 'packages/core/build/physics.cjs',
    make: () => bundle('packages/core/test/physics/report.ts', 'packages/core/build/physics.cjs'),
  },
  {
    name: 'command line',
    inputs: [...core, 'packages/cli/src'],
    output: 'packages/cli/build/bramblemist.cjs',
    make: () => bundle('packages/cli/src/main.ts', 'packages/cli/build/bramblemist.cjs'),
  },
  {
    name: 'sensitivities',
    inputs: [...core, 'packages/cli/src/sensitivities.ts'],
    output: 'packages/cli/build/sensitivities.cjs',
    make: () => bundle('packages/cli/src/sensitivities.ts', 'packages/cli/build/sensitivities.cjs'),
  },
  {
    name: 'server',
    inputs: [...core, 'packages/contracts/src', 'packages/server/src'],
    output: 'packages/server/build/server.cjs',
    make: () => bundle('packages/server/src/main.ts', 'packages/server/build/server.cjs'),
  },
  {
    name: 'demo pictures',
    inputs: [...core, 'demo/make.ts', 'demo/noise.ts', 'demo/plates.ts'],
    output: 'demo/build/make.cjs',
    make: () => bundle('demo/make.ts', 'demo/build/make.cjs'),
  },
  {
    name: 'page',
    inputs: [
      ...core,
      ...['packages/contracts/src', 'packages/web', 'packages/kernels/assembly'],
      ...['docs/guide.md', 'docs/screenshots'],
    ],
    output: 'packages/web/build/index.html',
    make: page,
  },
];

/** Builds the named targets, or all, that are not up to date. */
export async function build(only, say = console.log) {
  mkdirSync(stamps, { recursive: true });
  for (const target of TARGETS.filter((t) => !only || only.includes(t.name))) {
    const stamp = join(stamps, target.name.replace(/\s/g, '-'));
    const hash = hashOf(target.inputs);
    if (existsSync(join(root, target.output)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === hash)
      continue;
    const start = performance.now();
    await target.make();
    writeFileSync(stamp, hash);
    say(`Built ${target.name} in ${((performance.now() - start) / 1000).toFixed(1)} s.`);
  }
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) {
  const only = process.argv.slice(2);
  await build(only.length ? only : undefined);
}
