// What a picture knows besides light: sums along camera rays, each place weighed by how much of it is seen,
// and the places that part a ray into samples of a deep picture. Four rays at a time; sums stand in a room of
// the worker, a vector each.
import { mad4, one4, pick4 } from './lanes';
import { fieldAt4, Medium } from './medium';
import { Scene } from './scene';

/** What is sensed. Fields have the Medium's layout. */
@unmanaged
export class Sensing {
  /** Where sums go, so many floats a pixel: those of `Sense`, then the means of the fields. */
  out: usize;
  floats: i32;
  /** Addresses of fields that are seen as they are, and how many. */
  fields: usize;
  fieldCount: i32;
  /** Velocity, cells a frame; 0: the medium rests. */
  velocityX: usize;
  velocityY: usize;
  velocityZ: usize;
  /** Whether normals and motion are wanted. */
  normals: i32;
  motion: i32;
  /** From cells to pixels of the next frame's camera: x, y and what both are divided by. */
  xX: f32;
  xY: f32;
  xZ: f32;
  xW: f32;
  yX: f32;
  yY: f32;
  yZ: f32;
  yW: f32;
  wX: f32;
  wY: f32;
  wZ: f32;
  wW: f32;
  /** Surfaces as they stand at the next frame. */
  nextSurfaces: usize;
  /** Whether the part of light is wanted that reaches surfaces; lamps have to be lit then. */
  shadows: i32;
  /**
   * Deep pictures: floats a pixel from the row `boundsFrom` on, how many places part it and those places,
   * cells from the eye; 0: none are wanted. At most so many, and how far what is let through may be off.
   */
  bounds: usize;
  /** Pixels across, of the picture. */
  width: i32;
  boundsFrom: i32;
  mostBounds: i32;
  tolerance: f32;
}

/** Sums of a pixel. Depths are along the camera's axis, m; what is not met is 0. */
export enum Sense {
  DENSITY,
  FRONT,
  /** Mean over what is seen. */
  MIDDLE,
  BACK,
  NORMAL_X,
  NORMAL_Y,
  NORMAL_Z,
  /** Pixels to the next frame, right and down. */
  MOTION_X,
  MOTION_Y,
  TINT_R,
  TINT_G,
  TINT_B,
  /** Part that is seen of all, and what is left behind it. */
  WEIGHT,
  LEFT,
  /** Part of the light on a surface that nothing holds back, 1 where there is none. */
  LIT,
  /** Part of a pixel that solids hold out. */
  MATTE,
  /** How many stand before the fields. */
  COUNT,
}

/** Fields at the most. */
export enum Senses {
  FIELDS = 12,
}

/** What a packet keeps besides its sums, after them and the fields. */
const enum Own {
  PX = 28,
  PY,
  /** Of the ray along the camera's axis. */
  COSINE,
  /** Where the present part begins, the optical depth there, and between which slopes its end may lie. */
  FROM,
  FROM_DEPTH,
  LOW,
  HIGH,
  /** The place and depth before. */
  LAST,
  LAST_DEPTH,
  COUNT,
}

// @ts-ignore: decorator
@inline
function add4(acc: usize, slot: i32, value: v128): void {
  const p = acc + ((<usize>slot) << 4);
  v128.store(p, f32x4.add(v128.load(p), value));
}

// @ts-ignore: decorator
@inline
function put4(acc: usize, slot: i32, value: v128): void {
  v128.store(acc + ((<usize>slot) << 4), value);
}

// @ts-ignore: decorator
@inline
function get4(acc: usize, slot: i32): v128 {
  return v128.load(acc + ((<usize>slot) << 4));
}

/** @param px pixels; `first` place on the rays, cells; `cosine` of the rays to the camera's axis */
export function beginSenses(s: Scene, acc: usize, px: v128, py: v128, first: v128, cosine: v128): void {
  const zero = f32x4.splat(0);
  for (let n = 0; n < <i32>Own.PX; n++) put4(acc, n, zero);
  put4(acc, Own.PX, px);
  put4(acc, Own.PY, py);
  put4(acc, Own.COSINE, cosine);
  put4(acc, Own.FROM, first);
  put4(acc, Own.FROM_DEPTH, zero);
  put4(acc, Own.LAST, first);
  put4(acc, Own.LAST_DEPTH, zero);
  put4(acc, Own.COUNT, zero);
  openDoor(acc, i32x4.splat(-1));
}

