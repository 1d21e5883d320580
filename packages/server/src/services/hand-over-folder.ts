// Packages that are written into the folder that the server offers: file by file, gone on with where they
// were broken off, and checked when they are whole.
import { join } from 'node:path';
import type { FolderState } from '@bramblemist/contracts/payloads/hand-over';
import { CheckedFolder } from '@bramblemist/core/io/node/checked-archive';
import type { Events } from '../events';
import { HttpError } from '../http-error';
import { answerOf } from '../jobs/children';
import type { HandedOver } from '../models';
import type { Storage } from '../storage/storage';
import { withoutPaths } from '../words';
import type { PackageMade } from './hand-over';

/** A large package takes long to be read again. */
const CHECKING = { ms: 6 * 3_600_000, bytes: 2 * 2 ** 30 } as const;
const TELL_EVERY_MS = 300;

interface Writing extends Omit<FolderState, 'state'> {
  readonly state: Exclude<FolderState['state'], 'done'>;
  readonly stop: AbortController;
}
/** Those that are being written, and those that failed, until the server ends. */
const writing = new Map<number, Writing>();

/** How far a package is; null where it was never written here. */
export function folderOf({ id, folder }: HandedOver): FolderState | null {
  const now = writing.get(id);
  if (now) {
    const { state, done, total, path, message } = now;
    return { state, done, total, path, message };
  }

  return folder ? { state: 'done', done: 1, total: 1, path: folder, message: '' } : null;
}

/**
 * Begins to write it, and returns at once.
 * @throws HttpError where it is being written already
 */
export function writeToFolder(
  { storage, cli, events }: { storage: Storage; cli: string; events: Events },
  own: HandedOver,
  made: PackageMade,
): void {
  const state = writing.get(own.id)?.state;
  if (state === 'writing' || state === 'checking')
    throw new HttpError(409, `Version ${own.version} is being written already.`);
  const path = join(made.folder, made.name);
  const stop = new AbortController();
  const put = (change: Partial<Writing>): void => {
    const before = writing.get(own.id) ?? { done: 0, total: made.files, path, message: '', stop };
    writing.set(own.id, { state: 'writing', ...before, ...change });
  };

  let told = 0;
  const tell = (): void => {
    told = Date.now();
    events.tell({ kind: 'package', shotId: own.shotId });
  };

  put({ state: 'writing', done: 0, message: '', stop });
  tell();
  const folder = join(storage.handOver, path);
  const run = async (): Promise<void> => {
    let done = 0;
    await made.send(
      new CheckedFolder(folder, () => {
        if (stop.signal.aborted)
          throw new Error('It was stopped. What is written stays; press again to go on.');
        put({ done: Math.min(done++, made.files) });
        if (Date.now() - told > TELL_EVERY_MS) tell();
      }),
    );
    put({ state: 'checking', done: made.files });
    tell();
    await answerOf(cli, ['verify', folder, '--json'], { ...CHECKING, signal: stop.signal });
    await own.update({ folder: path });
    writing.delete(own.id);
  };

  run()
    .catch((error: unknown) => put({ state: 'failed', message: withoutPaths((error as Error).message) }))
    .finally(tell);
}

/** Stops the writing of a package; what is written stays. */
export function stopWriting(id: number): void {
  writing.get(id)?.stop.abort();
}
