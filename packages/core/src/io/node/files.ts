// Files on disk, written whole or not at all; zlib as the platform has it.
import { closeSync, fsyncSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, writeSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname } from 'node:path';
import { deflateSync, inflateSync } from 'node:zlib';
import type { ZipCodec } from '../../files/zip';

export const nodeZip: ZipCodec = {
  deflate: (data) => deflateSync(data, { level: 4, memLevel: 8 }),
  inflate: (data, size) => {
    const out = inflateSync(data, { maxOutputLength: Math.max(size, 1) });
    if (out.length !== size) throw new Error('it does not have the size that it should');
    return out;
  },
};

/** Writes to a temporary name beside it, flushes, renames: a reader sees the old file or the new one, never a part. */
export function writeWhole(path: string, data: Uint8Array | string): void {
  mkdirSync(dirname(path), { recursive: true });
  const temporary = `${path}.part-${process.pid}`;
  const bytes = typeof data === 'string' ? Buffer.from(data) : data;
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
    throw error;
  }
}

export function sha256(data: Uint8Array | string): string {
  return createHash('sha256').update(data).digest('hex');
}

/** @throws Error naming the file where it cannot be read or is not JSON */
export function readJson(path: string): unknown {
  let text: string;
  try {
    text = readFileSync(path, 'utf8');
  } catch (error) {
    throw new Error(`${path}: cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)}).`);
  }
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new Error(`${path}: is not valid JSON: ${(error as Error).message}.`);
  }
}
