// Documents (recipes, looks, combines) as validated, versioned plain data made of described parts.
import * as yup from 'yup';
import { MOST_CHARACTERS } from '../formulas/check';
import { partOf, type Part, type Setting } from './settings';
import { setAt } from './paths';

const MOST_PARTS = 64;
const MOST_POINTS = 64;
const MOST_KEYS = 4096;
const MOST_DABS = 4096;
const MOST_BENDS = 32;
/** How a curve leaves a key for the next one, see recipe/keys.ts. */
export const EASES = ['smooth', 'even', 'hold', 'slow start', 'slow end'] as const;

/** Something wrong in a document: where it stands and what to do. */
export interface Fault {
  readonly path: string;
  readonly message: string;
}

/** Thrown by parse; `faults` names each place. */
export class DocumentError extends Error {
  constructor(readonly faults: readonly Fault[]) {
    super(faults.map((f) => (f.path ? `${f.path}: ${f.message}` : f.message)).join('; '));
    this.name = 'DocumentError';
  }
}

function rule(s: Setting): yup.Schema {
  switch (s.kind) {
    case 'number':
    case 'integer': {
      const unit = s.unit ? ` ${s.unit}` : '';
      let y = yup
        .number()
        .strict()
        .typeError(`must be a number${s.unit ? ` in ${s.unit}` : ''}`)
        .min(s.least, `must be at least ${s.least}${unit}`)
        .max(s.most, `must be at most ${s.most}${unit}`);
      if (s.kind === 'integer') y = y.integer('must be a whole number');
      return y.required('is missing');
    }
    case 'choice':
      return yup
        .string()
        .strict()
        .typeError('must be a word')
        .oneOf(
          s.options.map((o) => o.value),
          `must be one of: ${s.options.map((o) => o.value).join(', ')}`,
        )
        .required('is missing');
    case 'flag':
      return yup.boolean().strict().typeError('must be true or false').required('is missing');
    case 'text': {
      const words = yup
        .string()
        .strict()
        .typeError('must be a text')
        .max(120, 'must be at most 120 characters');
      return s.optional ? words.defined('is missing') : words.required('must not be empty');
    }
    case 'reference':
      return yup
        .string()
        .strict()
        .typeError('must be the id of a part, or empty')
        .max(120, 'must be at most 120 characters')
        .defined('is missing');
    case 'points':
      return yup
        .array()
        .of(
          yup
            .array()
            .of(
              yup
                .number()
                .strict()
                .typeError('must be a number in m')
                .min(-1000, 'must be at least -1000 m')
                .max(1000, 'must be at most 1000 m')
                .required(),
            )
            .length(3, 'must be a list of 3 numbers'),
        )
        .typeError('must be a list of points')
        .min(2, 'must have two points at least')
        .max(MOST_POINTS, `must have at most ${MOST_POINTS} points`)
        .required('is missing');
    case 'profile':
      return yup
        .array()
        .of(
          yup
            .array()
            .of(
              yup
                .number()
                .strict()
                .typeError('must be a number from 0 to 1')
                .min(0, 'must be at least 0')
                .max(1, 'must be at most 1')
                .required(),
            )
            .length(2, 'must be a list of 2 numbers: place and value'),
        )
        .typeError('must be a list of points')
        .min(2, 'must have two points at least')
        .max(MOST_BENDS, `must have at most ${MOST_BENDS} points`)
        .test('order', 'must go from left to right', (points) =>
          (points ?? []).every((p, n) => n === 0 || (p?.[0] ?? 0) > (points![n - 1]?.[0] ?? 0)),
        )
        .required('is missing');
    case 'formula':
      return yup
        .string()
        .strict()
        .typeError('must be a text')
        .max(MOST_CHARACTERS, `must be at most ${MOST_CHARACTERS} characters`)
        .defined('is missing');
    case 'dabs':
      return yup
        .array()
        .of(
          yup
            .array()
            .of(yup.number().strict().typeError('must be a number').min(-1000).max(1000).required())
            .length(5, 'must be a list of 5 numbers: place, radius, 1 or −1')
            .test('radius', 'must have a radius above 0', (dab) => (dab?.[3] ?? 0) > 0),
        )
        .typeError('must be a list of dabs')
        .max(MOST_DABS, `must have at most ${MOST_DABS} dabs`)
        .required('is missing');
    case 'keys':
      return yup
        .array()
        .of(
          yup
            .object({
              frame: yup.number().strict().typeError('must be a frame').required('is missing'),
              value: yup.number().strict().typeError('must be a number').required('is missing'),
              ease: yup
                .string()
                .strict()
                .oneOf(EASES, `must be one of: ${EASES.join(', ')}`)
                .required('is missing'),
            })
            .noUnknown()
            .strict(),
        )
        .typeError('must be a list of keys')
        .min(1, 'must have one key at least')
        .max(MOST_KEYS, `must have at most ${MOST_KEYS} keys`)
        .required('is missing');
  }
}

