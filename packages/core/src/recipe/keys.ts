// Keys over time: what a curve is at a frame, and a recipe as it stands at a moment.
//
// Between two keys the value goes from one to the other as the first one's ease says; only sums and products
// are used, so every engine gets the same bits.
import { getAt, setAt } from './paths';
import { PARTS } from './parts';
import type { CURVES } from './parts/curves';
import { takesKeys } from './setting-kinds';
import type { Ease, NumberSetting, PartValues } from './settings';

export type KeyedCurve = PartValues<typeof CURVES>;

function eased(t: number, ease: Ease): number {
  switch (ease) {
    case 'hold':
      return 0;
    case 'even':
      return t;
    case 'slow start':
      return t * t;
    case 'slow end':
      return t * (2 - t);
    case 'smooth':
      return t * t * (3 - 2 * t);
  }
}

/** @param frame may lie between frames */
export function valueOf(curve: Pick<KeyedCurve, 'keys' | 'after'>, frame: number): number {
  const { keys } = curve;
  const first = keys[0];
  const last = keys[keys.length - 1];
  const span = last.frame - first.frame;
  if (frame <= first.frame || span <= 0) return frame <= first.frame ? first.value : last.value;
  let at = frame;
  if (frame >= last.frame) {
    if (curve.after === 'hold') return last.value;
    const rounds = Math.floor((frame - first.frame) / span);
    const rest = frame - first.frame - rounds * span;
    at = first.frame + (curve.after === 'swing' && rounds % 2 === 1 ? span - rest : rest);
  }

  let n = keys.length - 2;
  while (n > 0 && keys[n].frame > at) n--;
  const a = keys[n];
  const b = keys[n + 1];
  return a.value + (b.value - a.value) * eased((at - a.frame) / (b.frame - a.frame), a.ease);
}

/** What a curve's path points at: the setting, and its place in the recipe; or why there is none. */
export function targetOf(
  recipe: object,
  path: string,
): { setting: NumberSetting; at: string; name: string } | { wrong: string } {
  const [key, ...rest] = path.split('/');
  const part = PARTS.find((p) => p.key === key);
  if (!part) return { wrong: `there is no part called ${key}` };
  if (rest.length !== (part.many ? 2 : 1))
    return { wrong: `must be like ${part.many ? `${key}/ID/SETTING` : `${key}/SETTING`}` };
  const inPart = rest[rest.length - 1];
  const setting = part.settings.find((s) => s.path === inPart);
  if (!setting) return { wrong: `${key} has no setting called ${inPart}` };
  if (!part.keyable || setting.kind !== 'number' || !takesKeys(setting))
    return { wrong: `${setting.label} takes no keys` };
  if (!part.many) return { setting, at: `${key}.${inPart}`, name: `${part.title}: ${setting.label}` };
  const list = getAt(recipe, key) as { id: string; name?: string }[];
  const n = Array.isArray(list) ? list.findIndex((p) => p.id === rest[0]) : -1;
  if (n < 0) return { wrong: `there is nothing in ${key} with the id ${rest[0]}` };
  return { setting, at: `${key}.${n}.${inPart}`, name: `${list[n].name ?? part.title}: ${setting.label}` };
}

/** The recipe with every keyed number as it is at a frame; the same object where nothing is keyed. */
export function recipeAt<R extends { readonly curves: readonly KeyedCurve[] }>(recipe: R, frame: number): R {
  return recipe.curves.reduce((r, curve) => {
    const target = targetOf(recipe, curve.path);
    if ('wrong' in target) return r;
    const value = valueOf(curve, frame);
    return setAt(r, target.at, Math.min(target.setting.most, Math.max(target.setting.least, value)));
  }, recipe);
}

/**
 * Every value that the keys of a number have, with the one that it has without them: bounds for what must be
 * known before.
 */
export function extremes(
  recipe: { readonly curves: readonly KeyedCurve[] },
  path: string,
  own: number,
): number[] {
  const curve = recipe.curves.find((c) => c.path === path);
  return curve ? curve.keys.map((k) => k.value) : [own];
}

// Editing: what the reel does with keys
// ----------------------------------------

/** With a key at a frame; the one that was there is replaced and keeps its ease. */
export function withKey(curve: KeyedCurve, frame: number, value: number): KeyedCurve {
  const old = curve.keys.find((k) => k.frame === frame);
  const keys = [...curve.keys.filter((k) => k !== old), { frame, value, ease: old?.ease ?? 'smooth' }];
  return { ...curve, keys: keys.sort((a, b) => a.frame - b.frame) };
}

/** Moves keys by frames and values; keys that land on others replace them. */
export function moveKeys(
  curve: KeyedCurve,
  which: ReadonlySet<number>,
  byFrames: number,
  byValue: number,
): KeyedCurve {
  const moved = curve.keys
    .filter((k) => which.has(k.frame))
    .map((k) => ({ ...k, frame: k.frame + byFrames, value: k.value + byValue }));
  const taken = new Set(moved.map((k) => k.frame));
  const keys = [...curve.keys.filter((k) => !which.has(k.frame) && !taken.has(k.frame)), ...moved];
  return { ...curve, keys: keys.sort((a, b) => a.frame - b.frame) };
}

/** Stretches keys in time about the first of them, to whole frames, and in value about 0. */
export function scaleKeys(curve: KeyedCurve, inTime: number, inValue: number): KeyedCurve {
  const first = curve.keys[0].frame;
  const scaled = curve.keys.map((k) => ({
    ...k,
    frame: first + Math.round((k.frame - first) * inTime),
    value: k.value * inValue,
  }));
  return {
    ...curve,
    keys: scaled.filter((k, n) => n === scaled.length - 1 || scaled[n + 1].frame !== k.frame),
  };
}
