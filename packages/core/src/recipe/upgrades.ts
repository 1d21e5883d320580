// Recipes of earlier versions in the form of the next one.

type Data = Record<string, unknown>;
const parts = (list: unknown, change: (part: Data) => Data): unknown =>
  Array.isArray(list)
    ? list.map((p: unknown) => (p !== null && typeof p === 'object' ? change(p as Data) : p))
    : list;

/**
 * 1 → 2: what a source writes got a way to combine for each channel; the room travels with a part by its id.
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

export const UPGRADES = [ways] as const;