/** Nests the settings' rules by their paths; a step that is a number makes a fixed-length list. */
function shapeOf(settings: readonly Setting[]): yup.Schema {
  const groups = new Map<string, Setting[]>();
  for (const s of settings) {
    const [head, ...rest] = s.path.split('.');
    groups.set(head, [...(groups.get(head) ?? []), rest.length ? { ...s, path: rest.join('.') } : s]);
  }

  const keys = [...groups.keys()];
  const child = (key: string): yup.Schema => {
    const group = groups.get(key)!;
    return group.length === 1 && group[0].path === key ? rule(group[0]) : shapeOf(group);
  };

  if (keys.every((k) => /^\d+$/.test(k))) {
    return yup
      .tuple(keys.map(child) as [yup.Schema, ...yup.Schema[]])
      .typeError(`must be a list of ${keys.length} numbers`)
      .test(
        'length',
        `must be a list of ${keys.length} numbers`,
        (v) => Array.isArray(v) && v.length === keys.length,
      )
      .required('is missing');
  }

  return yup
    .object(Object.fromEntries(keys.map((k) => [k, child(k)])))
    .noUnknown((params) => `has no setting called ${String((params as { unknown?: string }).unknown ?? '')}`)
    .strict()
    .typeError('must be a group of settings')
    .required('is missing') as unknown as yup.Schema;
}

function partSchema(p: Part): yup.Schema {
  if (!p.many) return shapeOf(p.settings);
  const id = { kind: 'text', path: 'id', label: 'id', default: '', doc: '' } as const;
  return yup
    .array()
    .of(shapeOf([id, ...p.settings]))
    .max(MOST_PARTS, `must be at most ${MOST_PARTS}`)
    .typeError('must be a list')
    .required('is missing');
}

/** One kind of document: its name, version and parts. */
export class DocumentKind<T extends object> {
  private readonly schema: yup.Schema;

  constructor(
    readonly name: string,
    readonly version: number,
    readonly parts: readonly Part[],
    private readonly crossChecks: (document: T) => Fault[] = () => [],
    /** From each older version to the next one, the first from version 1. */
    private readonly upgrades: readonly ((data: Record<string, unknown>) => Record<string, unknown>)[] = [],
  ) {
    this.schema = yup
      .object({
        version: yup.number().oneOf([version], `must be ${version}`).required('is missing'),
        name: yup
          .string()
          .strict()
          .typeError('must be a text')
          .max(120, 'must be at most 120 characters')
          .required('must not be empty'),
        ...Object.fromEntries(parts.map((p) => [p.key, partSchema(p)])),
      })
      .noUnknown((params) => `unknown part: ${String((params as { unknown?: string }).unknown ?? '')}`)
      .strict();
  }

  /**
   * Checks data from any door.
   * @returns the document, with parts and settings that are left out filled with their defaults
   * @throws DocumentError naming every wrong place
   */
  parse(data: unknown): T {
    if (data === null || typeof data !== 'object' || Array.isArray(data)) {
      throw new DocumentError([{ path: '', message: `a ${this.name} must be a JSON object` }]);
    }

    const version = (data as { version?: unknown }).version;
    if (typeof version === 'number' && version > this.version) {
      throw new DocumentError([
        {
          path: 'version',
          message: `is ${version}; this program reads up to ${this.version}. Use a newer program`,
        },
      ]);
    }

    let document: T;
    try {
      document = this.schema.validateSync(this.fill(this.upgraded(data as Record<string, unknown>)), {
        abortEarly: false,
      }) as T;
    } catch (error) {
      if (!(error instanceof yup.ValidationError)) throw error;
      const inner = error.inner.length ? error.inner : [error];
      throw new DocumentError(inner.map((e) => ({ path: e.path ?? '', message: e.errors[0] })));
    }

    const faults = this.crossChecks(document);
    if (faults.length) throw new DocumentError(faults);
    return document;
  }

  /**
   * A document that was checked by an earlier program, with the settings that it did not have at their
   * defaults.
   */
  filled(document: T): T {
    return this.fill(this.upgraded(document as Record<string, unknown>)) as T;
  }

  /** Data of an older version in the form of this one; data without a version is of this one. */
  private upgraded(data: Record<string, unknown>): Record<string, unknown> {
    const { version } = data;
    if (!Number.isInteger(version) || (version as number) < 1 || (version as number) >= this.version)
      return data;
    const newer = this.upgrades.slice((version as number) - 1).reduce((d, step) => step(d), data);
    return { ...newer, version: this.version };
  }

  /** A part with every setting at its default. */
  defaultPart<P>(key: string, extra: object = {}): P {
    let out: unknown = {};
    for (const s of partOf(this.parts, key).settings) out = setAt(out, s.path, s.default);
    return { ...(out as object), ...extra } as P;
  }

