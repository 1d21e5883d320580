// The states that a bake keeps beside its frames, to go on from.
import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { decodeCheckpoint } from '../../cache/checkpoint';
import { frameName } from '../../cache/manifest';
import type { Plan } from '../../plan/plan';
import type { Checkpoint } from '../../run/simulation';
import { writeWhole } from './files';

const CHECKPOINTS = 'checkpoints';
const KEPT = 2;

/** States that are kept, by frame, newest first. */
function checkpointFiles(folder: string): { path: string; frame: number }[] {
  const within = join(folder, CHECKPOINTS);
  if (!existsSync(within)) return [];
  return readdirSync(within)
    .map((name) => ({ path: join(within, name), frame: Number(/\.(\d+)\.state$/.exec(name)?.[1] ?? NaN) }))
    .filter((c) => Number.isFinite(c.frame))
    .sort((a, b) => b.frame - a.frame);
}

/** Writes a state, and drops all but the newest. */
export function keepCheckpoint(folder: string, frame: number, bytes: Uint8Array): void {
  writeWhole(join(folder, CHECKPOINTS, frameName('run', frame, 'state')), bytes);
  for (const { path } of checkpointFiles(folder).slice(KEPT)) rmSync(path);
}

/** The newest state whose frames are all on disk; damaged ones are passed over. */
export function newestCheckpoint(plan: Plan, folder: string, lastFrame: number): Checkpoint | null {
  for (const { path, frame } of checkpointFiles(folder)) {
    if (frame > lastFrame) continue;
    try {
      return decodeCheckpoint(plan, readFileSync(path));
    } catch {
      continue;
    }
  }

  return null;
}

export const dropCheckpoints = (folder: string): void =>
  rmSync(join(folder, CHECKPOINTS), { recursive: true, force: true });
