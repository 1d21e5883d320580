import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0007-revisions';

const TABLES = ['variants', 'shots'];

/** How often a document has been saved: a save says which one it began from. */
export async function up(q: QueryInterface): Promise<void> {
  for (const table of TABLES)
    await q.addColumn(table, 'revision', { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 });
}

export async function down(q: QueryInterface): Promise<void> {
  for (const table of TABLES) await q.removeColumn(table, 'revision');
}
