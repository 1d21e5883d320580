import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0018-hand-over';

/** Where a package was written on the server's machine, and names of channels that people keep. */
export async function up(q: QueryInterface): Promise<void> {
  await q.addColumn('packages', 'folder', { type: DataTypes.STRING(400), allowNull: true });
  await q.createTable('channel_presets', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    name: { type: DataTypes.STRING(80), allowNull: false, unique: true },
    channels: { type: DataTypes.TEXT, allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('channel_presets');
  await q.removeColumn('packages', 'folder');
}
