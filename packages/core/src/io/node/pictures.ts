// Volumes on disk to pictures on disk.
import { CoreError } from '../../base/error';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { writeDeepExr } from '../../files/exr/deep';
import { writeExr, writeExrParts, writeTiledExr } from '../../files/exr/writer';
import { readVdb } from '../../files/vdb/reader';
import { framingOf, type Look } from '../../look/look';
import type { MomentTiming } from '../../look/compile-look';
import { cut, cutDeep, toExr } from '../../look/picture';
import { saidOf, type FrameTiming } from '../../look/said';
import type { PixelBox } from '../../look/rendered-frame';
import { renderWith, type Rendered, type RenderOptions, type Volume } from '../../look/render';
import { gridsFor, volumeOf } from '../../look/volume-of';
import { encodePng } from './png';
import { nodeZip, writeWhole } from './files';
import { startThreadPool } from './thread-pool';

/**
 * @param asked channels besides density
 * @throws CoreError prefixed with the path
 */
export function readVolume(path: string, asked: ReadonlySet<string>): Volume {
  try {
    return volumeOf(readVdb(readFileSync(path), { zip: nodeZip, only: gridsFor(asked) }), asked);
  } catch (error) {
    throw new CoreError('file', `${path}: ${(error as Error).message}`);
  }
}

/** Sequence files NAME.0001.EXT of a folder with their frame numbers, in order. */
export function sequence(folder: string, extension: string): { frame: number; path: string; file: string }[] {
  let names: string[];
  try {
    names = readdirSync(folder);
  } catch (error) {
    throw new CoreError(
      'file',
      `${folder}: cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)}).`,
    );
  }

  return framesAmong(names, extension).map((f) => ({ ...f, path: join(folder, f.file) }));
}

/** Which of these names are NAME.0001.EXT, by their frames. */
export function framesAmong(names: readonly string[], extension: string): { frame: number; file: string }[] {
  const pattern = new RegExp(`^.+\\.(\\d{1,9})\\.${extension}$`);
  return names
    .flatMap((file) => {
      const match = pattern.exec(file);
      // a deep picture stands beside a frame's own
      return match && !/\.deep\.\d+\./.test(file) ? [{ frame: Number(match[1]), file }] : [];
    })
    .sort((a, b) => a.frame - b.frame);
}

export interface RenderFileOptions extends Omit<RenderOptions, 'timing'> {
  /** When the frame is; without, nothing moves and files do not tell. */
  readonly timing?: FrameTiming & MomentTiming;
  /** What the medium was made by, as files tell it. */
  readonly bake?: string;
}

/** What a frame's files are called: NAME.deep.0001 for a deep picture beside NAME.0001. */
export function deepStem(stem: string): string {
  const at = stem.lastIndexOf('.');
  return at < 0 ? `${stem}.deep` : `${stem.slice(0, at)}.deep${stem.slice(at)}`;
}

/** The deep picture beside an EXR of a frame. */
export const deepBeside = (exr: string): string => `${deepStem(exr.slice(0, -'.exr'.length))}.exr`;

/**
 * Renders one volume and writes EXR and PNG with this path stem: the camera's frame with its overscan,
 * without what is cropped; and its deep picture, where the look asks for one.
 * @param look as it is at the frame, see lookAt
 */
export function renderFile(
  volume: Volume,
  outStem: string,
  look: Look,
  { timing, bake, ...options }: RenderFileOptions,
): { exr: string; png: string; reached: Rendered['reached'] } {
  const { look: framed, box, margin } = framingOf(look);
  const { region } = options;
  const moved = (p: readonly [number, number]): [number, number] => [p[0] + margin[0], p[1] + margin[1]];
  const asked = region ? inBoth(box, { from: moved(region.from), end: moved(region.end) }) : box;
  const whole = renderWith(startThreadPool, volume, framed, {
    ...options,
    region: asked,
    timing: timing && {
      frameS: timing.frameS,
      later: (frames) => {
        const then = timing.later(frames);
        return { ...then, look: framingOf(then.look).look };
      },
    },
  });
  const picture = cut(whole, box);
  const { width, height, squeeze } = look.camera;
  const from = box.from.map((v, a) => v - margin[a]) as [number, number];
  const placed = {
    windows: {
      data: { min: from, max: box.end.map((v, a) => v - margin[a] - 1) as [number, number] },
      display: { min: [0, 0] as [number, number], max: [width - 1, height - 1] as [number, number] },
    },
    pixelAspect: squeeze,
  };
  const said = saidOf(look, timing, bake);
  if (whole.deep)
    writeWhole(
      `${deepStem(outStem)}.exr`,
      writeDeepExr({ ...cutDeep(whole.deep, box), ...placed }, nodeZip, said),
    );
  const write = { layers: writeExr, parts: writeExrParts, tiles: writeTiledExr }[look.quality.files];
  writeWhole(`${outStem}.exr`, write({ ...toExr(picture), ...placed }, nodeZip, said));
  // comes last: a frame is there when it is
  writeWhole(`${outStem}.png`, encodePng(picture));
  return { exr: `${outStem}.exr`, png: `${outStem}.png`, reached: whole.reached };
}

/** The pixels that two boxes share; at least one. */
function inBoth(a: PixelBox, b: PixelBox): PixelBox {
  const from = [0, 1].map((n) => Math.min(Math.max(a.from[n], b.from[n]), a.end[n] - 1));
  const end = [0, 1].map((n) => Math.max(Math.min(a.end[n], b.end[n]), from[n] + 1));
  return { from: [from[0], from[1]], end: [end[0], end[1]] };
}
