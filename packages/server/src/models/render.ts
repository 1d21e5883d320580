// A bake, lit.
import { type Sequelize } from 'sequelize';
import type { Look } from '@bramblemist/core/look/look';
import { Stored, key, whole, when, stored, lookColumn } from './columns';

export class Render extends Stored<Render> {
  declare bakeId: number;
  declare look: Look;
  declare firstFrame: number;
  declare lastFrame: number;
}

export const initRender = (sequelize: Sequelize): unknown =>
  Render.init(
    {
      id: key(),
      bakeId: whole(),
      look: lookColumn(),
      firstFrame: whole(),
      lastFrame: whole(),
      ...stored(),
      ...when(),
    },
    { sequelize, tableName: 'renders' },
  );
