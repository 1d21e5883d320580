// Small pictures beside something that is being made: its newest frame, and some of all, to be shown one
// after the other.
import { join } from 'node:path';
import { frameName } from '../../cache/manifest';
import type { PreviewVolume } from '../../volume/preview-volume';
import type { Look } from '../../look/look';
import { seeBrick } from '../../look/see';
import { encodePng } from './png';
import { writeWhole } from './files';

/** The folder of the pictures that are shown one after the other. */
export const LOOP = 'loop';
const WIDTH = 320;
/** Pictures of a loop at most, and how wide: a short bake waits for them. */
const IN_LOOP = 12;
const LOOP_WIDTH = 256;
/** The newest picture costs something: not more often than this. */
const EVERY_MS = 2000;

export interface Pictured {
  readonly folder: string;
  /** Without, nothing is pictured. */
  readonly look?: Look;
  readonly frames: { readonly first: number; readonly last: number };
}

/** @returns a function that is told of each frame, and draws some of them */
export function smallPictures({
  folder,
  look,
  frames: { first, last },
}: Pictured): (brick: () => PreviewVolume, frame: number) => void {
  const every = Math.ceil((last - first + 1) / IN_LOOP);
  let at = -Infinity;
  return (brick, frame) => {
    if (!look) return;
    const inLoop = (frame - first) % every === 0;
    const isDue = frame === last || performance.now() - at >= EVERY_MS;
    const draw = (path: string, width: number): void =>
      writeWhole(join(folder, path), encodePng(seeBrick(brick(), look, width)));
    if (inLoop) draw(join(LOOP, frameName('seen', frame, 'png')), LOOP_WIDTH);
    if (!isDue) return;
    at = performance.now();
    draw('newest.png', WIDTH);
  };
}
