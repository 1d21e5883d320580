// A picture placed in a frame by any straight-lined map (a homography), filtered by the area that a pixel of
// the frame covers: from halves of halves of it (Williams 1983), by several places a pixel where it shrinks
// along one direction more than along the other.
import { nothing, pixelAt } from './pixel';

/** Half a picture: each pixel is the mean of four; a last odd row or column counts with the one before it. */
export function halvePicture(
  from: usize,
  to: usize,
  width: i32,
  height: i32,
  halfWidth: i32,
  k0: i32,
  k1: i32,
): void {
  const quarter = f32x4.splat(0.25);
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < halfWidth; x++) {
      const x0 = min(2 * x, width - 1);
      const x1 = min(2 * x + 1, width - 1);
      const y0 = min(2 * y, height - 1);
      const y1 = min(2 * y + 1, height - 1);
      const top = f32x4.add(
        v128.load(pixelAt(from, y0 * width + x0)),
        v128.load(pixelAt(from, y0 * width + x1)),
      );
      const bottom = f32x4.add(
        v128.load(pixelAt(from, y1 * width + x0)),
        v128.load(pixelAt(from, y1 * width + x1)),
      );
      v128.store(pixelAt(to, y * halfWidth + x), f32x4.mul(f32x4.add(top, bottom), quarter));
    }
}

/** A picture with its halves, the whole one first: an address, a width and a height each. */
export enum Halves {
  ADDRESS = 0,
  WIDTH = 4,
  HEIGHT = 8,
  BYTES = 16,
}

/** The most halves that are made of a picture, the whole one with them. */
export enum HalvesKept {
  MOST = 16,
}

/** What lies beside the picture. */
export enum Beside {
  NOTHING = 0,
  /** Its edge goes on. */
  EDGE = 1,
}

/** Places a pixel along either direction, at the most. */
const MOST_PLACES: i32 = 8;

/** The pixel there; beside the picture its edge goes on. */
// @ts-ignore: decorator
@inline
function pixelOf(picture: usize, width: i32, height: i32, x: i32, y: i32): v128 {
  const i = max(0, min(width - 1, x));
  const j = max(0, min(height - 1, y));
  return v128.load(pixelAt(picture, j * width + i));
}

/** How much of a pixel, which reaches so far across and down in a picture, lies in it. */
// @ts-ignore: decorator
@inline
function coverage(u: f64, v: f64, wide: f64, high: f64, reachU: f64, reachV: f64): f32 {
  const across = max<f64>(0, min<f64>(1, min<f64>(u, wide - u) / reachU + 0.5));
  const down = max<f64>(0, min<f64>(1, min<f64>(v, high - v) / reachV + 0.5));
  return <f32>(across * down);
}

/** Between the four pixels about a place; pixel (0, 0) has its middle at a half. */
// @ts-ignore: decorator
@inline
function lookedUp(level: usize, u: f64, v: f64): v128 {
  const picture = <usize>load<u32>(level, Halves.ADDRESS);
  const width = load<i32>(level, Halves.WIDTH);
  const height = load<i32>(level, Halves.HEIGHT);
  // far away a whole number could not hold the place
  const x = floor<f64>(max<f64>(-1, min<f64>(<f64>width, u - 0.5)));
  const y = floor<f64>(max<f64>(-1, min<f64>(<f64>height, v - 0.5)));
  const i = <i32>x;
  const j = <i32>y;
  const fx = f32x4.splat(<f32>max<f64>(0, min<f64>(1, u - 0.5 - x)));
  const fy = f32x4.splat(<f32>max<f64>(0, min<f64>(1, v - 0.5 - y)));
  const a = pixelOf(picture, width, height, i, j);
  const b = pixelOf(picture, width, height, i + 1, j);
  const c = pixelOf(picture, width, height, i, j + 1);
  const d = pixelOf(picture, width, height, i + 1, j + 1);
  const top = f32x4.add(a, f32x4.mul(fx, f32x4.sub(b, a)));
  const bottom = f32x4.add(c, f32x4.mul(fx, f32x4.sub(d, c)));
  return f32x4.add(top, f32x4.mul(fy, f32x4.sub(bottom, top)));
}

/**
 * Rows k0..k1 of a frame from a picture.
 * @param halves the picture and its halves, `count` of them
 * @param matrix nine doubles, row by row: a place of the frame to one of the picture, in pixels from its
 * corner
 * @param beside see Beside; where nothing lies beside it, its edges are as crisp as the frame’s pixels are
 */
