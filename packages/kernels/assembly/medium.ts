// What light goes through: extinction on a lattice with a ring of zeros, and blocks of it with the greatest
// that they hold. A place (x, y, z) is counted in cells: value (i, j, k) of the lattice stands at the place
// (i, j, k), the ring at 0 and n + 1, and a place's cell is the box between eight values. Fields here are
// laid out plainly: row and plane are strides in values, (0, 0, 0) is a corner of the ring, and there is room
// for a vector before the first and behind the last value.
import { lerp4, pairs } from './common';
import { laneOf, pick4, spread4, wordOf } from './lanes';

/** Cells along a block, and what a place is divided by. */
export const BLOCK: i32 = 8;


@unmanaged
export class Medium {
  /** Values along the axes, without the ring. */
  nx: i32;
  ny: i32;
  nz: i32;
  /** Values from row to row and from plane to plane. */
  row: i32;
  plane: i32;
  /** Extinction a cell, a float a value. */
  extinction: usize;
  /** Transmittance toward the sun and the environment's part that arrives, 16 bits each in a word a value. */
  light: usize;
  /** Colour of the medium, four 16-bit parts of one a value; 0 where it is the same everywhere. */
  tint: usize;
  /** The same of the parts that are taken by channel, for a mixture of media; else what `tint` is. */
  takes: usize;
  /**
   * A byte for eight values along x, in the order of rows: whether any of them or of those beside them holds
   * something. Light is not needed elsewhere.
   */
  needed: usize;
  /** A byte a row: whether any of its eights is needed. */
  held: usize;
  /** Greatest extinction of each block; its lowest 8 bits say in which octants something lies ahead. */
  blocks: usize;
  /** Blocks along the axes, with a ring of empty ones. */
  blocksX: i32;
  blocksY: i32;
  blocksZ: i32;
}

// @ts-ignore: decorator
@inline
export function blockRow(m: Medium): i32 {
  return m.blocksX;
}

// @ts-ignore: decorator
@inline
export function blockPlane(m: Medium): i32 {
  return m.blocksX * m.blocksY;
}

/** Of four cells: the values at their corners, interpolated along z, two by two, then along x and y. */
// @ts-ignore: decorator
@inline
export function trilinear4(f0: v128, f1: v128, f2: v128, f3: v128, fx: v128, fy: v128): v128 {
  const a = v128.shuffle<f32>(f0, f1, 0, 4, 1, 5);
  const b = v128.shuffle<f32>(f0, f1, 2, 6, 3, 7);
  const c = v128.shuffle<f32>(f2, f3, 0, 4, 1, 5);
  const d = v128.shuffle<f32>(f2, f3, 2, 6, 3, 7);
  const x0 = lerp4(v128.shuffle<f64>(a, c, 0, 2), v128.shuffle<f64>(a, c, 1, 3), fx);
  const x1 = lerp4(v128.shuffle<f64>(b, d, 0, 2), v128.shuffle<f64>(b, d, 1, 3), fx);
  return lerp4(x0, x1, fy);
}

// @ts-ignore: decorator
@inline
function face(p: usize, row: i32, plane: usize, fz: v128): v128 {
  return lerp4(pairs(p, 0, row), pairs(p + plane, 0, row), fz);
}

/** Bytes of the cells that four places lie in, from the field's first value. */
// @ts-ignore: decorator
@inline
export function cells4(m: Medium, i: v128, j: v128, k: v128): v128 {
  const rows = i32x4.mul(j, i32x4.splat(m.row));
  const planes = i32x4.mul(k, i32x4.splat(m.plane));
  return i32x4.shl(i32x4.add(i, i32x4.add(rows, planes)), 2);
}

/** Extinction at four places. */
// @ts-ignore: decorator
@inline
export function extinction4(m: Medium, at: v128, fx: v128, fy: v128, fz: v128): v128 {
  return fieldAt4(m, m.extinction, at, fx, fy, fz);
}

/** A field of the medium's layout at four places. */
// @ts-ignore: decorator
@inline
export function fieldAt4(m: Medium, base: usize, at: v128, fx: v128, fy: v128, fz: v128): v128 {
  const row = m.row << 2;
  const plane = (<usize>m.plane) << 2;
  return trilinear4(
    face(base + <usize>i32x4.extract_lane(at, 0), row, plane, spread4(fz, 0)),
    face(base + <usize>i32x4.extract_lane(at, 1), row, plane, spread4(fz, 1)),
    face(base + <usize>i32x4.extract_lane(at, 2), row, plane, spread4(fz, 2)),
    face(base + <usize>i32x4.extract_lane(at, 3), row, plane, spread4(fz, 3)),
    fx,
    fy,
  );
}

