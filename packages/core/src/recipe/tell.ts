// What differs between two documents, told setting by setting in the page's words; and every number of a
// recipe by name. Parts of lists are known by their ids, so that one more in front does not make all others
// differ.
import { CoreError } from '../base/error';
import { targetIn } from './keys';
import { getAt, setAt } from './paths';
import { PARTS } from './parts';
import type { Recipe } from './types';
import { tellValue, type NameOf } from './setting-kinds';
import { isNumber, isShown, type NumberSetting, type Part } from './settings';

export interface Difference {
  /** `part/setting`, or `part/id/setting`; of a whole part without the setting. */
  readonly path: string;
  /** What the part is called. */
  readonly part: string;
  readonly setting: string;
  /** Null where the part is not there. */
  readonly from: string | null;
  readonly to: string | null;
}
type Own = { readonly id: string; readonly name?: string; readonly path?: string };

const whole = (v: unknown): string => JSON.stringify(v);

/**
 * What differs in `b` from `a`, in the order of the page.
 * @param parts of the kind of document that both are; recipes by default
 */
export function differencesTold<T extends object = Recipe>(
  a: T,
  b: T,
  parts: readonly Part[] = PARTS,
): Difference[] {
  return parts.flatMap((part) => {
    if (!part.many) return ofPart(part, part.key, part.title, getAt(a, part.key), getAt(b, part.key), a, b);
    const [before, after] = [a, b].map((r) => getAt(r, part.key) as readonly Own[]);
    const idOf = (o: Own): string => o.id ?? o.path ?? '';
    const gone = before.filter((o) => !after.some((p) => idOf(p) === idOf(o)));
    const path = (o: Own): string => `${part.key}/${idOf(o)}`;
    return [
      ...after.flatMap((now) => {
        const was = before.find((o) => idOf(o) === idOf(now));
        return was
          ? ofPart(part, path(now), nameOf(now, part, b, parts), was, now, a, b)
          : [{ path: path(now), part: nameOf(now, part, b, parts), setting: '', from: null, to: 'added' }];
      }),
      ...gone.map((was) => ({
        path: path(was),
        part: nameOf(was, part, a, parts),
        setting: '',
        from: 'taken away',
        to: null,
      })),
    ];
  });
}

function nameOf(own: Own, part: Part, document: object, parts: readonly Part[]): string {
  if (part.key !== 'curves') return own.name ?? part.title;
  const target = targetIn(parts, document, own.path ?? '');
  return `keys of ${'wrong' in target ? (own.path ?? '') : target.name}`;
}

function ofPart(
  part: Part,
  path: string,
  name: string,
  was: unknown,
  now: unknown,
  a: object,
  b: object,
): Difference[] {
  return part.settings.flatMap((s) => {
    const from = getAt(was, s.path);
    const to = getAt(now, s.path);
    if (whole(from) === whole(to)) return [];
    const shown = (document: object, own: unknown): string | null =>
      isShown(part, s, (p) => getAt(own, p)) ? tellValue(s, getAt(own, s.path), namesIn(document)) : null;
    const before = shown(a, was);
    const after = shown(b, now);
    return before === null && after === null
      ? []
      : [{ path: `${path}/${s.path}`, part: name, setting: s.label, from: before, to: after }];
  });
}

/** What the parts of a document are called, by their list and id. */
const namesIn =
  (document: object): NameOf =>
  (lists, id) =>
    lists.flatMap((list) => (getAt(document, list) ?? []) as readonly Own[]).find((p) => p.id === id)?.name;

/** One number of a recipe, by name. */
export interface NamedNumber {
  /** As keys have it: `part/setting` or `part/id/setting`. */
  readonly path: string;
  readonly part: string;
  readonly setting: NumberSetting;
  readonly value: number;
}

/** Every number that shapes what is seen and is in use: none of the domain, of time, or of what is kept. */
export function numbersOf(recipe: Recipe): NamedNumber[] {
  return PARTS.filter((p) => p.keyable).flatMap((part) => {
    const of = (own: unknown, path: string, name: string): NamedNumber[] =>
      part.settings.flatMap((s) =>
        isNumber(s) && isShown(part, s, (p) => getAt(own, p))
          ? [{ path: `${path}/${s.path}`, part: name, setting: s, value: getAt(own, s.path) as number }]
          : [],
      );
    if (!part.many) return of(getAt(recipe, part.key), part.key, part.title);
    return (recipe[part.key as 'sources'] as readonly (Own & { on?: boolean })[])
      .filter((o) => o.on !== false)
      .flatMap((o) => of(o, `${part.key}/${o.id}`, o.name ?? part.title));
  });
}

/** Where a named number stands in the plain data; null where the recipe has none of that name. */
export function placeOf(recipe: Recipe, path: string): string | null {
  const [key, ...rest] = path.split('/');
  const part = PARTS.find((p) => p.key === key);
  if (!part) return null;
  if (!part.many) return `${key}.${rest.join('.')}`;
  const index = (recipe[key as 'sources'] as readonly Own[]).findIndex((o) => o.id === rest[0]);
  return index < 0 ? null : `${key}.${index}.${rest.slice(1).join('.')}`;
}

/** @throws Error where the recipe has no number of that name */
export function withNumber(recipe: Recipe, path: string, value: number): Recipe {
  const place = placeOf(recipe, path);
  if (place === null || typeof getAt(recipe, place) !== 'number')
    throw new CoreError('settings', `The recipe has no number ${path}.`);
  return setAt(recipe, place, value);
}

/** “Weir lip: density amount”. */
export function labelOf(recipe: Recipe, path: string): string {
  const found = numbersOf(recipe).find((n) => n.path === path);
  return found ? `${found.part}: ${found.setting.label}` : path;
}
