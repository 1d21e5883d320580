// Regions that something is limited to or changed in, and the changes.
import type { Recipe, Placed, StandingPart, ChangePart, RegionPart } from '../recipe/types';
import { PARTS } from '../recipe/parts';
import type { PlannedShape, PlannedRegion, PlannedChange } from './plan';
import { targetOf } from '../recipe/keys';
import { REGION_MEASURES } from '../recipe/parts/regions';

/** The part whose `where` names a region, or whose change holds in it. */
function regionsInUse(recipe: Recipe): Set<string> {
  const used = new Set(recipe.changes.filter((c) => c.on).map((c) => c.region));
  for (const part of PARTS)
    for (const holder of part.many
      ? (recipe[part.key as 'sources'] as readonly object[])
      : [recipe[part.key as 'wind'] as object])
      if (!('on' in holder) || holder.on !== false || !part.many)
        used.add((holder as Partial<Placed>).where ?? '');
  for (const id of used) {
    const region = recipe.regions.find((r) => r.id === id);
    if (region && region.joins !== 'alone') used.add(region.other);
  }

  return used;
}

export function plannedRegions(recipe: Recipe, list: readonly PlannedShape<StandingPart>[]): PlannedRegion[] {
  const used = regionsInUse(recipe);
  const out: PlannedRegion[] = [];
  const add = (one: PlannedShape<StandingPart>): number => {
    const known = out.findIndex((r) => r.index === one.index);
    if (known >= 0) return known;
    const part = recipe.regions[one.index];
    const with_ = part.joins === 'alone' ? undefined : list.find((r) => r.part.id === part.other);
    const other = with_ ? add(with_) : -1;
    const keyed = recipe.curves.some((c) => c.path.startsWith(`regions/${part.id}/`));
    const varies =
      one.moves ||
      keyed ||
      ['channel', 'formula'].includes(part.shape) ||
      (part.shape === 'noise' && part.period > 0);
    return out.push({ ...one, part, other, varies: varies || (other >= 0 && out[other].varies) }) - 1;
  };

  list.filter((r) => used.has(r.part.id)).forEach(add);
  return out;
}

/** What a change makes of a value. */
export function changedBy(change: Pick<ChangePart, 'how'>, amount: number, value: number): number {
  return { times: value * amount, plus: value + amount, is: amount }[change.how];
}

export function plannedChanges(recipe: Recipe, regions: readonly PlannedRegion[]): PlannedChange[] {
  return recipe.changes.flatMap((part, index) => {
    const region = regions.findIndex((r) => r.part.id === part.region);
    const target = targetOf(recipe, part.path);
    if (!part.on || region < 0 || 'wrong' in target) return [];
    const { least, most } = target.setting;
    return [
      {
        index,
        part,
        region,
        key: part.path.slice(0, part.path.lastIndexOf('/')),
        at: target.at,
        least,
        most,
      },
    ];
  });
}

/** Of a region that is worked out voxel by voxel its formula; null for one with a shape. */
export function textOfRegion({ shape, channel, text, lumps, period, seed }: RegionPart): string | null {
  if (shape === 'noise') return `noise(position / ${lumps}, ${period > 0 ? `time / ${period}` : 0}, ${seed})`;
  if (shape === 'channel') return REGION_MEASURES[channel];
  return shape === 'formula' ? text : null;
}
