// Logs and settings of jobs that ended long ago.
import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Op } from 'sequelize';
import { Job } from '../models';

const KEPT_DAYS = 60;

/** Throws away what the folder of jobs holds of jobs that ended so long ago, or are not known any more. */
export async function pruneJobs(folder: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  const since = new Date(Date.now() - KEPT_DAYS * 86_400_000);
  const kept = await Job.findAll({
    where: { [Op.or]: [{ endedAt: null }, { endedAt: { [Op.gt]: since } }] },
    attributes: ['id'],
    raw: true,
  });
  const ids = new Set(kept.map((j) => j.id));
  for (const name of names) {
    const id = /^(\d+)\./.exec(name)?.[1];
    if (id !== undefined && !ids.has(Number(id))) await rm(join(folder, name), { force: true });
  }
}
