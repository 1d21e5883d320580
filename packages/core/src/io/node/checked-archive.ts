// What is handed over, written entry by entry with a list of checksums at its end: as a ZIP that is sent
// while it is written, or into a folder.
import archiver, { type Archiver } from 'archiver';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { createReadStream, mkdirSync, rmSync } from 'node:fs';
import { copyFile, mkdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join, resolve, sep } from 'node:path';
import { Transform, type Writable } from 'node:stream';
import { CHECKSUMS } from './package';
import { needRoom, sha256, writeWhole } from './files';
import { CoreError } from '../../base/error';

export interface PackageSink {
  /** @throws Error where the file cannot be read, or nobody takes it any more */
  file(path: string, name: string): Promise<void>;
  data(data: string | Uint8Array, name: string): Promise<void>;
  /** Ends it, with its checksums. */
  end(): Promise<void>;
}

export class CheckedArchive implements PackageSink {
  private readonly archive: Archiver = archiver('zip', { store: true }); // volumes and pictures are packed
  private readonly gone = new AbortController();
  private readonly lines: string[] = [];

  constructor(to: Writable) {
    // whoever fetched it has gone, or has all of it
    to.once('close', () => this.gone.abort());
    this.archive.once('error', () => this.gone.abort());
    this.archive.pipe(to);
  }

  /** @throws Error where the file cannot be read, or nobody takes the archive any more */
  async file(path: string, name: string): Promise<void> {
    const hash = createHash('sha256');
    const source = createReadStream(path);
    const counted = new Transform({
      transform: (chunk: Buffer, _, done) => {
        hash.update(chunk);
        done(null, chunk);
      },
    });
    source.once('error', (error) => counted.destroy(error));
    counted.once('error', () => this.gone.abort());
    try {
      await this.put(source.pipe(counted), name);
    } finally {
      source.destroy();
    }

    this.lines.push(lineOf(hash.digest('hex'), name));
  }

  async data(data: string | Uint8Array, name: string): Promise<void> {
    this.lines.push(lineOf(sha256(data), name));
    await this.put(
      typeof data === 'string' ? data : Buffer.from(data.buffer, data.byteOffset, data.length),
      name,
    );
  }

  /** Ends it, with its checksums. */
  async end(): Promise<void> {
    await this.put(this.lines.join(''), CHECKSUMS);
    await this.archive.finalize();
  }

  private async put(data: string | Buffer | Transform, name: string): Promise<void> {
    const written = once(this.archive, 'entry', { signal: this.gone.signal });
    this.archive.append(data, { name });
    await written;
  }
}

const lineOf = (sum: string, name: string): string => `${sum}  ${name}\n`;

/**
 * A folder in which each file is there as a whole or not at all. What lies there already with the same
 * content stays, so that one that was broken off is gone on with.
 */
export class CheckedFolder implements PackageSink {
  private readonly lines: string[] = [];

  /** @param onFile told before each file; what it throws ends the writing */
  constructor(
    private readonly folder: string,
    private readonly onFile: () => void = () => undefined,
  ) {
    mkdirSync(folder, { recursive: true });
    // a list that is there says that all is: not before it is so
    rmSync(join(folder, CHECKSUMS), { force: true });
  }

  async file(path: string, name: string): Promise<void> {
    this.onFile();
    const to = placeIn(this.folder, name);
    const sum = await hashOfFile(path);
    this.lines.push(lineOf(sum, name));
    const { size } = await stat(path);
    if (await hasContent(to, size, sum)) return;
    await this.put(to, size, (part) => copyFile(path, part));
  }

  async data(data: string | Uint8Array, name: string): Promise<void> {
    this.onFile();
    this.lines.push(lineOf(sha256(data), name));
    await this.put(placeIn(this.folder, name), data.length, (part) => writeFile(part, data));
  }

  end(): Promise<void> {
    writeWhole(join(this.folder, CHECKSUMS), this.lines.join(''));
    return Promise.resolve();
  }

  /** Under another name first: whoever looks sees all of it or nothing. @throws DiskFullError */
  private async put(to: string, bytes: number, write: (part: string) => Promise<void>): Promise<void> {
    await mkdir(dirname(to), { recursive: true });
    needRoom(dirname(to), bytes);
    const part = `${to}.part-${process.pid}`;
    try {
      await write(part);
      await rename(part, to);
    } finally {
      await rm(part, { force: true });
    }
  }
}

/** Read in pieces, so that a server answers others meanwhile. */
async function hashOfFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

async function hasContent(path: string, bytes: number, sum: string): Promise<boolean> {
  const found = await stat(path).catch(() => null);
  return found?.size === bytes && (await hashOfFile(path)) === sum;
}

/** Where a named file stands in a folder. @throws CoreError where the name would lead out of it */
export function placeIn(folder: string, name: string): string {
  const path = resolve(folder, name);
  if (!path.startsWith(resolve(folder) + sep))
    throw new CoreError('file', `“${name}” would lie outside of the folder.`);
  return path;
}
