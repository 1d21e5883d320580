// The environment by direction: a square of values on an octahedron that is unfolded (Engelhardt &
// Dachsbacher 2008), with a ring around it, and the tables that draw directions by how bright they are.
//
// A value is red, green, blue and the density with which its cell is drawn, over the square −1…1 along both
// sides. Behind the values stand the parts of all up to each row's end, and in each row up to each cell's.
import { Scene } from './scene';

const VALUE: usize = 16;

/** What environmentAt found last. */
export let skyR: f32 = 0;
export let skyG: f32 = 0;
export let skyB: f32 = 0;
/** Density by solid angle with which environmentTo draws the direction. */
export let skyDensity: f32 = 0;
/** The direction that environmentTo drew. */
export let skyX: f32 = 0;
export let skyY: f32 = 0;
export let skyZ: f32 = 0;

// @ts-ignore: decorator
@inline
function valueAt(s: Scene, i: i32, j: i32): usize {
  return s.sky + <usize>((j + 1) * (s.skySide + 2) + i + 1) * VALUE;
}

// @ts-ignore: decorator
@inline
function signOf(v: f32): f32 {
  return v < 0 ? -1 : 1;
}

/** Radiance from a direction and the density with which it is drawn. */
export function environmentAt(s: Scene, x: f32, y: f32, z: f32): void {
  const n = <f32>s.skySide;
  const long = abs(x) + abs(y) + abs(z);
  let u = x / long;
  let v = z / long;
  if (y < 0) {
    const folded: f32 = (<f32>1 - abs(v)) * signOf(u);
    v = (<f32>1 - abs(u)) * signOf(v);
    u = folded;
  }

  const a = (u + 1) * <f32>0.5 * n;
  const b = (v + 1) * <f32>0.5 * n;
  // densities are those of cells, light goes evenly from middle to middle
  const cell = valueAt(s, min(s.skySide - 1, max(0, <i32>a)), min(s.skySide - 1, max(0, <i32>b)));
  const far = sqrt<f32>(x * x + y * y + z * z) / long;
  skyDensity = load<f32>(cell, 12) * far * far * far;
  const ga = max<f32>(-0.5, min<f32>(n - <f32>0.5, a - <f32>0.5));
  const gb = max<f32>(-0.5, min<f32>(n - <f32>0.5, b - <f32>0.5));
  const fi = floor<f32>(ga);
  const fj = floor<f32>(gb);
  const p = valueAt(s, <i32>fi, <i32>fj);
  const row = <usize>(s.skySide + 2) * VALUE;
  const fx = f32x4.splat(ga - fi);
  const fy = f32x4.splat(gb - fj);
  const low = mix4(v128.load(p), v128.load(p + VALUE), fx);
  const high = mix4(v128.load(p + row), v128.load(p + row + VALUE), fx);
  const found = mix4(low, high, fy);
  skyR = f32x4.extract_lane(found, 0) * s.skyGain;
  skyG = f32x4.extract_lane(found, 1) * s.skyGain;
  skyB = f32x4.extract_lane(found, 2) * s.skyGain;
}

// @ts-ignore: decorator
@inline
function mix4(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(t, f32x4.sub(b, a)));
}

/** The first of `count` growing numbers that is above `u`. */
function firstAbove(p: usize, count: i32, u: f32): i32 {
  let low = 0;
  let high = count - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (load<f32>(p + ((<usize>middle) << 2)) > u) high = middle;
    else low = middle + 1;
  }

  return low;
}

/** Where in the step from the number before to this one `u` lies, 0…1. */
// @ts-ignore: decorator
@inline
function placeIn(p: usize, at: i32, u: f32): f32 {
  const from = at > 0 ? load<f32>(p + ((<usize>(at - 1)) << 2)) : <f32>0;
  const step = load<f32>(p + ((<usize>at) << 2)) - from;
  return step > 0 ? min<f32>(0.9999999, max<f32>(0, (u - from) / step)) : 0.5;
}

/** Draws a direction by how bright the environment is there, from two even numbers, and looks it up. */
export function environmentTo(s: Scene, u: f32, v: f32): void {
  const n = s.skySide;
  const rows = s.sky + <usize>((n + 2) * (n + 2)) * VALUE;
  const j = firstAbove(rows, n, v);
  const cells = rows + ((<usize>(n + j * n)) << 2);
  const i = firstAbove(cells, n, u);
  const scale: f32 = 2 / <f32>n;
  const a = (<f32>i + placeIn(cells, i, u)) * scale - 1;
  const b = (<f32>j + placeIn(rows, j, v)) * scale - 1;
  const y: f32 = 1 - abs(a) - abs(b);
  let x = a;
  let z = b;
  if (y < 0) {
    x = (<f32>1 - abs(b)) * signOf(a);
    z = (<f32>1 - abs(a)) * signOf(b);
  }

  const one: f32 = 1 / sqrt<f32>(x * x + y * y + z * z);
  skyX = x * one;
  skyY = y * one;
  skyZ = z * one;
  environmentAt(s, skyX, skyY, skyZ);
}
