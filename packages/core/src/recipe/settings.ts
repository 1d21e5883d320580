// How a setting is described, once: the schema, the defaults, the forms, the sentences of the page, the help
// and the documentation are made from such descriptions (recipe/parts.ts, look/parts.ts, combine/parts.ts).

/** SI units, as shown; '' is a plain number. */
export type Unit =
  | ''
  | 'm'
  | '1/m'
  | 's'
  | 'm/s'
  | 'm/s²'
  | 'm²/s'
  | 'K'
  | '1/s'
  | 'm/s² per K'
  | '°'
  | '°/s'
  | 'frames'
  | 'fps'
  | '%';

/** Shown only where another setting of the part has this value, or one of these. */
export interface When {
  readonly path: string;
  readonly is: string | readonly string[];
}
interface Common {
  /** Path inside its part, such as `density.amount` or `centre.0`. */
  readonly path: string;
  readonly label: string;
  /** One line: what it does and which way it goes. */
  readonly doc: string;
  readonly when?: When;
}
export interface NumberSetting extends Common {
  readonly kind: 'number' | 'integer';
  readonly unit: Unit;
  readonly least: number;
  readonly most: number;
  readonly default: number;
  /** A value that is said as a word: 0 as “never”. */
  readonly word?: { readonly is: number; readonly text: string };
}
export interface ChoiceSetting extends Common {
  readonly kind: 'choice';
  readonly options: readonly { readonly value: string; readonly label: string }[];
  readonly default: string;
}
export interface FlagSetting extends Common {
  readonly kind: 'flag';
  readonly default: boolean;
}
export interface TextSetting extends Common {
  readonly kind: 'text';
  readonly default: string;
  /** May be left empty. */
  readonly optional?: boolean;
}
/** The id of a part of one of these lists; '' for none. */
export interface ReferenceSetting extends Common {
  readonly kind: 'reference';
  readonly to: readonly string[];
  readonly default: '';
  /** What no part is said as, and a word before the name of one: “everywhere”, “in ” the mill. */
  readonly none?: string;
  readonly prefix?: string;
}
/** Corners of a path, in metres about the part's middle. */
export interface PointsSetting extends Common {
  readonly kind: 'points';
  readonly default: readonly (readonly [number, number, number])[];
}
/** Dabs of a brush on a surface, see geometry/paint.ts. */
export interface DabsSetting extends Common {
  readonly kind: 'dabs';
  readonly default: readonly (readonly [number, number, number, number, number])[];
}
/** Points of a curve over 0…1, see recipe/profile.ts. */
export interface ProfileSetting extends Common {
  readonly kind: 'profile';
  readonly default: readonly (readonly [number, number])[];
}
/** A text in the language of formulas/; it writes channels, or is worth a number. */
export interface FormulaSetting extends Common {
  readonly kind: 'formula';
  readonly gives: 'channels' | 'value';
  readonly default: string;
}
/** Keys of a curve, in the order of their frames; see recipe/keys.ts. */
export interface KeysSetting extends Common {
  readonly kind: 'keys';
  readonly default: readonly { readonly frame: number; readonly value: number; readonly ease: string }[];
}
export type Setting =
  | NumberSetting
  | ChoiceSetting
  | FlagSetting
  | TextSetting
  | ReferenceSetting
  | PointsSetting
  | DabsSetting
  | ProfileSetting
  | FormulaSetting
  | KeysSetting;

/** Whether a setting is shown: what it depends on holds, and is shown itself. */
export function isShown(part: Part, setting: Setting, valueAt: (path: string) => unknown): boolean {
  const { when } = setting;
  if (!when) return true;
  const on = part.settings.find((s) => s.path === when.path);
  return [when.is].flat().includes(String(valueAt(when.path))) && (!on || isShown(part, on, valueAt));
}

/** A part of the recipe: one ingredient of the page. */
export interface Part {
  readonly key: string;
  readonly title: string;
  /**
   * A sentence with {path} where a setting stands as a control; [path=a|b: text] is shown only when that
   * holds.
   */
  readonly sentence: string;
  readonly settings: readonly Setting[];
  /** A list of such parts (sources) or just one (space). */
  readonly many: boolean;
  /** Its numbers may take keys over time: none that sizes memory or time itself. */
  readonly keyable: boolean;
  /** Its numbers may be others inside a region: all of them, or those whose paths begin so. */
  readonly placed?: true | readonly string[];
  /** A change of it can be taken up by a run that goes on; without, the run has to start again. */
  readonly live?: boolean;
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
  ): NumberSetting => ({
    kind,
    path,
    label,
    unit,
    least: range[0],
    most: range[1],
    default: value,
    doc,
    ...more,
  });
export const number = numeric('number');
export const integer = numeric('integer');
export const vector = (
  path: string,
  names: [string, string, string],
  unit: Unit,
  range: [number, number],
  value: [number, number, number],
  doc: string,
  when?: When,
): NumberSetting[] =>
  names.map((name, a) => number(`${path}.${a}`, name, unit, range, value[a], doc, when ? { when } : {}));
export const flag = (path: string, label: string, value: boolean, doc: string, when?: When): FlagSetting => ({
  kind: 'flag',
  path,
  label,
  default: value,
  doc,
  ...(when ? { when } : {}),
});
/** The first option is the default, unless another is named. */
export const choice = (
  path: string,
  label: string,
  options: readonly (readonly [string, string])[],
  doc: string,
  more: { when?: When; default?: string } = {},
): ChoiceSetting => ({
  kind: 'choice',
  path,
  label,
  default: options[0][0],
  doc,
  options: options.map(([value, text]) => ({ value, label: text })),
  ...more,
});
export const text = (
  path: string,
  label: string,
  value: string,
  doc: string,
  optional = false,
): TextSetting => ({
  kind: 'text',
  path,
  label,
  default: value,
  doc,
  ...(optional ? { optional } : {}),
});
export const reference = (
  path: string,
  label: string,
  to: readonly string[],
  doc: string,
  when?: When,
): ReferenceSetting => ({
  kind: 'reference',
  path,
  label,
  to,
  default: '',
  doc,
  ...(when ? { when } : {}),
});

export const formula = (
  path: string,
  label: string,
  gives: FormulaSetting['gives'],
  value: string,
  doc: string,
  when?: When,
): FormulaSetting => ({
  kind: 'formula',
  path,
  label,
  gives,
  default: value,
  doc,
  ...(when ? { when } : {}),
});

/** Whether a number of a part may be another one inside a region. */
export const isPlaced = ({ placed }: Part, path: string): boolean =>
  placed === true || (placed?.some((head) => path === head || path.startsWith(`${head}.`)) ?? false);

/** The part of that key. */
export function partOf(parts: readonly Part[], key: string): Part {
  const found = parts.find((p) => p.key === key);
  if (!found) throw new Error(`No part is called ${key}`);
  return found;
}