/** Both parts of light at a cell's corners: words, near or a plane further. */
// @ts-ignore: decorator
@inline
export function lightFace(m: Medium, at: i32, further: bool): v128 {
  const p = m.light + <usize>at;
  return pairs(further ? p + ((<usize>m.plane) << 2) : p, 0, m.row << 2);
}

/** The sun's part at a cell's corners, interpolated along z, times 65535. */
// @ts-ignore: decorator
@inline
export function sunFace(near: v128, far: v128, fz: v128): v128 {
  const low = i32x4.splat(0xffff);
  return lerp4(f32x4.convert_i32x4_s(v128.and(near, low)), f32x4.convert_i32x4_s(v128.and(far, low)), fz);
}

/** The environment's part at a cell's corners, interpolated along z, times 65535. */
// @ts-ignore: decorator
@inline
export function skyFace(near: v128, far: v128, fz: v128): v128 {
  return lerp4(f32x4.convert_i32x4_s(i32x4.shr_u(near, 16)), f32x4.convert_i32x4_s(i32x4.shr_u(far, 16)), fz);
}

// @ts-ignore: decorator
@inline
function tintRow(p: usize, fx: v128): v128 {
  const pair = v128.load(p);
  const a = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(pair));
  const b = f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(pair));
  return lerp4(a, b, fx);
}

/**
 * The medium's colour in the cell at `at` bytes of a field of words: red, green, blue and a fourth, parts of
 * one. @param tint the medium's tint or its takes
 */
export function tintAt(m: Medium, tint: usize, at: usize, fx: f32, fy: f32, fz: f32): v128 {
  const p = tint + (at << 1);
  const row = (<usize>m.row) << 3;
  const plane = (<usize>m.plane) << 3;
  const x = f32x4.splat(fx);
  const y = f32x4.splat(fy);
  const near = lerp4(tintRow(p, x), tintRow(p + row, x), y);
  const far = lerp4(tintRow(p + plane, x), tintRow(p + plane + row, x), y);
  return f32x4.mul(lerp4(near, far, f32x4.splat(fz)), f32x4.splat(<f32>1 / 65535));
}

/** The same in one lane of four. */
// @ts-ignore: decorator
@inline
export function tintIn(m: Medium, tint: usize, at: v128, fx: v128, fy: v128, fz: v128, lane: i32): v128 {
  return tintAt(m, tint, <usize>wordOf(at, lane), laneOf(fx, lane), laneOf(fy, lane), laneOf(fz, lane));
}

/** Transposes four vectors' first three parts: reds, greens and blues of four lanes. */
// @ts-ignore: decorator
@inline
export function partOf4(a: v128, b: v128, c: v128, d: v128, part: i32): v128 {
  if (part == 0)
    return v128.shuffle<f64>(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 0, 4, 1, 5), 0, 2);
  if (part == 1)
    return v128.shuffle<f64>(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 0, 4, 1, 5), 1, 3);
  return v128.shuffle<f64>(v128.shuffle<f32>(a, b, 2, 6, 3, 7), v128.shuffle<f32>(c, d, 2, 6, 3, 7), 0, 2);
}

/** What four blocks hold, in the lanes of a mask; `old` in the others. */
// @ts-ignore: decorator
@inline
export function blocks4(m: Medium, block: v128, mask: v128, old: v128): v128 {
  // lanes that are not asked for read the first block
  const at = i32x4.shl(v128.and(block, mask), 2);
  const base = m.blocks;
  let found = v128.load_zero<u32>(base + <usize>i32x4.extract_lane(at, 0));
  found = v128.load_lane<u32>(base + <usize>i32x4.extract_lane(at, 1), found, 1);
  found = v128.load_lane<u32>(base + <usize>i32x4.extract_lane(at, 2), found, 2);
  found = v128.load_lane<u32>(base + <usize>i32x4.extract_lane(at, 3), found, 3);
  return pick4(mask, found, old);
}

/** The table that density is looked up in before it becomes extinction, and steps of it. */
const CURVE_STEPS: i32 = 1024;

/**
 * Density to extinction a cell, in place, for the planes k0..k1 of a field with its ring: times sigma, or
 * first through a curve of 1025 floats over density 0…most (0: none).
 */
