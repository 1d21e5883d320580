// Packages: chosen with the names of their files and a version that counts up, and sent as one stream.
import { readFile, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Writable } from 'node:stream';
import type { PackageInfo, PackageWanted } from '@bramblemist/contracts/payloads';
import { endingOf } from '@bramblemist/core/assets/imported';
import { FileNames } from '@bramblemist/core/cache/file-names';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { MANIFEST } from '@bramblemist/core/io/node/cache';
import { readJson } from '@bramblemist/core/io/node/files';
import { answerOf, NoAnswer } from '../jobs/children';
import { Bake, HandedOver, Production, Shot, Variant } from '../models';
import { isThere, type Storage } from '../storage/storage';
import { withoutPaths } from '../words';
import { HttpError } from '../http-error';
import { CheckedArchive } from './checked-archive';
import { inTransaction } from './documents';
import { sheetOf, type Piece } from './package-sheet';
import { packingOf, type BakeInside, type PackedFile, type Packing } from './packing';

/** A scene looks every mesh up at every frame, a contact sheet reads its pictures. */
const MAKING = { ms: 10 * 60_000, bytes: 4 * 2 ** 30 } as const;

/** @throws HttpError where something that it stands in is gone */
export async function bakeInside(bake: Bake): Promise<BakeInside> {
  const variant = await Variant.findByPk(bake.variantId);
  const shot = variant && (await Shot.findByPk(variant.shotId));
  const production = shot && (await Production.findByPk(shot.productionId));
  if (!variant || !shot || !production) throw new HttpError(404, 'There is no such bake.');
  return { bake, variant, shot, production };
}

/** Those of a shot, the newest first. */
export async function packagesOf(shot: Shot): Promise<PackageInfo[]> {
  const rows = await HandedOver.findAll({ where: { shotId: shot.id }, order: [['version', 'DESC']] });
  const bakes = await Bake.findAll({
    where: { id: [...new Set(rows.map((r) => r.bakeId))], clearedAt: null },
    attributes: ['id'],
  });
  return rows.map((r) => ({
    id: r.id,
    bakeId: r.bakeId,
    version: r.version,
    names: r.names,
    note: r.note,
    wanted: r.wanted,
    gone: bakes.some((b) => b.id === r.bakeId) ? null : goneWords(r.bakeId),
    createdAt: r.createdAt.toISOString(),
  }));
}

const goneWords = (bakeId: number): string =>
  `Bake ${bakeId} was cleared: bring it back from the bin on the storage page to fetch this package.`;

/**
 * Notes what a package is to hold.
 * @throws HttpError where nothing of it is there, or CoreError where the pattern of names is wrong
 */
export async function choosePackage(
  storage: Storage,
  inside: BakeInside,
  names: string,
  note: string,
  wanted: PackageWanted,
): Promise<HandedOver> {
  checkNames(names);
  const { lines } = await packingOf(storage, inside);
  const unknown = wanted.lines.find((key) => !lines.some((l) => l.key === key));
  if (unknown !== undefined)
    throw new HttpError(422, `There is no “${unknown}” to hand over of bake ${inside.bake.id}.`);
  const { frames } = wanted;
  const isIn = (f: number): boolean => frames === null || (f >= frames.first && f <= frames.last);
  const empty = lines.find(
    (l) => wanted.lines.includes(l.key) && l.frames.length > 0 && !l.frames.some(isIn),
  );
  if (empty)
    throw new HttpError(
      422,
      `None of the frames ${frames!.first} to ${frames!.last} is there of ${empty.name}.`,
    );
  const { id: shotId } = inside.shot;
  return inTransaction(async (transaction) => {
    // one at a time counts on for a shot
    await Shot.findByPk(shotId, { transaction, lock: transaction.LOCK.UPDATE });
    const last = (await HandedOver.max('version', { where: { shotId }, transaction })) as number | null;
    const version = (last ?? 0) + 1;
    return HandedOver.create(
      { shotId, bakeId: inside.bake.id, version, names, note, wanted },
      { transaction },
    );
  });
}

function checkNames(names: string): FileNames {
  try {
    return new FileNames(names);
  } catch (error) {
    throw new HttpError(422, `Names: ${(error as Error).message}`);
  }
}

