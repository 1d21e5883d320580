// A cache of a variant, or one that was made of another cache or brought in.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Damage } from '@bramblemist/core/cache/manifest';
import type { CacheMade } from '@bramblemist/contracts/payloads/made';
import { Stored, key, text, whole, when, stored, json, documentColumn, filesColumn } from './columns';

export class Bake extends Stored<Bake> {
  declare variantId: number;
  declare recipe: Recipe;
  declare recipeSha256: string;
  /** Content hashes of the files that the recipe uses, with spaces between. */
  declare files: CreationOptional<string>;
  declare voxelSizeM: number;
  declare firstFrame: number;
  declare lastFrame: number;
  declare made: CreationOptional<CacheMade | null>;
  /** The edition of the solver that made it. */
  declare solver: number;
  declare locked: CreationOptional<boolean>;
  declare verified: CreationOptional<{ at: string; damages: readonly Damage[] } | null>;
}

export const initBake = (sequelize: Sequelize): unknown =>
  Bake.init(
    {
      id: key(),
      variantId: whole(),
      recipe: documentColumn('recipe'),
      files: filesColumn(),
      recipeSha256: text(64),
      voxelSizeM: { type: DataTypes.DOUBLE, allowNull: false },
      firstFrame: whole(),
      lastFrame: whole(),
      solver: whole(),
      made: json('made', true) as never,
      locked: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      verified: json('verified', true) as never,
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'bakes' },
  );
