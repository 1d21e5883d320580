// The queue: jobs stand in the database, one at a time runs as a child process (the command line), so that a crash takes
// down that job and nothing else. The seam is narrow: enqueue, stop, and an event for each change.
import { spawn, type ChildProcess } from 'node:child_process';
import { EventEmitter } from 'node:events';
import { randomUUID } from 'node:crypto';
import { createInterface } from 'node:readline';
import type { Logger } from 'pino';
import type { JobKind } from '@bramblemist/contracts/payloads';
import { Job } from '../models';

/** What a kind of job runs, and what it does with each line that comes back. */
export interface JobRunner {
  /** Arguments for the command line. Throws where the job cannot start. */
  command(job: Job): Promise<string[]>;
  /** A progress line of the child. */
  onLine(job: Job, line: Record<string, unknown>): Promise<void>;
}

const POLL_MS = 1000;

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

  /** Jobs that a server left behind when it died are failed, with the reason; then the queue is served. */
  async start(): Promise<void> {
    const left = await Job.findAll({ where: { state: 'running' } });
    for (const job of left) {
      await job.update({
        state: 'failed',
        message: 'The server stopped while this ran. What was finished is kept; start it again.',
        endedAt: new Date(),
      });
    }
    this.timer = setInterval(() => this.look(), POLL_MS);
    this.look();
  }

  async enqueue(kind: JobKind, targetId: number, shotId: number, total: number): Promise<Job> {
    const job = await Job.create({ kind, state: 'queued', targetId, shotId, total });
    this.emit('job', job);
    this.look();
    return job;
  }

  /** Stops a job that waits or runs; what it finished stays. */
  async stop(id: number): Promise<Job | null> {
    const job = await Job.findByPk(id);
    if (!job) return null;
    if (job.state === 'queued') {
      await job.update({ state: 'stopped', endedAt: new Date() });
      this.emit('job', job);
    } else if (job.state === 'running' && this.current?.id === id) {
      await job.update({ state: 'stopped', endedAt: new Date() });
      this.child?.kill('SIGTERM');
    }
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
      const next = await Job.findOne({ where: { state: 'queued' }, order: [['id', 'ASC']] });
      if (!next) return;
      // only one server can turn it from queued to running
      const [taken] = await Job.update(
        { state: 'running', owner: this.owner, startedAt: new Date() },
        { where: { id: next.id, state: 'queued' } },
      );
      if (taken === 1) await this.run(await next.reload());
    }
  }

  private async run(job: Job): Promise<void> {
    this.current = job;
    this.emit('job', job);
    try {
      const args = await this.runners[job.kind].command(job);
      await this.runChild(job, args);
    } catch (error) {
      await this.finish(job, 'failed', (error as Error).message);
    } finally {
      this.current = null;
      this.child = null;
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
    if (job.state === 'stopped') return void this.emit('job', job);
    if (this.closing)
      return this.finish(job, 'failed', 'The server was stopped while this ran. What was finished is kept; start it again.');
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
