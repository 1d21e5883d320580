// What is read off the slice under the pointer, and the strongest of what is drawn as arrows.
import { create } from 'zustand';

/** Where the pointer is on the plane; null where it is not. */
export const useProbe = create<{ readonly place: readonly [number, number, number] | null }>(() => ({
  place: null,
}));

export function strongest(vectors: Float32Array): number {
  let most = 0;
  for (let n = 0; n < vectors.length; n += 3)
    most = Math.max(most, Math.hypot(vectors[n], vectors[n + 1], vectors[n + 2]));
  return most;
}
