// The recipe: the whole description of one simulation as plain, versioned data, checked at every door.
import * as yup from 'yup';
import { PARTS, part, type Part, type PartKey, type Setting } from './settings';
import { setAt } from './paths';

export type SideRule = 'open' | 'wall';
export type Triple = [number, number, number];
export interface ShapePart {
  id: string;
  name: string;
  on: boolean;
  shape: 'sphere' | 'box';
  centre: Triple;
  radius: number;
  size: Triple;
}
export interface SourcePart extends ShapePart {
  rate: number;
  temperature: number;
  from: number;
  until: number;
}
export type ObstaclePart = ShapePart;
export interface SpacePart {
  size: Triple;
  corner: Triple;
  voxelSize: number;
  sides: { floor: SideRule; top: SideRule; left: SideRule; right: SideRule; back: SideRule; front: SideRule };
  frameRate: number;
  firstFrame: number;
  lastFrame: number;
  timeScale: number;
  cfl: number;
  substepsLeast: number;
  substepsMost: number;
}
export interface Recipe {
  version: typeof RECIPE_VERSION;
  name: string;
  space: SpacePart;
  sources: SourcePart[];
  obstacles: ObstaclePart[];
  buoyancy: { lift: number; weight: number };
  wind: { speed: number; heading: number; rise: number; grip: number; gust: number; gustLength: number; seed: number };
  turbulence: { strength: number; size: number; octaves: number; roughness: number; period: number; seed: number };
  vorticity: { strength: number };
  fading: { density: number; temperature: number };
  keep: { temperature: boolean; velocity: boolean; precision: 'half' | 'float'; threshold: number };
}

export const RECIPE_VERSION = 1;
const MOST_PARTS = 64;

/** Something wrong in a recipe: where it stands and what to do. */
export interface Fault {
  readonly path: string;
  readonly message: string;
}

