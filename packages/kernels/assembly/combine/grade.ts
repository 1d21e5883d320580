// Operations that look at one pixel at a time.
import { expOfNegative4, minusLog4 } from '../lanes';
import { alphaOf, luminanceOf, masked, nothing, pixelAt, withAlpha } from './pixel';

/**
 * Colours through a matrix: sixteen floats, of each of red, green, blue and alpha what it gives to red,
 * green, blue and alpha. What alpha gives is added where something is.
 */
export function matrixPixels(picture: usize, mask: usize, matrix: usize, width: i32, k0: i32, k1: i32): void {
  const red = v128.load(matrix);
  const green = v128.load(matrix, 16);
  const blue = v128.load(matrix, 32);
  const alpha = v128.load(matrix, 48);
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    const was = v128.load(at);
    const some = f32x4.add(
      f32x4.mul(red, v128.shuffle<f32>(was, was, 0, 0, 0, 0)),
      f32x4.mul(green, v128.shuffle<f32>(was, was, 1, 1, 1, 1)),
    );
    const rest = f32x4.add(
      f32x4.mul(blue, v128.shuffle<f32>(was, was, 2, 2, 2, 2)),
      f32x4.mul(alpha, v128.shuffle<f32>(was, was, 3, 3, 3, 3)),
    );
    v128.store(at, masked(was, f32x4.add(some, rest), mask, n));
  }
}

/** Values of a table over the square root of light from 0 to 1. */
export enum RemapTable {
  STEPS = 4096,
  /** Slope above 1, and below 0. */
  ABOVE = 4097,
  BELOW = 4098,
  FLOATS = 4100,
}

const LARGE: f32 = 8388608;

/** A value of each of three tables. */
// @ts-ignore: decorator
@inline
function ofEach(tables: usize, which: i32): v128 {
  const at = tables + ((<usize>which) << 2);
  let out = v128.load_zero<f32>(at);
  out = f32x4.replace_lane(out, 1, load<f32>(at + RemapTable.FLOATS * 4));
  return f32x4.replace_lane(out, 2, load<f32>(at + RemapTable.FLOATS * 8));
}

/**
 * Each of red, green and blue through a table of its own, without their alpha; where there is no alpha, by
 * how much they differ from nothing.
 */
export function remapPixels(picture: usize, mask: usize, tables: usize, width: i32, k0: i32, k1: i32): void {
  const green = tables + RemapTable.FLOATS * 4;
  const blue = green + RemapTable.FLOATS * 4;
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const steps = f32x4.splat(<f32>RemapTable.STEPS);
  const half = f32x4.splat(0.5);
  const large = f32x4.splat(LARGE);
  const last = f32x4.splat(LARGE + <f32>(RemapTable.STEPS - 1));
  const clear = ofEach(tables, 0);
  const above = ofEach(tables, RemapTable.ABOVE);
  const below = ofEach(tables, RemapTable.BELOW);
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    const was = v128.load(at);
    if (!v128.any_true(was)) continue;
    const alpha = alphaOf(was);
    // most of a plate is opaque, and needs no division
    const free = alpha > 0 && alpha != 1 ? f32x4.div(was, f32x4.splat(alpha)) : was;
    const held = f32x4.pmin(f32x4.pmax(free, zero), one);
    const place = f32x4.mul(f32x4.sqrt(held), steps);
    // a float this large has no places after its point: its low bits are the step
    const rounded = f32x4.pmin(f32x4.add(f32x4.sub(place, half), large), last);
    const step = i32x4.sub(rounded, large);
    const part = f32x4.sub(place, f32x4.sub(rounded, large));
    const r = v128.load_zero<u64>(tables + ((<usize>i32x4.extract_lane(step, 0)) << 2));
    const g = v128.load_zero<u64>(green + ((<usize>i32x4.extract_lane(step, 1)) << 2));
    const b = v128.load_zero<u64>(blue + ((<usize>i32x4.extract_lane(step, 2)) << 2));
    const rg = v128.shuffle<f32>(r, g, 0, 4, 1, 5);
    const from = v128.shuffle<f32>(rg, b, 0, 1, 4, 4);
    const next = v128.shuffle<f32>(rg, b, 2, 3, 5, 5);
    let out = f32x4.add(from, f32x4.mul(part, f32x4.sub(next, from)));
    // beyond the table it goes on by its slopes
    out = f32x4.add(out, f32x4.mul(above, f32x4.sub(f32x4.pmax(free, one), one)));
    out = f32x4.add(out, f32x4.mul(below, f32x4.pmin(free, zero)));
    out = alpha > 0 ? f32x4.mul(out, f32x4.splat(alpha)) : f32x4.sub(out, clear);
    v128.store(at, masked(was, withAlpha(out, alpha), mask, n));
  }
}

