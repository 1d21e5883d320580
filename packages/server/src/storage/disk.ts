// Looking at folders without holding the server up.
import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';

/** Files that are looked at at once. */
const AT_ONCE = 32;

/** Bytes of a file, or of all files below a folder; 0 where it is not there. Links are not followed. */
export async function bytesBelow(path: string): Promise<number> {
  const own = await lstat(path).catch(() => null);
  if (!own) return 0;
  if (!own.isDirectory()) return own.isFile() ? own.size : 0;
  const names = await readdir(path);
  let sum = 0;
  for (let n = 0; n < names.length; n += AT_ONCE) {
    const sizes = await Promise.all(names.slice(n, n + AT_ONCE).map((name) => bytesBelow(join(path, name))));
    sum += sizes.reduce((a, b) => a + b, 0);
  }

  return sum;
}

/** Lets whoever waits have a turn. */
export const pause = (): Promise<void> => new Promise((done) => setImmediate(done));
