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
/** Pictures of a loop at most. */
const IN_LOOP = 24;
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
    if (!inLoop && !isDue) return;
    const picture = encodePng(seeBrick(brick(), look, WIDTH));
    if (inLoop) writeWhole(join(folder, LOOP, frameName('seen', frame, 'png')), picture);
    if (!isDue) return;
    at = performance.now();
    writeWhole(join(folder, 'newest.png'), picture);
  };
}