/** Any slope will do. */
// @ts-ignore: decorator
@inline
function openDoor(acc: usize, lanes: v128): void {
  put4(acc, Own.LOW, pick4(lanes, f32x4.splat(-1e30), get4(acc, Own.LOW)));
  put4(acc, Own.HIGH, pick4(lanes, f32x4.splat(1e30), get4(acc, Own.HIGH)));
}

/**
 * Adds a step of four rays. @param seen how much of what is there is seen; `own` minus its optical depth;
 * `left` what is let through behind it; `far` cells from the eye; x, y, z its place
 */
export function senseStep(
  s: Scene,
  acc: usize,
  seen: v128,
  own: v128,
  left: v128,
  far: v128,
  x: v128,
  y: v128,
  z: v128,
  at: v128,
  fx: v128,
  fy: v128,
  fz: v128,
  tintR: v128,
  tintG: v128,
  tintB: v128,
): void {
  const m = changetype<Medium>(s.medium);
  const sensing = changetype<Sensing>(s.sensing);
  const zero = f32x4.splat(0);
  const one = one4();
  if (sensing.bounds) part(s, sensing, acc, own, left, far);
  add4(acc, Sense.DENSITY, f32x4.neg(own));
  add4(acc, Sense.WEIGHT, seen);
  add4(acc, Sense.MIDDLE, f32x4.mul(seen, far));
  const front = get4(acc, Sense.FRONT);
  const opens = v128.and(f32x4.eq(front, zero), f32x4.lt(left, f32x4.splat(0.99)));
  put4(acc, Sense.FRONT, pick4(v128.and(opens, f32x4.lt(own, zero)), far, front));
  const holds = f32x4.lt(own, f32x4.splat(<f32>-1e-5));
  put4(acc, Sense.BACK, pick4(holds, far, get4(acc, Sense.BACK)));
  if (m.tint) {
    add4(acc, Sense.TINT_R, f32x4.mul(seen, tintR));
    add4(acc, Sense.TINT_G, f32x4.mul(seen, tintG));
    add4(acc, Sense.TINT_B, f32x4.mul(seen, tintB));
  }

  if (sensing.normals) {
    // the slope within the cell, downward
    const e = m.extinction;
    const sx = f32x4.sub(fieldAt4(m, e, at, zero, fy, fz), fieldAt4(m, e, at, one, fy, fz));
    const sy = f32x4.sub(fieldAt4(m, e, at, fx, zero, fz), fieldAt4(m, e, at, fx, one, fz));
    const sz = f32x4.sub(fieldAt4(m, e, at, fx, fy, zero), fieldAt4(m, e, at, fx, fy, one));
    add4(acc, Sense.NORMAL_X, f32x4.mul(seen, sx));
    add4(acc, Sense.NORMAL_Y, f32x4.mul(seen, sy));
    add4(acc, Sense.NORMAL_Z, f32x4.mul(seen, sz));
  }

  if (sensing.motion) {
    let qx = x;
    let qy = y;
    let qz = z;
    if (sensing.velocityX) {
      qx = f32x4.add(x, fieldAt4(m, sensing.velocityX, at, fx, fy, fz));
      qy = f32x4.add(y, fieldAt4(m, sensing.velocityY, at, fx, fy, fz));
      qz = f32x4.add(z, fieldAt4(m, sensing.velocityZ, at, fx, fy, fz));
    }

    const w = along(sensing.wX, sensing.wY, sensing.wZ, sensing.wW, qx, qy, qz);
    // what the next camera has beside or behind it has no place in its picture
    const inverse = f32x4.div(one, f32x4.pmax(w, f32x4.splat(<f32>1e-6)));
    const mx = f32x4.mul(along(sensing.xX, sensing.xY, sensing.xZ, sensing.xW, qx, qy, qz), inverse);
    const my = f32x4.mul(along(sensing.yX, sensing.yY, sensing.yZ, sensing.yW, qx, qy, qz), inverse);
    add4(acc, Sense.MOTION_X, f32x4.mul(seen, f32x4.sub(mx, get4(acc, Own.PX))));
    add4(acc, Sense.MOTION_Y, f32x4.mul(seen, f32x4.sub(my, get4(acc, Own.PY))));
  }

  for (let n = 0; n < sensing.fieldCount; n++) {
    const field = load<usize>(sensing.fields + ((<usize>n) << 2));
    add4(acc, <i32>Sense.COUNT + n, f32x4.mul(seen, fieldAt4(m, field, at, fx, fy, fz)));
  }
}

