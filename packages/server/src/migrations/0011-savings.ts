import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0011-savings';

/** What could make a look's pictures cheaper goes with the bake that it was measured on. */
export async function up(q: QueryInterface): Promise<void> {
  await q.createTable('savings', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    bake_id: {
      type: DataTypes.INTEGER,
      allowNull: false,
      references: { model: 'bakes', key: 'id' },
      onDelete: 'CASCADE',
    },
    frame: { type: DataTypes.INTEGER, allowNull: false },
    look: { type: DataTypes.TEXT('long'), allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('savings');
}
