// Masks: a value from 0 to 1 for each pixel.
import { takeRoom } from '../rooms';
import { alphaOf, leaveRoom, luminanceOf, pixelAt, roomAt, valueAt } from './pixel';

/** Pixels of the edge of a square within which an outline is first looked at as a whole. */
export enum MaskTile {
  EDGE = 16,
}

/** Square of how far a place is from a line between two places. */
// @ts-ignore: decorator
@inline
function squareFrom(line: usize, next: usize, x: f32, y: f32): f32 {
  const ax = load<f32>(line);
  const ay = load<f32>(line, 4);
  const dx = load<f32>(next) - ax;
  const dy = load<f32>(next, 4) - ay;
  const long = dx * dx + dy * dy;
  const t = long > 0 ? max<f32>(0, min<f32>(1, ((x - ax) * dx + (y - ay) * dy) / long)) : <f32>0;
  const px = x - ax - t * dx;
  const py = y - ay - t * dy;
  return px * px + py * py;
}

// @ts-ignore: decorator
@inline
function pointAt(points: usize, count: i32, n: i32): usize {
  return points + ((<usize>(n < count ? n : 0)) << 3);
}

/** Where the lines of an outline cross a row: places to the right, unsorted. @returns how many */
function crossings(points: usize, count: i32, y: f32, to: usize): i32 {
  let found: i32 = 0;
  for (let n = 0; n < count; n++) {
    const a = pointAt(points, count, n);
    const b = pointAt(points, count, n + 1);
    const ay = load<f32>(a, 4);
    const by = load<f32>(b, 4);
    if (ay > y == by > y) continue;
    const ax = load<f32>(a);
    store<f32>(to + ((<usize>found) << 2), ax + ((y - ay) * (load<f32>(b) - ax)) / (by - ay));
    found++;
  }

  return found;
}

// @ts-ignore: decorator
@inline
function smooth(t: f32): f32 {
  const s = max<f32>(0, min<f32>(1, t));
  return s * s * (3 - 2 * s);
}

/**
 * An outline filled, with edges that rise from 0 at `outer` outside to 1 at `inner` inside it; the rows of
 * squares k0..k1.
 * @param points count pairs of floats, closed
 * @param roomBytes eight bytes for each of them at least
 */
export function fillOutline(
  points: usize,
  count: i32,
  inner: f32,
  outer: f32,
  to: usize,
  rooms: usize,
  roomBytes: i32,
  width: i32,
  height: i32,
  k0: i32,
  k1: i32,
): void {
  const half: f32 = <f32>MaskTile.EDGE / 2;
  const corner: f32 = half * <f32>1.4143;
  const own = takeRoom(rooms);
  const near = roomAt(rooms, roomBytes, own);
  const crossed = near + ((<usize>count) << 2);
  for (let k = k0; k < k1; k++)
    for (let x0 = 0; x0 < width; x0 += MaskTile.EDGE) {
      const y0 = k * MaskTile.EDGE;
      const mx = <f32>x0 + half;
      const my = <f32>y0 + half;
      let nearest: f32 = Infinity;
      for (let n = 0; n < count; n++)
        nearest = min<f32>(
          nearest,
          squareFrom(pointAt(points, count, n), pointAt(points, count, n + 1), mx, my),
        );
      const away = sqrt<f32>(nearest);
      // lines that may be the nearest to some pixel of the square
      let kept: i32 = 0;
      const reach = (away + 2 * corner) * (away + 2 * corner);
      const isEven = away - corner >= max<f32>(inner, outer);
      if (!isEven)
        for (let n = 0; n < count; n++)
          if (squareFrom(pointAt(points, count, n), pointAt(points, count, n + 1), mx, my) <= reach) {
            store<i32>(near + ((<usize>kept) << 2), n);
            kept++;
          }

      for (let y = y0; y < min(y0 + MaskTile.EDGE, height); y++) {
        const py: f32 = <f32>y + 0.5;
        const found = crossings(points, count, py, crossed);
        for (let x = x0; x < min(x0 + MaskTile.EDGE, width); x++) {
          const px: f32 = <f32>x + 0.5;
          let isInside = false;
          for (let n = 0; n < found; n++)
            if (px < load<f32>(crossed + ((<usize>n) << 2))) isInside = !isInside;
          let d: f32 = nearest;
          if (!isEven) {
            d = Infinity;
            for (let n = 0; n < kept; n++) {
              const line = load<i32>(near + ((<usize>n) << 2));
              d = min<f32>(
                d,
                squareFrom(pointAt(points, count, line), pointAt(points, count, line + 1), px, py),
              );
            }
          }

          const far = isEven ? max<f32>(inner, outer) : sqrt<f32>(d);
          store<f32>(valueAt(to, y * width + x), smooth(((isInside ? far : -far) + outer) / (inner + outer)));
        }
      }
    }

  leaveRoom(rooms, own);
}

/** What a mask may be taken from. */
export enum MaskSource {
  RED = 0,
  GREEN = 1,
  BLUE = 2,
  ALPHA = 3,
  LUMINANCE = 4,
}

/** A mask from what a picture holds: 0 at `low` and below, 1 at `high` and above. */
export function maskFromPicture(
  picture: usize,
  source: i32,
  low: f32,
  high: f32,
  to: usize,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const span = high - low;
  const inverse: f32 = span != 0 ? 1 / span : 1e20;
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    let v: f32;
    if (source == MaskSource.LUMINANCE) v = luminanceOf(v128.load(at));
    else if (source == MaskSource.ALPHA) v = alphaOf(v128.load(at));
    else v = load<f32>(at + ((<usize>source) << 2));
    store<f32>(valueAt(to, n), max<f32>(0, min<f32>(1, (v - low) * inverse)));
  }
}

/** How one mask changes another. */
export enum MaskJoin {
  /** Where both let through. */
  BOTH = 0,
  /** Where either does. */
  EITHER = 1,
  /** Where the other one does not. */
  WITHOUT = 2,
  /** Turned round, whatever the other one is. */
  INVERT = 3,
}

export function joinMasks(mask: usize, other: usize, how: i32, width: i32, k0: i32, k1: i32): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = valueAt(mask, n);
    const a = load<f32>(at);
    const b = other ? load<f32>(valueAt(other, n)) : <f32>0;
    let v: f32 = a * b;
    if (how == MaskJoin.EITHER) v = a + b - a * b;
    else if (how == MaskJoin.WITHOUT) v = a * (1 - b);
    else if (how == MaskJoin.INVERT) v = 1 - a;
    store<f32>(at, v);
  }
}
