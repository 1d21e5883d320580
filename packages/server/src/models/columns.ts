// What the tables' columns are made of. Sequelize writes into what it is given, so each column gets an object
// of its own.
import { LOOK, type Look } from '@bramblemist/core/look/look';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
} from 'sequelize';
import type { Recipe } from '@bramblemist/core/recipe/types';

export class Base<T extends Model> extends Model<InferAttributes<T>, InferCreationAttributes<T>> {
  declare id: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

/** What takes room on the disk and can be cleared. */
export class Stored<T extends Model> extends Base<T> {
  /** When it went into the bin; null: it is there. */
  declare clearedAt: CreationOptional<Date | null>;
  /** Its files are gone for good. */
  declare emptied: CreationOptional<boolean>;
  /** What it takes on the disk; null until that was measured. */
  declare bytes: CreationOptional<number | null>;
}

export const key = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true });
export const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
export const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
export const big = (column = 'bytes', allowNull = false) =>
  ({
    type: DataTypes.BIGINT,
    allowNull,
    get(this: Model) {
      const value = this.getDataValue(column as never) as unknown;
      return value === null || value === undefined ? null : Number(value);
    },
  }) as never;
export const when = () => ({ createdAt: DataTypes.DATE, updatedAt: DataTypes.DATE });
export const stored = () => ({
  clearedAt: DataTypes.DATE,
  emptied: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
  bytes: big('bytes', true),
});
export const note = () => ({ type: DataTypes.STRING(500), allowNull: false, defaultValue: '' });

/** MariaDB keeps JSON as text; values go in and out as data. */
export function json(column: string, allowNull = false): object {
  return {
    type: DataTypes.TEXT('long'),
    allowNull,
    get(this: Model): unknown {
      const raw = this.getDataValue(column as never) as unknown;
      return typeof raw === 'string' ? JSON.parse(raw) : raw;
    },
    set(this: Model, value: unknown): void {
      this.setDataValue(column as never, (value === null ? null : JSON.stringify(value)) as never);
    },
  };
}

type WithFiles = Pick<Recipe, 'files'>;
type Column = { get(this: Model): unknown; set(this: Model, value: unknown): void };

/** A look; those of earlier programs come out in the form of this one. */
export function lookColumn(): never {
  const column = json('look') as Column;
  return {
    ...column,
    get(this: Model): Look | null {
      const look = column.get.call(this) as Look | null;
      return look ? LOOK.filled(look) : null;
    },
  } as never;
}

/** A recipe or a look; the files that both use are noted beside them. */
export function documentColumn(name: 'recipe' | 'look'): never {
  const column = (name === 'look' ? lookColumn() : json(name)) as Column;
  return {
    ...column,
    set(this: Model, value: WithFiles): void {
      column.set.call(this, value);
      const other = this.get(name === 'recipe' ? 'look' : 'recipe') as WithFiles | undefined;
      const all = [...value.files, ...(other?.files ?? [])].map((f) => f.sha256);
      this.setDataValue('files' as never, [...new Set(all)].join(' ') as never);
    },
  } as never;
}

export const filesColumn = () => ({ type: DataTypes.TEXT, allowNull: false, defaultValue: '' });
