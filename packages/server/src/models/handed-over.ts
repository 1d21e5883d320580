// What was handed over of a shot.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { PackageWanted } from '@bramblemist/contracts/payloads/hand-over';
import { Base, json, key, note, text, whole, when } from './columns';

export class HandedOver extends Base<HandedOver> {
  declare shotId: number;
  declare bakeId: number;
  /** Counts those of its shot. */
  declare version: number;
  /** The pattern of its files' names. */
  declare names: string;
  declare note: string;
  declare wanted: PackageWanted;
  /** Where it was written, from the folder that is offered; null: nowhere. */
  declare folder: CreationOptional<string | null>;
}

export const initHandedOver = (sequelize: Sequelize): unknown =>
  HandedOver.init(
    {
      id: key(),
      shotId: whole(),
      bakeId: whole(),
      version: whole(),
      names: text(200),
      note: note(),
      wanted: json('wanted') as never,
      folder: DataTypes.STRING(400),
      ...when(),
    },
    { sequelize, tableName: 'packages' },
  );
