import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0017-review';

/** What was said of a version of a shot, at a frame, with what was drawn over it. */
export async function up(q: QueryInterface): Promise<void> {
  await q.createTable('review_notes', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    shot_id: {
      type: DataTypes.INTEGER,
      allowNull: false,
      references: { model: 'shots', key: 'id' },
      onDelete: 'CASCADE',
    },
    kind: { type: DataTypes.STRING(20), allowNull: false },
    of_id: { type: DataTypes.INTEGER, allowNull: false },
    frame: { type: DataTypes.INTEGER, allowNull: false },
    author: { type: DataTypes.STRING(80), allowNull: false, defaultValue: '' },
    text: { type: DataTypes.STRING(2000), allowNull: false },
    strokes: { type: DataTypes.TEXT('long'), allowNull: false },
    done: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('review_notes');
}
