// Frames of a comp that are written.
import type { Sequelize } from 'sequelize';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import type { CompOutput } from '@bramblemist/core/io/node/comp';
import { Stored, filledColumn, json, key, stored, when, whole } from './columns';

export class CombineRun extends Stored<CombineRun> {
  declare shotId: number;
  declare settings: Combine;
  declare output: CompOutput;
  declare firstFrame: number;
  declare lastFrame: number;
}

export const initCombineRun = (sequelize: Sequelize): unknown =>
  CombineRun.init(
    {
      id: key(),
      shotId: whole(),
      settings: filledColumn('settings', COMBINE),
      output: json('output') as never,
      firstFrame: whole(),
      lastFrame: whole(),
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'combines' },
  );
