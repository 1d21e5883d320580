// A mask that is painted: dabs of a soft brush on a surface, one over the other.
import { norm } from '../math/exact';
import type { Triple } from '../math/vector';
import type { Dab } from '../recipe/settings';

/** How much is painted at a place, 0…1: full in the middle of a dab, fading to its rim. */
export function paintedAt(dabs: readonly Dab[], x: number, y: number, z: number): number {
  let out = 0;
  for (const [px, py, pz, radius, amount] of dabs) {
    const q = ((x - px) * (x - px) + (y - py) * (y - py) + (z - pz) * (z - pz)) / (radius * radius);
    if (q >= 1) continue;
    const soft = (1 - q) * (1 - q);
    out = amount > 0 ? Math.max(out, soft) : Math.min(out, 1 - soft);
  }

  return out;
}

/**
 * With another dab, unless it lies on the last one of the same kind: a stroke is dabs a third of a radius
 * apart.
 */
export function dabbed(dabs: readonly Dab[], place: Triple, radius: number, amount: 1 | -1): readonly Dab[] {
  const last = dabs[dabs.length - 1];
  const tidy = (v: number): number => Number(v.toFixed(4));
  if (last && last[4] === amount && last[3] === radius && norm(place.map((v, a) => v - last[a])) < radius / 3)
    return dabs;
  return [...dabs, [tidy(place[0]), tidy(place[1]), tidy(place[2]), tidy(radius), amount]];
}
