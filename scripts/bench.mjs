// npm run bench [-- --json]: the smoke step at several sizes and thread counts, and a bake onto disk and
// back, each in a process of its own.
import { spawnSync } from 'node:child_process';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { root } from './ground.mjs';

const json = process.argv.includes('--json');
await build(['kernels', 'worker', 'command line'], () => {});
const threads = Math.min(2, cpus().length);

function bench(...args) {
  const { stdout, stderr, status } = spawnSync(
    process.execPath,
    [join(root, 'packages/cli/build/bramblemist.cjs'), 'bench', ...args.map(String), '--json'],
    { encoding: 'utf8' },
  );
  if (status !== 0) throw new Error(stderr);
  return JSON.parse(stdout);
}

const steps = [64, 128, 192].flatMap((size) =>
  [1, threads].map((n) => bench('step', '--size', size, '--threads', n)),
);
const bakes = [[], ['--finer']].map((args) =>
  bench('bake', '--size', 96, '--steps', 30, '--threads', threads, ...args),
);
if (json) console.log(JSON.stringify({ steps, bakes }));
else {
  console.table(
    steps.map((r) => ({
      size: `${r.size}³`,
      threads: r.threads,
      'ms a step': Number(r.msPerStep.toFixed(1)),
      'least–most': `${r.msLeast.toFixed(0)}–${r.msMost.toFixed(0)}`,
      'Mvoxel-steps/s': Number(r.mvoxelStepsPerSecond.toFixed(1)),
      transport: Number(r.phases.transport.toFixed(1)),
      projection: Number(r.phases.projection.toFixed(1)),
      forces: Number(r.phases.forces.toFixed(1)),
      iterations: r.iterations,
      'bytes a voxel': Math.round(r.bytesPerVoxel),
    })),
  );
  console.table(
    bakes.map((b) => ({
      medium: b.medium,
      frames: b.frames,
      seconds: Number(b.seconds.toFixed(1)),
      'of it simulating': `${Math.round(100 * b.solverShare)} %`,
      'active voxels': b.activeVoxels,
      'kB a frame': Math.round(b.fileBytes / 1000),
      'ms to read one': Number(b.readMs.toFixed(1)),
    })),
  );
}
