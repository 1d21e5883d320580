// What each kind of setting knows: the rule that its values keep, its form as JSON Schema, how a value is
// told, and whether it takes keys. A new kind is one entry here, one builder in settings.ts and one control
// of the page.
import * as yup from 'yup';
import { MOST_CHARACTERS } from '../formulas/check';
import { EASES, type NumberSetting, type OutlineShape, type Setting, type TextSetting } from './settings';
import { formatValue } from './units';

const MOST_LETTERS = 120;
const MOST_POINTS = 64;
const MOST_KEYS = 4096;
const MOST_DABS = 4096;
const MOST_BENDS = 32;
const MOST_SHAPES = 512;
const MOST_CORNERS = 128;
const FAR_PX = 20000;
const FAR_M = 1000;
/** Keys may lie before the first frame and behind the last, but not without end. */
const FRAMES = { least: -100000, most: 1000000 };

export interface SettingKind<S extends Setting> {
  readonly rule: (setting: S) => yup.Schema;
  /** Its form in JSON Schema, without title, description and default. */
  readonly form: (setting: S) => object;
  /** A value in the page's words. @param nameOf the name of a part of one of the lists, by its id */
  readonly tell: (setting: S, value: unknown, nameOf: NameOf) => string;
  readonly takesKeys?: true;
}

export type NameOf = (lists: readonly string[], id: string) => string | undefined;

// ---- Rules that several kinds share
// ----------------------------------------

const mostOf = ({ lines }: TextSetting): number => (lines ? MOST_CHARACTERS : MOST_LETTERS);
const words = (least: 'filled' | 'any', typeError: string, most = MOST_LETTERS): yup.Schema => {
  const rule = yup.string().strict().typeError(typeError).max(most, `must be at most ${most} characters`);
  return least === 'filled' ? rule.required('must not be empty') : rule.defined('is missing');
};

interface ListRule {
  readonly what: string;
  readonly least?: readonly [number, string];
  readonly most: readonly [number, string];
}

/** A list that is refused by its length before its items are looked at. */
export function boundedList(items: yup.Schema, { what, least, most }: ListRule): yup.Schema {
  const refused = yup.mixed().test('most', most[1], () => false);
  let rule: yup.Schema = yup.array().of(items).typeError(what).required('is missing');
  if (least) rule = (rule as yup.ArraySchema<unknown[], object>).min(...least);
  return yup.lazy((value: unknown) =>
    Array.isArray(value) && value.length > most[0] ? refused : rule,
  ) as unknown as yup.Schema;
}

interface TupleRule extends ListRule {
  readonly length: readonly [number, string];
  /** What is wrong with a number; null where nothing is. */
  readonly item: (value: number) => string | null;
  readonly typeError: string;
  /** What is wrong with a tuple beside its numbers. */
  readonly tuple?: (value: readonly number[], before: readonly number[] | undefined) => string | null;
}

/**
 * A list of short lists of numbers, checked in one walk: there may be thousands. It stops at the first wrong
 * place.
 */
function tuples({ what, least, most, length, item, typeError, tuple }: TupleRule): yup.Schema {
  const fault = (value: unknown): { at: string; message: string } | null => {
    if (!Array.isArray(value)) return { at: '', message: value === undefined ? 'is missing' : what };
    if (value.length > most[0]) return { at: '', message: most[1] };
    if (least && value.length < least[0]) return { at: '', message: least[1] };
    for (const [n, one] of value.entries()) {
      if (!Array.isArray(one) || one.length !== length[0]) return { at: `[${n}]`, message: length[1] };
      for (const [m, v] of one.entries()) {
        const wrong = typeof v === 'number' && !Number.isNaN(v) ? item(v) : typeError;
        if (wrong !== null) return { at: `[${n}][${m}]`, message: wrong };
      }

      const wrong = tuple?.(one as number[], value[n - 1] as number[] | undefined) ?? null;
      if (wrong !== null) return { at: `[${n}]`, message: wrong };
    }

    return null;
  };

  return yup.mixed().test('tuples', (value, context) => {
    const wrong = fault(value);
    return wrong ? context.createError({ path: `${context.path}${wrong.at}`, message: wrong.message }) : true;
  });
}

