// `run`: a bundle on any machine, its result packed for the way back; `unpack`: such a result.
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import {
  BUNDLE,
  packResult,
  parseBundle,
  RESULT,
  unpackPackage,
  type Bundle,
} from '@bramblemist/core/io/node/bundle';
import { PROGRAM, SOLVER } from '@bramblemist/core/cache/manifest';
import { writeWhole } from '@bramblemist/core/io/node/files';
import { UsageError } from '../failure';
import { bakeCommand } from './bake';
import { renderCommand } from './render';
import { asUsage } from './tool';

export interface RunArguments {
  out?: string;
  threads?: string;
  resume?: boolean;
  anyVersion?: boolean;
  json?: boolean;
}

/** Unpacks it beside itself, or into --out, runs what it asks for, and packs what came out. */
export async function runCommand(path: string, args: RunArguments): Promise<void> {
  if (!existsSync(path)) throw new UsageError(`${path}: there is no such file.`);
  const stem = basename(path).replace(/\.zip$/i, '');
  const folder = args.out ?? join(dirname(path), `${stem}-run`);
  const result = join(folder, 'result');
  if (!args.resume && existsSync(result) && readdirSync(result).length > 0)
    throw new UsageError(`${folder}: holds a run already. Go on with it: --resume. Or choose another --out.`);
  const own = join(folder, 'bundle');
  const bundle = asUsage(() => parseBundle(unpackPackage(path, own, BUNDLE), path));
  checkVersion(bundle, args.anyVersion ?? false);
  const files = join(own, 'files');
  const frames = `${bundle.frames.first}-${bundle.frames.last}`;
  const common = { out: result, files, frames, threads: args.threads, json: args.json, resume: args.resume };
  const look = join(own, 'look.json');
  if (bundle.what === 'bake')
    await bakeCommand(join(own, 'recipe.json'), {
      ...common,
      voxel: String(bundle.voxelSizeM),
      bricks: true,
      look,
      resume: args.resume || existsSync(join(result, 'manifest.json')),
    });
  else {
    await renderCommand(join(own, 'bakes', String(bundle.bakeId)), { ...common, look });
    // what they were made with goes back with them
    writeWhole(join(result, 'look.json'), readFileSync(look));
  }

  const out = join(folder, `${stem}.result.zip`);
  await packResult(bundle, result, out);
  if (args.json) process.stdout.write(`${JSON.stringify({ event: 'packed', out })}\n`);
  else process.stdout.write(`${out}: drop it on the shot that the bundle came from.\n`);
}

/** Other editions of the solver give other bits; other programs may know other settings. */
function checkVersion(bundle: Bundle, isAny: boolean): void {
  const isOther = bundle.what === 'bake' ? bundle.solver !== SOLVER : bundle.program !== PROGRAM;
  if (isOther && !isAny)
    throw new UsageError(
      `The bundle was made by ${bundle.program} (solver ${bundle.solver}); this is ${PROGRAM} (solver ` +
        `${SOLVER}), which gives other bits. Use that version, or run it all the same: --any-version.`,
    );
}

/** @param path a result, as `run` packed it */
export function unpackCommand(path: string, args: { out: string; json?: boolean }): void {
  if (!existsSync(path)) throw new UsageError(`${path}: there is no such file.`);
  let files = 0;
  const bundle = asUsage(() =>
    parseBundle(
      unpackPackage(path, args.out, RESULT, (done) => (files = done)),
      path,
    ),
  );
  if (args.json) process.stdout.write(`${JSON.stringify({ bundle, files })}\n`);
  else process.stdout.write(`${files} files in ${args.out}: ${bundle.what} of ${bundle.name}.\n`);
}