// @ts-ignore: decorator
@inline
function cubeAt(cube: usize, size: i32, r: i32, g: i32, b: i32): v128 {
  return v128.load(cube + ((<usize>((b * size + g) * size + r)) << 4));
}

/**
 * Colours, without their alpha, through a cube of size³ colours of four floats, red fastest, between 0 and 1
 * of what comes in: along the six tetrahedra about its diagonal.
 */
export function cubePixels(
  picture: usize,
  mask: usize,
  cube: usize,
  size: i32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const top = <f32>(size - 1);
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    const was = v128.load(at);
    const alpha = alphaOf(was);
    const free = alpha > 0 ? f32x4.div(was, f32x4.splat(alpha)) : was;
    const placed = f32x4.mul(f32x4.pmin(f32x4.pmax(free, nothing()), f32x4.splat(1)), f32x4.splat(top));
    const r = min<i32>(<i32>f32x4.extract_lane(placed, 0), size - 2);
    const g = min<i32>(<i32>f32x4.extract_lane(placed, 1), size - 2);
    const b = min<i32>(<i32>f32x4.extract_lane(placed, 2), size - 2);
    const x = f32x4.extract_lane(placed, 0) - <f32>r;
    const y = f32x4.extract_lane(placed, 1) - <f32>g;
    const z = f32x4.extract_lane(placed, 2) - <f32>b;
    // the corners on the way from the first to the last, along the greatest part first
    const hi = max(x, max(y, z));
    const lo = min(x, min(y, z));
    const mid = x + y + z - hi - lo;
    const redFirst = x >= y && x >= z;
    const greenFirst = !redFirst && y >= z;
    const blueFirst = !redFirst && !greenFirst;
    const blueLast = !blueFirst && z <= min(x, y);
    const redLast = !blueLast && !redFirst && x <= min(y, z);
    const greenLast = !blueLast && !redLast;
    const r1 = r + (redFirst ? 1 : 0);
    const g1 = g + (greenFirst ? 1 : 0);
    const b1 = b + (blueFirst ? 1 : 0);
    const r2 = r + (redLast ? 0 : 1);
    const g2 = g + (greenLast ? 0 : 1);
    const b2 = b + (blueLast ? 0 : 1);
    let out = f32x4.mul(cubeAt(cube, size, r, g, b), f32x4.splat(1 - hi));
    out = f32x4.add(out, f32x4.mul(cubeAt(cube, size, r1, g1, b1), f32x4.splat(hi - mid)));
    out = f32x4.add(out, f32x4.mul(cubeAt(cube, size, r2, g2, b2), f32x4.splat(mid - lo)));
    out = f32x4.add(out, f32x4.mul(cubeAt(cube, size, r + 1, g + 1, b + 1), f32x4.splat(lo)));
    if (alpha > 0) out = f32x4.mul(out, f32x4.splat(alpha));
    else out = f32x4.sub(out, v128.load(cube));
    v128.store(at, masked(was, withAlpha(out, alpha), mask, n));
  }
}

/** Below this a power of what shines through is taken as the first parts of its series. */
const FAINT: f32 = 0.002;

/** 1 − (1 − alpha)^power of four alphas. */
// @ts-ignore: decorator
@inline
function thickened(alpha: v128, power: f32): v128 {
  const k = f32x4.splat(power);
  const one = f32x4.splat(1);
  const through = f32x4.pmax(f32x4.sub(one, alpha), f32x4.splat(1e-20));
  const depth = f32x4.mul(minusLog4(through), k);
  const whole = f32x4.sub(one, expOfNegative4(f32x4.neg(depth)));
  // for faint ones the difference of nearly equal numbers would have no digits left
  const second = f32x4.mul(alpha, f32x4.splat((power - 1) * 0.5));
  const faint = f32x4.mul(f32x4.mul(k, alpha), f32x4.sub(one, second));
  return v128.bitselect(faint, whole, f32x4.lt(alpha, f32x4.splat(FAINT)));
}

/**
 * The medium as if it were so many times as dense: alpha becomes 1 − (1 − alpha)^power, and light goes along
 * with it.
 */
