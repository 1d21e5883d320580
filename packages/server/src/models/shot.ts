// A shot, with its views, how its reference is used, and how it stands on the board.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { ShotStatus } from '@bramblemist/contracts/payloads/board';
import type { ReferenceUse, View } from '@bramblemist/contracts/payloads/shot';
import { Base, key, text, whole, when, note, json } from './columns';

export class Shot extends Base<Shot> {
  declare productionId: number;
  declare name: string;
  declare note: CreationOptional<string>;
  declare views: CreationOptional<View[]>;
  declare reference: CreationOptional<ReferenceUse>;
  declare revision: CreationOptional<number>;
  declare status: CreationOptional<ShotStatus>;
  declare assignee: CreationOptional<string>;
  /** A day as 2026-11-29; null without. */
  declare due: CreationOptional<string | null>;
  /** Shots of a production stand in the order of it. */
  declare place: CreationOptional<number>;
  declare archivedAt: CreationOptional<Date | null>;
}

export const initShot = (sequelize: Sequelize): unknown =>
  Shot.init(
    {
      id: key(),
      productionId: whole(),
      name: text(120),
      note: note(),
      ...when(),
      views: { ...json('views'), defaultValue: '[]' } as never,
      reference: { ...json('reference'), defaultValue: '{}' } as never,
      revision: { ...whole(), defaultValue: 1 },
      status: { ...text(20), defaultValue: 'work' } as never,
      assignee: { ...text(80), defaultValue: '' },
      due: DataTypes.DATEONLY,
      place: { ...whole(), defaultValue: 0 },
      archivedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'shots' },
  );
