// What can be handed over of a bake: its volumes, pictures and movies made of it, and what tells of them.
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { PackedKind, PackedLine } from '@bramblemist/contracts/payloads/hand-over';
import { rendersIn } from '@bramblemist/core/combine/combine';
import { fileStem } from '@bramblemist/core/cache/manifest';
import type { NameValues } from '@bramblemist/core/cache/file-names';
import {
  Asset,
  type Bake,
  CombineRun,
  ParticleRun,
  type Production,
  Render,
  type Shot,
  type Variant,
} from '../models';
import type { Storage } from '../storage/storage';

/** A bake with what it stands in. */
export interface BakeInside {
  readonly bake: Bake;
  readonly variant: Variant;
  readonly shot: Shot;
  readonly production: Production;
}

/** A file that lies on the disk. */
export interface PackedFile {
  readonly path: string;
  readonly what: string;
  /** null: it is of no frame. */
  readonly frame: number | null;
  readonly ending: string;
  readonly bytes: number;
}

export interface Packing {
  readonly lines: readonly PackedLine[];
  /** Of each line; empty for what is made when a package is. */
  readonly files: ReadonlyMap<string, readonly PackedFile[]>;
  readonly renders: readonly Render[];
  readonly combines: readonly CombineRun[];
  /** Where the pictures of the contact sheet lie; null without any. */
  readonly contact: string | null;
  readonly values: Omit<NameValues, 'what' | 'frame' | 'version'>;
}

/** Pictures of one kind in a folder. */
interface Sort {
  readonly key: string;
  readonly ending: string;
  readonly matches: RegExp;
}
const PICTURES: readonly Sort[] = [
  { key: 'exr', ending: 'exr', matches: /^(?!.*\.deep\.\d+\.exr$).+\.(\d+)\.exr$/ },
  { key: 'png', ending: 'png', matches: /\.(\d+)\.png$/ },
  { key: 'jpg', ending: 'jpg', matches: /\.(\d+)\.jpg$/ },
  { key: 'deep', ending: 'exr', matches: /\.deep\.(\d+)\.exr$/ },
];
const MOVIE = /^(\d+)\.(mp4|mov)$/;

class List {
  readonly lines: PackedLine[] = [];
  readonly files = new Map<string, PackedFile[]>();

  constructor(private readonly storage: Storage) {}

  /** Adds a line where there are files of its kind. */
  async add(
    line: Pick<PackedLine, 'key' | 'kind' | 'of' | 'name' | 'what' | 'ending'>,
    folder: string,
    file: (name: string) => Pick<PackedFile, 'what' | 'frame' | 'ending'> | null,
  ): Promise<void> {
    const found = (await this.storage.namesIn(folder)).flatMap((name) => {
      const as = file(name);
      return as ? [{ ...as, path: join(folder, name) }] : [];
    });
    const sizes = await Promise.all(found.map(({ path }) => stat(path)));
    const files = found
      .map((f, n): PackedFile => ({ ...f, bytes: sizes[n].size }))
      .sort((a, b) => (a.frame ?? 0) - (b.frame ?? 0));
    if (files.length === 0) return;
    this.files.set(line.key, files);
    this.lines.push({
      ...line,
      frames: files.flatMap(({ frame }) => (frame === null ? [] : [frame])),
      files: files.length,
      bytes: files.reduce((sum, f) => sum + f.bytes, 0),
    });
  }

  /** What is made when the package is. */
  made(key: PackedKind, name: string, ending: string): void {
    this.lines.push({ key, kind: key, of: 0, name, what: key, ending, frames: [], files: 1, bytes: null });
  }

  /** Frames of pictures in each kind of file, and the movies made of them. */
  async pictures(kind: 'render' | 'comp', of: number, name: string, folder: string): Promise<void> {
    const own = `${kind}_${of}`;
    for (const { key, ending, matches } of PICTURES) {
      const what = key === 'deep' ? `${own}_deep` : own;
      await this.add({ key: `${kind}:${of}:${key}`, kind, of, name, what, ending }, folder, (file) => {
        const match = matches.exec(file);
        return match && { what, frame: Number(match[1]), ending };
      });
    }

    const line = { key: `${kind}:${of}:movies`, kind, of, name, what: 'movie', ending: 'mp4, mov' };
    await this.add(line, join(folder, 'movies'), (file) => {
      const match = MOVIE.exec(file);
      return match && { what: `movie_${match[1]}`, frame: null, ending: match[2] };
    });
  }
}

