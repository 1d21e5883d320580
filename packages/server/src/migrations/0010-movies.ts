import { DataTypes, type QueryInterface } from 'sequelize';

export const name = '0010-movies';

/** Movies go with the render or the combine that they are of. */
export async function up(q: QueryInterface): Promise<void> {
  const of = (table: string) => ({
    type: DataTypes.INTEGER,
    allowNull: true,
    references: { model: table, key: 'id' },
    onDelete: 'CASCADE',
  });
  await q.createTable('movies', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    render_id: of('renders'),
    combine_id: of('combines'),
    settings: { type: DataTypes.TEXT('long'), allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('movies');
}
