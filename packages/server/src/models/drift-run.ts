// Particles through a bake.
import { type Sequelize } from 'sequelize';
import type { ParticleAdvection } from '@bramblemist/core/analysis/advect-particles';
import { Stored, key, text, whole, when, stored, json } from './columns';

export class DriftRun extends Stored<DriftRun> {
  declare bakeId: number;
  declare settings: ParticleAdvection;
  declare format: 'ply' | 'csv';
}

export const initDriftRun = (sequelize: Sequelize): unknown =>
  DriftRun.init(
    {
      id: key(),
      bakeId: whole(),
      settings: json('settings') as never,
      format: text(10) as never,
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'drifts' },
  );
