// The tables as Sequelize models. Large things are files; here stands what is searched and joined.
import {
  DataTypes,
  Model,
  Sequelize,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
} from 'sequelize';
import type { Combine } from '@bramblemist/core/combine/combine';
import type { Look } from '@bramblemist/core/look/look';
import type { Incident } from '@bramblemist/core/record/incident';
import type { Readings } from '@bramblemist/core/record/readings';
import type { Varied } from '@bramblemist/core/analysis/sheet';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Damage } from '@bramblemist/core/cache/manifest';
import type { ParticleAdvection } from '@bramblemist/core/analysis/advect-particles';
import type { CacheMade, JobKind, JobState, ReferenceUse, View } from '@bramblemist/contracts/payloads';
import type { FileReport } from '@bramblemist/core/assets/import-asset';
import type { Config } from '../config';

class Base<T extends Model> extends Model<InferAttributes<T>, InferCreationAttributes<T>> {
  declare id: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

/** What takes room on the disk and can be cleared. */
class Stored<T extends Model> extends Base<T> {
  /** When it went into the bin; null: it is there. */
  declare clearedAt: CreationOptional<Date | null>;
  /** Its files are gone for good. */
  declare emptied: CreationOptional<boolean>;
  /** What it takes on the disk; null until that was measured. */
  declare bytes: CreationOptional<number | null>;
}

export class Production extends Base<Production> {
  declare name: string;
  declare note: CreationOptional<string>;
}
export class Shot extends Base<Shot> {
  declare productionId: number;
  declare name: string;
  declare note: CreationOptional<string>;
  declare views: CreationOptional<View[]>;
  declare reference: CreationOptional<ReferenceUse>;
  declare revision: CreationOptional<number>;
}
export class Variant extends Base<Variant> {
  declare shotId: number;
  declare number: number;
  declare parentId: CreationOptional<number | null>;
  declare note: CreationOptional<string>;
  declare recipe: Recipe;
  declare look: Look;
  declare combine: Combine;
  declare recipeSha256: string;
  /** Content hashes of the files that the recipe uses, with spaces between. */
  declare files: CreationOptional<string>;
  /** When each setting of the recipe was changed last, by its path. */
  declare touched: CreationOptional<Record<string, string>>;
  /** Counts the saves of its recipe, look and combine. */
  declare revision: CreationOptional<number>;
}
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
  declare locked: CreationOptional<boolean>;
  declare verified: CreationOptional<{ at: string; damages: readonly Damage[] } | null>;
}
/** Particles through a bake. */
export class DriftRun extends Stored<DriftRun> {
  declare bakeId: number;
  declare settings: ParticleAdvection;
  declare format: 'ply' | 'csv';
}
export class Frame extends Base<Frame> {
  declare bakeId: number;
  declare frame: number;
  declare file: string;
  declare bytes: number;
  declare sha256: string;
  declare readings: Readings;
  declare incidents: CreationOptional<Incident[]>;
  /** The moment that it shows, s since the start; null where its number says so. */
  declare timeS: CreationOptional<number | null>;
}
export class Job extends Base<Job> {
  declare kind: JobKind;
  declare state: JobState;
  declare targetId: number;
  declare shotId: number;
  declare done: CreationOptional<number>;
  declare total: CreationOptional<number>;
  declare message: CreationOptional<string | null>;
  declare owner: CreationOptional<string | null>;
  /** When the server that runs it last said so. */
  declare beatAt: CreationOptional<Date | null>;
  /** Greater ones go first. */
  declare priority: CreationOptional<number>;
  declare rate: CreationOptional<number | null>;
  declare memory: CreationOptional<number | null>;
  declare startedAt: CreationOptional<Date | null>;
  declare endedAt: CreationOptional<Date | null>;
}
export class Asset extends Base<Asset> {
  declare shotId: number;
  declare name: string;
  declare kind: 'plate' | 'reference';
  declare sha256: string;
  declare bytes: number;
  declare width: number;
  declare height: number;
  /** Pictures of one sequence share it; empty for one that stands alone. */
  declare series: CreationOptional<string>;
  declare frame: CreationOptional<number | null>;
}
export class BroughtFile extends Stored<BroughtFile> {
  declare name: string;
  declare sha256: string;
  declare bytes: CreationOptional<number>;
  declare report: FileReport;
}
export class Sheet extends Stored<Sheet> {
  declare variantId: number;
  declare recipe: Recipe;
  declare look: Look;
  declare varied: Varied[];
  declare voxelSizeM: number;
  declare firstFrame: number;
  declare lastFrame: number;
}
export class Render extends Stored<Render> {
  declare bakeId: number;
  declare look: Look;
  declare firstFrame: number;
  declare lastFrame: number;
}
export class CombineRun extends Stored<CombineRun> {
  declare renderId: number;
  declare plateId: CreationOptional<number | null>;
  declare settings: Combine;
  declare firstFrame: number;
  declare lastFrame: number;
}

