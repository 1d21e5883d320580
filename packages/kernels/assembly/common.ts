// What every kernel shares: how a field is laid out, and the few loads that the language has no word for.
//
// A field of nx × ny × nz cells is single-precision, x fastest. Rows are rowStride floats apart, planes
// planeStride floats; a field's address is that of cell (0,0,0). Before and behind a row lie four spare
// floats, so that a face lattice (one more site) and a halo of one cell fit; rows and planes run from -1 to
// n+1. nx is a multiple of 4 on the finest level. A kernel handles the planes k0 ≤ k < k1 and writes nothing
// outside of them unless it says so.

// @ts-ignore: decorator
@inline
export function row(f: usize, j: i32, k: i32, rowStride: i32, planeStride: i32): usize {
  return f + ((<isize>(k * planeStride + j * rowStride)) << 2);
}

/** One of three, by an axis: 0 is x, 1 is y, 2 is z. */
// @ts-ignore: decorator
@inline
export function byAxis<T>(axis: i32, x: T, y: T, z: T): T {
  if (axis == 0) return x;
  return axis == 1 ? y : z;
}

/** Two neighbouring floats at each of two byte offsets: [a, a+1, b, b+1]. */
// @ts-ignore: decorator
@inline
export function pairs(f: usize, a: i32, b: i32): v128 {
  return v128.load_lane<u64>(f + <usize>b, v128.load_zero<u64>(f + <usize>a), 1);
}

// @ts-ignore: decorator
@inline
export function evens(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 2, 4, 6);
}

// @ts-ignore: decorator
@inline
export function odds(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 1, 3, 5, 7);
}

// @ts-ignore: decorator
@inline
export function lerp4(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(t, f32x4.sub(b, a)));
}

// @ts-ignore: decorator
@inline
export function clamp4(x: v128, lo: v128, hi: v128): v128 {
  return f32x4.pmin(f32x4.pmax(x, lo), hi);
}

/** The lanes' sum in a fixed order, in double precision. */
// @ts-ignore: decorator
@inline
export function sum4(v: v128): f64 {
  return (
    <f64>f32x4.extract_lane(v, 0) +
    <f64>f32x4.extract_lane(v, 1) +
    (<f64>f32x4.extract_lane(v, 2) + <f64>f32x4.extract_lane(v, 3))
  );
}

// @ts-ignore: decorator
@inline
export function max4(v: v128): f32 {
  return max(
    max(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    max(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}

/** Where a plane's partial results go: eight doubles a plane, added up by the caller in the order of k. */
// @ts-ignore: decorator
@inline
export function partial(base: usize, k: i32, slot: i32): usize {
  return base + ((<usize>(k * 8 + slot)) << 3);
}

// Constants are read from memory: a constant written in a loop is built anew in every round by today's
// engines.
const CONSTANTS = memory.data<f32>([
  0.5, 1, 4, -0.25, 0.75, 0.25, 1e-15, 1e-6, 1e-12, 3, 0.0703125, 0.0234375, 0.0078125, -0.1111111111,
  0.3333333333,
]);
export const enum Constant {
  HALF = 0,
  ONE = 4,
  FOUR = 8,
  MINUS_QUARTER = 12,
  THREE_QUARTERS = 16,
  QUARTER = 20,
  NOTHING = 24,
  TINY = 28,
  LEAST = 32,
  THREE = 36,
  /** 9, 3 and 1 times 4/512. */
  RESTRICT9 = 40,
  RESTRICT3 = 44,
  RESTRICT1 = 48,
  MINUS_NINTH = 52,
  THIRD = 56,
}
// @ts-ignore: decorator
@inline
export function constant(which: Constant): v128 {
  return v128.load_splat<f32>(CONSTANTS + <usize>which);
}

/** The n-th of a list of fields: how many, then their addresses. */
// @ts-ignore: decorator
@inline
export function listed(list: usize, n: i32): usize {
  return <usize>load<u32>(list + ((<usize>(n + 1)) << 2));
}

/** An amount of four voxels, times how far it counts there; weight 0: everywhere. */
// @ts-ignore: decorator
@inline
export function weighted(v: v128, weight: usize, o: usize): v128 {
  return weight ? f32x4.mul(v, v128.load(weight + o)) : v;
}
