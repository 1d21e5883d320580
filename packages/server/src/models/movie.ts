// A movie of a render or of a combine, which it lies with.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { MovieWanted } from '@bramblemist/contracts/payloads/comp';
import { Base, key, json, when } from './columns';

export class Movie extends Base<Movie> {
  declare renderId: CreationOptional<number | null>;
  declare combineId: CreationOptional<number | null>;
  declare settings: MovieWanted;
  declare createdAt: CreationOptional<Date>;
}

export const initMovie = (sequelize: Sequelize): unknown =>
  Movie.init(
    {
      id: key(),
      renderId: DataTypes.INTEGER,
      combineId: DataTypes.INTEGER,
      settings: json('settings') as never,
      ...when(),
    },
    { sequelize, tableName: 'movies' },
  );
