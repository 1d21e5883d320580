// Recipes that stand in the database, in the form of this version.
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import { QueryTypes, type QueryInterface } from 'sequelize';
import { recipeHash } from '../services/documents';

/** @param hashed tables whose rows know the hash of their recipe; @param plain those that do not */
export async function upgradeRecipes(
  q: QueryInterface,
  hashed: readonly string[],
  plain: readonly string[] = [],
): Promise<void> {
  for (const table of [...hashed, ...plain]) {
    const rows = await q.sequelize.query<{ id: number; recipe: string }>(`SELECT id, recipe FROM ${table}`, {
      type: QueryTypes.SELECT,
    });
    for (const { id, recipe } of rows) {
      const now = RECIPE.filled(JSON.parse(recipe));
      const hash = hashed.includes(table);
      await q.sequelize.query(
        `UPDATE ${table} SET recipe = ?${hash ? ', recipe_sha256 = ?' : ''} WHERE id = ?`,
        {
          replacements: [JSON.stringify(now), ...(hash ? [recipeHash(now)] : []), id],
          type: QueryTypes.UPDATE,
        },
      );
    }
  }
}
