// A job of the queue.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { JobKind, JobState } from '@bramblemist/contracts/payloads/jobs';
import { Base, key, text, whole, big, when } from './columns';

/** Jobs that make the cache of a bake. */
export const BAKING: readonly JobKind[] = ['bake', 'tool', 'refine', 'bring'];

export class Job extends Base<Job> {
  declare kind: JobKind;
  declare state: JobState;
  declare targetId: number;
  declare shotId: number;
  declare done: CreationOptional<number>;
  declare total: CreationOptional<number>;
  declare message: CreationOptional<string | null>;
  declare owner: CreationOptional<string | null>;
  /** When the server that runs it last said so. */
  declare beatAt: CreationOptional<Date | null>;
  /** Greater ones go first. */
  declare priority: CreationOptional<number>;
  declare rate: CreationOptional<number | null>;
  declare memory: CreationOptional<number | null>;
  declare startedAt: CreationOptional<Date | null>;
  declare endedAt: CreationOptional<Date | null>;
}

export const initJob = (sequelize: Sequelize): unknown =>
  Job.init(
    {
      id: key(),
      kind: text(20) as never,
      state: text(20) as never,
      targetId: whole(),
      shotId: whole(),
      done: { ...whole(), defaultValue: 0 },
      total: { ...whole(), defaultValue: 0 },
      message: DataTypes.STRING(1000),
      owner: DataTypes.STRING(100),
      beatAt: DataTypes.DATE,
      priority: { ...whole(), defaultValue: 0 },
      rate: DataTypes.DOUBLE,
      memory: big('memory', true),
      startedAt: DataTypes.DATE,
      endedAt: DataTypes.DATE,
      ...when(),
    },
    { sequelize, tableName: 'jobs' },
  );
