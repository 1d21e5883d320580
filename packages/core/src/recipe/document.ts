// Documents (recipes, looks, combines) as validated, versioned plain data made of described parts.
import { CoreError } from '../base/error';
import * as yup from 'yup';
import { setAt } from './paths';
import { boundedList, formOf, ruleOf } from './setting-kinds';
import { partOf, type Part, type Setting } from './settings';

const MOST_PARTS = 64;
/** Wrong places that are named; a document that is wrong all over is not listed to its end. */
const MOST_FAULTS = 100;

/** Something wrong in a document: where it stands and what to do. */
export interface Fault {
  readonly path: string;
  readonly message: string;
}

/** Thrown by parse; `faults` names each place. */
export class DocumentError extends CoreError {
  readonly faults: readonly Fault[];

  constructor(all: readonly Fault[]) {
    const more = all.length - MOST_FAULTS;
    const faults =
      more > 0
        ? [...all.slice(0, MOST_FAULTS), { path: '', message: `and ${more} more places are wrong` }]
        : all;
    super('document', faults.map((f) => (f.path ? `${f.path}: ${f.message}` : f.message)).join('; '), {
      path: faults[0]?.path,
    });
    this.faults = faults;
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
    return group.length === 1 && group[0].path === key ? ruleOf(group[0]) : shapeOf(group);
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
  return boundedList(shapeOf([id, ...p.settings]), {
    what: 'must be a list',
    most: [MOST_PARTS, `must be at most ${MOST_PARTS}`],
  });
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
      const given = data[p.key] ?? (data[p.key] === undefined && p.many ? p.begins : undefined);
      if (!p.many) out[p.key] = merge(this.defaultPart(p.key), given);
      else if (given === undefined) out[p.key] = [];
      else if (Array.isArray(given) && given.length <= MOST_PARTS) {
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
    const nest = (settings: readonly Setting[]): object => {
      const heads = [...new Set(settings.map((s) => s.path.split('.')[0]))];
      const child = (head: string): object => {
        const own = settings.find((s) => s.path === head);
        if (own) return formOf(own);
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
    entries.sort(([a], [b]) => Number(a > b) - Number(a < b));
    return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonicalText(v)}`).join(',')}}`;
  }

  return JSON.stringify(data);
}
