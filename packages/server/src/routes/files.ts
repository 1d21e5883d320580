// The shelf of files: meshes and pictures that were brought in, under their content's hash, with what a check
// found.
import { execFile } from 'node:child_process';
import { createReadStream, existsSync, mkdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { copyFile } from 'node:fs/promises';
import { createHash } from 'node:crypto';
import { pipeline } from 'node:stream/promises';
import { dirname } from 'node:path';
import { Router } from 'express';
import type { FileInfo } from '@bramblemist/contracts/payloads';
import { endingOf, type FileReport } from '@bramblemist/core/assets/import-asset';
import { BroughtFile, Shot, Variant } from '../models';
import type { Storage } from '../storage/storage';
import { route } from './door';
import { receiveFile } from './receive';
import { HttpError } from '../http-error';

const MOST_BYTES = 512 * 2 ** 20;
const LONGEST_MS = 120_000;

export async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/** What the command line finds in a file, in a process of its own: a file may be anything. */
function check(cli: string, path: string, name: string): Promise<FileReport> {
  return new Promise((done, fail) => {
    execFile(
      process.execPath,
      [cli, 'check', path, '--name', name, '--json'],
      { timeout: LONGEST_MS, maxBuffer: 2 ** 20 },
      (error, out, said) => {
        if (!error) return done(JSON.parse(out) as FileReport);
        fail(
          new HttpError(
            415,
            said.trim() && !error.killed
              ? said.trim()
              : `${name}: checking it took too long or too much memory. Reduce it and try again.`,
          ),
        );
      },
    );
  });
}

/** Which shots use which content. */
async function uses(): Promise<Map<string, string[]>> {
  const shots = new Map((await Shot.findAll()).map((s) => [s.id, s.name]));
  const out = new Map<string, string[]>();
  for (const v of await Variant.findAll())
    for (const f of v.recipe.files)
      out.set(f.sha256, [...(out.get(f.sha256) ?? []), `${shots.get(v.shotId) ?? ''}, variant ${v.number}`]);
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
  if (!existsSync(target)) {
    mkdirSync(dirname(target), { recursive: true });
    const part = `${target}.part`;
    await copyFile(path, part);
    renameSync(part, target);
  }

  const known = await BroughtFile.findOne({ where: { sha256: hash } });
  if (known) return { file: known, isNew: false };
  return {
    file: await BroughtFile.create({
      name: name.slice(0, 120),
      sha256: hash,
      bytes: statSync(target).size,
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
        rmSync(file.path, { force: true });
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
