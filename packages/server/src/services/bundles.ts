// Bundles: a bake or a render with all that it needs for another machine, and what comes back of it.
import { existsSync } from 'node:fs';
import { mkdir, readFile, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Transaction } from 'sequelize';
import type { BroughtBack } from '@bramblemist/contracts/payloads/made';
import { endingOf } from '@bramblemist/core/assets/imported';
import { fileStem, type Manifest } from '@bramblemist/core/cache/manifest';
import { BUNDLE, bundleHead, RESULT, type Bundle } from '@bramblemist/core/io/node/bundle';
import { MANIFEST, readManifest } from '@bramblemist/core/io/node/cache';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { PackageSink } from '@bramblemist/core/io/node/checked-archive';
import { nodeZip, rangesOfFile } from '@bramblemist/core/io/node/files';
import { readZipDirectory } from '@bramblemist/core/files/sequence/zip-directory';
import { LOOK } from '@bramblemist/core/look/look';
import { HttpError } from '../http-error';
import { answerOf, NoAnswer } from '../jobs/children';
import { frameRow } from '../jobs/frame-row';
import { Bake, Frame, Job, Render, Variant } from '../models';
import type { Storage } from '../storage/storage';
import { withoutPaths } from '../words';
import { inTransaction, recipeHash } from './documents';
import { bakeInside } from './hand-over';

interface Using {
  readonly files: readonly { readonly sha256: string; readonly name: string }[];
}

/** What a bake of a variant needs. */
export async function putBakeBundle(
  storage: Storage,
  variant: Variant,
  voxelSizeM: number,
  to: PackageSink,
): Promise<void> {
  const { recipe, recipeSha256, look, id: variantId } = variant;
  const { firstFrame: first, lastFrame: last } = recipe.space;
  const bundle: Bundle = {
    ...bundleHead,
    ...{ what: 'bake', variantId, voxelSizeM, recipeSha256, frames: { first, last } },
    name: fileStem(recipe.name),
  };
  await to.data(JSON.stringify(bundle, null, 1), BUNDLE);
  await to.data(JSON.stringify(recipe, null, 1), 'recipe.json');
  await to.data(JSON.stringify(look, null, 1), 'look.json');
  await putFiles(storage, [recipe, look], to);
  await to.end();
}

/** What a render of a bake needs, its volumes among it. */
export async function putRenderBundle(storage: Storage, bake: Bake, to: PackageSink): Promise<void> {
  const { variant } = await bakeInside(bake);
  const frames = await Frame.findAll({ where: { bakeId: bake.id }, order: [['frame', 'ASC']] });
  const bundle: Bundle = {
    ...bundleHead,
    ...{ what: 'render', bakeId: bake.id, recipeSha256: bake.recipeSha256 },
    frames: { first: frames[0].frame, last: frames[frames.length - 1].frame },
    name: fileStem(bake.recipe.name),
  };
  await to.data(JSON.stringify(bundle, null, 1), BUNDLE);
  await to.data(JSON.stringify(variant.look, null, 1), 'look.json');
  // with the bakes of further media, which stand beside it under their numbers
  const others = variant.look.media.filter(({ on, bake: id }) => on && id > 0).map((m) => m.bake);
  for (const id of new Set([bake.id, ...others])) await putVolumes(storage, id, to);
  await putFiles(storage, [bake.recipe, variant.look], to);
  await to.end();
}

async function putVolumes(storage: Storage, bakeId: number, to: PackageSink): Promise<void> {
  const folder = storage.bakeFolder(bakeId);
  const frames = await Frame.findAll({ where: { bakeId }, order: [['frame', 'ASC']] });
  await to.file(join(folder, MANIFEST), `bakes/${bakeId}/${MANIFEST}`);
  for (const { file } of frames) await to.file(join(folder, file), `bakes/${bakeId}/${file}`);
}

async function putFiles(storage: Storage, documents: readonly Using[], to: PackageSink): Promise<void> {
  const files = new Map(documents.flatMap((d) => d.files.map((f) => [f.sha256, f] as const)));
  for (const { sha256, name } of files.values()) {
    if (!sha256) continue;
    const ending = endingOf(name);
    // by its content, as the command line looks for them first
    await to.file(storage.broughtFile(sha256, ending), `files/${sha256}.${ending}`);
  }
}

/** Whether a file is the result of a bundle. */
export function isResult(path: string): boolean {
  try {
    return readZipDirectory(rangesOfFile(path), nodeZip).some(({ name }) => name === RESULT);
  } catch {
    return false; // no ZIP at all: whoever reads it says so
  }
}

const UNPACKING = { ms: 2 * 3_600_000, bytes: 4 * 2 ** 30 } as const;

