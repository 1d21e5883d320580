// Recipes of earlier versions in the form of the next one.

type Data = Record<string, unknown>;
const parts = (list: unknown, change: (part: Data) => Data): unknown =>
  Array.isArray(list)
    ? list.map((p: unknown) => (p !== null && typeof p === 'object' ? change(p as Data) : p))
    : list;

/**
 * 1 → 2: what a source writes got a way to combine for each channel; the domain travels with a part by
 * its id.
 */
function ways(data: Data): Data {
  const sources = parts(data.sources, ({ rate, temperature, colour, ...rest }) => ({
    ...rest,
    ...(rate === undefined ? {} : { density: { amount: rate } }),
    ...(temperature === undefined ? {} : { temperature: { amount: temperature } }),
    ...(colour === undefined ? {} : { colour: { amount: colour } }),
  }));
  const window = data.window as Data | undefined;
  const guide = Array.isArray(data.obstacles)
    ? (data.obstacles as Data[]).find((o) => o?.name === window?.travel)
    : undefined;
  return {
    ...data,
    ...(data.sources === undefined ? {} : { sources }),
    ...(window ? { window: { ...window, travel: guide?.id ?? '' } } : {}),
  };
}

const RENAMED: Readonly<Record<string, string>> = { fading: 'dissipation', spreading: 'diffusion' };

/**
 * 2 → 3: fading and spreading bear the field's names, dissipation and diffusion; so do paths that name them.
 */
function fieldNames(data: Data): Data {
  const renamed = (path: unknown): unknown => {
    if (typeof path !== 'string') return path;
    const [key, ...rest] = path.split('/');
    return Object.hasOwn(RENAMED, key) ? [RENAMED[key], ...rest].join('/') : path;
  };

  const moved = Object.fromEntries(
    Object.entries(data).map(([key, value]) => [Object.hasOwn(RENAMED, key) ? RENAMED[key] : key, value]),
  );
  const withPaths = (list: unknown): unknown =>
    parts(list, (part) => ({ ...part, path: renamed(part.path) }));
  return {
    ...moved,
    ...(data.curves === undefined ? {} : { curves: withPaths(data.curves) }),
    ...(data.changes === undefined ? {} : { changes: withPaths(data.changes) }),
  };
}

/**
 * 3 → 4: one way to carry the medium keeps all of it and is the sharpest too; it takes the place of a sharp
 * one that drifted and of one without loss that was softer. All motion is as lively as what was reflected.
 */
function oneFineWay(data: Data): Data {
  const method = data.method as Data | undefined;
  if (method === null || typeof method !== 'object') return data;
  const now = (how: unknown): unknown => (how === 'sharp' || how === 'kept' ? 'fine' : how);
  const kept = { ...method };
  delete kept.motion;
  const changed = ['density', 'temperature'].filter((key) => key in kept);
  return {
    ...data,
    method: { ...kept, ...Object.fromEntries(changed.map((key) => [key, now(kept[key])])) },
  };
}

export const UPGRADES = [ways, fieldNames, oneFineWay] as const;
