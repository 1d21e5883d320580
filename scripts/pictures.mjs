// npm run pictures: builds what is missing, measures both estimators of light and writes docs/rendering.md.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';

await build(['kernels', 'worker', 'pictures']);
const { status } = spawnSync(process.execPath, ['packages/core/build/pictures.cjs', 'docs'], {
  stdio: 'inherit',
});
process.exitCode = status ?? 1;
