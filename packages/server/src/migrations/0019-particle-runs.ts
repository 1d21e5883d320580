import type { QueryInterface } from 'sequelize';

export const name = '0019-particle-runs';

/** Drift is what a shot differs by between two sizes; particles through a bake are runs of particles. */
export async function up(q: QueryInterface): Promise<void> {
  await q.renameTable('drifts', 'particle_runs');
}

export async function down(q: QueryInterface): Promise<void> {
  await q.renameTable('particle_runs', 'drifts');
}
