import type { QueryInterface } from 'sequelize';

export const name = '0009-kinship';

/** Columns that name a row which may go while theirs stays. */
const NAMED = [
  { table: 'variants', field: 'parent_id', of: 'variants' },
  { table: 'combines', field: 'plate_id', of: 'assets' },
];

const keyName = (table: string, field: string): string => `${table}_${field}_fk`;

/** A variant's parent and a combine's plate are there, or nothing stands there. */
export async function up(q: QueryInterface): Promise<void> {
  for (const { table, field, of } of NAMED) {
    await q.sequelize.query(
      `UPDATE ${table} t LEFT JOIN ${of} o ON o.id = t.${field} SET t.${field} = NULL WHERE o.id IS NULL`,
    );
    await q.addConstraint(table, {
      type: 'foreign key',
      name: keyName(table, field),
      fields: [field],
      references: { table: of, field: 'id' },
      onDelete: 'SET NULL',
      onUpdate: 'CASCADE',
    });
  }
}

export async function down(q: QueryInterface): Promise<void> {
  for (const { table, field } of NAMED) await q.removeConstraint(table, keyName(table, field));
}