/** MariaDB keeps JSON as text; values go in and out as data. */
function json(column: string, allowNull = false): object {
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

/** A recipe; the files that it uses are noted beside it. */
function recipeColumn(): never {
  const column = json('recipe') as { set(this: Model, value: Recipe): void };
  return {
    ...column,
    set(this: Model, value: Recipe): void {
      column.set.call(this, value);
      this.setDataValue('files' as never, value.files.map((f) => f.sha256).join(' ') as never);
    },
  } as never;
}

const filesColumn = () => ({ type: DataTypes.TEXT, allowNull: false, defaultValue: '' });

/** Opens the database and binds the models to it. */
export function openDatabase(config: Config['database']): Sequelize {
  const sequelize = new Sequelize(config.name, config.user, config.password, {
    host: config.host,
    port: config.port,
    dialect: 'mariadb',
    logging: false,
    // a busy machine may take longer than the driver's second
    dialectOptions: { connectTimeout: 20000 },
    pool: { max: 8 },
    define: { underscored: true },
  });
  // Sequelize writes into what it is given, so each column gets an object of its own
  const key = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true });
  const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
  const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
  const big = (column = 'bytes', allowNull = false) =>
    ({
      type: DataTypes.BIGINT,
      allowNull,
      get(this: Model) {
        const value = this.getDataValue(column as never) as unknown;
        return value === null || value === undefined ? null : Number(value);
      },
    }) as never;
  const when = { createdAt: DataTypes.DATE, updatedAt: DataTypes.DATE };
  const stored = () => ({
    clearedAt: DataTypes.DATE,
    emptied: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    bytes: big('bytes', true),
  });
  const note = () => ({ type: DataTypes.STRING(500), allowNull: false, defaultValue: '' });
  Production.init(
    { id: key(), name: text(120), note: note(), ...when },
    { sequelize, tableName: 'productions' },
  );
  Shot.init(
    {
      id: key(),
      productionId: whole(),
      name: text(120),
      note: note(),
      ...when,
      views: { ...json('views'), defaultValue: '[]' } as never,
      reference: { ...json('reference'), defaultValue: '{}' } as never,
      revision: { ...whole(), defaultValue: 1 },
    },
    { sequelize, tableName: 'shots' },
  );
  Variant.init(
    {
      id: key(),
      shotId: whole(),
      number: whole(),
      parentId: DataTypes.INTEGER,
      note: note(),
      recipe: recipeColumn(),
      files: filesColumn(),
      look: json('look') as never,
      combine: json('combine') as never,
      recipeSha256: text(64),
      touched: { ...json('touched'), defaultValue: '{}' } as never,
      revision: { ...whole(), defaultValue: 1 },
      ...when,
    },
    { sequelize, tableName: 'variants' },
  );
  Bake.init(
    {
      id: key(),
      variantId: whole(),
      recipe: recipeColumn(),
      files: filesColumn(),
      recipeSha256: text(64),
      voxelSizeM: { type: DataTypes.DOUBLE, allowNull: false },
      firstFrame: whole(),
      lastFrame: whole(),
      made: json('made', true) as never,
      locked: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      verified: json('verified', true) as never,
      ...stored(),
      ...when,
    },
    { sequelize, tableName: 'bakes' },
  );
  Sheet.init(
    {
      id: key(),
      variantId: whole(),
      recipe: json('recipe') as never,
      look: json('look') as never,
      varied: json('varied') as never,
      voxelSizeM: { type: DataTypes.DOUBLE, allowNull: false },
      firstFrame: whole(),
      lastFrame: whole(),
      ...stored(),
      ...when,
    },
    { sequelize, tableName: 'sheets' },
  );
  DriftRun.init(
    {
      id: key(),
      bakeId: whole(),
      settings: json('settings') as never,
      format: text(10) as never,
      ...stored(),
      ...when,
    },
    { sequelize, tableName: 'drifts' },
  );
  Frame.init(
    {
      id: key(),
      bakeId: whole(),
      frame: whole(),
      file: text(200),
      bytes: big(),
      sha256: text(64),
      readings: json('readings') as never,
      incidents: { ...json('incidents'), field: 'notices', defaultValue: '[]' } as never,
      timeS: DataTypes.DOUBLE,
      ...when,
    },
    { sequelize, tableName: 'frames' },
  );
  Job.init(
    {
      id: key(),
      kind: text(20) as never,
      state: text(20) as never,
      targetId: whole(),
      shotId: whole(),
      done: { ...whole(), defaultValue: 0 },
      total: { ...whole(), defaultValue: 0 },
      message: DataTypes.STRING(1000),
      owner: DataTypes.STRING(100),
      beatAt: DataTypes.DATE,
      priority: { ...whole(), defaultValue: 0 },
      rate: DataTypes.DOUBLE,
      memory: big('memory', true),
      startedAt: DataTypes.DATE,
      endedAt: DataTypes.DATE,
      ...when,
    },
    { sequelize, tableName: 'jobs' },
  );
  Asset.init(
    {
      id: key(),
      shotId: whole(),
      name: text(200),
      kind: text(20) as never,
      sha256: text(64),
      bytes: whole(),
      width: whole(),
      height: whole(),
      series: { ...text(200), defaultValue: '' },
      frame: DataTypes.INTEGER,
      ...when,
    },
    { sequelize, tableName: 'assets' },
  );
  BroughtFile.init(
    {
      id: key(),
      name: text(200),
      sha256: text(64),
      report: json('report') as never,
      ...stored(),
      ...when,
    },
    { sequelize, tableName: 'files' },
  );
  Render.init(
    {
      id: key(),
      bakeId: whole(),
      look: json('look') as never,
      firstFrame: whole(),
      lastFrame: whole(),
      ...stored(),
      ...when,
    },
    { sequelize, tableName: 'renders' },
  );
  CombineRun.init(
    {
      id: key(),
      renderId: whole(),
      plateId: DataTypes.INTEGER,
      settings: json('settings') as never,
      firstFrame: whole(),
      lastFrame: whole(),
      ...stored(),
      ...when,
    },
    { sequelize, tableName: 'combines' },
  );
  return sequelize;
}
