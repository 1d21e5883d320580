// The data folder: assets by content, one folder for each bake, render, combine and sheet. No client's text
// becomes a path.
import { createReadStream, type ReadStream } from 'node:fs';
import { access, mkdir, mkdtemp, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { movieEnding, type MovieKind } from '@bramblemist/core/io/node/movie';
import { LOOP } from '@bramblemist/core/io/node/newest';
import { framesAmong } from '@bramblemist/core/io/node/pictures';

export class Storage {
  constructor(
    readonly root: string,
    /** Volumes that may be brought in from here; null for none. */
    readonly allowed: string | null = null,
    /** Where packages are written that are to lie on this machine. */
    readonly handOver: string = join(root, 'handed-over'),
  ) {}

  bakesFolder(): string {
    return join(this.root, 'bakes');
  }

  bakeFolder(id: number): string {
    return join(this.bakesFolder(), String(id));
  }

  rendersFolder(): string {
    return join(this.root, 'renders');
  }

  renderFolder(id: number): string {
    return join(this.rendersFolder(), String(id));
  }

  combineFolder(id: number): string {
    return join(this.root, 'combines', String(id));
  }

  /** A sheet of savings lies with the bake that it was measured on. */
  savingsFolder({ id, bakeId }: { id: number; bakeId: number }): string {
    return join(this.bakeFolder(bakeId), 'savings', String(id));
  }

  /** The pictures that a movie is of. */
  picturesOf({ renderId, combineId }: { renderId?: number | null; combineId?: number | null }): string {
    return combineId ? this.combineFolder(combineId) : this.renderFolder(renderId!);
  }

  /** A movie lies with the pictures that it is of. @param folder of the render or the combine */
  movieFile(folder: string, id: number, kind: MovieKind): string {
    return join(folder, 'movies', `${id}.${movieEnding(kind)}`);
  }

  sheetFolder(id: number): string {
    return join(this.root, 'sheets', String(id));
  }

  /** Uploaded volumes until they are a cache. @param key content hash and ending */
  broughtVolumes(key: string): string {
    if (!/^[0-9a-f]{64}\.(vdb|zip)$/.test(key)) throw new Error('Not a content hash and an ending');
    return join(this.root, 'brought', key);
  }

  /** What the allowed folder holds: volumes, ZIPs, and folders; links that lead out of it are not there. */
  async allowedNames(): Promise<string[]> {
    if (this.allowed === null) return [];
    const found = await readdir(this.allowed, { withFileTypes: true }).catch(noneThere);
    return found
      .filter((e) => e.isDirectory() || (e.isFile() && /\.(vdb|zip)$/i.test(e.name)))
      .map((e) => e.name)
      .sort();
  }

  /** @returns null where the allowed folder holds nothing of that name */
  async allowedPath(name: string): Promise<string | null> {
    return (await this.allowedNames()).includes(name) ? join(this.allowed!, name) : null;
  }

  particleFolder(id: number): string {
    return join(this.root, 'particles', String(id));
  }

  /** Where something lies that was cleared, until the bin is emptied. */
  binFolder(kind: string, id: number): string {
    return join(this.root, 'bin', kind, String(id));
  }

  /** Small pictures of a bake's frames, to be shown one after the other. */
  loopFolder(bakeId: number): string {
    return join(this.bakeFolder(bakeId), LOOP);
  }

  jobsFolder(): string {
    return join(this.root, 'jobs');
  }

  jobLog(id: number): string {
    return join(this.jobsFolder(), `${id}.log`);
  }

  /** A folder for what is thrown away at once. */
  async scratch(): Promise<string> {
    await mkdir(this.uploads(), { recursive: true });
    return mkdtemp(join(this.uploads(), 'tried-'));
  }

  /** Files that a job reads: recipes, looks, settings. */
  jobFile(id: number, what: string): string {
    return join(this.jobsFolder(), `${id}.${what}.json`);
  }

  /** @param sha256 64 hexadecimal digits, as the database holds them */
  assetFile(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new Error('Not a content hash');
    return join(this.root, 'assets', `${sha256}.png`);
  }

  /** The shelf of files: meshes and pictures by their content. */
  filesFolder(): string {
    return join(this.root, 'files');
  }

  broughtFile(sha256: string, ending: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256) || !/^[a-z0-9]{3,4}$/.test(ending))
      throw new Error('Not a content hash and an ending');
    return join(this.filesFolder(), `${sha256}.${ending}`);
  }

  uploads(): string {
    return join(this.root, 'uploads');
  }

  /** The file NAME.NNNN.EXT of a frame in a folder of ours; null where there is none. */
  async frameFile(folder: string, frame: number, extension: string): Promise<string | null> {
    const found = (await this.frameFiles(folder, extension)).find((f) => f.frame === frame);
    return found ? join(folder, found.file) : null;
  }

  /** What a folder of ours holds. */
  namesIn(folder: string): Promise<string[]> {
    return readdir(folder).catch(noneThere);
  }

  /** All files NAME.NNNN.EXT of a folder, by their frames. */
  async frameFiles(folder: string, extension: string): Promise<{ frame: number; file: string }[]> {
    return framesAmong(await this.namesIn(folder), extension);
  }

  /** Numbers of the frames that a folder of pictures has whole: the PNG is written last. */
  async pictured(folder: string): Promise<number[]> {
    return (await this.frameFiles(folder, 'png')).map((f) => f.frame);
  }

  open(path: string): ReadStream {
    return createReadStream(path);
  }
}

/** A folder that is not there holds nothing. */
function noneThere(error: NodeJS.ErrnoException): never[] {
  if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return [];
  throw error;
}

export const isThere = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );
