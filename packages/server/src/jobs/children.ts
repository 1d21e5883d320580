// The command line for one answer: checks, probes, tries. Each is a process of its own with bounds on its
// time and memory, only a few run at once, and one whose asker has gone ends.
import { spawn } from 'node:child_process';
import pLimit from 'p-limit';
import { HttpError } from '../http-error';
import { withoutPaths } from '../words';
import { residentBytes } from './engine';

export interface Bounds {
  readonly ms: number;
  /** What its process may hold in memory. */
  readonly bytes: number;
  /** Ends it when nobody waits for the answer any more. */
  readonly signal?: AbortSignal;
}

/** Of a check: a sequence is read from its first frame to its last. */
export const checkBounds = (fileBytes: number): Bounds => ({
  ms: 10_000 + (10_000 * fileBytes) / 100e6,
  bytes: 2 ** 30,
});
/** Of a question that a person waits for. */
export const TRY_BOUNDS = { ms: 60_000, bytes: 4 * 2 ** 30 } as const;

const AT_ONCE = 2;
/** More than so many do not wait. */
const MOST_WAITING = 20;
const WEIGH_EVERY_MS = 200;
const MOST_OUTPUT = 2 ** 24;
const limit = pLimit(AT_ONCE);

/** Why a process gave no answer, in its own words where it has any. */
export class NoAnswer extends Error {
  constructor(
    readonly why: 'said' | 'time' | 'memory' | 'gone',
    message: string,
  ) {
    super(message);
  }
}

/** @throws NoAnswer, HttpError where too many wait already */
export function answerOf(cli: string, args: readonly string[], bounds: Bounds): Promise<string> {
  if (limit.pendingCount >= MOST_WAITING)
    throw new HttpError(429, 'Too many checks and tries wait already. Try again in a moment.');
  return limit(() => run(cli, args, bounds));
}

function run(cli: string, args: readonly string[], { ms, bytes, signal }: Bounds): Promise<string> {
  if (signal?.aborted) return Promise.reject(new NoAnswer('gone', 'Nobody waits for it any more.'));
  return new Promise((done, fail) => {
    const heap = Math.round(bytes / 2 / 2 ** 20);
    const child = spawn(process.execPath, [`--max-old-space-size=${heap}`, cli, ...args], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, BRAMBLEMIST_PARENT: String(process.pid) },
    });
    let out = '';
    let said = '';
    let ended: NoAnswer | null = null;
    const end = (why: NoAnswer['why']): void => {
      ended ??= new NoAnswer(why, '');
      child.kill('SIGKILL');
    };

    const onGone = (): void => end('gone');
    signal?.addEventListener('abort', onGone);
    const timer = setTimeout(() => end('time'), ms);
    // array buffers are not in the heap that the engine bounds
    const scale = setInterval(() => {
      if (child.pid !== undefined)
        void residentBytes(child.pid).then((held) => (held ?? 0) > bytes && end('memory'));
    }, WEIGH_EVERY_MS);
    child.stdout.on('data', (data: Buffer) => {
      out += data.toString();
      if (out.length > MOST_OUTPUT) end('memory');
    });
    child.stderr.on('data', (data: Buffer) => (said = (said + data.toString()).slice(-4000)));
    child.once('error', fail);
    child.once('close', (code) => {
      clearTimeout(timer);
      clearInterval(scale);
      signal?.removeEventListener('abort', onGone);
      if (ended) return fail(ended);
      if (code === 0) return done(out);
      // an engine that ran out of memory says so in a trace that is of no use to anyone
      if (/heap out of memory|FATAL ERROR|allocation failed/i.test(said))
        return fail(new NoAnswer('memory', ''));
      fail(new NoAnswer('said', said.trim() || `The process ended with code ${code}.`));
    });
  });
}

/** Runs the command line for one answer. @throws HttpError with what it said */
export async function toldBy(cli: string, args: readonly string[], bounds: Bounds): Promise<string> {
  try {
    return await answerOf(cli, args, bounds);
  } catch (error) {
    if (!(error instanceof NoAnswer)) throw error;
    throw new HttpError(
      422,
      error.why === 'said'
        ? withoutPaths(error.message)
        : 'Trying it took longer than a minute or too much memory. Start it as a job instead.',
    );
  }
}
