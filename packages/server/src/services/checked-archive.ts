// A ZIP that is sent while it is written, one entry after the other, with a list of its entries' checksums at
// its end.
import archiver, { type Archiver } from 'archiver';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { createReadStream } from 'node:fs';
import { Transform, type Writable } from 'node:stream';
import { CHECKSUMS } from '@bramblemist/core/io/node/package';

export class CheckedArchive {
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

    this.lines.push(`${hash.digest('hex')}  ${name}\n`);
  }

  async data(data: string | Buffer, name: string): Promise<void> {
    this.lines.push(`${createHash('sha256').update(data).digest('hex')}  ${name}\n`);
    await this.put(data, name);
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
