// A production: it holds shots.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import { Base, key, text, when, note } from './columns';

export class Production extends Base<Production> {
  declare name: string;
  declare note: CreationOptional<string>;
  declare archivedAt: CreationOptional<Date | null>;
}

export const initProduction = (sequelize: Sequelize): unknown =>
  Production.init(
    { id: key(), name: text(120), note: note(), ...when(), archivedAt: DataTypes.DATE },
    { sequelize, tableName: 'productions' },
  );
