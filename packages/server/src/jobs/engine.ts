// The queue: jobs stand in the database, one at a time runs as a child process (the command line), so that a crash takes
// down that job and nothing else. A job whose server is gone is taken up again by whoever looks next; what was finished of it
// stays. The seam is narrow: enqueue, stop, pause, go on, put first, and an event for each change.
import { spawn, type ChildProcess } from 'node:child_process';
import { EventEmitter } from 'node:events';
import { randomUUID } from 'node:crypto';
import { createInterface } from 'node:readline';
import type { Logger } from 'pino';
import type { JobKind, JobState } from '@bramblemist/contracts/payloads';
import { Op } from 'sequelize';
import { Job } from '../models';

/** What a kind of job runs, and what it does with each line that comes back. */
export interface JobRunner {
  /** Arguments for the command line. Throws where the job cannot start. */
  command(job: Job): Promise<string[]>;
  /** A progress line of the child. */
  onLine(job: Job, line: Record<string, unknown>): Promise<void>;
}

const POLL_MS = 1000;
const BEAT_MS = 2000;
/** A job whose server has not said anything for so long is taken from it. */
const GONE_MS = 12_000;

export class JobEngine extends EventEmitter {
  private readonly owner = randomUUID();
  private child: ChildProcess | null = null;
  private current: Job | null = null;
  private timer: NodeJS.Timeout | null = null;
  private closing = false;
  private busy: Promise<void> = Promise.resolve();
  private looking = false;

  constructor(
    readonly cli: string,
    private readonly runners: Readonly<Record<JobKind, JobRunner>>,
    private readonly log: Logger,
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
    const left = await Job.findAll({
      where: { state: 'running', [Op.or]: [{ beatAt: null }, { beatAt: { [Op.lt]: new Date(Date.now() - GONE_MS) } }] },
    });
    for (const job of left) {
      // the one that does it is the one that says it
      const [taken] = await Job.update(
        { state: 'queued', owner: null, beatAt: null },
        { where: { id: job.id, state: 'running', owner: job.owner ?? null } },
      );
      if (taken === 1) this.emit('job', await job.reload());
    }
  }

  async enqueue(kind: JobKind, targetId: number, shotId: number, total: number): Promise<Job> {
    const job = await Job.create({ kind, state: 'queued', targetId, shotId, total });
    this.emit('job', job);
    this.look();
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
    const [done] = await Job.update({ state: to, endedAt: to === 'stopped' ? new Date() : null }, { where: { id, state: job.state } });
    await job.reload();
    if (done !== 1) return job;
    // of a job that another server runs, that one sees it with its next beat
    if (this.current?.id === id) this.child?.kill('SIGTERM');
    else this.emit('job', job);
    return job;
  }

  /** A job that was paused, stopped or failed waits again. @returns null where there is none; the job as it is where it cannot */
  async goOn(id: number): Promise<Job | null> {
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

  /** Ends the running child and waits for it. */
  async close(): Promise<void> {
    this.closing = true;
    if (this.timer) clearInterval(this.timer);
    this.child?.kill('SIGTERM');
    await this.busy;
  }

  private look(): void {
    if (this.looking || this.closing) return;
    this.looking = true;
    this.busy = this.serve()
      .catch((error: unknown) => this.log.error({ error }, 'the queue stumbled'))
      .finally(() => {
        this.looking = false;
      });
  }

  private async serve(): Promise<void> {
    for (;;) {
      if (this.closing) return;
      await this.takeUpLeft();
      const next = await Job.findOne({
        where: { state: 'queued' },
        order: [
          ['priority', 'DESC'],
          ['id', 'ASC'],
        ],
      });
      if (!next) return;
      // only one server can turn it from queued to running
      const [taken] = await Job.update(
        { state: 'running', owner: this.owner, startedAt: new Date(), beatAt: new Date() },
        { where: { id: next.id, state: 'queued' } },
      );
      if (taken === 1) await this.run(await next.reload());
    }
  }

  private async run(job: Job): Promise<void> {
    this.current = job;
    this.emit('job', job);
    const beat = setInterval(() => void this.beat(job), BEAT_MS);
    try {
      const args = await this.runners[job.kind].command(job);
      await this.runChild(job, args);
    } catch (error) {
      await this.finish(job, 'failed', (error as Error).message);
    } finally {
      clearInterval(beat);
      this.current = null;
      this.child = null;
    }
  }

  /** Says that the job is still ours; where it is not any more, or is halted by another server, its child ends. */
  private async beat(job: Job): Promise<void> {
    try {
      const [ours] = await Job.update({ beatAt: new Date() }, { where: { id: job.id, state: 'running', owner: this.owner } });
      if (ours !== 1) this.child?.kill('SIGTERM');
    } catch (error) {
      this.log.warn({ error, job: job.id }, 'the database does not answer; the job goes on');
    }
  }

  private async runChild(job: Job, args: string[]): Promise<void> {
    const child = spawn(process.execPath, [this.cli, ...args], { stdio: ['ignore', 'pipe', 'pipe'] });
    this.child = child;
    let errors = '',
      pending: Promise<void> = Promise.resolve(),
      trouble: Error | null = null;
    child.stderr.on('data', (data: Buffer) => (errors = (errors + data.toString()).slice(-4000)));
    createInterface({ input: child.stdout }).on('line', (text) => {
      pending = pending.then(() => this.line(job, text)).catch((error: Error) => void (trouble ??= error));
    });
    const [code, signal] = await new Promise<[number | null, NodeJS.Signals | null]>((done, fail) => {
      child.once('error', fail);
      child.once('close', (c, s) => done([c, s]));
    });
    await pending;
    await job.reload();
    if (job.state !== 'running' || job.owner !== this.owner) return void this.emit('job', job);
    if (this.closing && code !== 0) {
      // it goes on with the next start
      await job.update({ state: 'queued', owner: null, beatAt: null });
      return void this.emit('job', job);
    }
    if (trouble) return this.finish(job, 'failed', (trouble as Error).message);
    if (signal)
      return this.finish(
        job,
        'failed',
        `The process was ended from outside (${signal})${signal === 'SIGKILL' ? ', perhaps since memory ran out' : ''}. Finished frames are whole and kept.`,
      );
    if (code !== 0)
      return this.finish(job, 'failed', errors.trim().split('\n').slice(-3).join(' ') || `The process ended with code ${code}.`);
    return this.finish(job, 'done', null);
  }

  private async line(job: Job, text: string): Promise<void> {
    let line: Record<string, unknown>;
    try {
      line = JSON.parse(text) as Record<string, unknown>;
    } catch {
      return;
    }
    await this.runners[job.kind].onLine(job, line);
    if (line.event === 'frame') {
      await Job.update({ done: Number(line.done), total: Number(line.total) }, { where: { id: job.id } });
      job.done = Number(line.done);
      job.total = Number(line.total);
      this.emit('job', job);
    }
  }

  private async finish(job: Job, state: 'done' | 'failed', message: string | null): Promise<void> {
    await job.update({ state, message: message?.slice(0, 1000) ?? null, endedAt: new Date() });
    this.log.info({ job: job.id, kind: job.kind, state, message }, 'job ended');
    this.emit('job', job);
  }
}
