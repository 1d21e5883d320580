// A command that a server started ends when that server is gone: two must never work in one folder. Frames
// are whole or absent, so that nothing has to be tidied up.
import { Worker } from 'node:worker_threads';

const LOOK_EVERY_MS = 300;

/** Looks from a thread of its own, since a command may compute for minutes without a pause. */
const WATCH = `
const parent = Number(require('node:worker_threads').workerData);
setInterval(() => {
  if (process.ppid !== parent) process.kill(process.pid, 'SIGKILL');
}, ${LOOK_EVERY_MS});
`;

/** Watches the process that BRAMBLEMIST_PARENT names; without, nothing is watched. */
export function watchParent(): void {
  const parent = process.env.BRAMBLEMIST_PARENT;
  if (parent === undefined) return;
  if (process.ppid !== Number(parent)) process.exit(1);
  new Worker(WATCH, { eval: true, workerData: parent, env: {} }).unref();
}
