// A comp of a shot as it was put aside, with a line on what it is.
import type { Sequelize } from 'sequelize';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { Base, filledColumn, key, note, whole, when } from './columns';

export class CompVersion extends Base<CompVersion> {
  declare shotId: number;
  /** Counts those of its shot. */
  declare number: number;
  declare note: string;
  declare settings: Combine;
}

export const initCompVersion = (sequelize: Sequelize): unknown =>
  CompVersion.init(
    {
      id: key(),
      shotId: whole(),
      number: whole(),
      note: note(),
      settings: filledColumn('settings', COMBINE),
      ...when(),
    },
    { sequelize, tableName: 'comp_versions' },
  );
