// Reading and changing plain data by a path such as `sources.0.centre.1`, without changing the original.

export type Plain = null | boolean | number | string | Plain[] | { [key: string]: Plain };

export function getAt(data: unknown, path: string): unknown {
  let at: unknown = data;
  for (const key of path.split('.')) {
    if (at === null || typeof at !== 'object') return undefined;
    at = (at as Record<string, unknown>)[key];
  }

  return at;
}

/**
 * A copy with the value at the path replaced; shares what did not change. Missing steps on the way become
 * objects.
 */
export function setAt<T>(data: T, path: string, value: unknown): T {
  const [key, ...rest] = path.split('.');
  const next = rest.length
    ? setAt(
        (data as Record<string, unknown> | undefined)?.[key] ?? (/^\d+$/.test(rest[0]) ? [] : {}),
        rest.join('.'),
        value,
      )
    : value;
  if (Array.isArray(data)) {
    const copy = data.slice();
    copy[Number(key)] = next;
    return copy as T;
  }

  return { ...(data as object), [key]: next } as T;
}

/** Where two recipes differ, as paths with both values. */
export function differences(a: unknown, b: unknown, at = ''): { path: string; from: unknown; to: unknown }[] {
  if (Object.is(a, b)) return [];
  const both = a !== null && b !== null && typeof a === 'object' && typeof b === 'object';
  if (!both) return [{ path: at, from: a, to: b }];
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].flatMap((k) =>
    differences((a as Record<string, unknown>)[k], (b as Record<string, unknown>)[k], at ? `${at}.${k}` : k),
  );
}
