// npm run sensitivities: builds what is missing, measures how what is seen answers to settings, and writes
// the table.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';

await build(['kernels', 'worker', 'sensitivities']);
const run = (command, args) => spawnSync(command, args, { stdio: 'inherit' }).status ?? 1;
process.exit(
  run(process.execPath, ['packages/cli/build/sensitivities.cjs']) ||
    run('npx', [
      'prettier',
      '--write',
      '--log-level=warn',
      'packages/core/src/analysis/sensitivities.ts',
      'docs/sensitivities.md',
    ]),
);
