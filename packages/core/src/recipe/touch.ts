// From which frame on two recipes differ: what a run can keep of what it has computed.
import { canonicalText } from './document';
import { targetOf, valueOf, type KeyedCurve } from './keys';
import { getAt } from './paths';
import { PARTS } from './parts';
import type { Recipe } from './types';

type Listed = { readonly id: string; readonly from?: number; readonly until?: number };
const same = (a: unknown, b: unknown): boolean => canonicalText(a) === canonicalText(b);

/**
 * The earliest frame that comes out otherwise; Infinity where none does. Never too late: where it cannot be
 * told it is the first frame.
 */
export function firstTouched(before: Recipe, after: Recipe): number {
  const first = Math.min(before.space.firstFrame, after.space.firstFrame);
  const frames = PARTS.map(({ key, many }): number => {
    const [a, b] = [before[key as 'space'], after[key as 'space']] as const;
    if (same(a, b)) return Infinity;
    if (key === 'curves') return firstOfCurves(before, after);
    if (key === 'space') return same({ ...a, lastFrame: 0 }, { ...b, lastFrame: 0 }) ? Infinity : first;
    if (!many || key === 'files') return first;
    return firstOfList(before, after, key as 'sources');
  });
  return Math.max(first, Math.min(...frames));
}

/** The first frame in which a part of a list does anything. */
function beginOf(recipe: Recipe, key: string, part: Listed): number {
  if (key === 'patterns')
    return (
      recipe.sources.find((s) => s.id === (part as unknown as { source: string }).source)?.from ?? -Infinity
    );
  return ['sources', 'particles', 'currents', 'formulas'].includes(key)
    ? (part.from ?? -Infinity)
    : -Infinity;
}

function firstOfList(before: Recipe, after: Recipe, key: 'sources'): number {
  const [a, b] = [before[key] as readonly Listed[], after[key] as readonly Listed[]];
  const find = (list: readonly Listed[], id: string): Listed | undefined => list.find((p) => p.id === id);
  const frames = [...new Set([...a, ...b].map((p) => p.id))].map((id) => {
    const [was, is] = [find(a, id), find(b, id)];
    if (same(was, is)) return Infinity;
    const begins = Math.min(
      was ? beginOf(before, key, was) : Infinity,
      is ? beginOf(after, key, is) : Infinity,
    );
    // only an end that has moved: the frame behind the earlier one
    const ends =
      was?.until !== undefined && is?.until !== undefined && same({ ...was, until: 0 }, { ...is, until: 0 });
    return ends ? Math.max(begins, Math.min(was.until!, is.until!) + 1) : begins;
  });
  // the order matters to what is written over what
  const order = (list: readonly Listed[], other: readonly Listed[]): string[] =>
    list.map((p) => p.id).filter((id) => find(other, id));
  if (!same(order(a, b), order(b, a))) frames.push(...[...a, ...b].map((p) => beginOf(after, key, p)));
  return Math.min(...frames);
}

/** Parts of a frame at which keyed values are held against each other. */
const PARTS_OF_A_FRAME = 4;

function firstOfCurves(before: Recipe, after: Recipe): number {
  const paths = new Set([...before.curves, ...after.curves].map((c) => c.path));
  const { firstFrame, lastFrame } = after.space;
  const frames = [...paths].map((path) => {
    const value = (recipe: Recipe): ((frame: number) => unknown) => {
      const curve: KeyedCurve | undefined = recipe.curves.find((c) => c.path === path);
      const target = targetOf(recipe, path);
      if (curve) return (frame) => valueOf(curve, frame);
      return () => ('wrong' in target ? undefined : getAt(recipe, target.at));
    };

    const [was, is] = [value(before), value(after)];
    // a value between the ends of two frames is met in the later one
    for (let n = (firstFrame - 1) * PARTS_OF_A_FRAME; n <= lastFrame * PARTS_OF_A_FRAME; n++)
      if (was(n / PARTS_OF_A_FRAME) !== is(n / PARTS_OF_A_FRAME)) return Math.ceil(n / PARTS_OF_A_FRAME);
    return Infinity;
  });
  return Math.min(...frames);
}
