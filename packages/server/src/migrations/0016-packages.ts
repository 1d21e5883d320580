import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0016-packages';

/** What was handed over of a shot: which bake, what of it, under which names. */
export async function up(q: QueryInterface): Promise<void> {
  const owner = (model: string) => ({
    type: DataTypes.INTEGER,
    allowNull: false,
    references: { model, key: 'id' },
    onDelete: 'CASCADE',
  });
  await q.createTable('packages', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    shot_id: owner('shots'),
    bake_id: owner('bakes'),
    version: { type: DataTypes.INTEGER, allowNull: false },
    names: { type: DataTypes.STRING(200), allowNull: false },
    note: { type: DataTypes.STRING(500), allowNull: false, defaultValue: '' },
    wanted: { type: DataTypes.TEXT('long'), allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
  await q.addConstraint('packages', {
    type: 'unique',
    name: 'packages_version',
    fields: ['shot_id', 'version'],
  });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('packages');
}