export function thinPixels(picture: usize, mask: usize, power: f32, width: i32, k0: i32, k1: i32): void {
  const end = k1 * width;
  for (let n = k0 * width; n < end; n += 4) {
    const last = end - 1;
    const a = v128.load(pixelAt(picture, n));
    const b = v128.load(pixelAt(picture, min(n + 1, last)));
    const c = v128.load(pixelAt(picture, min(n + 2, last)));
    const d = v128.load(pixelAt(picture, min(n + 3, last)));
    const alpha = v128.shuffle<f32>(
      v128.shuffle<f32>(a, b, 3, 7, 3, 7),
      v128.shuffle<f32>(c, d, 3, 7, 3, 7),
      0,
      1,
      4,
      5,
    );
    const now = thickened(alpha, power);
    // where next to nothing is, light goes by the power alone
    const ratio = v128.bitselect(
      f32x4.div(now, f32x4.pmax(alpha, f32x4.splat(1e-20))),
      f32x4.splat(power),
      f32x4.gt(alpha, f32x4.splat(1e-12)),
    );
    put(picture, mask, n, a, f32x4.extract_lane(ratio, 0));
    if (n + 1 < end) put(picture, mask, n + 1, b, f32x4.extract_lane(ratio, 1));
    if (n + 2 < end) put(picture, mask, n + 2, c, f32x4.extract_lane(ratio, 2));
    if (n + 3 < end) put(picture, mask, n + 3, d, f32x4.extract_lane(ratio, 3));
  }
}

// @ts-ignore: decorator
@inline
function put(picture: usize, mask: usize, n: i32, was: v128, ratio: f32): void {
  v128.store(pixelAt(picture, n), masked(was, f32x4.mul(was, f32x4.splat(ratio)), mask, n));
}

/**
 * Haze by how far things are: from `near` on, a metre hides so much of what is behind it, and shows the
 * haze's colour instead.
 * @param depth a picture whose red is m; 0 and less: infinitely far
 */
export function fogPixels(
  picture: usize,
  mask: usize,
  depth: usize,
  near: f32,
  perMetre: f32,
  red: f32,
  green: f32,
  blue: f32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const colour = withAlpha(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(red), 1, green), 2, blue), 1);
  for (let n = k0 * width; n < k1 * width; n++) {
    const far = load<f32>(pixelAt(depth, n));
    const way = far > 0 ? max<f32>(0, far - near) * perMetre : <f32>80;
    const through = f32x4.extract_lane(expOfNegative4(f32x4.splat(-min<f32>(80, way))), 0);
    const at = pixelAt(picture, n);
    const was = v128.load(at);
    const haze = f32x4.mul(colour, f32x4.splat((1 - through) * alphaOf(was)));
    const out = withAlpha(f32x4.add(f32x4.mul(was, f32x4.splat(through)), haze), alphaOf(was));
    v128.store(at, masked(was, out, mask, n));
  }
}

/**
 * Red, green, blue and alpha of another picture, each times its factor, are added. Alpha stays between 0
 * and 1.
 */
export function addPixels(
  picture: usize,
  other: usize,
  mask: usize,
  own: f32,
  red: f32,
  green: f32,
  blue: f32,
  alpha: f32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  let factors = f32x4.replace_lane(f32x4.splat(red), 1, green);
  factors = f32x4.replace_lane(f32x4.replace_lane(factors, 2, blue), 3, alpha);
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    const was = v128.load(at);
    const sum = f32x4.add(f32x4.mul(was, f32x4.splat(own)), f32x4.mul(v128.load(pixelAt(other, n)), factors));
    const covered = withAlpha(sum, max<f32>(0, min<f32>(1, alphaOf(sum))));
    v128.store(at, masked(was, covered, mask, n));
  }
}

/** What of a picture is brighter than that, without alpha: where `least` of luminance is exceeded. */
export function brightPixels(from: usize, to: usize, least: f32, width: i32, k0: i32, k1: i32): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const v = v128.load(pixelAt(from, n));
    const light = luminanceOf(v);
    const part = light > least ? (light - least) / light : <f32>0;
    v128.store(pixelAt(to, n), withAlpha(f32x4.mul(v, f32x4.splat(part)), 0));
  }
}

/**
 * Edges are taken back: where the softened picture covers less than the picture does, so much of it goes.
 * @param soft the same, softened
 */
export function softenEdges(picture: usize, soft: usize, mask: usize, width: i32, k0: i32, k1: i32): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    const was = v128.load(at);
    const alpha = alphaOf(was);
    if (alpha <= 0) continue;
    const around = alphaOf(v128.load(pixelAt(soft, n)));
    const part = max<f32>(0, min<f32>(1, (2 * around) / alpha - 1));
    v128.store(at, masked(was, f32x4.mul(was, f32x4.splat(part)), mask, n));
  }
}
