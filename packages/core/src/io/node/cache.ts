// Caches on disk: opened as frames, written frame by frame, checked against their manifest.
import { CoreError } from '../../base/error';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { FrameSource } from '../../volume/frames';
import {
  fileStem,
  frameName,
  PROGRAM,
  fileOptionsOf,
  type CachedFrame,
  type Damage,
  type Made,
  type Manifest,
} from '../../cache/manifest';
import { encodePreview, previewOf, type Preview } from '../../cache/preview';
import { gridsOf, measureVolume, volumeFrom } from '../../volume/volume';
import { CHANNEL_NAMES } from '../../base/channels';
import { nameIn, type ChannelNames } from '../../cache/channel-names';
import type { VdbFile, VdbGrid } from '../../files/vdb/format';
import { readVdb } from '../../files/vdb/reader';
import { writeVdb, type Packing } from '../../files/vdb/writer';
import type { Look } from '../../look/look';
import { readIncidents, type Incident } from '../../record/incident';
import { PACK, type PackSettings } from '../../volume/tools/pack';
import type { Readings } from '../../record/readings';
import { canonicalText } from '../../recipe/document';
import { RECIPE } from '../../recipe/recipe';
import type { Recipe } from '../../recipe/types';
import type { Triple } from '../../math/vector';
import { smallPictures } from './newest';
import { dropParts, nodeZip, readJson, sha256, writeWhole } from './files';

export interface OpenCache extends FrameSource {
  readonly folder: string;
  readonly manifest: Manifest;
  /** Of the manifest's text: says which state of the cache something was made of. */
  readonly manifestSha256: string;
}

export const MANIFEST = 'manifest.json';

/** @throws Error naming the folder where it holds no cache of ours */
export function readManifest(folder: string): Manifest {
  const path = join(folder, MANIFEST);
  if (!existsSync(path)) throw new CoreError('cache', `${folder}: holds no cache (there is no ${MANIFEST}).`);
  const data = readJson(path) as Partial<Manifest> | null;
  if (data?.format !== 'bramblemist-cache' || !Array.isArray(data.frames))
    throw new CoreError('cache', `${path}: is not the manifest of a cache.`);
  if (data.version !== 1)
    throw new CoreError(
      'cache',
      `${path}: is of version ${String(data.version)}; this program reads version 1. Use a newer one.`,
    );
  const manifest = data as Manifest;
  return { ...manifest, ...upgradedRecipe(manifest), frames: manifest.frames.map(readFrame) };
}

/**
 * The recipe of a cache of an earlier version in the form of this one, so that it can be held against newer
 * ones.
 */
function upgradedRecipe({ recipe }: Manifest): Partial<Manifest> {
  if (recipe.version === RECIPE.version) return {};
  const upgraded = RECIPE.filled(recipe);
  return { recipe: upgraded, recipeSha256: sha256(canonicalText(upgraded)) };
}

/** A frame as any program version wrote it: earlier ones called incidents notices. */
const readFrame = ({ notices, ...frame }: CachedFrame & { notices?: readonly Incident[] }): CachedFrame => ({
  ...frame,
  incidents: readIncidents(frame.incidents ?? notices ?? []),
});

/** Simulated seconds of a frame. */
const frameS = ({ space }: Recipe): number => space.timeScale / space.frameRate;

/** @throws Error naming the folder where there is no cache, or none of its frames is finished */
export function openCache(folder: string): OpenCache {
  const manifest = readManifest(folder);
  const { frames, voxelSizeM: h, finer = 1, window, recipe } = manifest;
  if (frames.length === 0) throw new CoreError('cache', `${folder}: none of its frames is finished yet.`);
  const least = window.origin.map((o) => o * h) as Triple;
  return {
    folder,
    manifest,
    manifestSha256: sha256(readFileSync(join(folder, MANIFEST))),
    voxelSizeM: h / finer,
    frameRate: recipe.space.frameRate,
    first: frames[0].frame,
    last: frames[frames.length - 1].frame,
    floorM: least[1],
    timeS: (frame) =>
      frames.find((f) => f.frame === frame)?.timeS ?? (frame - recipe.space.firstFrame + 1) * frameS(recipe),
    domain: { least, most: least.map((c, a) => c + window.cells[a] * h) as Triple },
    read(frame) {
      const entry = frames.find((f) => f.frame === frame);
      if (!entry) throw new CoreError('cache', `${folder}: has no frame ${frame}.`);
      const path = join(folder, entry.file);
      try {
        return volumeFrom(withOurNames(readVdb(readFileSync(path), { zip: nodeZip }), manifest.names), frame);
      } catch (error) {
        throw new CoreError('cache', `${path}: ${(error as Error).message}.`, { cause: error });
      }
    },
  };
}

/** Grids that were given other names for somebody, as they are called here. */
function withOurNames(file: VdbFile, names: ChannelNames | undefined): VdbFile {
  if (!names) return file;
  const ours = new Map(CHANNEL_NAMES.map((channel) => [nameIn(names, channel), channel]));
  return { ...file, grids: file.grids.map((g) => ({ ...g, name: ours.get(g.name) ?? g.name })) };
}

export interface WriteOptions {
  readonly folder: string;
  readonly bricks: boolean;
  /** How frames are pictured, as newest.png and in the folder loop/; without, they are not. */
  readonly look?: Look;
  readonly onFrame: (frame: CachedFrame, done: number, total: number) => void;
  readonly onStart?: (info: { readonly total: number; readonly done: number }) => void;
}

/** A frame that is ready to be written. */
export interface ReadyFrame {
  readonly grids: readonly VdbGrid[];
  readonly preview: () => Preview;
  readonly readings: Partial<Readings>;
}
/** What is written: like frames, but made as files want them. */
export type Ready = Omit<FrameSource, 'read'> & {
  readonly make: (frame: number) => ReadyFrame;
  readonly channels: readonly string[];
};

