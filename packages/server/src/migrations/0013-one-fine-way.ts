import type { QueryInterface } from 'sequelize';
import { upgradeRecipes } from './upgrade-recipes';

export const name = '0013-one-fine-way';

/**
 * Recipes of the third version in the form of the fourth: one way to carry the medium that keeps all of it.
 */
export async function up(q: QueryInterface): Promise<void> {
  await upgradeRecipes(q, ['variants', 'bakes'], ['sheets']);
}

/** Newer recipes stay: this program reads them, and an earlier one says that it does not. */
export async function down(): Promise<void> {}
