// The feeds of comps from the disk: folders of renders, and files of the shelf.
import { existsSync, readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { LRUCache } from 'lru-cache';
import { CoreError } from '../../base/error';
import { memoize } from '../../base/memoize';
import { endingOf } from '../../assets/imported';
import type { CompFile } from '../../combine/combine';
import { DEEP, type FeedPicture } from '../../combine/feed-picture';
import type { Feed, Feeds } from '../../combine/gather';
import { deepPixels, keyOfFrame, pictureFrom, type RawPicture } from '../../combine/raw-picture';
import type { FeedRange } from '../../combine/timing';
import { readCube, type ColourTable } from '../../files/cube/cube';
import { readDeepExr } from '../../files/exr/deep-reader';
import { openSequence, type Sequence } from '../../files/sequence/sequence';
import { readTrack, type Track } from '../../files/track/track';
import { movieFrames, decodePicture, probeMovie, type MovieInfo } from './ffmpeg';
import { nodeZip, rangesOfFile } from './files';
import { deepBeside, sequence } from './pictures';

export interface FeedFolders {
  /** The folder of a render's pictures; null where there is none. */
  readonly render: (id: number) => string | null;
  /** Files under their names, or under their content's hash. */
  readonly files: string;
  /** Frames a second of renders and of what does not say. */
  readonly rate: number;
}

/** Bytes of a movie that are decoded at a time, and the most frames. */
const CHUNK_BYTES = 48 * 2 ** 20;
const MOST_CHUNK = 24;
const KEPT = 8;

interface Chunk {
  readonly first: number;
  readonly frames: readonly Uint16Array[];
}

export class NodeFeeds implements Feeds {
  /** What was decoded last of the movies that were asked for last. */
  private readonly chunks = new LRUCache<string, Chunk>({ max: 3 });
  private readonly listed = memoize(64, (id: number) => {
    const folder = this.folders.render(id);
    return folder !== null && existsSync(folder) ? sequence(folder, 'exr') : [];
  });

  private readonly opened = memoize(2, (path: string) => openSequence(rangesOfFile(path), nodeZip));
  private readonly probed = memoize(KEPT, (path: string) => probeMovie(path));

  constructor(private readonly folders: FeedFolders) {}

  async range(feed: Feed): Promise<FeedRange | null> {
    if ('render' in feed) {
      const frames = this.listed(feed.render);
      if (frames.length === 0) return null;
      return { first: frames[0].frame, last: frames[frames.length - 1].frame, rate: this.folders.rate };
    }

    const { file } = feed;
    if (file.kind === 'picture') return { first: 1, last: 1, rate: this.folders.rate };
    if (file.kind === 'sequence') {
      const { numbers } = this.sequenceOf(file);
      return { first: numbers[0], last: numbers[numbers.length - 1], rate: file.rate || this.folders.rate };
    }

    const { frames, rate } = await this.movieOf(file);
    return { first: 1, last: frames, rate: file.rate || rate };
  }

  async picture(feed: Feed, frame: number, passes: readonly string[]): Promise<FeedPicture | null> {
    if ('render' in feed) {
      const found = this.listed(feed.render).find((f) => f.frame === frame);
      if (!found) return null;
      const picture = await pictureFrom({ kind: 'exr', bytes: readFileSync(found.path) }, null, {
        key: `render ${feed.render} ${frame}`,
        name: found.path,
        passes,
        table: null,
        zip: nodeZip,
      });
      const deep = deepBeside(found.path);
      if (!passes.includes(DEEP) || !existsSync(deep)) return picture;
      return { ...picture, deep: deepPixels(readDeepExr(readFileSync(deep), nodeZip)) };
    }

    const { file } = feed;
    const raw = await this.raw(file, frame);
    if (!raw) return null;
    const key = keyOfFrame(file, frame);
    const table = file.encoding === 'table' ? await this.tableOf(file) : null;
    return pictureFrom(raw, file, { key, name: file.name, passes, table, zip: nodeZip });
  }

  /** A frame of a file as it was decoded, before it means light. */
  async raw(file: CompFile, frame: number): Promise<RawPicture | null> {
    if (file.kind === 'movie') return this.movieFrame(file, frame);
    if (file.kind === 'picture') return this.rawOf(file, readFileSync(this.path(file)), endingOf(file.name));
    const own = this.sequenceOf(file);
    const place = own.numbers.indexOf(frame);
    return place < 0 ? null : this.rawOf(file, own.read(place), own.ending);
  }

  async track(file: CompFile): Promise<Track> {
    return named(file, () => readTrack(readFileSync(this.path(file))));
  }

  async table(file: CompFile): Promise<ColourTable> {
    return named(file, () => readCube(readFileSync(this.path(file))));
  }

  /** @throws CoreError where the file is not there */
  private path(file: CompFile): string {
    const own = pathOf(file, this.folders.files);
    if (!own)
      throw new CoreError(
        'file',
        `${file.name} is not in the folder of files. Put it there, or say with --files where it is.`,
      );
    return own;
  }

  private sequenceOf(file: CompFile): Sequence {
    return named(file, () => this.opened(this.path(file)));
  }

  private movieOf(file: CompFile): Promise<MovieInfo> {
    return named(file, () => this.probed(this.path(file)));
  }

  private async rawOf(file: CompFile, bytes: Uint8Array, ending: string): Promise<RawPicture> {
    if (ending === 'exr' || ending === 'hdr') return { kind: ending, bytes };
    const { width, height, words, hasAlpha } = await named(file, () => decodePicture(bytes, ending));
    return { kind: 'words', words, width, height, hasAlpha, pixelAspect: 1, encoding: 'srgb' };
  }

  private async movieFrame(file: CompFile, frame: number): Promise<RawPicture | null> {
    const info = await this.movieOf(file);
    if (frame < 1 || frame > info.frames) return null;
    const path = this.path(file);
    let chunk = this.chunks.get(path);
    if (!chunk || frame < chunk.first || frame >= chunk.first + chunk.frames.length) {
      const most = Math.floor(CHUNK_BYTES / (8 * info.width * info.height));
      const count = Math.max(1, Math.min(MOST_CHUNK, most));
      chunk = { first: frame, frames: await named(file, () => movieFrames(path, info, frame, count)) };
      this.chunks.set(path, chunk);
    }

    const words = chunk.frames[frame - chunk.first];
    const { width, height, hasAlpha, pixelAspect, encoding } = info;
    return words ? { kind: 'words', words, width, height, hasAlpha, pixelAspect, encoding } : null;
  }

  fonts(): Promise<readonly ArrayBuffer[]> {
    return (this.fontFiles ??= readFonts());
  }

  private fontFiles: Promise<readonly ArrayBuffer[]> | undefined;
  private tables: ReadonlyMap<string, CompFile> = new Map();

  /** The files of a comp, among which those that are encoded by a table find it. */
  know(files: readonly CompFile[]): void {
    this.tables = new Map(files.map((f) => [f.id, f]));
  }

  private async tableOf(file: CompFile): Promise<ColourTable | null> {
    const own = this.tables.get(file.table);
    return own ? this.table(own) : null;
  }
}

/** Latin letters, and those of its further alphabets. */
const FONTS = ['latin', 'latin-ext'].map(
  (part) => `@fontsource/hanken-grotesk/files/hanken-grotesk-${part}-500-normal.woff`,
);

function readFonts(): Promise<ArrayBuffer[]> {
  const { resolve } = createRequire(__filename);
  return Promise.all(
    FONTS.map(async (font) => {
      const { buffer, byteOffset, byteLength } = await readFile(resolve(font));
      return (buffer as ArrayBuffer).slice(byteOffset, byteOffset + byteLength);
    }),
  );
}

/** Where a file of a comp lies in a folder; null where it does not. */
export function pathOf(file: Pick<CompFile, 'name' | 'sha256'>, folder: string): string | null {
  // a name is not a path: nothing outside of the folder is read
  const own = /[/\\]|^\.\.?$/.test(file.name) ? null : join(folder, file.name);
  const hashed = /^[0-9a-f]{64}$/.test(file.sha256)
    ? join(folder, `${file.sha256}.${endingOf(file.name)}`)
    : null;
  return [hashed, own].find((p): p is string => p !== null && existsSync(p)) ?? null;
}

/** What a file is read by; what goes wrong is told with its name. */
function named<T>(file: Pick<CompFile, 'name'>, read: () => T): T {
  const told = (error: unknown): never => {
    const { message } = error as Error;
    throw new CoreError('file', message.startsWith(file.name) ? message : `${file.name}: ${message}`);
  };

  try {
    const out = read();
    return out instanceof Promise ? (out.catch(told) as T) : out;
  } catch (error) {
    return told(error);
  }
}
