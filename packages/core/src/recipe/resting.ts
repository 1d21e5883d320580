// Which parts of the air do nothing as they stand.
import { getAt } from './paths';
import { PARTS } from './parts';
import { partOf } from './settings';
import type { Recipe } from './types';

/**
 * Whether a part that there is once does nothing: its telling numbers are 0, its telling choices the first
 * ones, and neither keys nor a region make them others.
 * @param key of the part, `drag`
 */
export function isResting(recipe: Recipe, key: string): boolean {
  const part = partOf(PARTS, key);
  if (!part.rests) return false;
  const reached = [...recipe.curves, ...recipe.changes].some(({ path }) => path.startsWith(`${key}/`));
  return (
    !reached &&
    part.rests.every((path) => {
      const setting = part.settings.find((s) => s.path === path)!;
      const value = getAt(recipe[key as 'drag'], path);
      return setting.kind === 'choice' ? value === setting.options[0].value : value === 0;
    })
  );
}