/** Thrown by parseRecipe; `faults` names each place. */
export class RecipeError extends Error {
  constructor(readonly faults: readonly Fault[]) {
    super(faults.map((f) => (f.path ? `${f.path}: ${f.message}` : f.message)).join('; '));
    this.name = 'RecipeError';
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
        .oneOf(s.options.map((o) => o.value), `must be one of: ${s.options.map((o) => o.value).join(', ')}`)
        .required('is missing');
    case 'flag':
      return yup.boolean().strict().typeError('must be true or false').required('is missing');
    case 'text':
      return yup.string().strict().typeError('must be a text').max(120, 'must be at most 120 characters').required('must not be empty');
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
      .test('length', `must be a list of ${keys.length} numbers`, (v) => Array.isArray(v) && v.length === keys.length)
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

const SCHEMA = yup
  .object({
    version: yup.number().oneOf([RECIPE_VERSION], `must be ${RECIPE_VERSION}`).required('is missing'),
    name: yup.string().strict().typeError('must be a text').max(120, 'must be at most 120 characters').required('must not be empty'),
    ...Object.fromEntries(PARTS.map((p) => [p.key, partSchema(p)])),
  })
  .noUnknown((params) => `unknown part: ${String((params as { unknown?: string }).unknown ?? '')}`)
  .strict()
  .typeError('a recipe must be a JSON object');

/**
 * Checks data from any door.
 * @returns the recipe, with parts and settings that are left out filled with their defaults
 * @throws RecipeError naming every wrong place
 */
export function parseRecipe(data: unknown): Recipe {
  if (data === null || typeof data !== 'object' || Array.isArray(data)) {
    throw new RecipeError([{ path: '', message: 'a recipe must be a JSON object' }]);
  }
  const version = (data as { version?: unknown }).version;
  if (typeof version === 'number' && version > RECIPE_VERSION) {
    throw new RecipeError([{ path: 'version', message: `is ${version}; this program reads up to ${RECIPE_VERSION}. Use a newer program` }]);
  }
  const full = fillDefaults(data as Record<string, unknown>);
  try {
    const recipe = SCHEMA.validateSync(full, { abortEarly: false }) as Recipe;
    const faults = crossChecks(recipe);
    if (faults.length) throw new RecipeError(faults);
    return recipe;
  } catch (error) {
    if (error instanceof yup.ValidationError) {
      const inner = error.inner.length ? error.inner : [error];
      throw new RecipeError(inner.map((e) => ({ path: e.path ?? '', message: e.errors[0] })));
    }
    throw error;
  }
}

/** Rules that concern two settings at once. */
function crossChecks(recipe: Recipe): Fault[] {
  const { space } = recipe;
  const faults: Fault[] = [];
  if (space.lastFrame < space.firstFrame) faults.push({ path: 'space.lastFrame', message: `must not be before the first frame, ${space.firstFrame}` });
  if (space.substepsMost < space.substepsLeast) faults.push({ path: 'space.substepsMost', message: `must not be below the least, ${space.substepsLeast}` });
  const ids = [...recipe.sources, ...recipe.obstacles].map((p) => p.id);
  ids.forEach((id, i) => {
    if (ids.indexOf(id) !== i) faults.push({ path: 'sources', message: `two parts share the id ${id}` });
  });
  return faults;
}

/** A part with every setting at its default. */
export function defaultPart<T>(key: PartKey, extra: object = {}): T {
  let out: unknown = {};
  for (const s of part(key).settings) out = setAt(out, s.path, s.default);
  return { ...(out as object), ...extra } as T;
}

/** Left-out settings get their defaults; wrong ones stay for the schema to name. */
function fillDefaults(data: Record<string, unknown>): Record<string, unknown> {
  const merge = (base: unknown, over: unknown): unknown => {
    if (over === undefined) return base;
    if (base === null || over === null || typeof base !== 'object' || typeof over !== 'object' || Array.isArray(over) || Array.isArray(base)) return over;
    const out: Record<string, unknown> = { ...(over as object) };
    for (const [k, v] of Object.entries(base)) out[k] = merge(v, (over as Record<string, unknown>)[k]);
    return out;
  };
  const out: Record<string, unknown> = { version: RECIPE_VERSION, name: 'Untitled', ...data };
  for (const p of PARTS) {
    if (!p.many) out[p.key] = merge(defaultPart(p.key), data[p.key]);
    else if (data[p.key] === undefined) out[p.key] = [];
    else if (Array.isArray(data[p.key])) {
      out[p.key] = (data[p.key] as unknown[]).map((item, i) =>
        item !== null && typeof item === 'object' ? merge(defaultPart(p.key, { id: `${p.key.slice(0, -1)}-${i + 1}` }), item) : item,
      );
    }
  }
  return out;
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

/** The recipe's form as JSON Schema (draft 2020-12), made from the settings. */
export function jsonSchema(): object {
  const leaf = (s: Setting): object => {
    const text = { title: s.label, description: s.doc, default: s.default };
    switch (s.kind) {
      case 'number':
      case 'integer':
        return { type: s.kind, minimum: s.least, maximum: s.most, ...text, ...(s.unit ? { 'x-unit': s.unit } : {}) };
      case 'choice':
        return { type: 'string', enum: s.options.map((o) => o.value), ...text };
      case 'flag':
        return { type: 'boolean', ...text };
      case 'text':
        return { type: 'string', maxLength: 120, ...text };
    }
  };
  const nest = (settings: readonly Setting[]): object => {
    const heads = [...new Set(settings.map((s) => s.path.split('.')[0]))];
    const child = (head: string): object => {
      const own = settings.find((s) => s.path === head);
      if (own) return leaf(own);
      return nest(settings.filter((s) => s.path.startsWith(`${head}.`)).map((s) => ({ ...s, path: s.path.slice(head.length + 1) })));
    };
    if (heads.every((h) => /^\d+$/.test(h))) return { type: 'array', prefixItems: heads.map(child), minItems: heads.length, maxItems: heads.length };
    return { type: 'object', additionalProperties: false, properties: Object.fromEntries(heads.map((h) => [h, child(h)])) };
  };
  const one = (p: Part): object => {
    const shape = nest(p.settings) as { properties: object };
    if (!p.many) return { title: p.title, ...shape };
    return { title: p.title, type: 'array', maxItems: MOST_PARTS, items: { ...shape, properties: { id: { type: 'string' }, ...shape.properties } } };
  };
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Bramblemist recipe',
    type: 'object',
    additionalProperties: false,
    properties: {
      version: { const: RECIPE_VERSION },
      name: { type: 'string', maxLength: 120 },
      ...Object.fromEntries(PARTS.map((p) => [p.key, one(p)])),
    },
  };
}
