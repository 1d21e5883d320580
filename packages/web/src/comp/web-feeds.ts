// The feeds of a comp from the server: renders as their files, others' pictures and movies decoded there.
import extended from '@fontsource/hanken-grotesk/files/hanken-grotesk-latin-ext-500-normal.woff?url';
import latin from '@fontsource/hanken-grotesk/files/hanken-grotesk-latin-500-normal.woff?url';
import { LRUCache } from 'lru-cache';
import type { RenderFeed } from '@bramblemist/contracts/payloads/comp';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import { routes } from '@bramblemist/contracts/routes';
import type { CompFile } from '@bramblemist/core/combine/combine';
import { DEEP, type FeedPicture } from '@bramblemist/core/combine/feed-picture';
import type { Feed, Feeds } from '@bramblemist/core/combine/gather';
import {
  deepPixels,
  keyOfFrame,
  pictureFrom,
  unpackWords,
  type RawPicture,
} from '@bramblemist/core/combine/raw-picture';
import type { FeedRange } from '@bramblemist/core/combine/timing';
import { readDeepExr } from '@bramblemist/core/files/exr/deep-reader';
import { readCube, type ColourTable } from '@bramblemist/core/files/cube/cube';
import { readTrack, type Track } from '@bramblemist/core/files/track/track';
import { pureZip } from '@bramblemist/core/files/zip';

const MOST_BYTES = 640 * 2 ** 20;
/** Renders grow while they are made. */
const ASKED_AGAIN_MS = 2000;

const sizeOf = (p: FeedPicture): number =>
  p.rgba.byteLength +
  (p.deep ? p.deep.starts.byteLength + p.deep.samples.byteLength : 0) +
  [...p.passes.values()].reduce((sum, v) => sum + v.byteLength, 0);

async function answer(url: string, what: string): Promise<Response | null> {
  const response = await fetch(url);
  if (response.status === 404) return null;
  if (response.ok) return response;
  const told = (await response.json().catch(() => null)) as { error?: string } | null;
  throw new Error(told?.error ?? `${what} does not come (${response.status}).`);
}

export class WebFeeds implements Feeds {
  private readonly pictures = new LRUCache<string, FeedPicture>({
    maxSize: MOST_BYTES,
    sizeCalculation: sizeOf,
  });

  private readonly feeds = new Map<
    number,
    { readonly at: number; readonly feed: Promise<RenderFeed | null> }
  >();

  private readonly tracks = new Map<string, Promise<Track>>();
  private readonly tables = new Map<string, Promise<ColourTable>>();
  private fontFiles: Promise<readonly ArrayBuffer[]> | null = null;
  private shelf: Promise<readonly FileInfo[]> | null = null;
  private files: readonly CompFile[] = [];

  constructor(private rate: number) {}

  /** The comp that is made: its files, and the rate of what does not say one. */
  know(files: readonly CompFile[], rate: number): void {
    this.files = files;
    this.rate = rate;
  }

  private feed(render: number): Promise<RenderFeed | null> {
    const known = this.feeds.get(render);
    if (known && performance.now() - known.at < ASKED_AGAIN_MS) return known.feed;
    const feed = answer(routes.renderFeed(render), `Render ${render}`).then((r) =>
      r ? (r.json() as Promise<RenderFeed>) : null,
    );
    this.feeds.set(render, { at: performance.now(), feed });
    return feed;
  }

  private async infoOf({ sha256, name }: CompFile): Promise<FileInfo> {
    for (let isFresh = false; ; isFresh = true) {
      if (isFresh || !this.shelf)
        this.shelf = fetch(routes.files).then((r) => r.json() as Promise<readonly FileInfo[]>);
      const found = (await this.shelf).find((f) => f.sha256 === sha256);
      if (found) return found;
      if (isFresh) throw new Error(`${name} is not on the shelf of files. Bring it in again.`);
    }
  }

