// A variant: a try on a shot, with its recipe, look and combine.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { Combine } from '@bramblemist/core/combine/combine';
import type { Look } from '@bramblemist/core/look/look';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { Base, key, text, whole, when, note, json, documentColumn, filesColumn } from './columns';

export class Variant extends Base<Variant> {
  declare shotId: number;
  declare number: number;
  declare parentId: CreationOptional<number | null>;
  declare note: CreationOptional<string>;
  declare recipe: Recipe;
  declare look: Look;
  declare combine: Combine;
  declare recipeSha256: string;
  /** Content hashes of the files that its documents use, with spaces between. */
  declare files: CreationOptional<string>;
  /** When each setting of the recipe was changed last, by its path. */
  declare touched: CreationOptional<Record<string, string>>;
  /** Counts the saves of its recipe, look and combine. */
  declare revision: CreationOptional<number>;
}

export const initVariant = (sequelize: Sequelize): unknown =>
  Variant.init(
    {
      id: key(),
      shotId: whole(),
      number: whole(),
      parentId: DataTypes.INTEGER,
      note: note(),
      recipe: documentColumn('recipe'),
      files: filesColumn(),
      look: documentColumn('look'),
      combine: documentColumn('combine'),
      recipeSha256: text(64),
      touched: { ...json('touched'), defaultValue: '{}' } as never,
      revision: { ...whole(), defaultValue: 1 },
      ...when(),
    },
    { sequelize, tableName: 'variants' },
  );
