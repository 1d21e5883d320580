// The package of a bake: its volumes, the scene that opens elsewhere, pictures and comps made of it, and a
// sheet that says what each is and how it was made.
import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Writable } from 'node:stream';
import { rendersIn } from '@bramblemist/core/combine/combine';
import { endingOf } from '@bramblemist/core/assets/imported';
import { fileStem } from '@bramblemist/core/cache/manifest';
import { answerOf, NoAnswer } from '../jobs/children';
import { Bake, CombineRun, Render, Variant, type Shot } from '../models';
import { isThere, type Storage } from '../storage/storage';
import { withoutPaths } from '../words';
import { HttpError } from '../http-error';
import { CheckedArchive } from './checked-archive';
import { sheetOf, type Piece } from './package-sheet';

/** A scene looks every mesh up at every frame. */
const SCENE_BOUNDS = { ms: 10 * 60_000, bytes: 4 * 2 ** 30 } as const;

/** What goes into a package, in the order of the archive. */
export interface Package {
  readonly name: string;
  /** Writes it, file by file. @throws Error where one cannot be read, or nobody takes it any more */
  send(to: Writable): Promise<void>;
}

/** @throws HttpError where there is nothing to hand over yet */
export async function packageOf(storage: Storage, cli: string, bake: Bake, shot: Shot): Promise<Package> {
  const folder = storage.bakeFolder(bake.id);
  if (!(await isThere(join(folder, 'manifest.json'))))
    throw new HttpError(409, 'This bake has no frame yet, so there is nothing to hand over.');
  const renders = await Render.findAll({ where: { bakeId: bake.id }, order: [['id', 'ASC']] });
  // those of the shot that one of its renders has a part in
  const combines = (await CombineRun.findAll({ where: { shotId: shot.id }, order: [['id', 'ASC']] })).filter(
    ({ settings }) => rendersIn(settings).some((id) => renders.some((r) => r.id === id)),
  );
  const scene = await sceneOf(storage, cli, bake, renders);
  return {
    name: `${fileStem(shot.name)}_bake${bake.id}.zip`,
    send: async (to) => {
      const archive = new CheckedArchive(to);
      const pieces = new Pieces(archive, storage);
      await archive.file(join(folder, 'manifest.json'), 'manifest.json');
      await pieces.frames('Volumes', bake.recipe.name, folder, 'volumes', ['vdb']);
      for (const [name, data] of scene.files) await archive.data(data, name);
      for (const r of renders) {
        const as = `render_${r.id}`;
        await pieces.frames('Render', `render ${r.id}`, storage.renderFolder(r.id), as, ['exr', 'png']);
        await archive.data(JSON.stringify(r.look, null, 2), `${as}/look.json`);
      }

      for (const c of combines) {
        const as = `combine_${c.id}`;
        await pieces.frames('Comp', c.settings.name, storage.combineFolder(c.id), as, ['exr', 'png']);
        await archive.data(JSON.stringify(c.settings, null, 2), `${as}/settings.json`);
      }

      const { recipe, recipeSha256, voxelSizeM } = bake;
      const hasScene = scene.files.length > 0;
      const about = { shot: shot.name, bake: bake.id, recipe, recipeSha256, voxelSizeM, hasScene };
      await archive.data(sheetOf(about, pieces.list, scene.remarks), 'read-me.html');
      await archive.end();
    },
  };
}

/** Files of numbered frames, and what is told of them. */
class Pieces {
  readonly list: Piece[] = [];

  constructor(
    private readonly archive: CheckedArchive,
    private readonly storage: Storage,
  ) {}

  async frames(
    kind: Piece['kind'],
    name: string,
    folder: string,
    as: string,
    extensions: readonly string[],
  ): Promise<void> {
    const numbers = new Set<number>();
    for (const extension of extensions)
      for (const { file, frame } of await this.storage.frameFiles(folder, extension)) {
        await this.archive.file(join(folder, file), `${as}/${file}`);
        numbers.add(frame);
      }

    await this.named(folder, as, (file) => /\.deep\.\d+\.exr$/.test(file));
    const movies = await this.named(join(folder, 'movies'), as, (file) => /^\d+\.(mp4|mov)$/.test(file));
    if (numbers.size > 0)
      this.list.push({ kind, name, folder: as, frames: [...numbers].sort((a, b) => a - b), movies });
  }

  private async named(folder: string, as: string, isWanted: (name: string) => boolean): Promise<string[]> {
    const found = (await this.storage.namesIn(folder)).filter(isWanted);
    for (const name of found) await this.archive.file(join(folder, name), `${as}/${name}`);
    return found;
  }
}

interface SceneFiles {
  readonly files: readonly (readonly [string, Buffer])[];
  readonly remarks: readonly string[];
}

/** Seen and lit as the newest render is, else as the variant's look says. */
async function sceneOf(
  storage: Storage,
  cli: string,
  bake: Bake,
  renders: readonly Render[],
): Promise<SceneFiles> {
  const variant = await Variant.findByPk(bake.variantId);
  const look = renders.at(-1)?.look ?? variant?.look;
  const folder = await storage.scratch();
  try {
    const lookPath = join(folder, 'look.json');
    await writeFile(lookPath, JSON.stringify(look ?? {}));
    const args = ['scene', storage.bakeFolder(bake.id), '--out', join(folder, 'scene.usda')];
    const places = ['--look', lookPath, '--files', storage.filesFolder(), '--volumes', 'volumes', '--json'];
    const made = JSON.parse(await answerOf(cli, [...args, ...places], SCENE_BOUNDS)) as {
      picture: string | null;
      remarks: string[];
    };
    const files: [string, Buffer][] = [];
    for (const name of ['scene.usda', 'scene.glb']) files.push([name, await readFile(join(folder, name))]);
    const picture = made.picture && look?.files.find(({ id }) => id === look.sky.picture);
    if (picture) {
      const path = storage.broughtFile(picture.sha256, endingOf(picture.name));
      if (await isThere(path)) files.push([`files/${picture.name}`, await readFile(path)]);
    }

    return { files, remarks: made.remarks };
  } catch (error) {
    // what was baked is handed over all the same
    if (!(error instanceof NoAnswer)) throw error;
    const why = error.why === 'said' ? withoutPaths(error.message) : 'making it took too long.';
    return { files: [], remarks: [`the scene is not in it: ${why}`] };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
