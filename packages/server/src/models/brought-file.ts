// A file on the shelf, by its content.
import { type CreationOptional, type Sequelize } from 'sequelize';
import type { FileReport } from '@bramblemist/core/assets/import-asset';
import { Stored, key, text, when, stored, json } from './columns';

export class BroughtFile extends Stored<BroughtFile> {
  declare name: string;
  declare sha256: string;
  declare bytes: CreationOptional<number>;
  declare report: FileReport;
}

export const initBroughtFile = (sequelize: Sequelize): unknown =>
  BroughtFile.init(
    {
      id: key(),
      name: text(200),
      sha256: text(64),
      report: json('report') as never,
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'files' },
  );
