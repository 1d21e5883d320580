// A function that remembers its last results, so that what is asked for again and again is made once.
import { LRUCache } from 'lru-cache';

/** @param most results that are kept; the one that was not asked for longest goes first */
export function memoize<K extends string | number, V extends object>(
  most: number,
  make: (key: K) => V,
): (key: K) => V {
  const kept = new LRUCache<K, V>({ max: most });
  return (key) => {
    const known = kept.get(key);
    if (known) return known;
    const made = make(key);
    kept.set(key, made);
    return made;
  };
}