export function toExtinction(
  field: usize,
  plane: i32,
  sigma: f32,
  curve: usize,
  most: f32,
  k0: i32,
  k1: i32,
): void {
  const scale: f32 = most > 0 ? <f32>CURVE_STEPS / most : 0;
  for (let k = k0; k < k1; k++) {
    let p = field + ((<usize>(k * plane)) << 2);
    const end = p + ((<usize>plane) << 2);
    if (!curve) {
      const s = f32x4.splat(sigma);
      for (; p < end; p += 16) v128.store(p, f32x4.mul(s, v128.load(p)));
      continue;
    }

    for (; p < end; p += 4) {
      const d = load<f32>(p);
      if (d <= 0) {
        store<f32>(p, 0);
        continue;
      }

      const x = min<f32>(d * scale, <f32>CURVE_STEPS - <f32>0.001);
      const i = <i32>x;
      const q = curve + ((<usize>i) << 2);
      const a = load<f32>(q);
      store<f32>(p, sigma * (a + (x - <f32>i) * (load<f32>(q, 4) - a)));
    }
  }
}

/** The greatest extinction of each block of the block planes k0..k1 (without the ring: from 0). */
export function topsOfBlocks(medium: usize, k0: i32, k1: i32): void {
  const m = changetype<Medium>(medium);
  for (let K = k0; K < k1; K++)
    for (let J = 0; J < m.blocksY - 2; J++)
      for (let I = 0; I < m.blocksX - 2; I++) {
        let top = f32x4.splat(0);
        let last: f32 = 0;
        const k9 = min((K + 1) * BLOCK, m.nz + 1);
        const j9 = min((J + 1) * BLOCK, m.ny + 1);
        for (let k = K * BLOCK; k <= k9; k++)
          for (let j = J * BLOCK; j <= j9; j++) {
            const p = m.extinction + ((<usize>(k * m.plane + j * m.row + I * BLOCK)) << 2);
            top = f32x4.pmax(f32x4.pmax(v128.load(p), v128.load(p, 16)), top);
            last = max(last, load<f32>(p, 32));
          }

        const halves = f32x4.pmax(top, v128.shuffle<f32>(top, top, 2, 3, 0, 1));
        const t = max(last, max(f32x4.extract_lane(halves, 0), f32x4.extract_lane(halves, 1)));
        const at = (K + 1) * blockPlane(m) + (J + 1) * blockRow(m) + I + 1;
        // rounded up, which leaves the lowest bits for what lies ahead
        const rounded: u32 = t > 0 ? (reinterpret<u32>(t) & ~(<u32>255)) + 256 : 0;
        store<u32>(m.blocks + ((<usize>at) << 2), rounded);
      }
}

/**
 * Marks each block with the octants (x up: 1, y up: 2, z up: 4) in which something lies ahead, itself too.
 */
export function markAhead(medium: usize): void {
  const m = changetype<Medium>(medium);
  const row = blockRow(m);
  const plane = blockPlane(m);
  for (let octant = 0; octant < 8; octant++) {
    const stepX = octant & 1 ? 1 : -1;
    const stepY = octant & 2 ? row : -row;
    const stepZ = octant & 4 ? plane : -plane;
    const bit: u32 = 1 << octant;
    for (let K = 1; K < m.blocksZ - 1; K++)
      for (let J = 1; J < m.blocksY - 1; J++)
        for (let I = 1; I < m.blocksX - 1; I++) {
          // from the far end on
          const at =
            (octant & 4 ? m.blocksZ - 1 - K : K) * plane +
            (octant & 2 ? m.blocksY - 1 - J : J) * row +
            (octant & 1 ? m.blocksX - 1 - I : I);
          const p = m.blocks + ((<usize>at) << 2);
          const own = load<u32>(p);
          const ahead =
            load<u32>(m.blocks + ((<usize>(at + stepX)) << 2)) |
            load<u32>(m.blocks + ((<usize>(at + stepY)) << 2)) |
            load<u32>(m.blocks + ((<usize>(at + stepZ)) << 2));
          if (own > 255 || ahead & bit) store<u32>(p, own | bit);
        }
  }
}

/** Sets where light is needed, for the planes k0..k1 of values with the ring. */
export function markNeeded(medium: usize, k0: i32, k1: i32): void {
  const m = changetype<Medium>(medium);
  const eights = m.row >> 3;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < m.ny + 2; j++) {
      let held: u8 = 0;
      for (let e = 0; e < eights; e++) {
        let any = f32x4.splat(0);
        for (let K = max(0, k - 1); K <= min(m.nz + 1, k + 1); K++)
          for (let J = max(0, j - 1); J <= min(m.ny + 1, j + 1); J++) {
            const p = m.extinction + ((<isize>(K * m.plane + J * m.row + 8 * e - 4)) << 2);
            any = v128.or(v128.or(any, v128.load(p)), v128.or(v128.load(p, 16), v128.load(p, 32)));
            any = v128.or(any, v128.load(p, 48));
          }

        const is: u8 = v128.any_true(any) ? 1 : 0;
        store<u8>(m.needed + <usize>((k * (m.ny + 2) + j) * eights + e), is);
        held |= is;
      }

      store<u8>(m.held + <usize>(k * (m.ny + 2) + j), held);
    }
}

