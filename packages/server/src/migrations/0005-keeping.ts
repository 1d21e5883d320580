import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0005-keeping';

const STORED = ['bakes', 'renders', 'combines', 'sheets', 'files'];
const data = { type: DataTypes.TEXT('long'), allowNull: true };
const no = { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false };
const when = { type: DataTypes.DATE, allowNull: true };

/**
 * The bin, caches that are made of caches, locks, what looking over found, particles, and what a job says
 * while it runs.
 */
export async function up(q: QueryInterface): Promise<void> {
  for (const table of STORED) {
    await q.addColumn(table, 'cleared_at', when);
    await q.addColumn(table, 'emptied', no);
  }

  await q.addColumn('bakes', 'made', data);
  await q.addColumn('bakes', 'locked', no);
  await q.addColumn('bakes', 'verified', data);
  await q.addColumn('variants', 'touched', { ...data, allowNull: false, defaultValue: '{}' });
  await q.addColumn('jobs', 'rate', { type: DataTypes.DOUBLE, allowNull: true });
  await q.addColumn('jobs', 'memory', { type: DataTypes.BIGINT, allowNull: true });
  await q.createTable('drifts', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    bake_id: {
      type: DataTypes.INTEGER,
      allowNull: false,
      references: { model: 'bakes', key: 'id' },
      onDelete: 'CASCADE',
    },
    settings: { ...data, allowNull: false },
    format: { type: DataTypes.STRING(10), allowNull: false },
    cleared_at: when,
    emptied: no,
    created_at: { ...when, allowNull: false },
    updated_at: { ...when, allowNull: false },
  });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('drifts');
  for (const [table, column] of [
    ['jobs', 'memory'],
    ['jobs', 'rate'],
    ['variants', 'touched'],
    ['bakes', 'verified'],
    ['bakes', 'locked'],
    ['bakes', 'made'],
    ...STORED.flatMap((t) => [
      [t, 'emptied'],
      [t, 'cleared_at'],
    ]),
  ])
    await q.removeColumn(table, column);
}
