// Blurs. A Gaussian is three box means one after another (Gwosdek, Grewenig, Bruhn & Weickert 2011): each of
// an odd number of pixels and a part of one more at either end, so that variances add up to the Gaussian's
// and any width costs the same. At the edges the last pixel goes on.
import { takeRoom } from '../rooms';
import { leaveRoom, pixelAt, roomAt } from './pixel';

/** Sums of boxes are doubles: they run along thousands of pixels. */
// @ts-ignore: decorator
@inline
function low(v: v128): v128 {
  return f64x2.promote_low_f32x4(v);
}

// @ts-ignore: decorator
@inline
function high(v: v128): v128 {
  return f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 2, 3));
}

// @ts-ignore: decorator
@inline
function joined(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(f32x4.demote_f64x2_zero(a), f32x4.demote_f64x2_zero(b), 0, 1, 4, 5);
}

/** Pixels to each side up to which a box is added up anew after every few pixels. */
const NARROW: i32 = 3;
const BLOCK: i32 = 16;

/** A mean over few pixels: no sum runs far along the line, so that floats serve. */
function narrowLine(
  from: usize,
  fromStep: usize,
  to: usize,
  toStep: usize,
  length: i32,
  radius: i32,
  part: f64,
): void {
  const weight = f32x4.splat(<f32>(1 / (2 * <f64>radius + 1 + 2 * part)));
  const ends = f32x4.splat(<f32>part);
  const inner = min(length, radius + 1);
  const outer = max(inner, length - radius - 1);
  for (let n = 0; n < inner; n++)
    v128.store(to + <usize>n * toStep, heldBox(from, fromStep, length, n, radius, ends, weight));
  for (let n = outer; n < length; n++)
    v128.store(to + <usize>n * toStep, heldBox(from, fromStep, length, n, radius, ends, weight));
  for (let block = inner; block < outer; block += BLOCK) {
    let behind = from + <usize>(block - radius - 1) * fromStep;
    let ahead = from + <usize>(block + radius + 1) * fromStep;
    let before = v128.load(behind);
    let sum = f32x4.splat(0);
    for (let at = behind + fromStep; at < ahead; at += fromStep) sum = f32x4.add(sum, v128.load(at));
    const end = to + <usize>min(outer, block + BLOCK) * toStep;
    for (let at = to + <usize>block * toStep; at < end; at += toStep) {
      const enters = v128.load(ahead);
      behind += fromStep;
      ahead += fromStep;
      const leaves = v128.load(behind);
      const both = f32x4.mul(f32x4.add(enters, before), ends);
      v128.store(at, f32x4.mul(f32x4.add(sum, both), weight));
      sum = f32x4.add(sum, f32x4.sub(enters, leaves));
      before = leaves;
    }
  }
}

/** The mean of a box that meets an end of the line, where the last pixel goes on. */
function heldBox(from: usize, step: usize, length: i32, n: i32, radius: i32, ends: v128, weight: v128): v128 {
  let sum = f32x4.splat(0);
  for (let k = -radius; k <= radius; k++)
    sum = f32x4.add(sum, v128.load(from + <usize>max(0, min(length - 1, n + k)) * step));
  const before = v128.load(from + <usize>max(0, min(length - 1, n - radius - 1)) * step);
  const behind = v128.load(from + <usize>max(0, min(length - 1, n + radius + 1)) * step);
  return f32x4.mul(f32x4.add(sum, f32x4.mul(f32x4.add(before, behind), ends)), weight);
}

/**
 * One mean over a line of pixels: `radius` to each side whole, `part` of the next ones.
 * @param step bytes from a pixel to the next, of either line
 */
