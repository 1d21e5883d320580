// A render over a plate.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { Combine } from '@bramblemist/core/combine/combine';
import { Stored, key, whole, when, stored, json } from './columns';

export class CombineRun extends Stored<CombineRun> {
  declare renderId: number;
  declare plateId: CreationOptional<number | null>;
  declare settings: Combine;
  declare firstFrame: number;
  declare lastFrame: number;
}

export const initCombineRun = (sequelize: Sequelize): unknown =>
  CombineRun.init(
    {
      id: key(),
      renderId: whole(),
      plateId: DataTypes.INTEGER,
      settings: json('settings') as never,
      firstFrame: whole(),
      lastFrame: whole(),
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'combines' },
  );
