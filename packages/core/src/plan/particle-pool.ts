// The particles of one part of the recipe, in memory: so many arrays of `room` floats, one behind the other.
import type { Triple } from '../math/vector';

/** The arrays in their order, as the kernels know them (particles.ts there). */
export const ARRAYS = [
  'x',
  'y',
  'z',
  'wasX',
  'wasY',
  'wasZ',
  'vx',
  'vy',
  'vz',
  'age',
  'life',
  'radius',
  'id',
] as const;
export type ArrayName = (typeof ARRAYS)[number];

/** Where a pool lies: a function of the plan alone. */
export interface PoolPlace {
  readonly address: number;
  /** Particles that it can hold. */
  readonly room: number;
}
/** How many there are, how many there ever were, and the part of one that is due. */
export interface PoolState {
  count: number;
  born: number;
  owed: number;
}
/** A pool taken out of memory: its arrays, each cut to the count, one behind the other. */
export interface PoolContents extends Readonly<PoolState> {
  readonly values: Float32Array;
}

export const poolBytes = (room: number): number => room * 4 * ARRAYS.length;
export const EMPTY_POOL: PoolContents = { count: 0, born: 0, owed: 0, values: new Float32Array(0) };

/** Views of the arrays as they lie in memory, `room` values each. */
export function poolViews(
  memory: WebAssembly.Memory,
  { address, room }: PoolPlace,
): Record<ArrayName, Float32Array> {
  return Object.fromEntries(
    ARRAYS.map((name, n) => [name, new Float32Array(memory.buffer, address + n * room * 4, room)]),
  ) as Record<ArrayName, Float32Array>;
}

/** A copy. */
export function takePool(memory: WebAssembly.Memory, place: PoolPlace, state: PoolState): PoolContents {
  const { count } = state;
  const views = poolViews(memory, place);
  const values = new Float32Array(count * ARRAYS.length);
  ARRAYS.forEach((name, n) => values.set(views[name].subarray(0, count), n * count));
  return { ...state, values };
}

export function putPool(memory: WebAssembly.Memory, place: PoolPlace, { count, values }: PoolContents): void {
  const views = poolViews(memory, place);
  ARRAYS.forEach((name, n) => views[name].set(values.subarray(n * count, (n + 1) * count)));
}

/**
 * The box around all particles, with their radius times `swell`, over the way of the last substep; m. Null
 * without any.
 */
export function boundsOfPool(
  memory: WebAssembly.Memory,
  place: PoolPlace,
  count: number,
  swell: number,
): readonly [least: Triple, most: Triple] | null {
  if (count === 0) return null;
  const { x, y, z, wasX, wasY, wasZ, radius } = poolViews(memory, place);
  const least: Triple = [Infinity, Infinity, Infinity];
  const most: Triple = [-Infinity, -Infinity, -Infinity];
  const axes = [
    [x, wasX],
    [y, wasY],
    [z, wasZ],
  ];
  for (let n = 0; n < count; n++) {
    const r = radius[n] * swell;
    for (let a = 0; a < 3; a++) {
      const p = axes[a][0][n];
      const q = axes[a][1][n];
      least[a] = Math.min(least[a], p - r, q - r);
      most[a] = Math.max(most[a], p + r, q + r);
    }
  }

  return [least, most];
}