/** @returns lines in the order in which they are packed */
export async function packingOf(storage: Storage, inside: BakeInside): Promise<Packing> {
  const { bake, shot, production } = inside;
  const order: [string, string][] = [['id', 'ASC']];
  const renders = await Render.findAll({ where: { bakeId: bake.id, clearedAt: null }, order });
  // those of the shot that one of its renders has a part in
  const combines = (await CombineRun.findAll({ where: { shotId: shot.id, clearedAt: null }, order })).filter(
    ({ settings }) => rendersIn(settings).some((id) => renders.some((r) => r.id === id)),
  );
  const list = new List(storage);
  const volumes = { key: 'volumes', kind: 'volumes', of: 0, name: bake.recipe.name } as const;
  await list.add({ ...volumes, what: 'volumes', ending: 'vdb' }, storage.bakeFolder(bake.id), (file) => {
    const match = /\.(\d+)\.vdb$/.exec(file);
    return match && { what: 'volumes', frame: Number(match[1]), ending: 'vdb' };
  });
  if (list.lines.length > 0) list.made('scene', 'cameras, lights and obstacles', 'usda, glb');
  const runs = await ParticleRun.findAll({ where: { bakeId: bake.id, clearedAt: null }, order });
  for (const { id, format } of runs)
    await list.add(
      {
        ...({ key: `particles:${id}`, kind: 'particles', of: id, name: `particles ${id}` } as const),
        ...{ what: `particles_${id}`, ending: format },
      },
      storage.particleFolder(id),
      (file) => {
        const match = /\.(\d+)\.(ply|csv)$/.exec(file);
        return match && { what: `particles_${id}`, frame: Number(match[1]), ending: match[2] };
      },
    );
  for (const r of renders) await list.pictures('render', r.id, `render ${r.id}`, storage.renderFolder(r.id));
  for (const c of combines)
    await list.pictures('comp', c.id, c.settings.name || `comp ${c.id}`, storage.combineFolder(c.id));
  const pictured = [
    ...combines.map((c) => storage.combineFolder(c.id)).reverse(),
    ...renders.map((r) => storage.renderFolder(r.id)).reverse(),
    storage.loopFolder(bake.id),
  ];
  let contact: string | null = null;
  for (const folder of pictured)
    if ((await storage.pictured(folder)).length > 0) {
      contact = folder;
      break;
    }

  if (contact) list.made('contact', 'frames of the newest pictures', 'png, pdf');
  const isMovie = contact !== null && contact !== storage.loopFolder(bake.id);
  if (isMovie && (await storage.pictured(contact!)).length > 1)
    list.made('review', 'movie of the newest pictures', 'mp4');
  list.made('documents', 'recipe, looks, comps and notes', 'json, txt');
  const references = await Asset.findAll({ where: { shotId: shot.id, kind: 'reference' }, order });
  if (references.length > 0) {
    const files = references.map((a): PackedFile => ({
      path: storage.assetFile(a.sha256),
      what: `reference/${fileStem(a.name.replace(/\.png$/i, ''))}_${a.id}`,
      frame: null,
      ending: 'png',
      bytes: a.bytes,
    }));
    list.files.set('reference', files);
    list.lines.push({
      ...({ key: 'reference', kind: 'reference', of: 0, name: 'reference pictures' } as const),
      ...{ what: 'reference', ending: 'png', frames: [] },
      files: files.length,
      bytes: files.reduce((sum, f) => sum + f.bytes, 0),
    });
  }

  return {
    lines: list.lines,
    files: list.files,
    renders,
    combines,
    contact,
    values: { production: fileStem(production.name), shot: fileStem(shot.name), bake: bake.id },
  };
}
