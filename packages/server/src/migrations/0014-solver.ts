import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0014-solver';

/** Bakes say which edition of the solver made them: 1 for those that are there, which another one made. */
export async function up(q: QueryInterface): Promise<void> {
  await q.addColumn('bakes', 'solver', { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.removeColumn('bakes', 'solver');
}
