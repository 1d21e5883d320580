// npm run bench [-- --json] [-- --yardstick PROGRAM]: the smoke step at several sizes and thread counts,
// bakes onto disk and back, and files of volumes, each in a process of its own.
//
// A yardstick is a program that does the same step: PROGRAM SIZE STEPS -t THREADS prints ms_per_step=…. Files
// are read by the reference library too, where its Python module is installed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { root } from './ground.mjs';

const json = process.argv.includes('--json');
const asked = process.argv.indexOf('--yardstick');
const yardstick = asked < 0 ? null : process.argv[asked + 1];
const STEPS = 15;
await build(['kernels', 'worker', 'command line'], () => {});
const threads = Math.min(2, cpus().length);

function run(program, args, env = {}) {
  const { stdout, stderr, status, error } = spawnSync(program, args.map(String), {
    encoding: 'utf8',
    env: { ...process.env, ...env },
  });
  if (status !== 0) throw error ?? new Error(stderr);
  return stdout;
}

const bench = (...args) =>
  JSON.parse(
    run(process.execPath, [
      join(root, 'packages/cli/build/bramblemist.cjs'),
      'bench',
      ...args.map(String),
      '--json',
    ]),
  );

/** Milliseconds that the reference library takes for a file and for its density; null without it. */
function libraryReads(file) {
  const script = `
import sys, time
try:
    import openvdb as vdb
except ImportError:
    import pyopenvdb as vdb
def least(act):
    times = []
    for _ in range(5):
        began = time.perf_counter()
        act()
        times.append(1000 * (time.perf_counter() - began))
    return min(times)
print(least(lambda: vdb.readAll(sys.argv[1])), least(lambda: vdb.read(sys.argv[1], 'density')))`;
  try {
    // it would put off reading voxels until somebody looks at them
    const out = run('/usr/bin/python3', ['-c', script, file], { OPENVDB_DISABLE_DELAYED_LOAD: '1' });
    const [readMs, densityMs] = out.split(' ').map(Number);
    return { readMs, densityMs };
  } catch {
    return null;
  }
}

const steps = [64, 128, 192].flatMap((size) =>
  [1, threads].map((n) => {
    const ours = bench('step', '--size', size, '--threads', n, '--steps', STEPS);
    if (!yardstick) return { ...ours, yardstickMs: null };
    const told = /ms_per_step=([\d.]+)/.exec(run(yardstick, [size, STEPS, '-t', n]));
    return { ...ours, yardstickMs: told ? Number(told[1]) : null };
  }),
);
const bakes = [[], ['--finer'], ['--dense']].map((args) =>
  bench('bake', '--size', 96, '--steps', 30, '--threads', threads, ...args),
);
const folder = mkdtempSync(join(tmpdir(), 'bramblemist-bench-'));
const file = join(folder, 'full.vdb');
const volumes = bench('volumes', '--size', 128, '--steps', 5, '--keep', file);
const library = libraryReads(file);
rmSync(folder, { recursive: true });

if (json) console.log(JSON.stringify({ steps, bakes, volumes, library }));
else {
  console.table(
    steps.map((r) => ({
      size: `${r.size}³`,
      threads: r.threads,
      'ms a step': Number(r.msPerStep.toFixed(1)),
      'least–most': `${r.msLeast.toFixed(0)}–${r.msMost.toFixed(0)}`,
      'Mvoxel-steps/s': Number(r.mvoxelStepsPerSecond.toFixed(1)),
      ...(r.yardstickMs ? { '× yardstick': Number((r.msPerStep / r.yardstickMs).toFixed(2)) } : {}),
      transport: Number(r.phases.transport.toFixed(1)),
      projection: Number(r.phases.projection.toFixed(1)),
      forces: Number(r.phases.forces.toFixed(1)),
      iterations: r.iterations,
      'bytes a voxel': Math.round(r.bytesPerVoxel),
    })),
  );
  console.table(
    bakes.map((b) => ({
      bake: b.dense ? 'a full cube' : `an example, medium ${b.medium}`,
      frames: b.frames,
      seconds: Number(b.seconds.toFixed(1)),
      'of it simulating': `${Math.round(100 * b.solverShare)} %`,
      'active voxels': b.activeVoxels,
      'kB a frame': Math.round(b.fileBytes / 1000),
      'ms to read one': Number(b.readMs.toFixed(1)),
    })),
  );
  console.table([
    ...volumes.rows.map((v) => ({
      'full cube of 128³': v.packing,
      MB: Number((v.bytes / 1e6).toFixed(1)),
      'ms to write': Math.round(v.writeMs),
      'to read': Math.round(v.readMs),
      'its density': Math.round(v.densityMs),
      'by a page': Math.round(v.pageMs),
    })),
    ...(library
      ? [
          {
            'full cube of 128³': 'zip, the library',
            'to read': Math.round(library.readMs),
            'its density': Math.round(library.densityMs),
          },
        ]
      : []),
  ]);
}
