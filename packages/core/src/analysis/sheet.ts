// Trial sheets: many small runs of one recipe with one or two numbers varied.
import { CoreError } from '../base/error';
import type { Recipe } from '../recipe/types';
import type { NumberSetting } from '../recipe/settings';
import { numbersOf, withNumber } from '../recipe/tell';
import { formatValue } from '../recipe/units';

export interface Varied {
  /** As keys have it: `part/setting` or `part/id/setting`. */
  readonly path: string;
  readonly values: readonly number[];
}
export interface Cell {
  /** One for each that is varied. */
  readonly values: readonly number[];
  readonly recipe: Recipe;
}
export const MOST_CELLS = 24;

/**
 * All pairs of values: the first varied along rows, the second from row to row.
 * @throws Error that says what cannot be varied, or why there are too many
 */
export function cellsOf(recipe: Recipe, varied: readonly Varied[]): Cell[] {
  if (varied.length < 1 || varied.length > 2)
    throw new CoreError('settings', 'A trial sheet varies one setting or two.');
  if (varied.length === 2 && varied[0].path === varied[1].path)
    throw new CoreError('settings', 'The two settings of a trial sheet must differ.');
  const known = numbersOf(recipe);
  for (const { path, values } of varied) {
    const found = known.find((n) => n.path === path);
    if (!found) throw new CoreError('settings', `The recipe has no number ${path}, or does not use it.`);
    if (values.length < 1)
      throw new CoreError('settings', `No value is given for ${found.part}: ${found.setting.label}.`);
    const { least, most, label } = found.setting;
    const wrong = values.find((v) => !(v >= least && v <= most));
    if (wrong !== undefined)
      throw new CoreError(
        'settings',
        `${found.part}: ${label} must be from ${least} to ${most}, not ${wrong}.`,
      );
  }

  const [across, down] = varied;
  const count = across.values.length * (down?.values.length ?? 1);
  if (count > MOST_CELLS)
    throw new CoreError('settings', `${count} runs are too many for one sheet; ${MOST_CELLS} at most.`);
  const rows: readonly (number | null)[] = down?.values ?? [null];
  return rows.flatMap((b) =>
    across.values.map((a): Cell => {
      const first = withNumber(withoutKeys(recipe, across.path), across.path, a);
      return b === null
        ? { values: [a], recipe: first }
        : { values: [a, b], recipe: withNumber(withoutKeys(first, down.path), down.path, b) };
    }),
  );
}

/** Keys would move the number away from the value that is tried. */
const withoutKeys = (recipe: Recipe, path: string): Recipe => ({
  ...recipe,
  curves: recipe.curves.filter((c) => c.path !== path),
});

/** Half to twice the present value, evenly by ratio; around 0, and for angles and seeds, by steps. */
export function around(setting: NumberSetting, value: number, count: number): number[] {
  const within = (v: number): number => Math.min(setting.most, Math.max(setting.least, v));
  const middle = (count - 1) / 2;
  const at = (n: number): number => {
    if (setting.label.includes('seed')) return value + n;
    if (setting.unit === '°') return value + 30 * (n - middle);
    if (value === 0) {
      const scale = setting.default !== 0 ? Math.abs(setting.default) : Math.min(1, setting.most);
      return setting.least < 0 ? scale * (n - middle) : (scale * n) / Math.max(1, count - 1);
    }

    return value * 2 ** (middle === 0 ? 0 : (n - middle) / middle);
  };

  const tidy = (v: number): number => (setting.kind === 'integer' ? Math.round(v) : Number(v.toPrecision(3)));
  return [...new Set(Array.from({ length: count }, (_, n) => tidy(within(at(n)))))];
}

/** “strength 0.4 m/s², size 20 cm”. */
export function captionOf(recipe: Recipe, varied: readonly Varied[], values: readonly number[]): string {
  const known = numbersOf(recipe);
  return varied
    .map(({ path }, n) => {
      const found = known.find((k) => k.path === path);
      return found
        ? `${found.setting.label} ${formatValue(values[n], found.setting.unit)}`
        : `${path} ${values[n]}`;
    })
    .join(', ');
}