/**
 * Takes the result of a bundle in: a bake of its variant, or a render of its bake.
 * @param path of the ZIP, which is taken away
 * @throws HttpError where it is broken, or belongs to another shot
 */
export async function bringBack(
  storage: Storage,
  cli: string,
  shotId: number,
  path: string,
): Promise<BroughtBack> {
  const folder = await storage.scratch();
  try {
    const answer = await answerOf(cli, ['unpack', path, '--out', folder, '--json'], UNPACKING);
    const { bundle } = JSON.parse(answer) as { bundle: Bundle };
    return bundle.what === 'bake'
      ? await bakeBack(storage, shotId, bundle, folder)
      : await renderBack(storage, shotId, bundle, folder);
  } catch (error) {
    if (!(error instanceof NoAnswer)) throw error;
    throw new HttpError(415, error.why === 'said' ? withoutPaths(error.message) : 'Unpacking took too long.');
  } finally {
    await rm(folder, { recursive: true, force: true });
    await rm(path, { force: true });
  }
}

const elsewhere = (what: string): HttpError =>
  new HttpError(409, `This is the result of ${what}. Drop it on the shot that its bundle came from.`);

async function bakeBack(
  storage: Storage,
  shotId: number,
  bundle: Extract<Bundle, { what: 'bake' }>,
  folder: string,
): Promise<BroughtBack> {
  const variant = await Variant.findOne({ where: { id: bundle.variantId, shotId } });
  if (!variant) throw elsewhere(`a bake of ${bundle.name}, which is not this shot`);
  const manifest = manifestOf(join(folder, 'result'));
  const { voxelSizeM, frames, range } = manifest;
  const recipe = RECIPE.parse(manifest.recipe);
  const recipeSha256 = recipeHash(recipe);
  return inTransaction(async (transaction) => {
    const bake = await Bake.create(
      {
        ...{ variantId: variant.id, recipe, recipeSha256, voxelSizeM, solver: bundle.solver },
        ...{ firstFrame: range.first, lastFrame: range.last },
      },
      { transaction },
    );
    await Frame.bulkCreate(
      frames.map((f) => frameRow(bake.id, f)),
      { transaction },
    );
    await noteDone('bake', bake.id, shotId, frames.length, transaction);
    await moveInto(join(folder, 'result'), storage.bakeFolder(bake.id));
    return { what: 'bake', id: bake.id, frames: frames.length };
  });
}

/**
 * What came back says of itself. Its files' names become paths later: they must be plain, and there.
 * @throws HttpError where it is no manifest of ours
 */
function manifestOf(folder: string): Manifest {
  try {
    const manifest = readManifest(folder);
    const wrong = manifest.frames.find(
      ({ file }) => !/^[\w-][\w.-]*\.vdb$/.test(file) || !existsSync(join(folder, file)),
    );
    if (!wrong) return manifest;
    throw new HttpError(415, `Frame ${wrong.frame} of the result has no volume of its own.`);
  } catch (error) {
    if (error instanceof HttpError) throw error;
    throw new HttpError(415, withoutPaths((error as Error).message));
  }
}

async function renderBack(
  storage: Storage,
  shotId: number,
  bundle: Extract<Bundle, { what: 'render' }>,
  folder: string,
): Promise<BroughtBack> {
  const bake = await Bake.findOne({ where: { id: bundle.bakeId, clearedAt: null } });
  const inside = bake && (await bakeInside(bake));
  if (inside?.shot.id !== shotId || bake!.recipeSha256 !== bundle.recipeSha256)
    throw elsewhere(`a render of bake ${bundle.bakeId}, ${bundle.name}, which is not in this shot`);
  const look = LOOK.parse(JSON.parse(await readFile(join(folder, 'result', LOOK_FILE), 'utf8')));
  const { first: firstFrame, last: lastFrame } = bundle.frames;
  const frames = lastFrame - firstFrame + 1;
  return inTransaction(async (transaction) => {
    const render = await Render.create({ bakeId: bake!.id, look, firstFrame, lastFrame }, { transaction });
    await noteDone('render', render.id, shotId, frames, transaction);
    await moveInto(join(folder, 'result'), storage.renderFolder(render.id));
    return { what: 'render', id: render.id, frames };
  });
}

/** The look that pictures were made with, beside them. */
const LOOK_FILE = 'look.json';

async function moveInto(from: string, to: string): Promise<void> {
  await mkdir(dirname(to), { recursive: true });
  await rename(from, to);
}

/** It stands in the queue like what was made here. */
async function noteDone(
  kind: 'bake' | 'render',
  targetId: number,
  shotId: number,
  total: number,
  transaction: Transaction,
): Promise<void> {
  const now = new Date();
  await Job.create(
    { kind, state: 'done', targetId, shotId, done: total, total, startedAt: now, endedAt: now },
    { transaction },
  );
}
