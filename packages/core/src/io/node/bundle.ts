// A bundle: a bake or a render with all that it needs, to be run on another machine, and its result on the
// way back. Both are packages with checksums.
import { createWriteStream, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { finished } from 'node:stream/promises';
import { join } from 'node:path';
import { CoreError } from '../../base/error';
import { PROGRAM, SOLVER } from '../../cache/manifest';
import { CheckedArchive, placeIn } from './checked-archive';
import { rangesOfFile, readJson, sha256, sha256OfFile, writeWhole, zipEntries } from './files';
import { CHECKSUMS } from './package';

export const BUNDLE = 'bundle.json';
export const RESULT = 'result.json';

interface BundleHead {
  readonly format: 'bramblemist-bundle';
  readonly version: 1;
  readonly program: string;
  /** Edition of the solver, which decides the bits of a bake. */
  readonly solver: number;
  /** Of the shot, as files have it. */
  readonly name: string;
  readonly recipeSha256: string;
  readonly frames: { readonly first: number; readonly last: number };
}
export type Bundle = BundleHead &
  (
    | { readonly what: 'bake'; readonly variantId: number; readonly voxelSizeM: number }
    | { readonly what: 'render'; readonly bakeId: number }
  );

/** The head of a bundle that this program makes. */
export const bundleHead = {
  format: 'bramblemist-bundle',
  version: 1,
  program: PROGRAM,
  solver: SOLVER,
} as const;

/** @throws CoreError where it is none, or of a later program */
export function parseBundle(data: unknown, from: string): Bundle {
  const own = data as Partial<Bundle> | null;
  if (own?.format !== 'bramblemist-bundle' || (own.what !== 'bake' && own.what !== 'render'))
    throw new CoreError('file', `${from}: is no bundle of this program.`);
  if (own.version !== 1)
    throw new CoreError('file', `${from}: was made by a later program. Update this one, then run it again.`);
  return own as Bundle;
}

/**
 * Unpacks a package of ours, every file against its checksum. What lies there already with the same content
 * stays.
 * @param list the file that tells what it is
 * @returns what that file says
 * @throws CoreError naming the file that is wrong
 */
export function unpackPackage(
  path: string,
  folder: string,
  list: string,
  onFile: (done: number, total: number) => void = () => undefined,
): unknown {
  const entries = zipEntries(path);
  const sums = entries.get(CHECKSUMS);
  if (!sums || !entries.has(list))
    throw new CoreError('file', `${path}: has no ${sums ? list : CHECKSUMS}, so it is none of ours.`);
  const wanted = new TextDecoder()
    .decode(sums.read())
    .split('\n')
    .flatMap((line) => {
      const match = /^([0-9a-f]{64}) [ *](.+)$/.exec(line);
      return match ? [{ sum: match[1], name: match[2] }] : [];
    });
  mkdirSync(folder, { recursive: true });
  for (const [n, { sum, name }] of wanted.entries()) {
    const to = placeIn(folder, name);
    const entry = entries.get(name);
    if (!entry) throw new CoreError('file', `${path}: ${name} is missing. Fetch it again.`);
    if (!existsSync(to) || sha256OfFile(rangesOfFile(to)) !== sum) {
      const bytes = entry.read();
      if (sha256(bytes) !== sum)
        throw new CoreError('file', `${path}: ${name} is not what was written. Fetch it again.`);
      writeWhole(to, bytes);
    }

    onFile(n + 1, wanted.length);
  }

  return readJson(join(folder, list));
}

/** Files of a folder and of those below it, by their paths; half-written ones and states are left out. */
function filesIn(folder: string): string[] {
  return (readdirSync(folder, { recursive: true }) as string[])
    .map((name) => name.split('\\').join('/'))
    .filter((name) => !/(^|\/)checkpoints?\//.test(name) && !/\.part-\d+$/.test(name))
    .filter((name) => statSync(join(folder, name)).isFile())
    .sort();
}

/** Packs what a bundle's run made, whole or not at all. */
export async function packResult(bundle: Bundle, folder: string, out: string): Promise<void> {
  const part = `${out}.part-${process.pid}`;
  const stream = createWriteStream(part);
  try {
    const archive = new CheckedArchive(stream);
    await archive.data(JSON.stringify({ ...bundle, program: PROGRAM, solver: SOLVER }, null, 1), RESULT);
    for (const name of filesIn(folder)) await archive.file(join(folder, name), `result/${name}`);
    await archive.end();
    await finished(stream);
    renameSync(part, out);
  } finally {
    rmSync(part, { force: true });
  }
}