  /** Left-out settings get their defaults; wrong ones stay for the schema to name. */
  private fill(data: Record<string, unknown>): Record<string, unknown> {
    const merge = (base: unknown, over: unknown): unknown => {
      if (over === undefined) return base;
      if (
        base === null ||
        over === null ||
        typeof base !== 'object' ||
        typeof over !== 'object' ||
        Array.isArray(over) ||
        Array.isArray(base)
      )
        return over;
      const out: Record<string, unknown> = { ...(over as object) };
      for (const [k, v] of Object.entries(base)) out[k] = merge(v, (over as Record<string, unknown>)[k]);
      return out;
    };

    const out: Record<string, unknown> = { version: this.version, name: 'Untitled', ...data };
    for (const p of this.parts) {
      const given = data[p.key];
      if (!p.many) out[p.key] = merge(this.defaultPart(p.key), given);
      else if (given === undefined) out[p.key] = [];
      else if (Array.isArray(given)) {
        out[p.key] = given.map((item: unknown, i) =>
          item !== null && typeof item === 'object'
            ? merge(this.defaultPart(p.key, { id: `${p.key}-${i + 1}` }), item)
            : item,
        );
      }
    }

    return out;
  }

  /** The form as JSON Schema (draft 2020-12), made from the settings. */
  jsonSchema(): object {
    const leaf = (s: Setting): object => {
      const text = { title: s.label, description: s.doc, default: s.default };
      switch (s.kind) {
        case 'number':
        case 'integer':
          return {
            type: s.kind,
            minimum: s.least,
            maximum: s.most,
            ...text,
            ...(s.unit ? { 'x-unit': s.unit } : {}),
          };
        case 'choice':
          return { type: 'string', enum: s.options.map((o) => o.value), ...text };
        case 'flag':
          return { type: 'boolean', ...text };
        case 'text':
          return { type: 'string', maxLength: 120, ...text };
        case 'reference':
          return { type: 'string', maxLength: 120, 'x-to': s.to, ...text };
        case 'points':
          return {
            type: 'array',
            items: { type: 'array', items: { type: 'number' }, minItems: 3, maxItems: 3 },
            minItems: 2,
            maxItems: MOST_POINTS,
            ...text,
          };
        case 'profile':
          return {
            type: 'array',
            items: {
              type: 'array',
              items: { type: 'number', minimum: 0, maximum: 1 },
              minItems: 2,
              maxItems: 2,
            },
            minItems: 2,
            maxItems: MOST_BENDS,
            ...text,
          };
        case 'formula':
          return { type: 'string', maxLength: MOST_CHARACTERS, ...text };
        case 'dabs':
          return {
            type: 'array',
            items: { type: 'array', items: { type: 'number' }, minItems: 5, maxItems: 5 },
            maxItems: MOST_DABS,
            ...text,
          };
        case 'keys':
          return {
            type: 'array',
            items: {
              type: 'object',
              properties: { frame: { type: 'number' }, value: { type: 'number' }, ease: { enum: EASES } },
              required: ['frame', 'value', 'ease'],
            },
            minItems: 1,
            maxItems: MOST_KEYS,
            ...text,
          };
      }
    };

    const nest = (settings: readonly Setting[]): object => {
      const heads = [...new Set(settings.map((s) => s.path.split('.')[0]))];
      const child = (head: string): object => {
        const own = settings.find((s) => s.path === head);
        if (own) return leaf(own);
        return nest(
          settings
            .filter((s) => s.path.startsWith(`${head}.`))
            .map((s) => ({ ...s, path: s.path.slice(head.length + 1) })),
        );
      };

      if (heads.every((h) => /^\d+$/.test(h)))
        return {
          type: 'array',
          prefixItems: heads.map(child),
          minItems: heads.length,
          maxItems: heads.length,
        };
      return {
        type: 'object',
        additionalProperties: false,
        properties: Object.fromEntries(heads.map((h) => [h, child(h)])),
      };
    };

    const one = (p: Part): object => {
      const shape = nest(p.settings) as { properties: object };
      if (!p.many) return { title: p.title, ...shape };
      return {
        title: p.title,
        type: 'array',
        maxItems: MOST_PARTS,
        items: { ...shape, properties: { id: { type: 'string' }, ...shape.properties } },
      };
    };

    return {
      $schema: 'https://json-schema.org/draft/2020-12/schema',
      title: `Bramblemist ${this.name}`,
      type: 'object',
      additionalProperties: false,
      properties: {
        version: { const: this.version },
        name: { type: 'string', maxLength: 120 },
        ...Object.fromEntries(this.parts.map((p) => [p.key, one(p)])),
      },
    };
  }
}

/** The same text for the same recipe, however its keys were ordered: what hashes and currency compare. */
export function canonicalText(data: unknown): string {
  if (Array.isArray(data)) return `[${data.map(canonicalText).join(',')}]`;
  if (data !== null && typeof data === 'object') {
    const entries = Object.entries(data).filter(([, v]) => v !== undefined);
    entries.sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
    return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonicalText(v)}`).join(',')}}`;
  }

  return JSON.stringify(data);
}