/** What is wrong with an outline; null where nothing is. */
function outlineFault(value: unknown): { at: string; message: string } | null {
  if (!Array.isArray(value)) return { at: '', message: 'must be a list of shapes' };
  if (value.length < 1) return { at: '', message: 'must have one shape at least' };
  if (value.length > MOST_SHAPES) return { at: '', message: `must have at most ${MOST_SHAPES} shapes` };
  const shapes = value as (Partial<OutlineShape> | null)[];
  for (const [n, shape] of shapes.entries()) {
    const at = `[${n}]`;
    if (shape === null || typeof shape !== 'object')
      return { at, message: 'must be a shape with a frame and points' };
    const { frame, points } = shape;
    if (typeof frame !== 'number' || !(frame >= FRAMES.least && frame <= FRAMES.most))
      return { at: `${at}.frame`, message: 'must be a frame' };
    if (n > 0 && frame <= shapes[n - 1]!.frame!)
      return { at: `${at}.frame`, message: 'must be later than that of the shape before' };
    if (!Array.isArray(points) || points.length < 3 || points.length > MOST_CORNERS)
      return { at: `${at}.points`, message: `must be a list of 3 to ${MOST_CORNERS} corners` };
    if (points.length !== shapes[0]!.points!.length)
      return { at: `${at}.points`, message: 'must have as many corners as the first shape' };
    const isPoint = (p: unknown): boolean =>
      Array.isArray(p) && p.length === 2 && p.every((v) => typeof v === 'number' && Math.abs(v) <= FAR_PX);
    const bad = points.findIndex((p) => !isPoint(p));
    if (bad >= 0) return { at: `${at}.points[${bad}]`, message: `must be two numbers up to ${FAR_PX} px` };
  }

  return null;
}

const within = (value: number, least: number, most: number, unit = ''): string | null => {
  if (value < least) return `must be at least ${least}${unit}`;
  return value > most ? `must be at most ${most}${unit}` : null;
};

const tupleForm = (length: number, bounds: object, minItems: number, maxItems: number): object => ({
  type: 'array',
  items: { type: 'array', items: { type: 'number', ...bounds }, minItems: length, maxItems: length },
  ...(minItems > 0 ? { minItems } : {}),
  maxItems,
});

const counted = (s: Setting, value: unknown): string => `${(value as readonly unknown[]).length} ${s.label}`;
const quoted = (_: Setting, value: unknown): string => `“${String(value)}”`;

// ---- The kinds
// ----------------------------------------

type OfKind<K extends Setting['kind']> = K extends NumberSetting['kind']
  ? NumberSetting
  : Extract<Setting, { kind: K }>;

const NUMBER: SettingKind<NumberSetting> = {
  rule: (s) => {
    const unit = s.unit ? ` ${s.unit}` : '';
    const rule = yup
      .number()
      .strict()
      .typeError(`must be a number${s.unit ? ` in ${s.unit}` : ''}`)
      .min(s.least, `must be at least ${s.least}${unit}`)
      .max(s.most, `must be at most ${s.most}${unit}`);
    return (s.kind === 'integer' ? rule.integer('must be a whole number') : rule).required('is missing');
  },
  form: (s) => ({
    type: s.kind,
    minimum: s.least,
    maximum: s.most,
    ...(s.unit ? { 'x-unit': s.unit } : {}),
  }),
  tell: (s, value) => (s.word && value === s.word.is ? s.word.text : formatValue(Number(value), s.unit)),
  takesKeys: true,
};

