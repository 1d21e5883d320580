// A ramp of colours from nothing to much, even in lightness, for slices: ink, bramble, rose, straw, mist.
export const STOPS = [
  [24, 17, 28],
  [86, 49, 108],
  [178, 83, 112],
  [226, 164, 92],
  [247, 240, 214],
] as const;

/** @param share 0…1 */
export function rampAt(share: number): [number, number, number] {
  const t = Math.min(1, Math.max(0, Number.isFinite(share) ? share : 0)) * (STOPS.length - 1);
  const n = Math.min(STOPS.length - 2, Math.floor(t));
  const f = t - n;
  return [0, 1, 2].map((c) => Math.round(STOPS[n][c] + f * (STOPS[n + 1][c] - STOPS[n][c]))) as [
    number,
    number,
    number,
  ];
}

export const RAMP_CSS = `linear-gradient(to right, ${STOPS.map((s) => `rgb(${s.join()})`).join(', ')})`;

/** Bytes of a picture of values, red green blue opacity: `from` is dark, `to` bright. */
export function pictured(values: Float32Array, from: number, to: number): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(values.length * 4);
  const per = to !== from ? 1 / (to - from) : 0;
  values.forEach((v, n) => out.set([...rampAt((v - from) * per), 255], n * 4));
  return out;
}

/** From nothing to the value that is furthest from it, on whichever side of 0. */
export function spanOf(...all: readonly Float32Array[]): [number, number] {
  let furthest = 0;
  for (const values of all) for (const v of values) if (Math.abs(v) > Math.abs(furthest)) furthest = v;
  return [0, furthest];
}
