import { DataTypes, type QueryInterface } from 'sequelize';
import { upgradeRecipes } from './upgrade-recipes';

export const name = '0002-files';

/** The shelf of files; and recipes of the first version in the form of the second. */
export async function up(q: QueryInterface): Promise<void> {
  const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
  await q.createTable('files', {
    id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
    name: text(200),
    sha256: { ...text(64), unique: true },
    bytes: { type: DataTypes.BIGINT, allowNull: false },
    report: { type: DataTypes.TEXT('long'), allowNull: false },
    created_at: { type: DataTypes.DATE, allowNull: false },
    updated_at: { type: DataTypes.DATE, allowNull: false },
  });
  await upgradeRecipes(q, ['variants', 'bakes']);
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('files');
}
