// A finished frame of a bake.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { Incident } from '@bramblemist/core/record/incident';
import type { Readings } from '@bramblemist/core/record/readings';
import { Base, key, text, whole, big, when, json } from './columns';

export class Frame extends Base<Frame> {
  declare bakeId: number;
  declare frame: number;
  declare file: string;
  declare bytes: number;
  declare sha256: string;
  declare readings: Readings;
  declare incidents: CreationOptional<Incident[]>;
  /** The moment that it shows, s since the start; null where its number says so. */
  declare timeS: CreationOptional<number | null>;
}

export const initFrame = (sequelize: Sequelize): unknown =>
  Frame.init(
    {
      id: key(),
      bakeId: whole(),
      frame: whole(),
      file: text(200),
      bytes: big(),
      sha256: text(64),
      readings: json('readings') as never,
      incidents: { ...json('incidents'), field: 'notices', defaultValue: '[]' } as never,
      timeS: DataTypes.DOUBLE,
      ...when(),
    },
    { sequelize, tableName: 'frames' },
  );
