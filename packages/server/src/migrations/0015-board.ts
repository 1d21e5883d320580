import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0015-board';

const ARCHIVED = { type: DataTypes.DATE, allowNull: true };
const text = (length: number, value: string) => ({
  type: DataTypes.STRING(length),
  allowNull: false,
  defaultValue: value,
});

/** How far a shot is, whose it is, when it is due, where it stands on the board; what is archived. */
export async function up(q: QueryInterface): Promise<void> {
  await q.addColumn('productions', 'archived_at', ARCHIVED);
  await q.addColumn('shots', 'archived_at', ARCHIVED);
  await q.addColumn('shots', 'status', text(20, 'work'));
  await q.addColumn('shots', 'assignee', text(80, ''));
  await q.addColumn('shots', 'due', { type: DataTypes.DATEONLY, allowNull: true });
  await q.addColumn('shots', 'place', { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 });
  // those that are there keep the order in which they were made
  await q.sequelize.query('UPDATE shots SET place = id');
}

export async function down(q: QueryInterface): Promise<void> {
  for (const column of ['archived_at', 'status', 'assignee', 'due', 'place'])
    await q.removeColumn('shots', column);
  await q.removeColumn('productions', 'archived_at');
}
