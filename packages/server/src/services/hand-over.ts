// Packages: chosen with the names of their files and a version that counts up, sent as one stream or written
// into the folder that the server offers.
import { readFile, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { PackageInfo, PackageWanted } from '@bramblemist/contracts/payloads/hand-over';
import { endingOf } from '@bramblemist/core/assets/imported';
import { checkChannelNames, type ChannelNames } from '@bramblemist/core/cache/channel-names';
import { FileNames } from '@bramblemist/core/cache/file-names';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { MANIFEST } from '@bramblemist/core/io/node/cache';
import { renamedManifest, renamedVolume } from '@bramblemist/core/io/node/channels';
import type { PackageSink } from '@bramblemist/core/io/node/checked-archive';
import { readJson, sha256 } from '@bramblemist/core/io/node/files';
import { channelsOf } from '../views';
import { answerOf, NoAnswer } from '../jobs/children';
import { Bake, HandedOver, Production, Shot, Variant } from '../models';
import { isThere, type Storage } from '../storage/storage';
import { withoutPaths } from '../words';
import { HttpError } from '../http-error';
import { inTransaction } from './documents';
import { folderOf } from './hand-over-folder';
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
    folder: folderOf(r),
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
  if (wanted.channels) checkChannels(wanted.channels, channelsOf(inside.bake));
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

function checkChannels(names: ChannelNames, channels: readonly string[]): void {
  try {
    checkChannelNames(names, channels);
  } catch (error) {
    throw new HttpError(422, `Channels: ${(error as Error).message}`);
  }
}

export interface PackageMade {
  /** Without an ending: mill_weir_v001. */
  readonly name: string;
  /** Of the production. */
  readonly folder: string;
  /** Files in it, as far as they are known before it is made. */
  readonly files: number;
  /** Writes it, file by file. @throws Error where one cannot be read, or nobody takes it any more */
  send(to: PackageSink): Promise<void>;
}

/** @throws HttpError where its bake is gone */
export async function packageOf(storage: Storage, cli: string, own: HandedOver): Promise<PackageMade> {
  const bake = await Bake.findOne({ where: { id: own.bakeId, clearedAt: null } });
  if (!bake) throw new HttpError(409, goneWords(own.bakeId));
  const inside = await bakeInside(bake);
  const packing = await packingOf(storage, inside);
  const packer = new Packer(storage, cli, inside, packing, own);
  const { shot, production } = packing.values;
  return {
    name: `${shot}_v${String(own.version).padStart(3, '0')}`,
    folder: production,
    files: packer.count(),
    send: (to) => packer.send(to),
  };
}

class Packer {
  private readonly names: FileNames;
  private readonly pieces: Piece[] = [];
  private readonly remarks: string[] = [];
  private readonly channels: ChannelNames | undefined;
  /** What is noted of volumes that went out under other names, by their frames. */
  private readonly renamed = new Map<number, { bytes: number; sha256: string }>();
  private hasScene = false;

  constructor(
    private readonly storage: Storage,
    private readonly cli: string,
    private readonly inside: BakeInside,
    private readonly packing: Packing,
    private readonly own: HandedOver,
  ) {
    this.names = new FileNames(own.names);
    this.channels = own.wanted.channels;
  }

  count(): number {
    return this.own.wanted.lines.reduce((sum, key) => {
      const files = this.packing.files.get(key)?.filter((f) => this.isWanted(f.frame));
      return sum + (files?.length ?? 1);
    }, 1);
  }

  async send(archive: PackageSink): Promise<void> {
    const { wanted } = this.own;
    for (const key of wanted.lines) {
      const line = this.packing.lines.find((l) => l.key === key);
      if (!line) {
        this.remarks.push(`${key} is not in it: it has been cleared since this package was chosen.`);
        continue;
      }

      if (line.kind === 'scene') await this.scene(archive);
      else if (line.kind === 'contact') await this.contact(archive);
      else if (line.kind === 'review') await this.review(archive);
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

  private async files(archive: PackageSink, key: string, kind: string, name: string): Promise<void> {
    const files = this.packing.files.get(key)!.filter((f) => this.isWanted(f.frame));
    const first = files[0];
    if (!first) return;
    for (const file of files)
      if (kind === 'volumes' && this.channels) await this.volume(archive, file, this.channels);
      // pictures of a reference stand for themselves
      else
        await archive.file(
          file.path,
          kind === 'reference' ? `${file.what}.${file.ending}` : this.nameOf(file),
        );
    this.pieces.push({
      kind: PIECES[kind],
      name,
      first: kind === 'reference' ? `${first.what}.${first.ending}` : this.nameOf(first),
      frames: files.flatMap(({ frame }) => (frame === null ? [] : [frame])),
      files: files.length,
    });
  }

  /** One whose grids are called as somebody wants them. */
  private async volume(archive: PackageSink, file: PackedFile, channels: ChannelNames): Promise<void> {
    const bytes = renamedVolume(await readFile(file.path), channels);
    this.renamed.set(file.frame!, { bytes: bytes.length, sha256: sha256(bytes) });
    await archive.data(bytes, this.nameOf(file));
  }

  /** Beside the volumes, of those that are in it and as they are called there: together they are a cache. */
  private async manifest(archive: PackageSink): Promise<void> {
    const own = readJson(join(this.storage.bakeFolder(this.inside.bake.id), MANIFEST)) as Manifest;
    const manifest = this.channels ? renamedManifest(own, this.channels) : own;
    const frames = manifest.frames
      .filter(({ frame }) => this.isWanted(frame))
      .map((f) => ({
        ...f,
        ...this.renamed.get(f.frame),
        file: nameIn(this.nameOf({ what: 'volumes', frame: f.frame, ending: 'vdb' })),
      }));
    if (frames.length === 0) return;
    const range = { first: frames[0].frame, last: frames[frames.length - 1].frame };
    const folder = dirname(this.nameOf({ what: 'volumes', frame: range.first, ending: 'vdb' }));
    const complete = frames.length === range.last - range.first + 1;
    await archive.data(
      JSON.stringify({ ...manifest, range, complete, frames }, null, 1),
      folder === '.' ? MANIFEST : `${folder}/${MANIFEST}`,
    );
  }

  private async documents(archive: PackageSink): Promise<void> {
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
  private async scene(archive: PackageSink): Promise<void> {
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
        ...(this.channels ? ['--names', namesText(this.channels)] : []),
        ...this.particleFolders().flatMap((particles) => ['--particles', particles]),
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

  private async contact(archive: PackageSink): Promise<void> {
    const from = this.packing.contact!;
    await this.made('the contact sheet', async (folder) => {
      const { frames, version } = { ...this.own.wanted, version: this.own.version };
      const only = frames ? ['--frames', `${frames.first}-${frames.last}`] : [];
      const { shot, production, variant, bake } = this.inside;
      const about = [
        production.name,
        `variant ${variant.number}${variant.note && `: ${variant.note}`}`,
        `bake ${bake.id}`,
        this.own.note,
      ];
      const told = [
        ...['--title', `${shot.name}, version ${version}`],
        ...['--about', about.filter(Boolean).join(' · ')],
      ];
      for (const ending of ['png', 'pdf']) {
        const out = join(folder, `contact.${ending}`);
        await answerOf(this.cli, ['contact', from, '--out', out, '--json', ...told, ...only], MAKING);
        await archive.data(await readFile(out), `contact.${ending}`);
      }

      this.pieces.push({ kind: 'Contact sheet', name: '', first: 'contact.png', frames: [], files: 2 });
    });
  }

  /** The newest pictures in motion, with shot, version and frame burnt in. */
  private async review(archive: PackageSink): Promise<void> {
    await this.made('the review movie', async (folder) => {
      const out = join(folder, 'review.mp4');
      const { frames } = this.own.wanted;
      const { shot, bake } = this.inside;
      const said = [`${shot.name} v${String(this.own.version).padStart(3, '0')}`, this.own.note];
      const args = [
        ...['movie', this.packing.contact!, '--out', out, '--kind', 'review', '--json'],
        ...['--rate', String(bake.recipe.space.frameRate), '--burn', said.filter(Boolean).join(' · ')],
        ...(frames ? ['--frames', `${frames.first}-${frames.last}`] : []),
      ];
      await answerOf(this.cli, args, MAKING);
      await archive.file(out, 'review.mp4');
      this.pieces.push({ kind: 'Review movie', name: '', first: 'review.mp4', frames: [], files: 1 });
    });
  }

  /** Of runs of particles that go along. */
  private particleFolders(): string[] {
    return this.own.wanted.lines.flatMap((key) => {
      const line = this.packing.lines.find((l) => l.key === key);
      return line?.kind === 'particles' ? [this.storage.particleFolder(line.of)] : [];
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

const namesText = (channels: ChannelNames): string =>
  Object.entries(channels)
    .map(([channel, name]) => `${channel}=${name}`)
    .join(',');
const PIECES: Readonly<Record<string, Piece['kind']>> = {
  volumes: 'Volumes',
  particles: 'Particles',
  render: 'Render',
  comp: 'Comp',
  reference: 'Reference',
};
const nameIn = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
