import { DataTypes, QueryTypes, type QueryInterface } from 'sequelize';

export const name = '0008-sizes';

const STORED = ['bakes', 'renders', 'combines', 'sheets', 'drifts'];

/**
 * What things take on the disk, measured once when they are made; which files a recipe uses; and jobs by what
 * they make.
 */
export async function up(q: QueryInterface): Promise<void> {
  for (const table of STORED) {
    const earlier = await q.describeTable(table);
    if (!earlier.bytes) await q.addColumn(table, 'bytes', { type: DataTypes.BIGINT, allowNull: true });
  }

  for (const table of ['variants', 'bakes']) {
    await q.addColumn(table, 'files', { type: DataTypes.TEXT, allowNull: false, defaultValue: '' });
    const rows = await q.sequelize.query<{ id: number; recipe: string }>(`SELECT id, recipe FROM ${table}`, {
      type: QueryTypes.SELECT,
    });
    for (const { id, recipe } of rows) {
      const { files } = JSON.parse(recipe) as { files?: { sha256: string }[] };
      const replacements = [(files ?? []).map((f) => f.sha256).join(' '), id];
      await q.sequelize.query(`UPDATE ${table} SET files = ? WHERE id = ?`, { replacements });
    }
  }

  await q.addColumn('frames', 'time_s', { type: DataTypes.DOUBLE, allowNull: true });
  await q.addIndex('jobs', ['kind', 'target_id']);
  await q.addIndex('bakes', ['variant_id', 'cleared_at']);
}

export async function down(q: QueryInterface): Promise<void> {
  await q.removeIndex('bakes', ['variant_id', 'cleared_at']);
  await q.removeIndex('jobs', ['kind', 'target_id']);
  await q.removeColumn('frames', 'time_s');
  for (const table of ['variants', 'bakes']) await q.removeColumn(table, 'files');
  for (const table of STORED) await q.removeColumn(table, 'bytes');
}
