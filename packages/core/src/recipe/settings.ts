// How a setting is described, once: the schema, the defaults, the forms, the sentences of the page, the help and the
// documentation are made from such descriptions (recipe/parts.ts, look/parts.ts, combine/parts.ts).

/** SI units, as shown; '' is a plain number. */
export type Unit = '' | 'm' | '1/m' | 's' | 'm/s' | 'm/s²' | 'm²/s' | 'K' | '1/s' | 'm/s² per K' | '°' | '°/s' | 'frames' | 'fps' | '%';

interface Common {
  /** Path inside its part, such as `rate` or `centre.0`. */
  readonly path: string;
  readonly label: string;
  /** One line: what it does and which way it goes. */
  readonly doc: string;
}
export interface NumberSetting extends Common {
  readonly kind: 'number' | 'integer';
  readonly unit: Unit;
  readonly least: number;
  readonly most: number;
  readonly default: number;
  /** A value that is said as a word: 0 as “never”. */
  readonly word?: { readonly is: number; readonly text: string };
  /** Shown only where another setting of the part has this value. */
  readonly when?: { readonly path: string; readonly is: string };
}
export interface ChoiceSetting extends Common {
  readonly kind: 'choice';
  readonly options: readonly { readonly value: string; readonly label: string }[];
  readonly default: string;
  readonly when?: { readonly path: string; readonly is: string };
}
export interface FlagSetting extends Common {
  readonly kind: 'flag';
  readonly default: boolean;
  readonly when?: { readonly path: string; readonly is: string };
}
export interface TextSetting extends Common {
  readonly kind: 'text';
  readonly default: string;
  readonly when?: { readonly path: string; readonly is: string };
}
export type Setting = NumberSetting | ChoiceSetting | FlagSetting | TextSetting;

/** A part of the recipe: one ingredient of the page. */
export interface Part {
  readonly key: string;
  readonly title: string;
  /** A sentence with {path} where a setting stands as a control; [path=value: text] is shown only when that holds. */
  readonly sentence: string;
  readonly settings: readonly Setting[];
  /** A list of such parts (sources) or just one (space). */
  readonly many: boolean;
}

const numeric =
  (kind: NumberSetting['kind']) =>
  (
    path: string,
    label: string,
    unit: Unit,
    range: readonly [number, number],
    value: number,
    doc: string,
    more: Pick<NumberSetting, 'when' | 'word'> = {},
  ): NumberSetting => ({ kind, path, label, unit, least: range[0], most: range[1], default: value, doc, ...more });
export const number = numeric('number');
export const integer = numeric('integer');
export const vector = (
  path: string,
  names: [string, string, string],
  unit: Unit,
  range: [number, number],
  value: [number, number, number],
  doc: string,
  when?: NumberSetting['when'],
): NumberSetting[] => names.map((name, a) => number(`${path}.${a}`, name, unit, range, value[a], doc, when ? { when } : {}));
export const flag = (path: string, label: string, value: boolean, doc: string): FlagSetting => ({
  kind: 'flag',
  path,
  label,
  default: value,
  doc,
});
export const choice = (path: string, label: string, options: readonly (readonly [string, string])[], doc: string): ChoiceSetting => ({
  kind: 'choice',
  path,
  label,
  default: options[0][0],
  options: options.map(([value, text]) => ({ value, label: text })),
  doc,
});

/** The part of that key. */
export function partOf(parts: readonly Part[], key: string): Part {
  const found = parts.find((p) => p.key === key);
  if (!found) throw new Error(`No part is called ${key}`);
  return found;
}
