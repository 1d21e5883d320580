import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { DataTypes, QueryTypes, type QueryInterface } from 'sequelize';
import { recipeHash } from '../routes/shots';

export const name = '0002-files';

/** The shelf of files; and recipes of the first version in the form of the second. */
export async function up(q: QueryInterface): Promise<void> {
  const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
  await q.createTable('files', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    name: text(200),
    sha256: { ...text(64), unique: true },
    bytes: { type: DataTypes.BIGINT, allowNull: false },
    report: { type: DataTypes.TEXT('long'), allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
  for (const table of ['variants', 'bakes']) {
    const rows = await q.sequelize.query<{ id: number; recipe: string }>(`SELECT id, recipe FROM ${table}`, {
      type: QueryTypes.SELECT,
    });
    for (const { id, recipe } of rows) {
      const now = parseRecipe(JSON.parse(recipe));
      await q.sequelize.query(`UPDATE ${table} SET recipe = ?, recipe_sha256 = ? WHERE id = ?`, {
        replacements: [JSON.stringify(now), recipeHash(now), id],
        type: QueryTypes.UPDATE,
      });
    }
  }
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('files');
}