export function placePixels(
  halves: usize,
  count: i32,
  to: usize,
  matrix: usize,
  beside: i32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const a = load<f64>(matrix);
  const b = load<f64>(matrix, 8);
  const c = load<f64>(matrix, 16);
  const d = load<f64>(matrix, 24);
  const e = load<f64>(matrix, 32);
  const f = load<f64>(matrix, 40);
  const g = load<f64>(matrix, 48);
  const h = load<f64>(matrix, 56);
  const i = load<f64>(matrix, 64);
  const wide = <f64>load<i32>(halves, Halves.WIDTH);
  const high = <f64>load<i32>(halves, Halves.HEIGHT);
  for (let y = k0; y < k1; y++) {
    if (isPlain(a, b, d, e, g, h, i)) {
      placeRow(halves, to, beside, width, y, a, b, c, d, e, f);
      continue;
    }

    for (let x = 0; x < width; x++) {
      const px: f64 = <f64>x + 0.5;
      const py: f64 = <f64>y + 0.5;
      const w = g * px + h * py + i;
      const at = pixelAt(to, y * width + x);
      // behind the viewer
      if (w <= 1e-9) {
        v128.store(at, nothing());
        continue;
      }

      const u = (a * px + b * py + c) / w;
      const v = (d * px + e * py + f) / w;
      // how far a pixel reaches in the picture, across and down
      const ux = (a - g * u) / w;
      const vx = (d - g * v) / w;
      const uy = (b - h * u) / w;
      const vy = (e - h * v) / w;
      const across = sqrt<f64>(ux * ux + vx * vx);
      const down = sqrt<f64>(uy * uy + vy * vy);
      let level: i32 = 0;
      let scale: f64 = 1;
      while (level + 1 < count && min<f64>(across, down) >= 2 * scale) {
        level++;
        scale *= 2;
      }

      const part =
        beside == Beside.EDGE
          ? <f32>1
          : coverage(u, v, wide, high, abs<f64>(ux) + abs<f64>(uy), abs<f64>(vx) + abs<f64>(vy));
      if (part <= 0) {
        v128.store(at, nothing());
        continue;
      }

      const places = max<i32>(1, min<i32>(MOST_PLACES, <i32>ceil<f64>(across / scale - 1e-6)));
      const lines = max<i32>(1, min<i32>(MOST_PLACES, <i32>ceil<f64>(down / scale - 1e-6)));
      const from = halves + <usize>level * Halves.BYTES;
      const shrink = 1 / scale;
      if (places == 1 && lines == 1) {
        v128.store(at, f32x4.mul(lookedUp(from, u * shrink, v * shrink), f32x4.splat(part)));
        continue;
      }

      let sum = f32x4.splat(0);
      for (let n = 0; n < lines; n++)
        for (let m = 0; m < places; m++) {
          const s: f64 = (<f64>m + 0.5) / <f64>places - 0.5;
          const t: f64 = (<f64>n + 0.5) / <f64>lines - 0.5;
          const su = (u + s * ux + t * uy) * shrink;
          const sv = (v + s * vx + t * vy) * shrink;
          sum = f32x4.add(sum, lookedUp(from, su, sv));
        }

      v128.store(at, f32x4.mul(sum, f32x4.splat(part / <f32>(places * lines))));
    }
  }
}

/**
 * Rows k0..k1 of a frame, each pixel the one of a picture that its middle lies in: for what has no mean, such
 * as how far away things are.
 * @param matrix as placePixels takes it
 */
export function placeNearest(
  from: usize,
  wide: i32,
  high: i32,
  to: usize,
  matrix: usize,
  beside: i32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < width; x++) {
      const px: f64 = <f64>x + 0.5;
      const py: f64 = <f64>y + 0.5;
      const w = load<f64>(matrix, 48) * px + load<f64>(matrix, 56) * py + load<f64>(matrix, 64);
      const u = floor<f64>((load<f64>(matrix) * px + load<f64>(matrix, 8) * py + load<f64>(matrix, 16)) / w);
      const v = floor<f64>(
        (load<f64>(matrix, 24) * px + load<f64>(matrix, 32) * py + load<f64>(matrix, 40)) / w,
      );
      const isInside = u >= 0 && v >= 0 && u < <f64>wide && v < <f64>high;
      const isThere = w > 1e-9 && (isInside || beside == Beside.EDGE);
      const i = <i32>max<f64>(0, min<f64>(<f64>(wide - 1), u));
      const j = <i32>max<f64>(0, min<f64>(<f64>(high - 1), v));
      v128.store(pixelAt(to, y * width + x), isThere ? v128.load(pixelAt(from, j * wide + i)) : nothing());
    }
}

