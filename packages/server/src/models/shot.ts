// A shot, with its views and how its reference is used.
import { type CreationOptional, type Sequelize } from 'sequelize';
import type { ReferenceUse, View } from '@bramblemist/contracts/payloads';
import { Base, key, text, whole, when, note, json } from './columns';

export class Shot extends Base<Shot> {
  declare productionId: number;
  declare name: string;
  declare note: CreationOptional<string>;
  declare views: CreationOptional<View[]>;
  declare reference: CreationOptional<ReferenceUse>;
  declare revision: CreationOptional<number>;
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
    },
    { sequelize, tableName: 'shots' },
  );
