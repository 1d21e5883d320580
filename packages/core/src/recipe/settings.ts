// How a setting is described, once: types, schema, defaults, forms, sentences of the page, help and
// documentation are made from such descriptions (recipe/parts/, look/parts.ts, combine/parts/,
// volume/tools/). What a kind of setting knows stands in setting-kinds.ts.
import { CoreError } from '../base/error';
import type { Triple } from '../math/vector';

/** SI units, as shown; '' is a plain number. */
export type SettingUnit =
  | ''
  | 'm'
  | 'mm'
  | '1/m'
  | 's'
  | 'm/s'
  | 'm/s²'
  | 'm²/s'
  | 'K'
  | 'kg/m³'
  | '1/s'
  | 'm/s² per K'
  | '°'
  | '°/s'
  | 'frames'
  | 'fps'
  | 'px'
  | '%';

/** Shown only where another setting of the part has this value, or one of these. */
export interface When {
  readonly path: string;
  readonly is: string | readonly string[];
}

interface Common<P extends string> {
  /** Path inside its part, such as `density.amount` or `centre.0`. */
  readonly path: P;
  readonly label: string;
  /** One line: what it does and which way it goes. */
  readonly doc: string;
  readonly when?: When;
}

export interface NumberSetting<P extends string = string> extends Common<P> {
  readonly kind: 'number' | 'integer';
  readonly unit: SettingUnit;
  readonly least: number;
  readonly most: number;
  readonly default: number;
  /** A value that is said as a word: 0 as “never”. */
  readonly word?: { readonly is: number; readonly text: string };
}

export interface ChoiceSetting<P extends string = string, V extends string = string> extends Common<P> {
  readonly kind: 'choice';
  readonly options: readonly { readonly value: V; readonly label: string }[];
  readonly default: V;
}

export interface FlagSetting<P extends string = string> extends Common<P> {
  readonly kind: 'flag';
  readonly default: boolean;
}

export interface TextSetting<P extends string = string> extends Common<P> {
  readonly kind: 'text';
  readonly default: string;
  /** May be left empty. */
  readonly optional?: boolean;
  /** May have several lines. */
  readonly lines?: boolean;
}

/** The id of a part of one of these lists; '' for none. */
export interface ReferenceSetting<P extends string = string> extends Common<P> {
  readonly kind: 'reference';
  readonly to: readonly string[];
  readonly default: '';
  /** What no part is said as, and a word before the name of one: “everywhere”, “in ” the mill. */
  readonly none?: string;
  readonly prefix?: string;
}

/** Corners of a path, in metres about the part's middle. */
export interface PointsSetting<P extends string = string> extends Common<P> {
  readonly kind: 'points';
  readonly default: readonly Triple[];
}

/** Dabs of a brush on a surface, see geometry/paint.ts. */
export interface DabsSetting<P extends string = string> extends Common<P> {
  readonly kind: 'dabs';
  readonly default: readonly Dab[];
}

/** Points of a curve over 0…1, see recipe/profile.ts. */
export interface ProfileSetting<P extends string = string> extends Common<P> {
  readonly kind: 'profile';
  readonly default: readonly ProfilePoint[];
  /** It ends as it goes, and not level. */
  readonly onward?: boolean;
}

/** A closed outline that may change over time: its shapes by their frames, with as many corners each. */
export interface OutlineSetting<P extends string = string> extends Common<P> {
  readonly kind: 'outline';
  readonly default: readonly OutlineShape[];
}

/** A text in the language of formulas/; it writes channels, or is worth a number. */
export interface FormulaSetting<P extends string = string> extends Common<P> {
  readonly kind: 'formula';
  readonly gives: 'channels' | 'value';
  readonly default: string;
}

