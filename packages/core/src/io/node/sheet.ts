// A trial sheet: its runs go on side by side, a frame of each in turn, so that all can be judged early and
// stopped.
import { join } from 'node:path';
import { frameName } from '../../cache/manifest';
import type { Assets } from '../../assets/assets';
import type { Look } from '../../look/look';
import type { Readings } from '../../record/readings';
import type { Cell } from '../../analysis/sheet';
import { encodePng } from './png';
import { writeWhole } from './files';
import { trialFrames, type TrialFrame } from './trial';

export interface SheetOptions {
  readonly folder: string;
  readonly look: Look;
  readonly voxelSizeM: number;
  readonly last: number;
  /** Pixels across of a picture. */
  readonly width: number;
  readonly assets?: Assets;
  readonly onFrame: (cell: number, frame: number, done: number, total: number) => void;
}
/** What sheet.json in the folder says of each run. */
export interface SheetCell {
  readonly values: readonly number[];
  readonly readings: { readonly frame: number; readonly readings: Readings }[];
  /** Why it ended before its last frame; null where it did not. */
  trouble: string | null;
}

export const cellFolder = (folder: string, cell: number): string => join(folder, `cell-${cell}`);

/** Writes cell-N/cell.0001.png and so on, and sheet.json with readings. A run that goes wrong ends alone. */
export function runSheet(cells: readonly Cell[], options: SheetOptions): SheetCell[] {
  const { folder, look, voxelSizeM, last, width, assets, onFrame } = options;
  const runs = cells.map(({ recipe }) =>
    trialFrames(recipe, look, { voxelSizeM, last, width, assets, solids: true }),
  );
  const said: SheetCell[] = cells.map(({ values }) => ({ values, readings: [], trouble: null }));
  const first = cells[0].recipe.space.firstFrame;
  const total = cells.length * (last - first + 1);
  let done = 0;
  const next = (n: number): TrialFrame | null => {
    if (said[n].trouble !== null) return null;
    try {
      return runs[n].next().value ?? null;
    } catch (error) {
      said[n].trouble = (error as Error).message;
      return null;
    }
  };

  try {
    for (let frame = first; frame <= last; frame++) {
      cells.forEach((_, n) => {
        const made = next(n);
        if (made?.sight) {
          writeWhole(join(cellFolder(folder, n), frameName('cell', frame, 'png')), encodePng(made.sight));
          said[n].readings.push({ frame, readings: made.report.readings });
        }

        done++;
        onFrame(n, frame, done, total);
      });
      writeWhole(join(folder, 'sheet.json'), JSON.stringify(said));
    }
  } finally {
    for (const run of runs) run.return();
  }

  return said;
}
