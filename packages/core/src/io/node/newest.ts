// The newest frame of something that is being made, as a small picture beside it.
import { join } from 'node:path';
import type { PreviewVolume } from '../../volume/preview-volume';
import type { Look } from '../../look/look';
import { seeBrick } from '../../look/see';
import { encodePng } from './png';
import { writeWhole } from './files';

const WIDTH = 320;
/** It costs something: not more often than this. */
const EVERY_MS = 2000;

/** @returns a function that is told of each frame, and draws some of them; nothing without a look */
export function newestPicture(
  folder: string,
  look: Look | undefined,
): (brick: () => PreviewVolume, isLast: boolean) => void {
  let at = -Infinity;
  return (brick, isLast) => {
    if (!look || (!isLast && performance.now() - at < EVERY_MS)) return;
    at = performance.now();
    writeWhole(join(folder, 'newest.png'), encodePng(seeBrick(brick(), look, WIDTH)));
  };
}