/** Whether a map neither shrinks nor is seen from aside: one look-up a pixel serves. */
// @ts-ignore: decorator
@inline
function isPlain(a: f64, b: f64, d: f64, e: f64, g: f64, h: f64, i: f64): boolean {
  const most: f64 = 1 + 1e-6;
  return g == 0 && h == 0 && i == 1 && a * a + d * d <= most && b * b + e * e <= most;
}

/** Pixels of a row between those of two rows of a picture that is only moved, and lies below all of them. */
function moveRow(picture: usize, wide: i32, row: usize, first: i32, end: i32, u0: f64, t: f64): void {
  if (first >= end) return;
  const stride = (<usize>wide) << 4;
  const s = <f64>first + u0;
  const i = <i32>s;
  const j = <i32>t;
  const fx = f32x4.splat(<f32>(s - <f64>i));
  const fy = f32x4.splat(<f32>(t - <f64>j));
  let from = pixelAt(picture, j * wide + i);
  let upper = v128.load(from);
  let before = f32x4.add(upper, f32x4.mul(fy, f32x4.sub(v128.load(from + stride), upper)));
  for (let to = row + ((<usize>first) << 4), last = row + ((<usize>end) << 4); to < last; to += 16) {
    from += 16;
    upper = v128.load(from);
    const next = f32x4.add(upper, f32x4.mul(fy, f32x4.sub(v128.load(from + stride), upper)));
    v128.store(to, f32x4.add(before, f32x4.mul(fx, f32x4.sub(next, before))));
    before = next;
  }
}

/** A row by such a map. Where all four pixels about a place are in the picture, nothing is asked. */
function placeRow(
  level: usize,
  to: usize,
  beside: i32,
  width: i32,
  y: i32,
  a: f64,
  b: f64,
  c: f64,
  d: f64,
  e: f64,
  f: f64,
): void {
  const picture = <usize>load<u32>(level, Halves.ADDRESS);
  const wide = load<i32>(level, Halves.WIDTH);
  const stride = (<usize>wide) << 4;
  const high = load<i32>(level, Halves.HEIGHT);
  const reachU = abs<f64>(a) + abs<f64>(b);
  const reachV = abs<f64>(d) + abs<f64>(e);
  // within, a pixel lies in the picture whole
  const leastU = max<f64>(0, 0.5 * (reachU - 1));
  const leastV = max<f64>(0, 0.5 * (reachV - 1));
  const mostU = <f64>(wide - 1) - leastU;
  const mostV = <f64>(high - 1) - leastV;
  const py: f64 = <f64>y + 0.5;
  const u0 = b * py + c;
  const v0 = e * py + f;
  // a picture that is only moved: the same weights for all of the row
  let movedFrom = width;
  let movedTo = width;
  if (a == 1 && b == 0 && d == 0 && v0 - 0.5 >= leastV && v0 - 0.5 < mostV) {
    movedFrom = <i32>max<f64>(0, min<f64>(<f64>width, ceil<f64>(leastU - u0)));
    movedTo = <i32>max<f64>(<f64>movedFrom, min<f64>(<f64>width, ceil<f64>(mostU - u0)));
    moveRow(picture, wide, pixelAt(to, y * width), movedFrom, movedTo, u0, v0 - 0.5);
  }

  for (let x = 0; x < width; x++) {
    if (x == movedFrom) {
      x = movedTo;
      if (x >= width) break;
    }

    const px: f64 = <f64>x + 0.5;
    const u = a * px + u0;
    const v = d * px + v0;
    const at = pixelAt(to, y * width + x);
    const s = u - 0.5;
    const t = v - 0.5;
    if (!(s >= leastU && t >= leastV && s < mostU && t < mostV)) {
      const part = beside == Beside.EDGE ? <f32>1 : coverage(u, v, <f64>wide, <f64>high, reachU, reachV);
      v128.store(at, part <= 0 ? nothing() : f32x4.mul(lookedUp(level, u, v), f32x4.splat(part)));
      continue;
    }

    const i = <i32>s;
    const j = <i32>t;
    const fx = f32x4.splat(<f32>(s - <f64>i));
    const fy = f32x4.splat(<f32>(t - <f64>j));
    const from = pixelAt(picture, j * wide + i);
    const p = v128.load(from);
    const r = v128.load(from + stride);
    const top = f32x4.add(p, f32x4.mul(fx, f32x4.sub(v128.load(from, 16), p)));
    const bottom = f32x4.add(r, f32x4.mul(fx, f32x4.sub(v128.load(from + stride, 16), r)));
    v128.store(at, f32x4.add(top, f32x4.mul(fy, f32x4.sub(bottom, top))));
  }
}
