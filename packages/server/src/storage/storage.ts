// The data folder: assets by content, one folder for each bake, render, combine and sheet. No client's text
// becomes a path.
import {
  createReadStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  statSync,
  type ReadStream,
} from 'node:fs';
import { join } from 'node:path';

export class Storage {
  constructor(
    readonly root: string,
    /** Volumes that may be brought in from here; null for none. */
    readonly allowed: string | null = null,
  ) {}

  bakesFolder(): string {
    return join(this.root, 'bakes');
  }

  bakeFolder(id: number): string {
    return join(this.bakesFolder(), String(id));
  }

  renderFolder(id: number): string {
    return join(this.root, 'renders', String(id));
  }

  combineFolder(id: number): string {
    return join(this.root, 'combines', String(id));
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
  allowedNames(): string[] {
    const { allowed } = this;
    if (allowed === null || !existsSync(allowed)) return [];
    return readdirSync(allowed, { withFileTypes: true })
      .filter((e) => e.isDirectory() || (e.isFile() && /\.(vdb|zip)$/i.test(e.name)))
      .map((e) => e.name)
      .sort();
  }

  /** @returns null where the allowed folder holds nothing of that name */
  allowedPath(name: string): string | null {
    return this.allowedNames().includes(name) ? join(this.allowed!, name) : null;
  }

  driftFolder(id: number): string {
    return join(this.root, 'drifts', String(id));
  }

  /** Where something lies that was cleared, until the bin is emptied. */
  binFolder(kind: string, id: number): string {
    return join(this.root, 'bin', kind, String(id));
  }

  jobsFolder(): string {
    return join(this.root, 'jobs');
  }

  jobLog(id: number): string {
    return join(this.jobsFolder(), `${id}.log`);
  }

  /** A folder for what is thrown away at once. */
  scratch(): string {
    mkdirSync(this.uploads(), { recursive: true });
    return mkdtempSync(join(this.uploads(), 'tried-'));
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
    if (!/^[0-9a-f]{64}$/.test(sha256) || !/^[a-z]{3,4}$/.test(ending))
      throw new Error('Not a content hash and an ending');
    return join(this.filesFolder(), `${sha256}.${ending}`);
  }

  uploads(): string {
    return join(this.root, 'uploads');
  }

  /** The file NAME.NNNN.EXT of a frame in a folder of ours; null where there is none. */
  frameFile(folder: string, frame: number, extension: string): string | null {
    const found = this.frameFiles(folder, extension).find((f) => f.frame === frame);
    return found ? join(folder, found.file) : null;
  }

  frameFiles(folder: string, extension: string): { frame: number; file: string; bytes: number }[] {
    if (!existsSync(folder)) return [];
    const pattern = new RegExp(`\\.(\\d{1,9})\\.${extension}$`);
    return readdirSync(folder)
      .flatMap((file) => {
        const match = pattern.exec(file);
        return match ? [{ frame: Number(match[1]), file, bytes: statSync(join(folder, file)).size }] : [];
      })
      .sort((a, b) => a.frame - b.frame);
  }

  open(path: string): ReadStream {
    return createReadStream(path);
  }
}
