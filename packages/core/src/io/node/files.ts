// Files on disk, written whole or not at all; zlib as the platform has it.
import { CoreError } from '../../base/error';
import {
  closeSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  writeSync,
} from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import { crc32, deflateSync, inflateRawSync, inflateSync, type ZlibOptions } from 'node:zlib';
import { FileError } from '../../files/bytes';
import type { ByteRanges } from '../../files/ranges';
import { readZipDirectory, type ZipEntry } from '../../files/sequence/zip-directory';
import type { ZipCodec } from '../../files/zip';

const [LEAST_CHUNK, MOST_CHUNK] = [64, 65536];

/** What is to come of a stream: a short one gets what it takes, what a long one claims is not trusted. */
const unpacked = (size: number): ZlibOptions => ({
  maxOutputLength: Math.max(size, 1),
  chunkSize: Math.min(Math.max(LEAST_CHUNK, size), MOST_CHUNK),
});

export const nodeZip: ZipCodec = {
  deflate: (data) => deflateSync(data, { level: 4, memLevel: 8 }),
  inflate: (data, size) => {
    const out = inflateSync(data, unpacked(size));
    if (out.length !== size) throw new CoreError('file', 'it does not have the size that it should');
    return out;
  },
  inflateRaw: (data, size) => {
    const out = inflateRawSync(data, unpacked(size));
    if (out.length !== size) throw new CoreError('file', 'it does not have the size that it should');
    return out;
  },
  crc32: (data) => crc32(data),
};

/**
 * A file that is read in pieces; it is open while one is read.
 * @throws Error where it is not there
 */
export function rangesOfFile(path: string): ByteRanges {
  return {
    size: statSync(path).size,
    read: (from, end) => {
      const bytes = new Uint8Array(end - from);
      const file = openSync(path, 'r');
      try {
        for (let at = 0; at < bytes.length;) {
          const got = readSync(file, bytes, at, bytes.length - at, from + at);
          if (got === 0) throw new FileError('It became shorter while it was read');
          at += got;
        }
      } finally {
        closeSync(file);
      }

      return bytes;
    },
  };
}

/** What a ZIP file holds, by name. @throws CoreError that names the file, where it cannot be read as one */
export function zipEntries(path: string): ReadonlyMap<string, ZipEntry> {
  try {
    return new Map(readZipDirectory(rangesOfFile(path), nodeZip).map((entry) => [entry.name, entry]));
  } catch (error) {
    throw new CoreError('file', `${path}: ${(error as Error).message}`, { cause: error });
  }
}

/** The disk has no room left. */
export class DiskFullError extends CoreError {
  constructor(message: string) {
    super('disk', message);
  }
}

/** Bytes that are left free on the disk: for the database, and for whoever else writes. */
const RESERVE = Number(process.env.BRAMBLEMIST_RESERVE_MB ?? 256) * 1e6;
/** Smaller files are written in any case: manifests and what says why something paused. */
const SMALL = 65536;

/** @throws DiskFullError where so many bytes more would use up what is kept free */
export function needRoom(folder: string, bytes: number): void {
  const { bavail, bsize } = statfsSync(folder);
  const free = bavail * bsize;
  if (bytes > SMALL && free < bytes + RESERVE)
    throw new DiskFullError(
      `The disk is nearly full: ${(free / 1e6).toFixed(0)} MB are free at ${folder}, and ` +
        `${(RESERVE / 1e6).toFixed(0)} MB of them are kept free. What is finished is whole. Clear ` +
        'something, then go on.',
    );
}

/**
 * Writes to a temporary name beside it, flushes, renames: a reader sees the old file or the new one, never a
 * part. @throws DiskFullError
 */
export function writeWhole(path: string, data: Uint8Array | string): void {
  mkdirSync(dirname(path), { recursive: true });
  const temporary = `${path}.part-${process.pid}`;
  const bytes = typeof data === 'string' ? Buffer.from(data) : data;
  needRoom(dirname(path), bytes.length);
  try {
    const file = openSync(temporary, 'w');
    try {
      for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at);
      fsyncSync(file);
    } finally {
      closeSync(file);
    }

    renameSync(temporary, path);
  } catch (error) {
    rmSync(temporary, { force: true });
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
      throw new DiskFullError(`The disk is full: ${path} could not be written. Clear something, then go on.`);
    throw error;
  }
}

/** Takes away what a process that was killed left half-written, in a folder and in those below it. */
export function dropParts(folder: string): void {
  for (const name of readdirSync(folder, { recursive: true }) as string[])
    if (/\.part-\d+$/.test(name)) rmSync(join(folder, name));
}

export function sha256(data: Uint8Array | string): string {
  return createHash('sha256').update(data).digest('hex');
}

const HASHED_BYTES = 2 ** 24;

/** Of a file, read in pieces. */
export function sha256OfFile(file: ByteRanges): string {
  const hash = createHash('sha256');
  for (let at = 0; at < file.size; at += HASHED_BYTES)
    hash.update(file.read(at, Math.min(file.size, at + HASHED_BYTES)));
  return hash.digest('hex');
}

/** @throws Error naming the file where it cannot be read or is not JSON */
export function readJson(path: string): unknown {
  let text: string;
  try {
    text = readFileSync(path, 'utf8');
  } catch (error) {
    throw new CoreError(
      'file',
      `${path}: cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)}).`,
    );
  }

  try {
    return JSON.parse(text);
  } catch (error) {
    throw new CoreError('file', `${path}: is not valid JSON: ${(error as Error).message}.`);
  }
}