  async range(feed: Feed): Promise<FeedRange | null> {
    if ('render' in feed) {
      const own = await this.feed(feed.render);
      if (!own || own.frames.length === 0) return null;
      return { first: own.frames[0], last: own.frames[own.frames.length - 1], rate: this.rate };
    }

    const { file } = feed;
    const { report } = await this.infoOf(file);
    if (report.kind === 'movie') return { first: 1, last: report.frames, rate: file.rate || report.rate };
    if (report.kind === 'pictures')
      return { first: report.first, last: report.last, rate: file.rate || this.rate };
    return { first: 1, last: 1, rate: this.rate };
  }

  async picture(feed: Feed, frame: number, passes: readonly string[]): Promise<FeedPicture | null> {
    const base = 'render' in feed ? `render ${feed.render} ${frame}` : keyOfFrame(feed.file, frame);
    const key = `${base} ${[...passes].sort().join(' ')}`;
    const known = this.pictures.get(key);
    if (known) return known;
    const made =
      'render' in feed
        ? await this.rendered(feed.render, frame, passes, base)
        : await this.ofFile(feed.file, frame, passes, base);
    if (made) this.pictures.set(key, made);
    return made;
  }

  private async rendered(
    render: number,
    frame: number,
    passes: readonly string[],
    key: string,
  ): Promise<FeedPicture | null> {
    const own = await this.feed(render);
    if (!own?.frames.includes(frame)) return null;
    const response = await answer(routes.renderPicture(render, frame, 'exr'), `Render ${render}`);
    if (!response) return null;
    const bytes = new Uint8Array(await response.arrayBuffer());
    const told = { key, name: `Render ${render}, frame ${frame}`, passes, table: null, zip: pureZip };
    const picture = await pictureFrom({ kind: 'exr', bytes }, null, told);
    const deep = passes.includes(DEEP) ? await answer(routes.renderDeep(render, frame), told.name) : null;
    if (!deep) return picture;
    return { ...picture, deep: deepPixels(readDeepExr(new Uint8Array(await deep.arrayBuffer()), pureZip)) };
  }

  private async ofFile(
    file: CompFile,
    frame: number,
    passes: readonly string[],
    key: string,
  ): Promise<FeedPicture | null> {
    const response = await answer(routes.fileFrame(file.sha256, frame), file.name);
    if (!response) return null;
    const bytes = new Uint8Array(await response.arrayBuffer());
    const kind = response.headers.get('X-Kind');
    const raw: RawPicture = kind === 'exr' || kind === 'hdr' ? { kind, bytes } : unpackWords(bytes);
    const by = file.encoding === 'table' ? this.files.find(({ id }) => id === file.table) : undefined;
    const table = by ? await this.table(by) : null;
    return pictureFrom(raw, file, { key, name: file.name, passes, table, zip: pureZip });
  }

  track(file: CompFile): Promise<Track> {
    return once(this.tracks, file, readTrack);
  }

  table(file: CompFile): Promise<ColourTable> {
    return once(this.tables, file, readCube);
  }

  async fonts(): Promise<readonly ArrayBuffer[]> {
    this.fontFiles ??= Promise.all(
      FONTS.map(async (url) => {
        const response = await answer(url, 'A font');
        if (!response) throw new Error('A font of the page is missing. Load the page again.');
        return response.arrayBuffer();
      }),
    );
    try {
      return await this.fontFiles;
    } catch (error) {
      this.fontFiles = null;
      throw error;
    }
  }
}

const FONTS = [latin, extended];

/** Reads a file once, and once more where that failed. */
function once<T>(known: Map<string, Promise<T>>, file: CompFile, read: (bytes: Uint8Array) => T): Promise<T> {
  const found = known.get(file.sha256);
  if (found) return found;
  const coming = (async () => {
    const response = await answer(routes.fileData(file.sha256), file.name);
    if (!response) throw new Error(`${file.name} is not on the shelf of files. Bring it in again.`);
    return read(new Uint8Array(await response.arrayBuffer()));
  })();
  known.set(file.sha256, coming);
  coming.catch(() => known.delete(file.sha256));
  return coming;
}
