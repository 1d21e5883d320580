// Frames of a live run are kept within a budget: those farthest from where one looks are let go, the newest
// stays.
import type { ShownBrick } from './use-live';

const BUDGET = 'bramblemist.frames-megabytes';
/** Megabytes to choose from; a frame at fair size takes about one. */
export const BUDGETS = [150, 400, 1000, 2500] as const;
const FIRST = 400;

/** Bytes that frames may take in this page. */
export function framesBudget(): number {
  const chosen = Number(localStorage.getItem(BUDGET));
  return ((BUDGETS as readonly number[]).includes(chosen) ? chosen : FIRST) * 1e6;
}

export function chooseBudget(megabytes: number): void {
  localStorage.setItem(BUDGET, String(megabytes));
}

export function bytesOf({ brick, light, dots, glimpse }: ShownBrick): number {
  return (
    brick.bytes.byteLength +
    (brick.colour?.bytes.byteLength ?? 0) +
    light.byteLength +
    (glimpse?.values.byteLength ?? 0) +
    (dots?.places.byteLength ?? 0)
  );
}

/**
 * Lets frames go until the others fit.
 * @param looked the frame that is shown
 * @returns the bytes of those that stay
 */
export function keepWithin(frames: Map<number, ShownBrick>, budget: number, looked: number): number {
  let bytes = 0;
  for (const f of frames.values()) bytes += bytesOf(f);
  if (bytes <= budget) return bytes;
  const newest = Math.max(...frames.keys());
  for (const frame of [...frames.keys()].sort((a, b) => Math.abs(b - looked) - Math.abs(a - looked))) {
    if (bytes <= budget) break;
    if (frame === newest || frame === looked) continue;
    bytes -= bytesOf(frames.get(frame)!);
    frames.delete(frame);
  }

  return bytes;
}
