// npm run bench [-- --json]: the smoke step at several sizes and thread counts, each in a process of its own.
import { spawnSync } from 'node:child_process';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { root } from './ground.mjs';

const json = process.argv.includes('--json');
await build(['kernels', 'worker', 'command line'], () => {});
const rows = [];
for (const size of [64, 128, 192]) {
  for (const threads of [1, Math.min(2, cpus().length)]) {
    const args = [
      join(root, 'packages/cli/build/bramblemist.cjs'),
      'bench',
      'step',
      '--size',
      size,
      '--threads',
      threads,
      '--json',
    ].map(String);
    const { stdout, stderr, status } = spawnSync(process.execPath, args, { encoding: 'utf8' });
    if (status !== 0) throw new Error(stderr);
    rows.push(JSON.parse(stdout));
  }
}

if (json) console.log(JSON.stringify(rows));
else {
  console.table(
    rows.map((r) => ({
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
}