// @ts-ignore: decorator
@inline
function along(a: f32, b: f32, c: f32, d: f32, x: v128, y: v128, z: v128): v128 {
  return mad4(f32x4.splat(a), x, mad4(f32x4.splat(b), y, mad4(f32x4.splat(c), z, f32x4.splat(d))));
}

/**
 * Ends the present part of rays where optical depth would stray from a straight line by more than is allowed
 * (the swinging door of Bristol 1990). Places lie half-way between steps, so that each step is in one part.
 */
function part(s: Scene, sensing: Sensing, acc: usize, own: v128, left: v128, far: v128): void {
  const half = f32x4.splat(<f32>0.5 * s.step);
  const here = f32x4.add(far, half);
  const depth = f32x4.sub(get4(acc, Sense.DENSITY), own);
  const some = f32x4.lt(own, f32x4.splat(0));
  // a stretch of nothing before this step ends a part, and is one; the first part ends where the medium
  // begins
  const gap = f32x4.sub(far, half);
  const last = get4(acc, Own.LAST);
  const begins = v128.and(some, f32x4.eq(get4(acc, Sense.DENSITY), f32x4.splat(0)));
  const apart = v128.and(some, f32x4.lt(f32x4.splat(<f32>0.25 * s.step), f32x4.sub(gap, last)));
  const goesOn = v128.andnot(apart, begins);
  const lastDepth = get4(acc, Own.LAST_DEPTH);
  if (v128.any_true(goesOn)) cut(sensing, acc, goesOn, last, lastDepth);
  const opens = v128.or(apart, begins);
  if (v128.any_true(opens)) cut(sensing, acc, opens, gap, lastDepth);

  const off = f32x4.div(f32x4.splat(sensing.tolerance), f32x4.pmax(left, f32x4.splat(<f32>0.01)));
  const from = get4(acc, Own.FROM);
  const length = f32x4.pmax(f32x4.sub(here, from), f32x4.splat(<f32>1e-6));
  const rise = f32x4.sub(depth, get4(acc, Own.FROM_DEPTH));
  const low = f32x4.pmax(get4(acc, Own.LOW), f32x4.div(f32x4.sub(rise, off), length));
  const high = f32x4.pmin(get4(acc, Own.HIGH), f32x4.div(f32x4.add(rise, off), length));
  const shut = v128.and(some, f32x4.gt(low, high));
  if (v128.any_true(shut)) {
    cut(sensing, acc, shut, get4(acc, Own.LAST), get4(acc, Own.LAST_DEPTH));
    const start = get4(acc, Own.FROM);
    const span = f32x4.pmax(f32x4.sub(here, start), f32x4.splat(<f32>1e-6));
    const climb = f32x4.sub(depth, get4(acc, Own.FROM_DEPTH));
    put4(
      acc,
      Own.LOW,
      pick4(shut, f32x4.div(f32x4.sub(climb, off), span), pick4(some, low, get4(acc, Own.LOW))),
    );
    put4(
      acc,
      Own.HIGH,
      pick4(shut, f32x4.div(f32x4.add(climb, off), span), pick4(some, high, get4(acc, Own.HIGH))),
    );
  } else {
    put4(acc, Own.LOW, pick4(some, low, get4(acc, Own.LOW)));
    put4(acc, Own.HIGH, pick4(some, high, get4(acc, Own.HIGH)));
  }

  put4(acc, Own.LAST, pick4(some, here, get4(acc, Own.LAST)));
  put4(acc, Own.LAST_DEPTH, pick4(some, depth, get4(acc, Own.LAST_DEPTH)));
}

