// A picture of a shot’s reference.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import { Base, key, text, whole, when } from './columns';

export class Asset extends Base<Asset> {
  declare shotId: number;
  declare name: string;
  declare kind: 'reference';
  declare sha256: string;
  declare bytes: number;
  declare width: number;
  declare height: number;
  /** Pictures of one sequence share it; empty for one that stands alone. */
  declare series: CreationOptional<string>;
  declare frame: CreationOptional<number | null>;
}

export const initAsset = (sequelize: Sequelize): unknown =>
  Asset.init(
    {
      id: key(),
      shotId: whole(),
      name: text(200),
      kind: text(20) as never,
      sha256: text(64),
      bytes: whole(),
      width: whole(),
      height: whole(),
      series: { ...text(200), defaultValue: '' },
      frame: DataTypes.INTEGER,
      ...when(),
    },
    { sequelize, tableName: 'assets' },
  );