// @ts-ignore: decorator
@inline
function boxLine(
  from: usize,
  fromStep: usize,
  to: usize,
  toStep: usize,
  length: i32,
  radius: i32,
  part: f64,
): void {
  if (radius <= NARROW) return narrowLine(from, fromStep, to, toStep, length, radius, part);
  const weight = f64x2.splat(1 / (2 * <f64>radius + 1 + 2 * part));
  const ends = f64x2.splat(part);
  const first = v128.load(from);
  const last = v128.load(from + <usize>(length - 1) * fromStep);
  let sumLow = f64x2.mul(low(first), f64x2.splat(<f64>(radius + 1)));
  let sumHigh = f64x2.mul(high(first), f64x2.splat(<f64>(radius + 1)));
  for (let n = 1; n <= radius; n++) {
    const v = n < length ? v128.load(from + <usize>n * fromStep) : last;
    sumLow = f64x2.add(sumLow, low(v));
    sumHigh = f64x2.add(sumHigh, high(v));
  }

  // within, no end is met
  const inner = min(length, radius + 1);
  const outer = max(inner, length - radius - 1);
  for (let n = 0; n < length; n++) {
    const isInner = n >= inner && n < outer;
    const ahead = from + <usize>(n + radius + 1) * fromStep;
    const behind = from + <usize>(n - radius - 1) * fromStep;
    let enters = last;
    let before = first;
    let leaves = first;
    if (isInner) {
      enters = v128.load(ahead);
      before = v128.load(behind);
      leaves = v128.load(behind + fromStep);
    } else {
      if (n + radius + 1 < length) enters = v128.load(ahead);
      if (n - radius - 1 >= 0) before = v128.load(behind);
      if (n - radius >= 0) leaves = v128.load(behind + fromStep);
    }

    const both = f32x4.add(enters, before);
    const a = f64x2.mul(f64x2.add(sumLow, f64x2.mul(low(both), ends)), weight);
    const b = f64x2.mul(f64x2.add(sumHigh, f64x2.mul(high(both), ends)), weight);
    v128.store(to + <usize>n * toStep, joined(a, b));
    const change = f32x4.sub(enters, leaves);
    sumLow = f64x2.add(sumLow, low(change));
    sumHigh = f64x2.add(sumHigh, high(change));
  }
}

/** Twice a picture's size, between its pixels; `width` and `height` are those of what is made. */
export function doublePicture(
  from: usize,
  to: usize,
  halfWidth: i32,
  halfHeight: i32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const near = f32x4.splat(0.75);
  const far = f32x4.splat(0.25);
  for (let y = k0; y < k1; y++) {
    // a pixel lies a quarter from the middle of the one that it is in
    const own = min(y >> 1, halfHeight - 1);
    const other = max(0, min(halfHeight - 1, y & 1 ? own + 1 : own - 1));
    const rowA = pixelAt(from, own * halfWidth);
    const rowB = pixelAt(from, other * halfWidth);
    let out = pixelAt(to, y * width);
    for (let i = 0; i < halfWidth; i++) {
      const left = (<usize>max(0, i - 1)) << 4;
      const right = (<usize>min(halfWidth - 1, i + 1)) << 4;
      const at = (<usize>i) << 4;
      const middle = f32x4.add(f32x4.mul(v128.load(rowA + at), near), f32x4.mul(v128.load(rowB + at), far));
      const before = f32x4.add(
        f32x4.mul(v128.load(rowA + left), near),
        f32x4.mul(v128.load(rowB + left), far),
      );
      v128.store(out, f32x4.add(f32x4.mul(middle, near), f32x4.mul(before, far)));
      if (2 * i + 1 < width) {
        const after = f32x4.add(
          f32x4.mul(v128.load(rowA + right), near),
          f32x4.mul(v128.load(rowB + right), far),
        );
        v128.store(out, f32x4.add(f32x4.mul(middle, near), f32x4.mul(after, far)), 16);
      }

      out += 32;
    }
  }
}

/** Rows k0..k1 through three boxes. @param roomBytes two rows of pixels at least */
export function blurRows(
  from: usize,
  to: usize,
  rooms: usize,
  roomBytes: i32,
  width: i32,
  radius: i32,
  part: f64,
  k0: i32,
  k1: i32,
): void {
  const own = takeRoom(rooms);
  const one = roomAt(rooms, roomBytes, own);
  const two = one + <usize>width * 16;
  for (let k = k0; k < k1; k++) {
    const row = pixelAt(from, k * width);
    boxLine(row, 16, one, 16, width, radius, part);
    boxLine(one, 16, two, 16, width, radius, part);
    boxLine(two, 16, pixelAt(to, k * width), 16, width, radius, part);
  }

  leaveRoom(rooms, own);
}