/** Keys of a curve, in the order of their frames; see recipe/keys.ts. */
export interface KeysSetting<P extends string = string> extends Common<P> {
  readonly kind: 'keys';
  readonly default: readonly Keyframe[];
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
  | OutlineSetting
  | FormulaSetting
  | KeysSetting;

/** Place in the shape's own axes and radius, m; 1 paints, −1 wipes away. */
export type Dab = readonly [x: number, y: number, z: number, radius: number, amount: number];

export type ProfilePoint = readonly [place: number, value: number];

export interface OutlineShape {
  readonly frame: number;
  readonly points: readonly (readonly [x: number, y: number])[];
}

/** How a curve leaves a key for the next one. */
export const EASES = ['smooth', 'even', 'hold', 'slow start', 'slow end'] as const;
export type Ease = (typeof EASES)[number];

export interface Keyframe {
  readonly frame: number;
  readonly value: number;
  readonly ease: Ease;
}

/** A part of a document: one ingredient of the page. */
export interface Part<
  K extends string = string,
  M extends boolean = boolean,
  S extends readonly Setting[] = readonly Setting[],
> {
  readonly key: K;
  readonly title: string;
  /**
   * A sentence with {path} where a setting stands as a control; [path=a|b: text] is shown only when that
   * holds.
   */
  readonly sentence: string;
  readonly settings: S;
  /** A list of such parts (sources) or just one (space). */
  readonly many: M;
  /** What a list holds where a document does not tell: settings that differ from their defaults, with ids. */
  readonly begins?: readonly object[];
  /** Its numbers may take keys over time: none that sizes memory or time itself. */
  readonly keyable: boolean;
  /** Its numbers may be others inside a region: all of them, or those whose paths begin so. */
  readonly placed?: true | readonly string[];
  /** It has many settings, which stand under heads. */
  readonly grouped?: boolean;
  /** It does nothing while these numbers are 0 and these choices the first ones. */
  readonly rests?: readonly string[];
  /** A change of it can be taken up by a run that goes on; without, the run has to start again. */
  readonly live?: boolean;
}

/** Describes a part; its values' type is `PartValues<typeof PART>`. */
export const definePart = <
  const K extends string,
  const M extends boolean,
  const S extends readonly Setting[],
>(
  part: Part<K, M, S>,
): Part<K, M, S> => part;

// ---- Types of values, from the descriptions ----------------------------------------

interface Described {
  readonly kind: string;
  readonly path: string;
}

/** What a setting of a kind holds. */
type ValueOf<S> = S extends { kind: 'number' | 'integer' }
  ? number
  : S extends { kind: 'choice'; options: readonly { value: infer V }[] }
    ? V
    : S extends { kind: 'flag' }
      ? boolean
      : S extends { kind: 'text' | 'reference' | 'formula' }
        ? string
        : S extends { kind: 'points' }
          ? Triple[]
          : S extends { kind: 'dabs' }
            ? Dab[]
            : S extends { kind: 'profile' }
              ? [number, number][]
              : S extends { kind: 'outline' }
                ? readonly OutlineShape[]
                : S extends { kind: 'keys' }
                  ? readonly Keyframe[]
                  : never;

type Head<P extends string> = P extends `${infer H}.${string}` ? H : P;

/** The settings below a head, with the rest of their paths. */
type Below<S extends Described, H extends string> = S extends { path: `${H}.${infer R}` }
  ? Omit<S, 'path'> & { readonly path: R }
  : never;

type Group<S extends Described> = [S['path']] extends ['0' | '1' | '2'] ? Triple : SettingValues<S>;

/**
 * Plain data that a union of settings describes: `density.amount` becomes { density: { amount: number } }.
 */
export type SettingValues<S extends Described> = {
  [H in Head<S['path']>]: [Extract<S, { path: H }>] extends [never]
    ? Group<Below<S, H>>
    : ValueOf<Extract<S, { path: H }>>;
};

type Values<S extends readonly Described[]> = SettingValues<S[number]>;

/** The data of one part; of a list's with its id. */
export type PartValues<P extends Part> =
  P extends Part<string, infer M, infer S>
    ? M extends true
      ? { id: string } & Values<S>
      : Values<S>
    : never;

/** A document made of parts: a list of each that is many, one of each other. */
export type DocumentOf<P extends readonly Part[]> = {
  [One in P[number] as One['key']]: One extends Part<string, true> ? PartValues<One>[] : PartValues<One>;
};

// ---- Builders
// ----------------------------------------

type NumberMore = Pick<NumberSetting, 'when' | 'word'>;

const numeric =
  (kind: NumberSetting['kind']) =>
  <const P extends string>(
    path: P,
    label: string,
    unit: SettingUnit,
    range: readonly [number, number],
    value: number,
    doc: string,
    more: NumberMore = {},
  ): NumberSetting<P> => ({
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

type VectorSettings<P extends string> = readonly [
  NumberSetting<`${P}.0`>,
  NumberSetting<`${P}.1`>,
  NumberSetting<`${P}.2`>,
];

/** Three numbers that are set one by one: “turn about” x, y and z, or each called by its own name. */
export const vector = <const P extends string>(
  path: P,
  called: string | readonly [string, string, string],
  unit: SettingUnit,
  range: readonly [number, number],
  value: readonly [number, number, number],
  doc: string,
  when?: When,
): VectorSettings<P> => {
  const names = typeof called === 'string' ? ['x', 'y', 'z'].map((axis) => `${called} ${axis}`) : called;
  const one = <const A extends 0 | 1 | 2>(axis: A): NumberSetting<`${P}.${A}`> =>
    number(`${path}.${axis}`, names[axis], unit, range, value[axis], doc, shownWhen(when));
  return [one(0), one(1), one(2)];
};

/** Metres to which places and sizes are bounded. */
export const FAR = 1000;

/** A place in the world. */
export const position = <const P extends string>(
  path: P,
  called: string,
  value: readonly [number, number, number],
  doc: string,
  when?: When,
): VectorSettings<P> => vector(path, called, 'm', [-FAR, FAR], value, doc, when);

/** A vector of which only the direction counts. */
export const direction = <const P extends string>(
  path: P,
  called: string,
  value: readonly [number, number, number],
  doc: string,
  when?: When,
): VectorSettings<P> => vector(path, called, '', [-1000, 1000], value, doc, when);

/** Linear red, green and blue from 0 to the most. */
export const linearColour = <const P extends string>(
  path: P,
  most: number,
  value: readonly [number, number, number],
  doc: string,
  when?: When,
): VectorSettings<P> => vector(path, ['red', 'green', 'blue'], '', [0, most], value, doc, when);

/** What the parts of every list have: a name, and whether they count. */
export const nameAndSwitch = (
  name: string,
  doc = 'What it is called.',
  off = 'Off: kept in the recipe, without effect.',
) => [text('name', 'name', name, doc), flag('on', 'on', true, off)] as const;

export const flag = <const P extends string>(
  path: P,
  label: string,
  value: boolean,
  doc: string,
  when?: When,
): FlagSetting<P> => ({ kind: 'flag', path, label, default: value, doc, ...shownWhen(when) });

/** The first option is the default, unless another is named. */
export const choice = <const P extends string, const V extends string>(
  path: P,
  label: string,
  options: readonly (readonly [V, string])[],
  doc: string,
  more: { readonly when?: When; readonly default?: NoInfer<V> } = {},
): ChoiceSetting<P, V> => ({
  kind: 'choice',
  path,
  label,
  default: options[0][0],
  doc,
  options: options.map(([value, text]) => ({ value, label: text })),
  ...more,
});

export const text = <const P extends string>(
  path: P,
  label: string,
  value: string,
  doc: string,
  optional = false,
): TextSetting<P> => ({ kind: 'text', path, label, default: value, doc, ...(optional ? { optional } : {}) });

export const reference = <const P extends string>(
  path: P,
  label: string,
  to: readonly string[],
  doc: string,
  when?: When,
): ReferenceSetting<P> => ({ kind: 'reference', path, label, to, default: '', doc, ...shownWhen(when) });

export const formula = <const P extends string>(
  path: P,
  label: string,
  gives: FormulaSetting['gives'],
  value: string,
  doc: string,
  when?: When,
): FormulaSetting<P> => ({ kind: 'formula', path, label, gives, default: value, doc, ...shownWhen(when) });

const shownWhen = (when: When | undefined): { readonly when?: When } => (when ? { when } : {});

// ---- Questions
// ----------------------------------------

/** Whether a setting is shown: what it depends on holds, and is shown itself. */
export function isShown(part: Part, setting: Setting, valueAt: (path: string) => unknown): boolean {
  const { when } = setting;
  if (!when) return true;
  const on = part.settings.find((s) => s.path === when.path);
  return [when.is].flat().includes(String(valueAt(when.path))) && (!on || isShown(part, on, valueAt));
}

/** Whether a number of a part may be another one inside a region. */
export const isPlaced = ({ placed }: Part, path: string): boolean =>
  placed === true || (placed?.some((head) => path === head || path.startsWith(`${head}.`)) ?? false);

export const isNumber = (s: Setting): s is NumberSetting => s.kind === 'number' || s.kind === 'integer';

/** The part of that key. */
export function partOf(parts: readonly Part[], key: string): Part {
  const found = parts.find((p) => p.key === key);
  if (!found) throw new CoreError('settings', `No part is called ${key}`);
  return found;
}