const KINDS: { readonly [K in Setting['kind']]: SettingKind<OfKind<K>> } = {
  number: NUMBER,
  integer: { ...NUMBER, takesKeys: undefined },
  choice: {
    rule: (s) => {
      const values = s.options.map((o) => o.value);
      return yup
        .string()
        .strict()
        .typeError('must be a word')
        .oneOf(values, `must be one of: ${values.join(', ')}`)
        .required('is missing');
    },
    form: (s) => ({ type: 'string', enum: s.options.map((o) => o.value) }),
    tell: (s, value) => s.options.find((o) => o.value === value)?.label ?? String(value),
  },
  flag: {
    rule: () => yup.boolean().strict().typeError('must be true or false').required('is missing'),
    form: () => ({ type: 'boolean' }),
    tell: (_, value) => (value ? 'yes' : 'no'),
  },
  text: {
    rule: (s) => words(s.optional ? 'any' : 'filled', 'must be a text', mostOf(s)),
    form: (s) => ({ type: 'string', maxLength: mostOf(s) }),
    tell: quoted,
  },
  reference: {
    rule: () => words('any', 'must be the id of a part, or empty'),
    form: (s) => ({ type: 'string', maxLength: MOST_LETTERS, 'x-to': s.to }),
    tell: (s, value, nameOf) =>
      value === '' ? (s.none ?? 'none') : (nameOf(s.to, String(value)) ?? String(value)),
  },
  points: {
    rule: () =>
      tuples({
        what: 'must be a list of points',
        length: [3, 'must be a list of 3 numbers'],
        item: (v) => within(v, -FAR_M, FAR_M, ' m'),
        typeError: 'must be a number in m',
        least: [2, 'must have two points at least'],
        most: [MOST_POINTS, `must have at most ${MOST_POINTS} points`],
      }),
    form: () => tupleForm(3, {}, 2, MOST_POINTS),
    tell: counted,
  },
  profile: {
    rule: () =>
      tuples({
        what: 'must be a list of points',
        length: [2, 'must be a list of 2 numbers: place and value'],
        item: (v) => within(v, 0, 1),
        typeError: 'must be a number from 0 to 1',
        least: [2, 'must have two points at least'],
        most: [MOST_BENDS, `must have at most ${MOST_BENDS} points`],
        tuple: ([place], before) => (before && place <= before[0] ? 'must go from left to right' : null),
      }),
    form: () => tupleForm(2, { minimum: 0, maximum: 1 }, 2, MOST_BENDS),
    tell: counted,
  },
  outline: {
    rule: () =>
      yup.mixed().test('outline', (value, context) => {
        const wrong = outlineFault(value);
        return wrong
          ? context.createError({ path: `${context.path}${wrong.at}`, message: wrong.message })
          : true;
      }),
    form: () => ({
      type: 'array',
      items: {
        type: 'object',
        properties: {
          frame: { type: 'number', minimum: FRAMES.least, maximum: FRAMES.most },
          points: tupleForm(2, { minimum: -FAR_PX, maximum: FAR_PX }, 3, MOST_CORNERS),
        },
        required: ['frame', 'points'],
        additionalProperties: false,
      },
      minItems: 1,
      maxItems: MOST_SHAPES,
    }),
    tell: (_, value) => {
      const shapes = value as readonly OutlineShape[];
      return (
        `${shapes.length === 1 ? 'one shape' : `${shapes.length} shapes`} of ` +
        `${shapes[0]?.points.length ?? 0} corners`
      );
    },
  },
  formula: {
    rule: () => words('any', 'must be a text', MOST_CHARACTERS),
    form: () => ({ type: 'string', maxLength: MOST_CHARACTERS }),
    tell: quoted,
  },
  dabs: {
    rule: () =>
      tuples({
        what: 'must be a list of dabs',
        length: [5, 'must be a list of 5 numbers: place, radius, 1 or −1'],
        item: (v) => within(v, -FAR_M, FAR_M),
        typeError: 'must be a number',
        most: [MOST_DABS, `must have at most ${MOST_DABS} dabs`],
        tuple: ([, , , radius]) => (radius > 0 ? null : 'must have a radius above 0'),
      }),
    form: () => tupleForm(5, {}, 0, MOST_DABS),
    tell: counted,
  },
  keys: {
    rule: () =>
      boundedList(
        yup
          .object({
            frame: yup
              .number()
              .strict()
              .typeError('must be a frame')
              .min(FRAMES.least, `must be at least ${FRAMES.least}`)
              .max(FRAMES.most, `must be at most ${FRAMES.most}`)
              .required('is missing'),
            value: yup.number().strict().typeError('must be a number').required('is missing'),
            ease: yup
              .string()
              .strict()
              .oneOf(EASES, `must be one of: ${EASES.join(', ')}`)
              .required('is missing'),
          })
          .noUnknown()
          .strict(),
        {
          what: 'must be a list of keys',
          least: [1, 'must have one key at least'],
          most: [MOST_KEYS, `must have at most ${MOST_KEYS} keys`],
        },
      ),
    form: () => ({
      type: 'array',
      items: {
        type: 'object',
        properties: {
          frame: { type: 'number', minimum: FRAMES.least, maximum: FRAMES.most },
          value: { type: 'number' },
          ease: { enum: EASES },
        },
        required: ['frame', 'value', 'ease'],
      },
      minItems: 1,
      maxItems: MOST_KEYS,
    }),
    tell: counted,
  },
};

const kindOf = <S extends Setting>(s: S): SettingKind<S> => KINDS[s.kind] as unknown as SettingKind<S>;

/** The rule that a setting's values keep. */
export const ruleOf = (s: Setting): yup.Schema => kindOf(s).rule(s);

/** A setting's form in JSON Schema. */
export const formOf = (s: Setting): object => ({
  ...kindOf(s).form(s),
  title: s.label,
  description: s.doc,
  default: s.default,
});

/** A value as the page says it. */
export const tellValue = (s: Setting, value: unknown, nameOf: NameOf): string =>
  kindOf(s).tell(s, value, nameOf);

/** Whether a setting may take keys over time, where its part lets it. */
export const takesKeys = (s: Setting): boolean => kindOf(s).takesKeys ?? false;