/** Columns k0..k1 through three boxes. @param roomBytes twice the pixels of so many columns at least */
export function blurColumns(
  from: usize,
  to: usize,
  rooms: usize,
  roomBytes: i32,
  width: i32,
  height: i32,
  radius: i32,
  part: f64,
  k0: i32,
  k1: i32,
): void {
  const stride = <usize>width * 16;
  const wide = <usize>(k1 - k0) * 16;
  // the columns of a slab lie beside each other in the room too, so that a line of memory serves four
  const own = takeRoom(rooms);
  const one = roomAt(rooms, roomBytes, own);
  const two = one + wide * <usize>height;
  for (let k = k0; k < k1; k++)
    boxLine(pixelAt(from, k), stride, one + <usize>(k - k0) * 16, wide, height, radius, part);
  for (let k = k0; k < k1; k++)
    boxLine(one + <usize>(k - k0) * 16, wide, two + <usize>(k - k0) * 16, wide, height, radius, part);
  for (let k = k0; k < k1; k++)
    boxLine(two + <usize>(k - k0) * 16, wide, pixelAt(to, k), stride, height, radius, part);
  leaveRoom(rooms, own);
}

/** The pixel at a place between pixels; beyond the edge the last one goes on. */
// @ts-ignore: decorator
@inline
function between(picture: usize, width: i32, height: i32, x: f32, y: f32): v128 {
  const px = max<f32>(0, min<f32>(<f32>(width - 1), x));
  const py = max<f32>(0, min<f32>(<f32>(height - 1), y));
  const i = <i32>px;
  const j = <i32>py;
  const i1 = min(i + 1, width - 1);
  const j1 = min(j + 1, height - 1);
  const fx = f32x4.splat(px - <f32>i);
  const fy = f32x4.splat(py - <f32>j);
  const a = v128.load(pixelAt(picture, j * width + i));
  const b = v128.load(pixelAt(picture, j * width + i1));
  const c = v128.load(pixelAt(picture, j1 * width + i));
  const d = v128.load(pixelAt(picture, j1 * width + i1));
  const top = f32x4.add(a, f32x4.mul(fx, f32x4.sub(b, a)));
  const bottom = f32x4.add(c, f32x4.mul(fx, f32x4.sub(d, c)));
  return f32x4.add(top, f32x4.mul(fy, f32x4.sub(bottom, top)));
}

/** The mean along a straight way of `dx`, `dy` pixels about each pixel, of so many places. */
export function blurAlong(
  from: usize,
  to: usize,
  dx: f32,
  dy: f32,
  places: i32,
  width: i32,
  height: i32,
  k0: i32,
  k1: i32,
): void {
  const weight = f32x4.splat(1 / <f32>places);
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < width; x++) {
      let sum = f32x4.splat(0);
      for (let p = 0; p < places; p++) {
        const t: f32 = (<f32>p + 0.5) / <f32>places - 0.5;
        sum = f32x4.add(sum, between(from, width, height, <f32>x + t * dx, <f32>y + t * dy));
      }

      v128.store(pixelAt(to, y * width + x), f32x4.mul(sum, weight));
    }
}

/** Pixels of a tile's edge, within which the longest way counts. */
export enum VectorTile {
  EDGE = 16,
}

/**
 * The longest way in each tile: two floats a tile, for the rows of tiles k0..k1.
 * @param vectors a picture whose red and green are pixels a frame, to the right and down
 */
export function longestWays(vectors: usize, to: usize, width: i32, height: i32, k0: i32, k1: i32): void {
  const across = (width + VectorTile.EDGE - 1) / VectorTile.EDGE;
  for (let k = k0; k < k1; k++)
    for (let tile = 0; tile < across; tile++) {
      let u: f32 = 0;
      let v: f32 = 0;
      for (let y = k * VectorTile.EDGE; y < min((k + 1) * VectorTile.EDGE, height); y++)
        for (let x = tile * VectorTile.EDGE; x < min((tile + 1) * VectorTile.EDGE, width); x++) {
          const at = pixelAt(vectors, y * width + x);
          const a = load<f32>(at);
          const b = load<f32>(at, 4);
          if (a * a + b * b > u * u + v * v) {
            u = a;
            v = b;
          }
        }

      const at = to + ((<usize>(k * across + tile)) << 3);
      store<f32>(at, u);
      store<f32>(at, v, 4);
    }
}

