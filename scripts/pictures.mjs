// npm run pictures: builds what is missing, measures both estimators of light and writes docs/rendering.md.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';

await build(['kernels', 'worker', 'pictures', 'demo pictures']);
const run = (...args) => spawnSync(process.execPath, args, { stdio: 'inherit' }).status ?? 1;
process.exitCode =
  run('demo/build/make.cjs', 'demo/build/pictures') ||
  run('packages/core/build/pictures.cjs', 'docs') ||
  run('node_modules/prettier/bin/prettier.cjs', '--write', 'docs/rendering.md');
