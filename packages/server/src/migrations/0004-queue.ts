import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0004-queue';

/** When the server that runs a job last said so, and which jobs go before others. */
export async function up(q: QueryInterface): Promise<void> {
  await q.addColumn('jobs', 'beat_at', { type: DataTypes.DATE, allowNull: true });
  await q.addColumn('jobs', 'priority', { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.removeColumn('jobs', 'priority');
  await q.removeColumn('jobs', 'beat_at');
}