/** Tiles that are looked at around a pixel's own, to each side. */
const NEIGHBOURS: i32 = 2;

/**
 * Motion blur after the picture was made, by the way that each of its pixels goes (after McGuire, Hennessy,
 * Bukowski & Osman 2012): along the longest way of the tiles around, and a place on it counts as far as what
 * is there comes by.
 * @param tiles what longestWays gives
 * @param open part of a frame for which the shutter is open, about its moment
 */
export function blurByVectors(
  from: usize,
  to: usize,
  vectors: usize,
  tiles: usize,
  open: f32,
  places: i32,
  width: i32,
  height: i32,
  k0: i32,
  k1: i32,
): void {
  const across = (width + VectorTile.EDGE - 1) / VectorTile.EDGE;
  const down = (height + VectorTile.EDGE - 1) / VectorTile.EDGE;
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < width; x++) {
      const tx = x / VectorTile.EDGE;
      const ty = y / VectorTile.EDGE;
      let u: f32 = 0;
      let v: f32 = 0;
      for (let j = max(0, ty - NEIGHBOURS); j <= min(down - 1, ty + NEIGHBOURS); j++)
        for (let i = max(0, tx - NEIGHBOURS); i <= min(across - 1, tx + NEIGHBOURS); i++) {
          const at = tiles + ((<usize>(j * across + i)) << 3);
          const a = load<f32>(at);
          const b = load<f32>(at, 4);
          if (a * a + b * b > u * u + v * v) {
            u = a;
            v = b;
          }
        }

      const n = y * width + x;
      const length = sqrt<f32>(u * u + v * v) * open;
      if (length < 0.5) {
        v128.store(pixelAt(to, n), v128.load(pixelAt(from, n)));
        continue;
      }

      const count = max<i32>(3, min<i32>(places, <i32>ceil<f32>(length)));
      let sum = f32x4.splat(0);
      for (let p = 0; p < count; p++) {
        const t: f32 = ((<f32>p + 0.5) / <f32>count - 0.5) * open;
        const sx = <f32>x - t * u;
        const sy = <f32>y - t * v;
        const own = between(vectors, width, height, sx, sy);
        // what is there comes by here if its way is as long as the place is far
        const reach = open * 0.5 * hypotOf(f32x4.extract_lane(own, 0), f32x4.extract_lane(own, 1));
        const away = abs<f32>(t) * hypotOf(u, v);
        const part = max<f32>(0, min<f32>(1, reach - away + 1));
        sum = f32x4.add(sum, f32x4.mul(between(from, width, height, sx, sy), f32x4.splat(part)));
        // the rest is what stands still here
        const still = f32x4.splat(1 - part);
        sum = f32x4.add(sum, f32x4.mul(stillHere(from, vectors, n), still));
      }

      v128.store(pixelAt(to, n), f32x4.mul(sum, f32x4.splat(1 / <f32>count)));
    }
}

// @ts-ignore: decorator
@inline
function hypotOf(a: f32, b: f32): f32 {
  return sqrt<f32>(a * a + b * b);
}

/** A pixel, where it does not move away itself. */
// @ts-ignore: decorator
@inline
function stillHere(from: usize, vectors: usize, n: i32): v128 {
  const at = pixelAt(vectors, n);
  const own = hypotOf(load<f32>(at), load<f32>(at, 4));
  const part = max<f32>(0, min<f32>(1, 1 - own));
  return f32x4.mul(v128.load(pixelAt(from, n)), f32x4.splat(part));
}

/** Each pixel from where it comes along its way, so many times as far. */
export function carryPixels(
  from: usize,
  to: usize,
  vectors: usize,
  part: f32,
  width: i32,
  height: i32,
  k0: i32,
  k1: i32,
): void {
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < width; x++) {
      const n = y * width + x;
      const way = pixelAt(vectors, n);
      const px = <f32>x - part * load<f32>(way);
      const py = <f32>y - part * load<f32>(way, 4);
      v128.store(pixelAt(to, n), between(from, width, height, px, py));
    }
}