export interface PackageStream {
  readonly name: string;
  /** Writes it, file by file. @throws Error where one cannot be read, or nobody takes it any more */
  send(to: Writable): Promise<void>;
}

/** @throws HttpError where its bake is gone */
export async function streamOf(storage: Storage, cli: string, own: HandedOver): Promise<PackageStream> {
  const bake = await Bake.findOne({ where: { id: own.bakeId, clearedAt: null } });
  if (!bake) throw new HttpError(409, goneWords(own.bakeId));
  const inside = await bakeInside(bake);
  const packing = await packingOf(storage, inside);
  const packer = new Packer(storage, cli, inside, packing, own);
  const { shot } = packing.values;
  return { name: `${shot}_v${String(own.version).padStart(3, '0')}.zip`, send: (to) => packer.send(to) };
}

class Packer {
  private readonly names: FileNames;
  private readonly pieces: Piece[] = [];
  private readonly remarks: string[] = [];
  private hasScene = false;

  constructor(
    private readonly storage: Storage,
    private readonly cli: string,
    private readonly inside: BakeInside,
    private readonly packing: Packing,
    private readonly own: HandedOver,
  ) {
    this.names = new FileNames(own.names);
  }

  async send(to: Writable): Promise<void> {
    const archive = new CheckedArchive(to);
    const { wanted } = this.own;
    for (const key of wanted.lines) {
      const line = this.packing.lines.find((l) => l.key === key);
      if (!line) {
        this.remarks.push(`${key} is not in it: it has been cleared since this package was chosen.`);
        continue;
      }

      if (line.kind === 'scene') await this.scene(archive);
      else if (line.kind === 'contact') await this.contact(archive);
      else if (line.kind === 'documents') await this.documents(archive);
      else await this.files(archive, key, line.kind, line.name);
      if (line.kind === 'volumes') await this.manifest(archive);
    }

    const { shot, bake } = this.inside;
    const { recipe, recipeSha256, voxelSizeM } = bake;
    const { hasScene } = this;
    const about = { shot: shot.name, bake: bake.id, recipe, recipeSha256, voxelSizeM, hasScene };
    const { version, note } = this.own;
    await archive.data(sheetOf({ ...about, version, note }, this.pieces, this.remarks), 'read-me.html');
    await archive.end();
  }

  private isWanted(frame: number | null): boolean {
    const { frames } = this.own.wanted;
    return frame === null || frames === null || (frame >= frames.first && frame <= frames.last);
  }

  private nameOf({ what, frame, ending }: Pick<PackedFile, 'what' | 'frame' | 'ending'>): string {
    const values = { ...this.packing.values, version: this.own.version };
    return `${this.names.of({ ...values, what, frame })}.${ending}`;
  }

  private async files(archive: CheckedArchive, key: string, kind: string, name: string): Promise<void> {
    const files = this.packing.files.get(key)!.filter((f) => this.isWanted(f.frame));
    const first = files[0];
    if (!first) return;
    for (const file of files)
      // pictures of a reference stand for themselves
      await archive.file(file.path, kind === 'reference' ? `${file.what}.${file.ending}` : this.nameOf(file));
    this.pieces.push({
      kind: PIECES[kind],
      name,
      first: kind === 'reference' ? `${first.what}.${first.ending}` : this.nameOf(first),
      frames: files.flatMap(({ frame }) => (frame === null ? [] : [frame])),
      files: files.length,
    });
  }

  /** Beside the volumes, of those that are in it and as they are called there: together they are a cache. */
  private async manifest(archive: CheckedArchive): Promise<void> {
    const manifest = readJson(join(this.storage.bakeFolder(this.inside.bake.id), MANIFEST)) as Manifest;
    const frames = manifest.frames
      .filter(({ frame }) => this.isWanted(frame))
      .map((f) => ({ ...f, file: nameIn(this.nameOf({ what: 'volumes', frame: f.frame, ending: 'vdb' })) }));
    if (frames.length === 0) return;
    const range = { first: frames[0].frame, last: frames[frames.length - 1].frame };
    const folder = dirname(this.nameOf({ what: 'volumes', frame: range.first, ending: 'vdb' }));
    const complete = frames.length === range.last - range.first + 1;
    await archive.data(
      JSON.stringify({ ...manifest, range, complete, frames }, null, 1),
      folder === '.' ? MANIFEST : `${folder}/${MANIFEST}`,
    );
  }

