// Comps: several layers of any feeds, where there was one element over one plate.
import { DataTypes, QueryTypes, type QueryInterface } from 'sequelize';
import { COMBINE, frameFor, type Combine } from '@bramblemist/core/combine/combine';
import type { Look } from '@bramblemist/core/look/look';
import { LOOK } from '@bramblemist/core/look/look';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';

export const name = '0012-comps';

interface Plate {
  readonly id: number;
  readonly shotId: number;
  readonly name: string;
  readonly sha256: string;
}

/** The element and the plate that an old combine was of, which were named beside it. */
function known(
  settings: object,
  of: { recipe: Recipe; look: Look },
  render: number,
  plate: Plate | undefined,
): Combine {
  const comp = COMBINE.filled(settings as Combine);
  return {
    ...comp,
    frame: { ...comp.frame, ...frameFor(of.recipe, of.look) },
    files: plate
      ? [
          COMBINE.defaultPart('files', {
            id: 'plate',
            name: plate.name,
            sha256: plate.sha256,
            kind: 'picture',
          }),
        ]
      : [],
    layers: comp.layers.map((layer) => ({
      ...layer,
      feed: {
        ...layer.feed,
        ...(layer.id === 'element' ? { render } : {}),
        ...(layer.id === 'plate' && plate ? { file: 'plate' } : {}),
      },
    })),
  };
}

export async function up(q: QueryInterface): Promise<void> {
  const read = <T extends object>(sql: string): Promise<T[]> =>
    q.sequelize.query<T>(sql, { type: QueryTypes.SELECT });
  const write = (sql: string, replacements: unknown[]): Promise<unknown> =>
    q.sequelize.query(sql, { replacements, type: QueryTypes.UPDATE });
  const plates = await read<Plate>(
    "SELECT id, shot_id AS shotId, name, sha256 FROM assets WHERE kind = 'plate' ORDER BY id",
  );
  const documents = (row: { recipe: string; look: string }): { recipe: Recipe; look: Look } => ({
    recipe: RECIPE.filled(JSON.parse(row.recipe) as Recipe),
    look: LOOK.filled(JSON.parse(row.look) as Look),
  });

  await q.addColumn('combines', 'shot_id', { type: DataTypes.INTEGER, allowNull: true });
  await q.addColumn('combines', 'output', { type: DataTypes.TEXT('long'), allowNull: true });
  const combines = await read<{
    id: number;
    settings: string;
    renderId: number;
    plateId: number | null;
    shotId: number;
    recipe: string;
    look: string;
  }>(
    `SELECT c.id, c.settings, c.render_id AS renderId, c.plate_id AS plateId, v.shot_id AS shotId,
       b.recipe, r.look
     FROM combines c JOIN renders r ON r.id = c.render_id JOIN bakes b ON b.id = r.bake_id
     JOIN variants v ON v.id = b.variant_id`,
  );
  const output = JSON.stringify({ exr: 'half', png: 8, jpeg: false, scale: 1 });
  for (const row of combines) {
    const plate = plates.find(({ id }) => id === row.plateId);
    const settings = known(JSON.parse(row.settings) as object, documents(row), row.renderId, plate);
    await write('UPDATE combines SET settings = ?, shot_id = ?, output = ? WHERE id = ?', [
      JSON.stringify(settings),
      row.shotId,
      output,
      row.id,
    ]);
  }

  const variants = await read<{
    id: number;
    shotId: number;
    combine: string;
    recipe: string;
    look: string;
    files: string;
  }>('SELECT id, shot_id AS shotId, combine, recipe, look, files FROM variants');
  const renders = await read<{ id: number; variantId: number }>(
    'SELECT r.id, b.variant_id AS variantId FROM renders r JOIN bakes b ON b.id = r.bake_id ORDER BY r.id',
  );
  for (const row of variants) {
    const plate = plates.find(({ shotId }) => shotId === row.shotId);
    const newest = renders.filter(({ variantId }) => variantId === row.id).pop()?.id ?? 0;
    const comp = known(JSON.parse(row.combine) as object, documents(row), newest, plate);
    const files = [...new Set([...row.files.split(' '), ...comp.files.map((f) => f.sha256)])].filter(Boolean);
    await write('UPDATE variants SET combine = ?, files = ? WHERE id = ?', [
      JSON.stringify(comp),
      files.join(' '),
      row.id,
    ]);
  }

  await dropKeys(q, 'combines', ['render_id', 'plate_id']);
  await dropColumns(q, ['render_id', 'plate_id']);
  const shot = {
    type: DataTypes.INTEGER,
    allowNull: false,
    references: { model: 'shots', key: 'id' },
    onDelete: 'CASCADE',
  };
  await q.sequelize.query('DELETE FROM combines WHERE shot_id IS NULL');
  await q.changeColumn('combines', 'shot_id', shot);
  await q.createTable('comp_versions', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    shot_id: shot,
    number: { type: DataTypes.INTEGER, allowNull: false },
    note: { type: DataTypes.STRING(500), allowNull: false },
    settings: { type: DataTypes.TEXT('long'), allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
}

/**
 * By a statement of our own: the library’s first looks for keys in a way that this driver does not answer.
 */
async function dropColumns(q: QueryInterface, columns: readonly string[]): Promise<void> {
  for (const column of columns) await q.sequelize.query(`ALTER TABLE combines DROP COLUMN ${column}`);
}

/** Takes away the foreign keys over some columns, whatever they are called. */
async function dropKeys(q: QueryInterface, table: string, columns: readonly string[]): Promise<void> {
  const rows = await q.sequelize.query<{ name: string }>(
    `SELECT CONSTRAINT_NAME AS name FROM information_schema.KEY_COLUMN_USAGE
     WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = ? AND COLUMN_NAME IN (?)
     AND REFERENCED_TABLE_NAME IS NOT NULL`,
    { replacements: [table, columns], type: QueryTypes.SELECT },
  );
  for (const row of rows) await q.removeConstraint(table, row.name);
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('comp_versions');
  await dropKeys(q, 'combines', ['shot_id']);
  await dropColumns(q, ['shot_id', 'output']);
  for (const column of ['render_id', 'plate_id'])
    await q.addColumn('combines', column, { type: DataTypes.INTEGER, allowNull: true });
}