/**
 * Frames of volumes as they are written.
 * @param made what the cache is, after what it was made of
 */
export function ready(frames: FrameSource, source: OpenCache, made: readonly Made[]): Ready {
  const { recipe, channels } = source.manifest;
  const { precision } = storedAs(source.manifest, made);
  return {
    ...frames,
    channels,
    make(frame) {
      const v = frames.read(frame);
      return {
        grids: gridsOf(v, precision),
        preview: () => previewOf(v),
        readings: measureVolume(v, frames.floorM, recipe.keep.threshold),
      };
    },
  };
}

/** How files are written of a cache with this history: as it was packed last, else as its recipe keeps it. */
function storedAs(
  { recipe, precision }: Pick<Manifest, 'recipe' | 'precision'>,
  made: readonly Made[],
): { readonly precision: Manifest['precision']; readonly packing: Packing } {
  let stored: { precision: Manifest['precision']; packing: Packing } = {
    precision,
    packing: recipe.keep.packing,
  };
  for (const { by, settings } of made) {
    if (by !== PACK.part.key) continue;
    const pack = settings as PackSettings;
    stored = {
      packing: pack.packing,
      precision: pack.precision === 'kept' ? stored.precision : pack.precision,
    };
  }

  return stored;
}

/**
 * Writes what was made of a cache as a cache of its own. Frames that the folder holds already of the very
 * same are passed over, so it goes on where it was broken off.
 * @param source whose recipe and readings it goes on from
 * @throws Error where the folder holds something else
 */
export function writeCache(
  source: OpenCache,
  frames: Ready,
  made: readonly Made[],
  options: WriteOptions,
): Manifest {
  const { folder } = options;
  const path = join(folder, MANIFEST);
  const { recipe } = source.manifest;
  const { precision, packing } = storedAs(source.manifest, made);
  const h = frames.voxelSizeM;
  const head = {
    ...({ format: 'bramblemist-cache', version: 1 } as const),
    program: PROGRAM,
    recipe,
    recipeSha256: source.manifest.recipeSha256,
    voxelSizeM: h,
    window: {
      cells: frames.domain.least.map((c, a) => Math.round((frames.domain.most[a] - c) / h)) as Triple,
      origin: frames.domain.least.map((c) => Math.round(c / h)) as Triple,
    },
    channels: frames.channels,
    precision,
    range: { first: frames.first, last: frames.last },
    made,
  } as const;
  const earlier = existsSync(path) ? readManifest(folder) : null;
  if (earlier && JSON.stringify(earlier.made) !== JSON.stringify(made))
    throw new CoreError(
      'cache',
      `${folder}: already holds another cache. Nothing is overwritten: choose another folder, or remove it.`,
    );
  mkdirSync(folder, { recursive: true });
  dropParts(folder);
  const list: CachedFrame[] = [...(earlier?.frames ?? [])];
  const total = frames.last - frames.first + 1;
  const stem = fileStem(recipe.name);
  const picture = smallPictures({ folder, look: options.look, frames });
  const manifest = (): Manifest => ({ ...head, complete: list.length === total, frames: list });
  options.onStart?.({ total, done: list.length });
  for (let frame = frames.first + list.length; frame <= frames.last; frame++) {
    const began = performance.now();
    const written = frames.make(frame);
    const data = writeVdb(written.grids, {
      zip: nodeZip,
      ...fileOptionsOf(recipe, frame, frames.timeS(frame)),
      packing,
    });
    const file = frameName(stem, frame, 'vdb');
    writeWhole(join(folder, file), data);
    if (options.bricks) {
      const preview = written.preview();
      writeWhole(join(folder, 'preview', frameName(stem, frame, 'brick')), encodePreview(preview, nodeZip));
      picture(() => preview.brick, frame);
    }

    const sum = sha256(data);
    const of = nearest(source.manifest.frames, frame);
    list.push({
      frame,
      file,
      bytes: data.length,
      sha256: sum,
      state: sum,
      incidents: [],
      timeS: frames.timeS(frame),
      readings: { ...of.readings, ...written.readings, ms: performance.now() - began },
    });
    writeWhole(path, JSON.stringify(manifest(), null, 1));
    options.onFrame(list[list.length - 1], list.length, total);
  }

  return manifest();
}

function nearest(frames: readonly CachedFrame[], frame: number): CachedFrame {
  return frames.reduce((best, f) => (Math.abs(f.frame - frame) < Math.abs(best.frame - frame) ? f : best));
}

/**
 * Reads every file again and holds it against the manifest: there, of its size, with its checksum, readable.
 * @returns what is wrong; nothing where all is well
 */
export function verifyCache(
  folder: string,
  onFrame: (done: number, total: number, damage: Damage | null) => void,
): Damage[] {
  const { frames } = readManifest(folder);
  const out: Damage[] = [];
  frames.forEach((f, n) => {
    const what = damageOf(join(folder, f.file), f);
    const damage = what === null ? null : { frame: f.frame, file: f.file, what };
    if (damage) out.push(damage);
    onFrame(n + 1, frames.length, damage);
  });
  return out;
}

function damageOf(path: string, f: CachedFrame): string | null {
  let data: Uint8Array;
  try {
    data = readFileSync(path);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'ENOENT'
      ? 'the file is not there'
      : `the file cannot be read (${String((error as NodeJS.ErrnoException).code)})`;
  }

  if (data.length !== f.bytes) return `the file has ${data.length} bytes where ${f.bytes} were written`;
  if (sha256(data) !== f.sha256) return 'its content is not what was written: the checksum differs';
  try {
    readVdb(data, { zip: nodeZip });
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}