  private async documents(archive: CheckedArchive): Promise<void> {
    const { bake, variant, shot } = this.inside;
    const put = (name: string, data: object): Promise<void> =>
      archive.data(JSON.stringify(data, null, 2), `documents/${name}.json`);
    await put('recipe', bake.recipe);
    await put('look', variant.look);
    for (const r of this.packing.renders) await put(`render_${r.id}.look`, r.look);
    for (const c of this.packing.combines) await put(`comp_${c.id}`, c.settings);
    const notes = [shot.note, `Variant ${variant.number}: ${variant.note}`, this.own.note].filter(Boolean);
    await archive.data(`${notes.join('\n\n')}\n`, 'documents/notes.txt');
    const files = 3 + this.packing.renders.length + this.packing.combines.length;
    const first = 'documents/recipe.json';
    this.pieces.push({ kind: 'Documents', name: 'recipe, looks, notes', first, frames: [], files });
  }

  /** Seen and lit as the newest render is, else as the variant's look says. */
  private async scene(archive: CheckedArchive): Promise<void> {
    const look = this.packing.renders.at(-1)?.look ?? this.inside.variant.look;
    const { bake } = this.inside;
    const values = { ...this.packing.values, version: this.own.version, what: 'volumes' };
    await this.made('the scene', async (folder) => {
      const lookPath = join(folder, 'look.json');
      await writeFile(lookPath, JSON.stringify(look));
      const { frames } = this.own.wanted;
      const args = [
        ...['scene', this.storage.bakeFolder(bake.id), '--out', join(folder, 'scene.usda')],
        ...['--look', lookPath, '--files', this.storage.filesFolder(), '--json'],
        ...['--volumes', `${this.names.sequence(values)}.vdb`],
        ...(frames ? ['--frames', `${frames.first}-${frames.last}`] : []),
      ];
      const made = JSON.parse(await answerOf(this.cli, args, MAKING)) as {
        picture: string | null;
        remarks: string[];
      };
      for (const name of ['scene.usda', 'scene.glb'])
        await archive.data(await readFile(join(folder, name)), name);
      const picture = made.picture && look.files.find(({ id }) => id === look.sky.picture);
      if (picture) {
        const path = this.storage.broughtFile(picture.sha256, endingOf(picture.name));
        if (await isThere(path)) await archive.file(path, `files/${picture.name}`);
      }

      this.hasScene = true;
      this.remarks.push(...made.remarks);
      if (!this.own.wanted.lines.includes('volumes'))
        this.remarks.push('the scene names volumes, which are not in this package.');
    });
  }

  private async contact(archive: CheckedArchive): Promise<void> {
    const from = this.packing.contact!;
    await this.made('the contact sheet', async (folder) => {
      const out = join(folder, 'contact.png');
      const { frames } = this.own.wanted;
      const only = frames ? ['--frames', `${frames.first}-${frames.last}`] : [];
      await answerOf(this.cli, ['contact', from, '--out', out, '--json', ...only], MAKING);
      await archive.data(await readFile(out), 'contact.png');
      this.pieces.push({ kind: 'Contact sheet', name: '', first: 'contact.png', frames: [], files: 1 });
    });
  }

  /** Makes something in a folder of its own; what cannot be made is told, and the rest goes out. */
  private async made(what: string, make: (folder: string) => Promise<void>): Promise<void> {
    const folder = await this.storage.scratch();
    try {
      await make(folder);
    } catch (error) {
      if (!(error instanceof NoAnswer)) throw error;
      const why = error.why === 'said' ? withoutPaths(error.message) : 'making it took too long.';
      this.remarks.push(`${what} is not in it: ${why}`);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }
}

const PIECES: Readonly<Record<string, Piece['kind']>> = {
  volumes: 'Volumes',
  render: 'Render',
  comp: 'Comp',
  reference: 'Reference',
};
const nameIn = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