/**
 * Values as they stand when the medium has gone on for a while: each is what stood where it comes from, for
 * the planes k0..k1 of values without the ring (from 0). The ring stays.
 * @param from a field of the medium's layout; velocity in cells a frame, fields like it; `frames` how long
 */
export function carryAlong(
  medium: usize,
  from: usize,
  to: usize,
  velocityX: usize,
  velocityY: usize,
  velocityZ: usize,
  frames: f32,
  k0: i32,
  k1: i32,
): void {
  const m = changetype<Medium>(medium);
  const back = f32x4.splat(-frames);
  const zero = f32x4.splat(0);
  const mostX = f32x4.splat(<f32>m.nx + <f32>0.999);
  const mostY = f32x4.splat(<f32>m.ny + <f32>0.999);
  const mostZ = f32x4.splat(<f32>m.nz + <f32>0.999);
  for (let k = k0 + 1; k < k1 + 1; k++)
    for (let j = 1; j <= m.ny; j++) {
      const row = (<usize>(k * m.plane + j * m.row)) << 2;
      for (let i = 1; i <= m.nx; i += 4) {
        const p = row + ((<usize>i) << 2);
        const x = f32x4.add(
          f32x4.add(f32x4.splat(<f32>i), f32x4(0, 1, 2, 3)),
          f32x4.mul(back, v128.load(velocityX + p)),
        );
        const y = f32x4.add(f32x4.splat(<f32>j), f32x4.mul(back, v128.load(velocityY + p)));
        const z = f32x4.add(f32x4.splat(<f32>k), f32x4.mul(back, v128.load(velocityZ + p)));
        const cx = f32x4.pmax(zero, f32x4.pmin(mostX, x));
        const cy = f32x4.pmax(zero, f32x4.pmin(mostY, y));
        const cz = f32x4.pmax(zero, f32x4.pmin(mostZ, z));
        const xf = f32x4.floor(cx);
        const yf = f32x4.floor(cy);
        const zf = f32x4.floor(cz);
        const at = cells4(
          m,
          i32x4.trunc_sat_f32x4_s(xf),
          i32x4.trunc_sat_f32x4_s(yf),
          i32x4.trunc_sat_f32x4_s(zf),
        );
        const value = fieldAt4(m, from, at, f32x4.sub(cx, xf), f32x4.sub(cy, yf), f32x4.sub(cz, zf));
        const left = m.nx + 1 - i;
        if (left >= 4) v128.store(to + p, value);
        else {
          store<f32>(to + p, f32x4.extract_lane(value, 0));
          if (left > 1) store<f32>(to + p, f32x4.extract_lane(value, 1), 4);
          if (left > 2) store<f32>(to + p, f32x4.extract_lane(value, 2), 8);
        }
      }
    }
}

/** The same for colours, four 16-bit parts a value. */
export function carryTint(
  medium: usize,
  from: usize,
  to: usize,
  velocityX: usize,
  velocityY: usize,
  velocityZ: usize,
  frames: f32,
  k0: i32,
  k1: i32,
): void {
  const m = changetype<Medium>(medium);
  for (let k = k0 + 1; k < k1 + 1; k++)
    for (let j = 1; j <= m.ny; j++)
      for (let i = 1; i <= m.nx; i++) {
        const p = (<usize>(k * m.plane + j * m.row + i)) << 2;
        const x = max<f32>(0, min<f32>(<f32>m.nx + <f32>0.999, <f32>i - frames * load<f32>(velocityX + p)));
        const y = max<f32>(0, min<f32>(<f32>m.ny + <f32>0.999, <f32>j - frames * load<f32>(velocityY + p)));
        const z = max<f32>(0, min<f32>(<f32>m.nz + <f32>0.999, <f32>k - frames * load<f32>(velocityZ + p)));
        const cell = (<usize>(<i32>z * m.plane + <i32>y * m.row + <i32>x)) << 2;
        const c = tintAt(m, from, cell, x - floor<f32>(x), y - floor<f32>(y), z - floor<f32>(z));
        const words = i32x4.trunc_sat_f32x4_s(f32x4.mul(c, f32x4.splat(65535)));
        v128.store64_lane(to + (p << 1), i16x8.narrow_i32x4_u(words, words), 0);
      }
}
