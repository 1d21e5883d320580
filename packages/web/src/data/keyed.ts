// Keys of a document's numbers, as the page's controls set them.
import { COMBINE_PARTS } from '@bramblemist/core/combine/combine';
import { LOOK_PARTS } from '@bramblemist/core/look/parts';
import { targetIn, valueOf, withKey, type KeyedCurve } from '@bramblemist/core/recipe/keys';
import { PARTS } from '@bramblemist/core/recipe/parts';
import { getAt, setAt } from '@bramblemist/core/recipe/paths';
import { partOf, type Part, type Setting } from '@bramblemist/core/recipe/settings';
import type { Keyed } from '../parts/Ingredient';
import { change, replace, useBench } from './bench';
import { usePlayhead } from './playhead';

export type KeyedName = 'recipe' | 'look' | 'combine';
export interface WithCurves {
  readonly curves: readonly KeyedCurve[];
}
/** The parts of each document that has keys. */
export const KEYED_PARTS: Readonly<Record<KeyedName, readonly Part[]>> = {
  recipe: PARTS,
  look: LOOK_PARTS,
  combine: COMBINE_PARTS,
};

const curvesNow = (name: KeyedName): readonly KeyedCurve[] => useBench.getState().documents![name].curves;

/** What the key of a setting is and does, for the settings of a part; null for those that take none. */
export function useKeys(
  document: KeyedName,
  content: WithCurves,
): (key: string, id?: string) => (setting: Setting) => Keyed | null {
  const frame = usePlayhead((s) => (content.curves.length > 0 ? s.frame : 0));
  const parts = KEYED_PARTS[document];
  return (key, id) => (setting) => {
    if (!partOf(parts, key).keyable || setting.kind !== 'number') return null;
    const path = id === undefined ? `${key}/${setting.path}` : `${key}/${id}/${setting.path}`;
    const curve = content.curves.find((c) => c.path === path) ?? null;
    const target = targetIn(parts, content, path);
    if ('wrong' in target) return null;
    // from the curves as they are now: a colour's three numbers are set one after the other
    const set = (label: string, next: (now: KeyedCurve | null) => KeyedCurve | null): void => {
      const now = curvesNow(document);
      const made = next(now.find((c) => c.path === path) ?? null);
      change(`${label} ${target.name}`, document, 'curves', [
        ...now.filter((c) => c.path !== path),
        ...(made ? [made] : []),
      ]);
    };

    const at = (): number => usePlayhead.getState().frame;
    const fresh = (value: number): KeyedCurve => ({
      id: `curve-${crypto.randomUUID().slice(0, 8)}`,
      path,
      after: 'hold',
      keys: [{ frame: at(), value, ease: 'smooth' }],
    });
    const here = curve?.keys.some((k) => k.frame === frame) ?? false;
    return {
      now: curve ? Number(valueOf(curve, frame).toPrecision(5)) : null,
      here,
      set: (value) => set('key', (now) => (now ? withKey(now, at(), value) : fresh(value))),
      toggle: () =>
        set(here ? 'remove a key of' : 'key', (now) => {
          if (!now) return fresh(getAt(content, target.at) as number);
          if (!here) return withKey(now, at(), valueOf(now, at()));
          const rest = now.keys.filter((k) => k.frame !== at());
          return rest.length > 0 ? { ...now, keys: rest } : null;
        }),
    };
  };
}

/**
 * Sets numbers of a part, each as a key at the frame that is shown where it is keyed.
 * @param at the part's place in the document: camera, or lights.2
 * @param head the same in paths of curves: camera, or lights/sun
 */
export function putNumbers(
  document: KeyedName,
  label: string,
  at: string,
  head: string,
  values: Readonly<Record<string, number>>,
): void {
  const { documents } = useBench.getState();
  if (!documents) return;
  const { frame } = usePlayhead.getState();
  let content = documents[document] as WithCurves;
  for (const [path, value] of Object.entries(values)) {
    const n = content.curves.findIndex((c) => c.path === `${head}/${path}`);
    content =
      n < 0
        ? setAt(content, `${at}.${path}`, value)
        : setAt(content, `curves.${n}`, withKey(content.curves[n], frame, value));
  }

  replace(label, { ...documents, [document]: content });
}
