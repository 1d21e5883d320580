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
import { COMBINE } from '@bramblemist/core/combine/combine';
import type { DocumentKind } from '@bramblemist/core/recipe/document';

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

type WithFiles = { readonly files: readonly { readonly sha256: string }[] };
type Column = { get(this: Model): unknown; set(this: Model, value: unknown): void };

/** A document; those of earlier programs come out in the form of this one. */
export function filledColumn<T extends object>(name: string, kind: DocumentKind<T>): never {
  const column = json(name) as Column;
  return {
    ...column,
    get(this: Model): T | null {
      const data = column.get.call(this) as T | null;
      return data ? kind.filled(data) : null;
    },
  } as never;
}

export const lookColumn = (): never => filledColumn<Look>('look', LOOK);

const DOCUMENTS = ['recipe', 'look', 'combine'] as const;

/** A document of a variant; the files that all of them use are noted beside them. */
export function documentColumn(name: (typeof DOCUMENTS)[number]): never {
  const kinds = { recipe: null, look: LOOK, combine: COMBINE };
  const kind = kinds[name] as DocumentKind<object> | null;
  const column = (kind ? filledColumn(name, kind) : json(name)) as Column;
  return {
    ...column,
    set(this: Model, value: WithFiles): void {
      column.set.call(this, value);
      const others = DOCUMENTS.filter((n) => n !== name).map((n) => this.get(n) as WithFiles | undefined);
      const all = [value, ...others].flatMap((one) => one?.files ?? []).map((f) => f.sha256);
      this.setDataValue('files' as never, [...new Set(all)].filter(Boolean).join(' ') as never);
    },
  } as never;
}

export const filesColumn = () => ({ type: DataTypes.TEXT, allowNull: false, defaultValue: '' });
