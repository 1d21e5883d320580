// Two people changed the same document: what each changed is brought together setting by setting, over what
// both began from. Parts of lists are known by their ids, so that one more in front moves nothing. Where both
// changed one setting, each to something else, that is a clash, which only a person can settle.
import type { Plain } from './paths';

/** A setting that both changed. */
export interface Clash {
  /** Where it stands: keys, and of a part in a list its id. */
  readonly path: readonly string[];
  /** What each has there; undefined where it was taken away. */
  readonly mine: Plain | undefined;
  readonly theirs: Plain | undefined;
}

export interface Merged<T> {
  /** Both changes; of a clash mine. */
  readonly merged: T;
  readonly clashes: readonly Clash[];
}

type Value = Plain | undefined;
type Bag = { readonly [key: string]: Plain };
type Part = Bag & { readonly id: string };

const isBag = (v: Value): v is { [key: string]: Plain } =>
  v !== null && typeof v === 'object' && !Array.isArray(v);
/** What a part of a list is known by: its id, of a curve the path that it is over, of a view its name. */
const idOf = (v: Plain): string | null => {
  if (!isBag(v)) return null;
  const known = v.id ?? v.path ?? v.name;
  return typeof known === 'string' ? known : null;
};

const isListOfParts = (v: Value): v is Part[] => Array.isArray(v) && v.every((one) => idOf(one) !== null);
const isVector = (v: Value): v is number[] =>
  Array.isArray(v) && v.length === 3 && v.every((n) => typeof n === 'number');

/** Whether two values are the same plain data, whatever the order of their keys. */
export function isSame(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (a === null || b === null || typeof a !== 'object' || typeof b !== 'object') return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const keys = Object.keys(a);
  return (
    keys.length === Object.keys(b).length &&
    keys.every((key) => Object.hasOwn(b, key) && isSame(a[key as keyof typeof a], b[key as keyof typeof b]))
  );
}

/**
 * @param base what both began from
 * @param mine, theirs what became of it
 */
export function merge<T>(base: T, mine: T, theirs: T): Merged<T> {
  const clashes: Clash[] = [];
  const merged = mergeValues([], base as Value, mine as Value, theirs as Value, clashes);
  return { merged: merged as T, clashes };
}

function mergeValues(
  path: readonly string[],
  base: Value,
  mine: Value,
  theirs: Value,
  clashes: Clash[],
): Value {
  if (isSame(mine, theirs) || isSame(base, theirs)) return mine;
  if (isSame(base, mine)) return theirs;
  if (isBag(base) && isBag(mine) && isBag(theirs)) return mergeBags(path, base, mine, theirs, clashes);
  if (isListOfParts(base) && isListOfParts(mine) && isListOfParts(theirs))
    return mergeLists(path, base, mine, theirs, clashes);
  // each number of a place or a colour is a setting of its own
  if (isVector(base) && isVector(mine) && isVector(theirs))
    return mine.map((v, n) => mergeValues([...path, String(n)], base[n], v, theirs[n], clashes) as number);
  clashes.push({ path, mine, theirs });
  return mine;
}

function mergeBags(path: readonly string[], base: Bag, mine: Bag, theirs: Bag, clashes: Clash[]): Plain {
  const out: { [key: string]: Plain } = {};
  for (const key of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
    const value = mergeValues([...path, key], base[key], mine[key], theirs[key], clashes);
    if (value !== undefined) out[key] = value;
  }

  return out;
}

function mergeLists(
  path: readonly string[],
  base: readonly Part[],
  mine: readonly Part[],
  theirs: readonly Part[],
  clashes: Clash[],
): Plain[] {
  const find = (list: readonly Part[], id: string): Part | undefined => list.find((one) => idOf(one) === id);
  const ids = (list: readonly Part[]): string[] => list.map((one) => idOf(one)!);
  const kept = new Map<string, Plain>();
  for (const id of new Set([...ids(mine), ...ids(theirs)])) {
    const value = mergeValues([...path, id], find(base, id), find(mine, id), find(theirs, id), clashes);
    // what one took away and the other changed stays until that is settled
    const stays = value ?? (clashes.some((c) => c.path.at(-1) === id) ? find(theirs, id) : undefined);
    if (stays !== undefined) kept.set(id, stays);
  }

  // the order of whoever moved something; what the other one added goes behind what stood before it there
  const common = (list: readonly Part[]): string[] =>
    ids(list).filter((id) => find(base, id) && find(mine, id) && find(theirs, id));
  const moved = !isSame(common(mine), common(base));
  const [first, second] = moved ? [mine, theirs] : [theirs, mine];
  const order = ids(first);
  ids(second).forEach((id, n) => {
    if (order.includes(id)) return;
    const before = ids(second)
      .slice(0, n)
      .findLast((other) => order.includes(other));
    order.splice(before === undefined ? 0 : order.indexOf(before) + 1, 0, id);
  });
  return order.flatMap((id) => kept.get(id) ?? []);
}

/** A clash settled with one of its values: undefined takes the part away. */
export function settle<T>(document: T, path: readonly string[], value: Plain | undefined): T {
  return settled(document as Value, path, value) as T;
}

function settled(at: Value, [key, ...rest]: readonly string[], value: Value): Value {
  if (key === undefined) return value;
  if (Array.isArray(at)) {
    const byId = at.findIndex((one) => idOf(one) === key);
    const n = byId >= 0 ? byId : Number(key);
    if (Number.isNaN(n)) return value === undefined ? at : [...at, value];
    const next = settled(at[n], rest, value);
    return next === undefined ? at.filter((_, i) => i !== n) : at.map((one, i) => (i === n ? next : one));
  }

  const bag = isBag(at) ? at : {};
  const next = settled(bag[key], rest, value);
  if (next !== undefined) return { ...bag, [key]: next };
  return Object.fromEntries(Object.entries(bag).filter(([k]) => k !== key));
}
