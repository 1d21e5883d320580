// `render`: the volumes of a folder as a look shows them.
import { existsSync } from 'node:fs';
import { basename, join, relative } from 'node:path';
import { deepStem, renderFile } from '@bramblemist/core/io/node/pictures';
import { LOOK, lookAt, type Look } from '@bramblemist/core/look/look';
import type { PixelBox } from '@bramblemist/core/look/rendered-frame';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { openWorld, type WorldArguments } from '../render-world';
import { loadDocument, parseThreads } from './bake';

const stem = (file: string): string => basename(file).replace(/\.[^.]+$/, '');

export interface RenderArguments extends WorldArguments {
  out: string;
  threads?: string;
  mode?: string;
  samples?: string;
  noise?: string;
  passes?: string;
  region?: string;
  camera?: string;
  resume?: boolean;
  json?: boolean;
}

/** The look with what the command line says otherwise. */
export function lookFor({ look: path, mode, samples, noise, passes }: Omit<RenderArguments, 'out'>): Look {
  const look = loadDocument(LOOK, path);
  const isTrue = samples !== undefined || noise !== undefined;
  const quality = {
    ...look.quality,
    ...(isTrue ? { mode: 'true' } : {}),
    ...(mode === undefined ? {} : { mode }),
    ...(samples === undefined ? {} : { samples: Number(samples), until: 'samples' }),
    ...(noise === undefined ? {} : { noise: parseNoise(noise), until: 'noise' }),
  };
  try {
    return LOOK.parse({ ...look, quality, passes: passes === undefined ? look.passes : passesOf(passes) });
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

/** Passes by their names, such as depth,motion; “all” for every one and “none”. */
function passesOf(text: string): Look['passes'] {
  const known = Object.keys(LOOK.parse({}).passes) as (keyof Look['passes'])[];
  const asked = text === 'none' ? [] : text.split(',').map((name) => name.trim());
  const unknown = asked.find((name) => name !== 'all' && !known.some((k) => k === name));
  if (unknown !== undefined)
    throw new UsageError(`--passes knows ${known.join(', ')}, all and none, not “${unknown}”.`);
  const all = asked.includes('all');
  return Object.fromEntries(known.map((name) => [name, all || asked.includes(name)])) as Look['passes'];
}

function parseRegion(text: string | undefined, { camera }: Look): PixelBox | undefined {
  if (text === undefined) return undefined;
  const [x0, y0, x1, y1] = text.split(',').map(Number);
  const isInside = x0 >= 0 && y0 >= 0 && x1 <= camera.width && y1 <= camera.height && x1 > x0 && y1 > y0;
  if (!isInside || text.split(',').length !== 4)
    throw new UsageError(
      `--region must be left,top,right,bottom within ${camera.width} × ${camera.height} pixels, not ` +
        `“${text}”.`,
    );
  return { from: [x0, y0], end: [x1, y1] };
}

function parseNoise(text: string): number {
  const noise = Number(text);
  if (!(noise > 0)) throw new UsageError(`--noise must be above 0, not “${text}”.`);
  return noise;
}

/** Volumes of a folder to EXR and PNG. */
export async function renderCommand(folder: string, args: RenderArguments): Promise<void> {
  const look = lookFor(args);
  const region = parseRegion(args.region, look);
  const threads = parseThreads(args.threads);
  const world = await openWorld(folder, look, args);
  const cameras = camerasOf(look, args.camera);
  // each picture is whole or absent
  const isThere = (stemPath: string): boolean =>
    [`${stemPath}.exr`, `${stemPath}.png`, ...(look.passes.deep ? [`${deepStem(stemPath)}.exr`] : [])].every(
      (path) => existsSync(path),
    );
  const outOf = (folderName: string, file: string): string => join(args.out, folderName, stem(file));
  const files = args.resume
    ? world.files.filter((f) => !cameras.every((c) => isThere(outOf(c.folder, f.file))))
    : world.files;
  const show = progress(args.json ?? false);
  const start = performance.now();
  show.start(files.length, {});
  files.forEach((f, i) => {
    const volume = world.volumeOf(f);
    const written = cameras
      .filter((c) => !args.resume || !isThere(outOf(c.folder, f.file)))
      .map((c) =>
        renderFile(volume, outOf(c.folder, f.file), lookAt(look, f.frame, c.id), {
          ...world.around(f, c.id),
          threads,
          region,
        }),
      );
    const [first] = written;
    show.frame(i + 1, files.length, {
      frame: f.frame,
      exr: relative(args.out, first.exr),
      png: relative(args.out, first.png),
      ...first.reached,
    });
  });
  const count = files.length * cameras.length;
  show.end(
    { frames: files.length, seconds: (performance.now() - start) / 1000 },
    `${count} ${count === 1 ? 'picture' : 'pictures'} in ${args.out}.`,
  );
}

interface RenderedCamera {
  /** Of a further camera; without, it is the shot's. */
  readonly id?: string;
  /** Under the folder of pictures. */
  readonly folder: string;
}

/** The shot's camera, and the further ones in folders of their names; or the one that is asked for. */
function camerasOf({ cameras }: Look, asked: string | undefined): RenderedCamera[] {
  if (asked !== undefined) {
    if (asked === 'shot') return [{ folder: '' }];
    const found = cameras.find(({ id, name }) => name === asked || id === asked);
    if (!found)
      throw new UsageError(
        `--camera: the look has no camera called “${asked}”. It has: ` +
          `${['shot', ...cameras.map(({ name }) => name)].join(', ')}.`,
      );
    return [{ id: found.id, folder: '' }];
  }

  const taken = new Set<string>();
  const further = cameras
    .filter(({ on }) => on)
    .map(({ id, name }) => {
      const plain = name.replace(/[^\p{L}\p{N}_-]+/gu, '-').replace(/^-+|-+$/g, '') || id;
      const folder = taken.has(plain) ? `${plain}-${id}` : plain;
      taken.add(folder);
      return { id, folder };
    });
  return [{ folder: '' }, ...further];
}
