// Everything that runs, started and stopped together.
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pino from 'pino';
import type { Sequelize } from 'sequelize';
import type { JobKind } from '@bramblemist/contracts/payloads/jobs';
import type { StoredKind } from '@bramblemist/contracts/payloads/storage';
import { createApp } from './app';
import type { Config } from './config';
import { connect } from './database';
import { bakeDemo, loadDemo } from './demo';
import { Events } from './events';
import { JobEngine } from './jobs/engine';
import { pruneJobs } from './jobs/prune';
import { runners } from './jobs/runners';
import { Shot, type Job } from './models';
import { sweep } from './routes/receive';
import { measure } from './storage/keep';
import { renameFolders } from './storage/rename-folders';
import { shelvePlates } from './storage/shelve-plates';
import { Storage } from './storage/storage';
import { jobInfo } from './views';

/** What jobs of a kind make, as it stands on the disk. */
const MADE_BY: Readonly<Partial<Record<JobKind, StoredKind>>> = {
  bake: 'bakes',
  tool: 'bakes',
  refine: 'bakes',
  bring: 'bakes',
  render: 'renders',
  combine: 'combines',
  sheet: 'sheets',
  particles: 'particles',
};

export interface Running {
  readonly address: string;
  readonly engine: JobEngine;
  readonly database: Sequelize;
  close(): Promise<void>;
}

/**
 * @param shared the database of another server in this process, which ends with that one: a process has one,
 *   since the models are bound to it
 * @throws Error where the database does not answer or the port is taken
 */
export async function startServer(config: Config, shared?: Sequelize): Promise<Running> {
  const log = pino({ level: process.env.LOG_LEVEL ?? 'info' }, pino.destination(2));
  const database = shared ?? (await connect(config.database));
  const closeDatabase = async (): Promise<void> => {
    if (!shared) await database.close();
  };

  const storage = new Storage(config.dataFolder, config.volumesFolder, config.handOverFolder);
  const events = new Events();
  const engine = new JobEngine(config.cli, runners(storage), log, (id) => storage.jobLog(id));
  engine.on('job', ({ kind, state, targetId }: Job) => {
    const made = MADE_BY[kind];
    if (made && !['queued', 'running'].includes(state))
      measure(storage, made, targetId).catch((error: unknown) =>
        log.warn({ error }, 'a size was not measured'),
      );
  });
  const names = new Map<number, string>();
  engine.on('job', (job: Job) => {
    const tell = async (): Promise<void> => {
      if (!names.has(job.shotId)) names.set(job.shotId, (await Shot.findByPk(job.shotId))?.name ?? '');
      events.tell({ kind: 'job', shotId: job.shotId, job: jobInfo(job, names.get(job.shotId)!) });
    };

    tell().catch((error: unknown) => log.warn({ error, job: job.id }, 'a job’s progress was not told'));
  });
  await renameFolders(config.dataFolder);
  await shelvePlates(database, storage);
  const isNew = config.demoFolder !== null && (await loadDemo(storage, config.demoFolder, config.cli));
  await sweep(storage.uploads());
  await pruneJobs(storage.jobsFolder());
  await engine.start();
  if (isNew && config.bakesDemo) await bakeDemo(engine);
  const app = createApp({ storage, engine, events, log, webFolder: config.webFolder });
  const server = await new Promise<Server>((done, fail) => {
    const s = app.listen(config.port, config.host, (error?: Error) => (error ? fail(error) : done(s)));
    s.once('error', fail);
  }).catch(async (error: NodeJS.ErrnoException) => {
    await engine.close();
    await closeDatabase();
    throw error.code === 'EADDRINUSE'
      ? new Error(`Port ${config.port} is taken. Choose another: BRAMBLEMIST_PORT=4811 npm start`)
      : error;
  });
  return {
    address: `http://${config.host}:${(server.address() as AddressInfo).port}`,
    engine,
    database,
    close: async () => {
      // nobody asks for work any more, then the work ends, then what it is written in
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
      await engine.close();
      await closeDatabase();
    },
  };
}
