import type { QueryInterface } from 'sequelize';
import { upgradeRecipes } from './upgrade-recipes';

export const name = '0006-field-names';

/** Recipes of the second version in the form of the third: dissipation and diffusion bear their names. */
export async function up(q: QueryInterface): Promise<void> {
  await upgradeRecipes(q, ['variants', 'bakes'], ['sheets']);
}

/** Newer recipes stay: this program reads them, and an earlier one says that it does not. */
export async function down(): Promise<void> {}
