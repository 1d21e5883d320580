// The queue: jobs stand in the database and run as child processes (the command line), so that a crash takes
// down one job and nothing else. There are two lanes: one for long work, one for what a person waits for, so
// that a single picture does not wait behind a night's bake. A slot with nothing to do in its own lane lends
// itself to the other: to frames of a long job that do not need each other, until somebody waits. A job whose
// server is gone is taken up again by whoever looks next; what was finished of it stays. The seam is narrow:
// enqueue, stop, pause, go on, put first, and an event for each change.
import { spawn } from 'node:child_process';
import { EventEmitter } from 'node:events';
import { appendFile, mkdir, readFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { randomUUID } from 'node:crypto';
import { hostname } from 'node:os';
import { createInterface } from 'node:readline';
import type { Logger } from 'pino';
import type { JobKind, JobState } from '@bramblemist/contracts/payloads/jobs';
import { ConnectionError, type Transaction } from 'sequelize';
import { DiskFullError } from '@bramblemist/core/io/node/files';
import { HttpError } from '../http-error';
import { withoutPaths } from '../words';
import { Job } from '../models';
import { Work, type Lane, type Part } from './work';

/** What a kind of job runs, and what it does with each line that comes back. */
export interface JobRunner {
  /**
   * Arguments for the command line, of a kind with `frames` for those from the first to the last of a chunk.
   * Throws where the job cannot start.
   */
  command(job: Job, chunk?: { first: number; last: number }): Promise<string[]>;
  /**
   * Of a kind whose frames do not need each other: all that are to be made, in order, and which of them are
   * missing.
   */
  frames?(job: Job): Promise<{ all: number[]; missing: number[] }>;
  /** A progress line of the child. */
  onLine(job: Job, line: Record<string, unknown>): Promise<void>;
  /** Whether what it makes is there to be made: it may have been cleared. Null, or what is in the way. */
  hindrance?(job: Job): Promise<string | null>;
  /** Brings the database to what is on the disk, before the child starts and after it has ended. */
  reconcile?(job: Job): Promise<void>;
}

/** Children at once in each lane. */
const SLOTS: Readonly<Record<Lane, number>> = { long: 1, waited: 1 };
/** What a person waits for: pictures of so many frames at the most, and looking files over. */
const WAITED: readonly JobKind[] = ['render', 'combine', 'movie', 'savings'];
const FEW_FRAMES = 2;
/** A job is as long as this at the most, and so many may wait. */
export const MOST_FRAMES = 20_000;
const MOST_WAITING = 500;
/** A child that was asked to end is made to after so long. */
const KILL_AFTER_MS = 2000;

export function laneOf({ kind, total }: Pick<Job, 'kind' | 'total'>): Lane {
  return WAITED.includes(kind) && total <= FEW_FRAMES ? 'waited' : 'long';
}

const POLL_MS = 1000;
const BEAT_MS = 2000;
/** A job whose server has not said anything for so long is taken from it … */
const GONE_MS = 12_000;
/**
 * … once it has been seen silent for so long: a server and its database may both have been away, and come
 * back together.
 */
const SILENT_MS = 5000;
/** Of a server whose process is gone: until its children have seen that too (parent.ts of packages/cli). */
const DEAD_MS = 1000;
/** What the command line ends with where the disk has no room. */
const NO_ROOM = 3;
/** How long a job waits for a database that does not answer, and how often it asks. */
const PATIENCE_MS = 600_000;
const ASK_MS = 1000;

export class JobEngine extends EventEmitter {
  private readonly owner = `${hostname()}:${process.pid}:${randomUUID()}`;
  /** What runs here, by the number of its job. */
  private readonly works = new Map<number, Work>();
  private timer: NodeJS.Timeout | null = null;
  private closing = false;
  private readonly busy = new Set<Promise<void>>();
  private looking = false;
  /** Lines of logs go to the disk in their order. */
  private notes: Promise<unknown> = Promise.resolve();
  /** Jobs that seem to have been left, by their last beat, and since when they were seen so. */
  private readonly silent = new Map<number, { beat: number; since: number }>();

  constructor(
    readonly cli: string,
    private readonly runners: Readonly<Record<JobKind, JobRunner>>,
    private readonly log: Logger,
    /** Where what a job says is written. */
    private readonly logFile: (id: number) => string,
  ) {
    super();
    this.setMaxListeners(200);
  }

  async start(): Promise<void> {
    await this.takeUpLeft();
    this.timer = setInterval(() => this.look(), POLL_MS);
    this.look();
  }

  /** Jobs that a server left behind when it died wait again. */
  private async takeUpLeft(): Promise<void> {
    const running = await Job.findAll({ where: { state: 'running' } });
    const old = Date.now() - GONE_MS;
    const left = running.filter((job) => isDead(job.owner) || (job.beatAt?.getTime() ?? 0) < old);
    for (const id of this.silent.keys()) if (!left.some((j) => j.id === id)) this.silent.delete(id);
    for (const job of left) {
      const beat = job.beatAt?.getTime() ?? 0;
      const known = this.silent.get(job.id);
      if (known?.beat !== beat) {
        this.silent.set(job.id, { beat, since: Date.now() });
        continue;
      }

      if (Date.now() - known.since < (isDead(job.owner) ? DEAD_MS : SILENT_MS)) continue;
      // the one that does it is the one that says it
      const [taken] = await Job.update(
        { state: 'queued', owner: null, beatAt: null },
        { where: { id: job.id, state: 'running', owner: job.owner ?? null, beatAt: job.beatAt ?? null } },
      );
      this.silent.delete(job.id);
      if (taken !== 1) continue;
      this.note(job.id, 'its server was gone; it waits again');
      this.emit('job', await job.reload());
    }
  }

  /** A line in the job's log. */
  private note(id: number, text: string): void {
    const path = this.logFile(id);
    const line = `${new Date().toISOString()} ${text}\n`;
    this.notes = this.notes
      .then(() => mkdir(dirname(path), { recursive: true }))
      .then(() => appendFile(path, line))
      .catch((error: unknown) => this.log.warn({ error, job: id }, 'its log cannot be written'));
  }

  /**
   * A job that waits. With a transaction it is there when that is, together with what it makes.
   * @throws HttpError where it is too long, or too many wait
   */
  async enqueue(
    kind: JobKind,
    targetId: number,
    shotId: number,
    total: number,
    transaction?: Transaction,
  ): Promise<Job> {
    if (total > MOST_FRAMES)
      throw new HttpError(
        422,
        `That is ${total} frames; a job has at most ${MOST_FRAMES}. Take fewer at once.`,
      );
    if ((await Job.count({ where: { state: 'queued' } })) >= MOST_WAITING)
      throw new HttpError(429, `${MOST_WAITING} jobs wait already. Stop some, or wait until some are done.`);
    const job = await Job.create({ kind, state: 'queued', targetId, shotId, total }, { transaction });
    const there = (): void => {
      this.emit('job', job);
      this.look();
    };

    if (transaction) transaction.afterCommit(there);
    else there();
    return job;
  }

  /** Stops a job that waits, runs or is paused; what it finished stays. */
  stop(id: number): Promise<Job | null> {
    return this.halt(id, 'stopped', ['queued', 'running', 'paused']);
  }

  /** The same, to go on later. */
  pause(id: number): Promise<Job | null> {
    return this.halt(id, 'paused', ['queued', 'running']);
  }

  private async halt(id: number, to: 'stopped' | 'paused', from: readonly JobState[]): Promise<Job | null> {
    const job = await Job.findByPk(id);
    if (!job || !from.includes(job.state)) return job;
    const [done] = await Job.update(
      { state: to, endedAt: to === 'stopped' ? new Date() : null },
      { where: { id, state: job.state } },
    );
    await job.reload();
    if (done !== 1) return job;
    // of a job that another server runs, that one sees it with its next beat
    this.endParts(this.works.get(id));
    this.emit('job', job);
    return job;
  }

  /**
   * A job that was paused, stopped or failed waits again. @returns null where there is none; the job as it is
   * where it cannot
   */
  async goOn(id: number): Promise<Job | null> {
    const waits = await Job.findByPk(id);
    const hindrance = waits && (await this.runners[waits.kind].hindrance?.(waits));
    if (hindrance) throw new HttpError(409, hindrance);
    const [done] = await Job.update(
      { state: 'queued', message: null, endedAt: null, startedAt: null, owner: null },
      { where: { id, state: ['paused', 'stopped', 'failed'] } },
    );
    const job = await Job.findByPk(id);
    if (job && done === 1) {
      this.emit('job', job);
      this.look();
    }

    return job;
  }

  /** A job that waits goes before all others that do. */
  async first(id: number): Promise<Job | null> {
    const most = ((await Job.max('priority', { where: { state: 'queued' } })) as number | null) ?? 0;
    await Job.update({ priority: most + 1 }, { where: { id, state: 'queued' } });
    const job = await Job.findByPk(id);
    if (job) this.emit('job', job);
    return job;
  }

  /** Ends the running children and waits for them. */
  async close(): Promise<void> {
    this.closing = true;
    if (this.timer) clearInterval(this.timer);
    // a job that was being taken as this began is there only when that is over
    while (this.busy.size > 0) {
      for (const work of this.works.values()) this.endParts(work);
      await Promise.race(this.busy);
    }

    await this.notes;
  }

  /** Asks a child to end, and makes it where it does not listen. */
  private end({ child }: Part): void {
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    child.kill('SIGTERM');
    setTimeout(() => child.kill('SIGKILL'), KILL_AFTER_MS).unref();
  }

  private endParts(work: Work | undefined): void {
    for (const part of work?.parts ?? []) this.end(part);
  }

  private look(): void {
    if (this.looking || this.closing) return;
    this.looking = true;
    this.keepBusy(
      this.serve().finally(() => {
        this.looking = false;
      }),
    );
  }

  /** Work that closing waits for. */
  private keepBusy(work: Promise<void>): void {
    const watched = work
      .catch((error: unknown) => this.log.error({ error }, 'a job could not be brought to its end'))
      .finally(() => this.busy.delete(watched));
    this.busy.add(watched);
  }

  private parts(lane: Lane): Part[] {
    return [...this.works.values()].flatMap((w) => [...w.parts]).filter((p) => p.lane === lane);
  }

  private freeSlots(lane: Lane): number {
    return SLOTS[lane] - this.parts(lane).length;
  }

  /** Gives free slots what waits: first each lane its own, then what may lend itself to the other. */
  private async serve(): Promise<void> {
    await this.takeUpLeft();
    const waiting = await Job.findAll({
      where: { state: 'queued' },
      order: [
        ['priority', 'DESC'],
        ['id', 'ASC'],
      ],
      limit: 100,
    });
    const begun = [...this.works.values()].filter((w) => w.hasMore).map((w) => w.job);
    const all = [...waiting, ...begun].sort((a, b) => b.priority - a.priority || a.id - b.id);
    for (const job of all) {
      const lane = laneOf(job);
      if (this.freeSlots(lane) > 0) await this.serveJob(job, lane);
      else if (lane === 'waited') this.takeBack(lane);
    }

    for (const job of all) {
      const other: Lane = laneOf(job) === 'long' ? 'waited' : 'long';
      const maySplit = this.runners[job.kind].frames !== undefined;
      if (maySplit && this.freeSlots(other) > 0) await this.serveJob(job, other);
    }

    // of a job with frames left that got no slot others may go first
    for (const work of [...this.works.values()])
      if (work.hasMore && work.parts.size === 0) await this.handBack(work);
  }

  /** Ends a long job's chunk in a lane that somebody waits for. */
  private takeBack(lane: Lane): void {
    for (const work of this.works.values())
      for (const part of work.parts)
        if (part.lane === lane && laneOf(work.job) !== lane && part.child) {
          part.givenBack = true;
          this.end(part);
        }
  }

  private async serveJob(job: Job, lane: Lane): Promise<void> {
    if (this.closing) return;
    const known = this.works.get(job.id);
    if (known) {
      if (known.hasMore) this.keepBusy(this.runPart(known, known.open(lane)));
      return;
    }

    // only one server can turn it from queued to running
    const [taken] = await Job.update(
      { state: 'running', owner: this.owner, startedAt: new Date(), beatAt: new Date() },
      { where: { id: job.id, state: 'queued' } },
    );
    if (taken !== 1) return;
    const work = new Work(await job.reload());
    this.works.set(job.id, work);
    this.keepBusy(this.begin(work, work.open(lane)));
  }

  /** The first part of a job: finds out what there is to do. */
  private async begin(work: Work, part: Part): Promise<void> {
    const { job } = work;
    const runner = this.runners[job.kind];
    this.note(job.id, 'started');
    this.emit('job', job);
    work.beat = setInterval(() => void this.beat(work), BEAT_MS);
    try {
      await this.patiently(async () => runner.reconcile?.(job));
      const frames = runner.frames && (await this.patiently(() => runner.frames!(job)));
      if (frames) {
        work.plan(frames);
        await this.patiently(() => job.update({ done: work.done, total: frames.all.length }));
      }

      work.begun = { done: work.done, at: Date.now() };
    } catch (error) {
      this.trouble(work, error as Error);
    }

    await this.runPart(work, part);
  }

  private trouble(work: Work, error: Error): void {
    const full = (error as NodeJS.ErrnoException).code === 'ENOSPC' || error instanceof DiskFullError;
    work.outcome ??= { state: full ? 'paused' : 'failed', message: error.message };
  }

  private async runPart(work: Work, part: Part): Promise<void> {
    const { job } = work;
    try {
      work.hand(part);
      // others may take what is left
      if (work.hasMore) this.look();
      if (work.outcome === null && part.frames?.length !== 0) await this.runChild(work, part);
    } catch (error) {
      this.trouble(work, error as Error);
    }

    const missing = work.drop(part);
    if (missing.length > 0) this.note(job.id, `${missing.length} frames of a chunk are handed out again`);
    if (work.outcome) this.endParts(work);
    if (work.parts.size === 0) await this.conclude(work);
    this.look();
  }

  /** What becomes of a job whose last child has ended. */
  private async conclude(work: Work): Promise<void> {
    const { job, outcome } = work;
    try {
      // what a killed child had written but not said
      await this.patiently(async () => this.runners[job.kind].reconcile?.(job));
      await this.patiently(() => job.reload());
      // a slot took up more of it meanwhile
      if (work.parts.size > 0) return;
      if (job.state !== 'running' || job.owner !== this.owner) this.forget(work);
      else if (this.closing && (work.isInterrupted || work.hasMore)) await this.handBack(work);
      else if (outcome) await this.finish(work, outcome.state, outcome.message);
      else if (!work.hasMore) await this.finish(work, 'done', null);
    } catch (error) {
      if (this.works.get(job.id) === work) await this.finish(work, 'failed', (error as Error).message);
      else throw error;
    }
  }

  private forget(work: Work): void {
    clearInterval(work.beat);
    // it may have been taken up anew meanwhile
    if (this.works.get(work.job.id) === work) this.works.delete(work.job.id);
    this.emit('job', work.job);
  }

  /** A job that is not done waits again: for its turn, or for the next start. */
  private async handBack(work: Work): Promise<void> {
    const { id } = work.job;
    await Job.update(
      { state: 'queued', owner: null, beatAt: null, memory: null },
      { where: { id, state: 'running', owner: this.owner } },
    );
    await work.job.reload();
    this.note(id, 'waits again');
    this.forget(work);
  }

  /**
   * Says that the job is still ours; where it is not any more, or is halted by another server, its children
   * end.
   */
  private async beat(work: Work): Promise<void> {
    const { job } = work;
    try {
      const pids = [...work.parts].flatMap((p) => (p.child?.pid === undefined ? [] : [p.child.pid]));
      const sizes = await Promise.all(pids.map(residentBytes));
      const memory = sizes.length > 0 ? sizes.reduce<number>((sum, n) => sum + (n ?? 0), 0) : null;
      const [ours] = await Job.update(
        { beatAt: new Date(), memory },
        { where: { id: job.id, state: 'running', owner: this.owner } },
      );
      if (ours !== 1) this.endParts(work);
    } catch (error) {
      this.log.warn({ error, job: job.id }, 'the database does not answer; the job goes on');
    }
  }

  private async runChild(work: Work, part: Part): Promise<void> {
    const { job } = work;
    const { frames } = part;
    const chunk = frames ? { first: frames[0], last: frames[frames.length - 1] } : undefined;
    const args = await this.patiently(() => this.runners[job.kind].command(job, chunk));
    if ((await this.patiently(() => job.reload())).state !== 'running') return;
    work.isInterrupted ||= this.closing;
    if (this.closing || part.givenBack) return;
    const child = spawn(process.execPath, [this.cli, ...args], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, BRAMBLEMIST_PARENT: String(process.pid) },
    });
    part.child = child;
    let errors = '';
    let pending: Promise<void> = Promise.resolve();
    child.stderr.on('data', (data: Buffer) => {
      errors = (errors + data.toString()).slice(-4000);
      this.note(job.id, data.toString().trim());
    });
    createInterface({ input: child.stdout }).on('line', (text) => {
      pending = pending
        .then(() => this.patiently(() => this.line(work, part, text)))
        .catch((error: Error) => this.trouble(work, error));
    });
    const [code, signal] = await new Promise<[number | null, NodeJS.Signals | null]>((done, fail) => {
      child.once('error', fail);
      child.once('close', (c, s) => done([c, s]));
    });
    await pending;
    work.isInterrupted ||= this.closing && code !== 0;
    if (this.closing || part.givenBack) return;
    const missed = frames?.filter((f) => !part.made.has(f)) ?? [];
    if (code === 0 && missed.length > 0)
      throw new Error(`The process ended without frame ${missed[0]}. Its source may have changed meanwhile.`);
    if (code === 0) return;
    const message = signal
      ? `The process was ended from outside (${signal})` +
        `${signal === 'SIGKILL' ? ', perhaps since memory ran out' : ''}. Finished frames are whole and kept.`
      : lastLines(errors) || `The process ended with code ${code}.`;
    work.outcome ??= { state: code === NO_ROOM ? 'paused' : 'failed', message };
  }

  private async line(work: Work, part: Part, text: string): Promise<void> {
    const { job } = work;
    let line: Record<string, unknown>;
    try {
      line = JSON.parse(text) as Record<string, unknown>;
    } catch {
      return;
    }

    await this.runners[job.kind].onLine(job, line);
    if (line.event === 'start' && work.total === null)
      work.begun = { done: Number(line.done ?? 0), at: Date.now() };
    if (line.event !== 'frame') return;
    if (part.frames?.includes(Number(line.frame))) part.made.add(Number(line.frame));
    const total = work.total ?? Number(line.total);
    const done = work.total === null ? Number(line.done) : work.done;
    const seconds = (Date.now() - work.begun.at) / 1000;
    const rate = seconds > 0 ? (done - work.begun.done) / seconds : null;
    await Job.update({ done, total, rate }, { where: { id: job.id } });
    Object.assign(job, { done, total, rate });
    const frame = line.frame === undefined ? '' : `: frame ${String(line.frame)}`;
    const size = line.bytes === undefined ? '' : `, ${String(line.bytes)} bytes`;
    this.note(job.id, `${done} of ${total}${frame}${size}`);
    this.emit('job', job);
  }

  /** Asks a database that does not answer again and again: it may be started anew. */
  private async patiently<T>(act: () => Promise<T>): Promise<T> {
    for (const end = Date.now() + PATIENCE_MS; ;) {
      try {
        return await act();
      } catch (error) {
        if (!isAway(error) || this.closing || Date.now() > end) throw error;
        this.log.warn({ error }, 'the database does not answer; the job waits for it');
        await new Promise((done) => setTimeout(done, ASK_MS));
      }
    }
  }

  private async finish(
    work: Work,
    state: 'done' | 'failed' | 'paused',
    message: string | null,
  ): Promise<void> {
    const { job } = work;
    this.note(job.id, message === null ? state : `${state}: ${message}`);
    try {
      await this.patiently(() =>
        job.update({
          state,
          message: message === null ? null : withoutPaths(message).slice(0, 1000),
          endedAt: state === 'paused' ? null : new Date(),
          memory: null,
        }),
      );
      this.log.info({ job: job.id, kind: job.kind, state, message }, 'job ended');
    } finally {
      this.forget(work);
    }
  }
}

/** Whether the server that a job belongs to ran on this machine and is gone: its process is not there. */
function isDead(owner: string | null): boolean {
  const [host, pid] = owner?.split(':') ?? [];
  if (host !== hostname() || !/^\d+$/.test(pid ?? '')) return false;
  try {
    process.kill(Number(pid), 0);
    return false;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'ESRCH';
  }
}

/** Whether the database could not be reached, or went away under a query. */
export function isAway(error: unknown): boolean {
  if (error instanceof ConnectionError) return true;
  const { original } = error as { original?: { fatal?: boolean; sqlState?: string | null } };
  return original?.fatal === true || (original?.sqlState ?? '').startsWith('08');
}

const lastLines = (text: string): string => text.trim().split('\n').slice(-3).join(' ');

/** What a process holds in memory; null where the system does not say. */
export async function residentBytes(pid: number): Promise<number | null> {
  try {
    const kilobytes = /^VmRSS:\s+(\d+) kB/m.exec(await readFile(`/proc/${pid}/status`, 'utf8'))?.[1];
    return kilobytes === undefined ? null : Number(kilobytes) * 1024;
  } catch {
    return null;
  }
}
