// npm run physics: builds what is missing, runs every experiment at full size and writes docs/physics.md.
// Names of experiments as arguments run only those and leave the report alone.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';

await build(['kernels', 'worker', 'physics']);
const { status } = spawnSync(
  process.execPath,
  ['packages/core/build/physics.cjs', ...process.argv.slice(2)],
  { stdio: 'inherit' },
);
process.exitCode = status ?? 1;
