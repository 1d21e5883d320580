// Arithmetic with the same bits in every engine, for everything that reaches a voxel. JavaScript's own +, −,
// ×, ÷, sqrt and roundings are exact by their standards; its sine, exponential, power and hypot are not.
// Those come from the kernels' language here; lint forbids Math's outside of what is only looked at.
import { EXACT_WASM } from '@bramblemist/kernels/exact';

interface Exact {
  sine(x: number): number;
  exponential(x: number): number;
  logarithm(x: number): number;
  power(x: number, y: number): number;
}

const bytes = Uint8Array.from(atob(EXACT_WASM), (c) => c.charCodeAt(0));

/** Radians; e to the x; to the base e; x to the y. */
export const { sine, exponential, logarithm, power } = new WebAssembly.Instance(new WebAssembly.Module(bytes))
  .exports as unknown as Exact;

/** Radians. */
export const cosine = (x: number): number => sine(x + Math.PI / 2);

export const square = (x: number): number => x * x;
export const cube = (x: number): number => x * x * x;

/** Euclidean length of a vector. */
export const lengthOf = (x: number, y: number, z = 0): number => Math.sqrt(x * x + y * y + z * z);
export const norm = ([x, y, z = 0]: readonly number[]): number => lengthOf(x, y, z);
