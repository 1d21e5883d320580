// A trial sheet of a variant.
import { DataTypes, type Sequelize } from 'sequelize';
import type { Look } from '@bramblemist/core/look/look';
import type { Varied } from '@bramblemist/core/analysis/sheet';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { Stored, key, whole, when, stored, json, lookColumn } from './columns';

export class Sheet extends Stored<Sheet> {
  declare variantId: number;
  declare recipe: Recipe;
  declare look: Look;
  declare varied: Varied[];
  declare voxelSizeM: number;
  declare firstFrame: number;
  declare lastFrame: number;
}

export const initSheet = (sequelize: Sequelize): unknown =>
  Sheet.init(
    {
      id: key(),
      variantId: whole(),
      recipe: json('recipe') as never,
      look: lookColumn(),
      varied: json('varied') as never,
      voxelSizeM: { type: DataTypes.DOUBLE, allowNull: false },
      firstFrame: whole(),
      lastFrame: whole(),
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'sheets' },
  );
