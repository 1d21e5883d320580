// What could make a look's pictures cheaper, measured on a frame of a bake, which its pictures lie with.
import { type CreationOptional, type Sequelize } from 'sequelize';
import type { Look } from '@bramblemist/core/look/look';
import { Base, key, json, when, whole } from './columns';

export class SavingsRun extends Base<SavingsRun> {
  declare bakeId: number;
  declare frame: number;
  declare look: Look;
  declare createdAt: CreationOptional<Date>;
}

export const initSavingsRun = (sequelize: Sequelize): unknown =>
  SavingsRun.init(
    { id: key(), bakeId: whole(), frame: whole(), look: json('look') as never, ...when() },
    { sequelize, tableName: 'savings' },
  );
