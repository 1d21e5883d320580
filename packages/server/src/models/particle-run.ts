// Particles through a bake.
import { type Sequelize } from 'sequelize';
import type { ParticleAdvection } from '@bramblemist/core/analysis/particle-settings';
import { Stored, key, text, whole, when, stored, json } from './columns';

export class ParticleRun extends Stored<ParticleRun> {
  declare bakeId: number;
  declare settings: ParticleAdvection;
  declare format: 'ply' | 'csv';
}

export const initParticleRun = (sequelize: Sequelize): unknown =>
  ParticleRun.init(
    {
      id: key(),
      bakeId: whole(),
      settings: json('settings') as never,
      format: text(10) as never,
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'particle_runs' },
  );