/**
 * Parts rays of some lanes at a place, and begins anew there. The last place that there is room for is kept.
 */
function cut(sensing: Sensing, acc: usize, lanes: v128, place: v128, depth: v128): void {
  put4(acc, Own.FROM, pick4(lanes, place, get4(acc, Own.FROM)));
  put4(acc, Own.FROM_DEPTH, pick4(lanes, depth, get4(acc, Own.FROM_DEPTH)));
  openDoor(acc, lanes);
  const x0 = <i32>f32x4.extract_lane(get4(acc, Own.PX), 0);
  const y0 = <i32>f32x4.extract_lane(get4(acc, Own.PY), 0);
  for (let lane = 0; lane < 4; lane++) {
    if (!(i32x4.bitmask(lanes) & (1 << lane))) continue;
    const n = load<i32>(acc + ((<usize>Own.COUNT) << 4) + ((<usize>lane) << 2));
    // the end of the last part stands behind the places
    if (n + 2 >= sensing.mostBounds) continue;
    const p = boundsOf(sensing, x0 + (lane & 1), y0 + (lane >> 1));
    store<f32>(p + ((<usize>(n + 1)) << 2), load<f32>(acc + ((<usize>Own.FROM) << 4) + ((<usize>lane) << 2)));
    store<i32>(acc + ((<usize>Own.COUNT) << 4) + ((<usize>lane) << 2), n + 1);
  }
}

/** Where a pixel's bounds stand: how many, then each. */
// @ts-ignore: decorator
@inline
export function boundsOf(sensing: Sensing, x: i32, y: i32): usize {
  const pixel = (y - sensing.boundsFrom) * sensing.width + x;
  return sensing.bounds + ((<usize>(pixel * sensing.mostBounds)) << 2);
}

/** Writes the sums of a packet to its pixels. @param left what is let through, three channels' sum */
export function keepSenses(s: Scene, acc: usize, x0: i32, y0: i32, x1: i32, y1: i32, left: v128): void {
  const sensing = changetype<Sensing>(s.sensing);
  const metres = f32x4.mul(f32x4.splat(s.metre), get4(acc, Own.COSINE));
  put4(acc, Sense.FRONT, f32x4.mul(get4(acc, Sense.FRONT), metres));
  put4(acc, Sense.MIDDLE, f32x4.mul(get4(acc, Sense.MIDDLE), metres));
  const back = f32x4.mul(get4(acc, Sense.BACK), metres);
  put4(acc, Sense.BACK, v128.and(back, f32x4.lt(f32x4.splat(0), get4(acc, Sense.FRONT))));
  put4(acc, Sense.LEFT, f32x4.mul(left, f32x4.splat(<f32>1 / 3)));
  put4(acc, Sense.LIT, one4());
  const count = <i32>Sense.COUNT + sensing.fieldCount;
  for (let lane = 0; lane < 4; lane++) {
    const x = x0 + (lane & 1);
    const y = y0 + (lane >> 1);
    if (x >= x1 || y >= y1) continue;
    const to = sensing.out + ((<usize>((y * s.width + x) * sensing.floats)) << 2);
    for (let n = 0; n < count; n++)
      store<f32>(to + ((<usize>n) << 2), load<f32>(acc + ((<usize>n) << 4) + ((<usize>lane) << 2)));
    if (!sensing.bounds) continue;
    const p = boundsOf(sensing, x, y);
    const n = load<i32>(acc + ((<usize>Own.COUNT) << 4) + ((<usize>lane) << 2));
    store<i32>(p, n);
    store<f32>(p + ((<usize>(n + 1)) << 2), load<f32>(acc + ((<usize>Own.LAST) << 4) + ((<usize>lane) << 2)));
  }
}
