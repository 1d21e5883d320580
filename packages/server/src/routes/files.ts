// The shelf of files: meshes and pictures that were brought in, under their content's hash, with what a check
// found.
import { createReadStream } from 'node:fs';
import { copyFile, mkdir, rename, rm, stat } from 'node:fs/promises';
import { createHash, randomUUID } from 'node:crypto';
import { pipeline } from 'node:stream/promises';
import { dirname } from 'node:path';
import { Router } from 'express';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import { type FileReport } from '@bramblemist/core/assets/import-asset';
import { endingOf } from '@bramblemist/core/assets/imported';
import { BroughtFile, Shot, Variant } from '../models';
import type { Storage } from '../storage/storage';
import { route } from './door';
import { answerOf, checkBounds, NoAnswer } from '../jobs/children';
import { shortName, withoutPaths } from '../words';
import { receiveFile } from './receive';
import { HttpError } from '../http-error';

/** Of a sequence; what is read whole is held to less by its check. */
const MOST_BYTES = 64 * 2 ** 30;

export async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/**
 * What the command line finds in a file, in a process of its own: a file may be anything.
 * @throws HttpError in words
 */
export async function check(cli: string, path: string, name: string): Promise<FileReport> {
  try {
    const args = ['check', path, '--name', name, '--json'];
    return JSON.parse(await answerOf(cli, args, checkBounds((await stat(path)).size))) as FileReport;
  } catch (error) {
    if (!(error instanceof NoAnswer)) throw error;
    const words = withoutPaths(error.message.split(path).join(name));
    const long = `${name}: checking it took too long or too much memory. Reduce it and try again.`;
    throw new HttpError(415, error.why === 'said' ? words : long);
  }
}

/** Which shots use which content. */
async function uses(): Promise<Map<string, string[]>> {
  const [shots, variants] = await Promise.all([
    Shot.findAll({ attributes: ['id', 'name'], raw: true }),
    Variant.findAll({ attributes: ['shotId', 'number', 'files'], raw: true }),
  ]);
  const names = new Map(shots.map((s) => [s.id, s.name]));
  const out = new Map<string, string[]>();
  for (const { shotId, number, files } of variants)
    for (const sha of files.split(' ').filter(Boolean))
      out.set(sha, [...(out.get(sha) ?? []), `${names.get(shotId) ?? ''}, variant ${number}`]);
  return out;
}

function fileInfo(f: BroughtFile, usedIn: readonly string[]): FileInfo {
  return {
    id: f.id,
    name: f.name,
    sha256: f.sha256,
    bytes: f.bytes,
    report: f.report,
    usedIn,
    createdAt: f.createdAt.toISOString(),
  };
}

/**
 * Puts a file onto the shelf; the same content is kept once, under its first name.
 * @throws Refused with what is wrong with it; nothing is kept then
 */
export async function shelve(
  storage: Storage,
  cli: string,
  path: string,
  name: string,
): Promise<{ file: BroughtFile; isNew: boolean }> {
  const report = await check(cli, path, name);
  const hash = await hashOf(path);
  const target = storage.broughtFile(hash, endingOf(name));
  if (!(await stat(target).catch(() => null))) {
    await mkdir(dirname(target), { recursive: true });
    const part = `${target}.part-${randomUUID()}`;
    await copyFile(path, part);
    await rename(part, target);
  }

  const known = await BroughtFile.findOne({ where: { sha256: hash } });
  if (known) return { file: known, isNew: false };
  return {
    file: await BroughtFile.create({
      name: shortName(name, 120),
      sha256: hash,
      bytes: (await stat(target)).size,
      report,
    }),
    isNew: true,
  };
}

export function fileRoutes(storage: Storage, cli: string): Router {
  const router = Router();
  router.get(
    '/files',
    route(async (_req, res) => {
      const used = await uses();
      res.json(
        (await BroughtFile.findAll({ order: [['id', 'DESC']] })).map((f) =>
          fileInfo(f, used.get(f.sha256) ?? []),
        ),
      );
    }),
  );
  router.post(
    '/files',
    route(async (req, res) => {
      const file = await receiveFile(req, storage.uploads(), MOST_BYTES);
      try {
        const { file: kept, isNew } = await shelve(storage, cli, file.path, file.name);
        res.status(isNew ? 201 : 200).json(fileInfo(kept, (await uses()).get(kept.sha256) ?? []));
      } finally {
        await rm(file.path, { force: true });
      }
    }),
  );
  router.get(
    '/files/:sha256/data',
    route(async (req, res) => {
      const file = await BroughtFile.findOne({ where: { sha256: String(req.params.sha256) } });
      if (!file) throw new HttpError(404, 'There is no such file on the shelf.');
      res
        .type('application/octet-stream')
        .set('Cache-Control', 'private, max-age=31536000, immutable')
        .sendFile(storage.broughtFile(file.sha256, endingOf(file.name)));
    }),
  );
  return router;
}
