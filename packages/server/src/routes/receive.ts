// Uploads: one file of a form, streamed to disk.
import busboy from 'busboy';
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Request } from 'express';
import { needRoom } from '@bramblemist/core/io/node/files';
import { HttpError } from '../http-error';

/** A file on disk, and what the form said of it. */
export interface Received {
  readonly path: string;
  readonly name: string;
  readonly fields: Readonly<Record<string, string>>;
}

const inWords = (bytes: number): string =>
  bytes < 2 ** 30 ? `${bytes / 2 ** 20} MiB` : `${bytes / 2 ** 30} GiB`;

/**
 * Receives one file to disk; nothing stays behind where it fails.
 * @throws HttpError, DiskFullError before anything is received
 */
export async function receiveFile(req: Request, folder: string, mostBytes: number): Promise<Received> {
  await mkdir(folder, { recursive: true });
  needRoom(folder, Number(req.headers['content-length'] ?? 0));
  const path = join(folder, randomUUID());
  try {
    return await new Promise((done, fail) => {
      const parser = busboy({
        headers: req.headers,
        defParamCharset: 'utf8',
        limits: { files: 1, fileSize: mostBytes, fields: 4 },
      });
      const fields: Record<string, string> = {};
      let name = '';
      let writing: Promise<void> | null = null;
      let cut = false;
      parser.on('field', (key, value) => {
        fields[key] = value;
      });
      parser.on('file', (_field, stream, info) => {
        name = info.filename ?? 'picture.png';
        stream.on('limit', () => (cut = true));
        writing = pipeline(stream, createWriteStream(path));
        writing.catch(fail);
        // a window that is closed half-way: the stream would wait for ever
        req.once(
          'close',
          () => stream.destroyed || req.complete || stream.destroy(new Error('it broke off')),
        );
      });
      req.once('close', () => req.complete || fail(new Error('it broke off')));
      parser.on('error', fail);
      parser.on('close', () => {
        if (!writing) return fail(new HttpError(400, 'No file came along.'));
        writing.then(
          () =>
            cut
              ? fail(new HttpError(413, `The file is larger than ${inWords(mostBytes)}.`))
              : done({ path, name, fields }),
          fail,
        );
      });
      req.pipe(parser);
    });
  } catch (error) {
    await rm(path, { recursive: true, force: true });
    if (error instanceof HttpError) throw error;
    throw new HttpError(400, `The upload cannot be read: ${(error as Error).message}.`);
  }
}

/** Half-done uploads and tries of servers that are gone; what is younger may be somebody's. */
const LEFT_MS = 10 * 60_000;

/** Throws away what was left in the folder of uploads. */
export async function sweep(folder: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  for (const name of names) {
    const path = join(folder, name);
    const own = await stat(path).catch(() => null);
    if (own && Date.now() - own.mtimeMs > LEFT_MS) await rm(path, { recursive: true, force: true });
  }
}
