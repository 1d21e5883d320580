// Keys over time: what a curve is at a frame, and a document as it stands at a moment.
//
// Between two keys the value goes from one to the other as the first one's ease says; only sums and products
// are used, so every engine gets the same bits.
import { getAt, setAt } from './paths';
import { PARTS } from './parts';
import type { CURVES } from './parts/curves';
import type { Fault } from './document';
import { takesKeys } from './setting-kinds';
import type { Ease, NumberSetting, Part, PartValues } from './settings';

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

export type KeyTarget = { setting: NumberSetting; at: string; name: string } | { wrong: string };
interface KeyedDocument {
  readonly curves: readonly KeyedCurve[];
}

/** What a curve's path points at: the setting, and its place in the document; or why there is none. */
export function targetIn(parts: readonly Part[], document: object, path: string): KeyTarget {
  const [key, ...rest] = path.split('/');
  const part = parts.find((p) => p.key === key);
  if (!part) return { wrong: `there is no part called ${key}` };
  if (rest.length !== (part.many ? 2 : 1))
    return { wrong: `must be like ${part.many ? `${key}/ID/SETTING` : `${key}/SETTING`}` };
  const inPart = rest[rest.length - 1];
  const setting = part.settings.find((s) => s.path === inPart);
  if (!setting) return { wrong: `${key} has no setting called ${inPart}` };
  if (!part.keyable || setting.kind !== 'number' || !takesKeys(setting))
    return { wrong: `${setting.label} takes no keys` };
  if (!part.many) return { setting, at: `${key}.${inPart}`, name: `${part.title}: ${setting.label}` };
  const list = getAt(document, key) as { id: string; name?: string }[];
  const n = Array.isArray(list) ? list.findIndex((p) => p.id === rest[0]) : -1;
  if (n < 0) return { wrong: `there is nothing in ${key} with the id ${rest[0]}` };
  return { setting, at: `${key}.${n}.${inPart}`, name: `${list[n].name ?? part.title}: ${setting.label}` };
}

/** The same in a recipe. */
export const targetOf = (recipe: object, path: string): KeyTarget => targetIn(PARTS, recipe, path);

/** A document with every keyed number as it is at a frame; the same object where nothing is keyed. */
export function documentAt<D extends KeyedDocument>(parts: readonly Part[], document: D, frame: number): D {
  return document.curves.reduce((d, curve) => {
    const target = targetIn(parts, document, curve.path);
    if ('wrong' in target) return d;
    const value = valueOf(curve, frame);
    return setAt(d, target.at, Math.min(target.setting.most, Math.max(target.setting.least, value)));
  }, document);
}

/** The same of a recipe. */
export const recipeAt = <R extends KeyedDocument>(recipe: R, frame: number): R =>
  documentAt(PARTS, recipe, frame);

/** What is wrong with the curves of a document. */
export function curveFaults(parts: readonly Part[], document: KeyedDocument): Fault[] {
  const faults: Fault[] = [];
  document.curves.forEach(({ path, keys }, n) => {
    const at = `curves[${n}]`;
    const target = targetIn(parts, document, path);
    if ('wrong' in target) return faults.push({ path: `${at}.path`, message: target.wrong });
    const { least, most, unit } = target.setting;
    keys.forEach((k, m) => {
      if (m > 0 && k.frame <= keys[m - 1].frame)
        faults.push({ path: `${at}.keys[${m}].frame`, message: 'must be later than that of the key before' });
      if (k.value < least || k.value > most)
        faults.push({
          path: `${at}.keys[${m}].value`,
          message: `must be from ${least} to ${most}${unit ? ` ${unit}` : ''}`,
        });
    });
    if (document.curves.some((c, m) => m < n && c.path === path))
      faults.push({ path: `${at}.path`, message: `two curves move ${path}` });
  });
  return faults;
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
