import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0003-judging';

const data = { type: DataTypes.TEXT('long'), allowNull: false };

/** What baked frames noticed; views of a shot to come back to; pictures of a sequence; trial sheets. */
export async function up(q: QueryInterface): Promise<void> {
  await q.addColumn('frames', 'notices', {
    type: DataTypes.TEXT('long'),
    allowNull: false,
    defaultValue: '[]',
  });
  await q.addColumn('shots', 'views', { type: DataTypes.TEXT('long'), allowNull: false, defaultValue: '[]' });
  await q.addColumn('shots', 'reference', {
    type: DataTypes.TEXT('long'),
    allowNull: false,
    defaultValue: '{}',
  });
  await q.addColumn('assets', 'series', { type: DataTypes.STRING(200), allowNull: false, defaultValue: '' });
  await q.addColumn('assets', 'frame', { type: DataTypes.INTEGER, allowNull: true });
  await q.createTable('sheets', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    variant_id: {
      type: DataTypes.INTEGER,
      allowNull: false,
      references: { model: 'variants', key: 'id' },
      onDelete: 'CASCADE',
    },
    recipe: data,
    look: data,
    varied: data,
    voxel_size_m: { type: DataTypes.DOUBLE, allowNull: false },
    first_frame: { type: DataTypes.INTEGER, allowNull: false },
    last_frame: { type: DataTypes.INTEGER, allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('sheets');
  for (const [table, column] of [
    ['assets', 'frame'],
    ['assets', 'series'],
    ['shots', 'reference'],
    ['shots', 'views'],
    ['frames', 'notices'],
  ])
    await q.removeColumn(table, column);
}
