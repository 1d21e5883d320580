// Built files of the workspace, as the core's threads need them.
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { CoreError } from '../../base/error';

/** Looked for upward from here, so that it is found from sources, bundles and tests alike. */
export function workspaceFile(path: string): string {
  for (let at = __dirname; ; at = dirname(at)) {
    const candidate = join(at, path);
    if (existsSync(candidate)) return candidate;
    if (dirname(at) === at) throw new CoreError('cache', `${path} is not built. Run: npm run build`);
  }
}
