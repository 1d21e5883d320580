// Folders of the data of earlier programs, under the names of this one.
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { isThere } from './storage';

const RENAMED = [
  ['drifts', 'particles'],
  [join('bin', 'drifts'), join('bin', 'particles')],
] as const;

export async function renameFolders(root: string): Promise<void> {
  for (const [before, now] of RENAMED)
    if ((await isThere(join(root, before))) && !(await isThere(join(root, now))))
      await rename(join(root, before), join(root, now));
}
