// Fields as the leaves of an OpenVDB tree: blocks of 8³ voxels of the world's lattice, z fastest in them, a
// bit a voxel that is active, and the values of those alone, as halves or floats.
import { byAxis, row } from './common';

/** Bytes of a leaf's mask: a byte for each x and y, a bit for each z. */
const MASK_BYTES: i32 = 64;
const MASK_SHIFT: usize = 6;

/** Which voxels count: those above a threshold, those and the ones behind them along each axis, or all. */
export const enum Marked {
  CELLS = 0,
  FACES = 1,
  ALL = 2,
}

/** How a field holds what a channel is. */
export const enum Held {
  VALUE = 0,
  /** The value times density. */
  AMOUNT = 1,
  /** The value over the edge of a voxel. */
  LAYER = 2,
  /** The way from its place. */
  WAY = 3,
}

/** The sixteen bits of a half float, rounded to nearest even (van der Zijp 2012). */
// @ts-ignore: decorator
@inline
function half(value: f32): i32 {
  const x = reinterpret<u32>(value);
  const sign = (x >> 16) & 0x8000;
  const size = x & 0x7fffffff;
  if (size >= 0x7f800000) return sign | (size > 0x7f800000 ? 0x7e00 : 0x7c00);
  if (size >= 0x47800000) return sign | 0x7c00;
  if (size < 0x38800000) return sign | (reinterpret<u32>(abs<f32>(value) + <f32>0.5) - 0x3f000000);
  return sign | ((size - 0x38000000 + 0xfff + ((size >> 13) & 1)) >> 13);
}

/** Where either of two fields is above a threshold, as a bit for each of four; g 0: the first alone. */
// @ts-ignore: decorator
@inline
function above(f: usize, g: usize, o: usize, threshold: v128): i32 {
  let is = f32x4.gt(v128.load(f + o), threshold);
  if (g) is = v128.or(is, f32x4.gt(v128.load(g + o), threshold));
  return i32x4.bitmask(is);
}

/**
 * Masks of all leaves that a window touches, layer by layer along z, in it row by row along y.
 * f, g: density and what lies (0: none). ox, oy, oz: where the window begins in the first leaf; lx, ly:
 * leaves along x and y. Runs over layers of leaves.
 */
export function markLeaves(
  f: usize,
  g: usize,
  threshold: f32,
  marked: i32,
  masks: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  ox: i32,
  oy: i32,
  oz: i32,
  lx: i32,
  ly: i32,
  k0: i32,
  k1: i32,
): void {
  const least = f32x4.splat(threshold);
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  for (let layer = k0; layer < k1; layer++) {
    memory.fill(masks + <usize>(layer * lx * ly * MASK_BYTES), 0, <usize>(lx * ly * MASK_BYTES));
    for (let z = max(0, 8 * layer - oz), end = min(nz, 8 * layer + 8 - oz); z < end; z++) {
      const bit = 1 << ((z + oz) & 7);
      for (let y = 0; y < ny; y++) {
        const b = y + oy;
        const leaves = masks + ((<usize>((layer * ly + (b >> 3)) * lx)) << MASK_SHIFT) + <usize>(b & 7);
        const at = row(0, y, z, rowStride, planeStride);
        // the last of the four before
        let carried = 0;
        for (let x = 0; x < nx; x += 4) {
          const o = at + ((<usize>x) << 2);
          let bits = 15;
          if (marked != Marked.ALL) {
            bits = above(f, g, o, least);
            if (marked == Marked.FACES) {
              const own = bits;
              bits |= ((own << 1) & 15) | carried;
              carried = own >> 3;
              if (y > 0) bits |= above(f, g, o - rs, least);
              if (z > 0) bits |= above(f, g, o - ps, least);
            }
          }

          for (; bits; bits &= bits - 1) {
            const a = x + ctz(bits) + ox;
            const to = leaves + ((<usize>(a >> 3)) << MASK_SHIFT) + ((<usize>(a & 7)) << 3);
            store<u8>(to, u8(i32(load<u8>(to)) | bit));
          }
        }
      }
    }
  }
}

/** A channel at a voxel; place: of the voxel's middle along the part's axis, in voxels of the world. */
// @ts-ignore: decorator
@inline
function valueAt(f: usize, density: usize, o: usize, held: i32, place: f64, h: f64): f32 {
  const v = load<f32>(f + o);
  if (held == Held.AMOUNT) {
    const d = load<f32>(density + o);
    return d > 0 ? <f32>(<f64>v / <f64>d) : 0;
  }

  if (held == Held.LAYER) return <f32>(<f64>v * h);
  if (held == Held.WAY) return <f32>(<f64>v + place * h);
  return v;
}

/**
 * The values of leaves. a, b, c: fields of the channel's parts (b, c 0: it has one). leaves: numbers of the
 * leaves among those of markLeaves; starts: where in `out` each one's values go, bytes.
 * sparse 1: a voxel whose parts are all 0 loses its bit; then nothing is written, and `starts` is given how
 * many are left in each leaf.
 * wx, wy, wz: the window's first voxel in the world. Runs over the list of leaves.
 */
export function packLeaves(
  a: usize,
  b: usize,
  c: usize,
  density: usize,
  held: i32,
  h: f64,
  sparse: i32,
  halves: i32,
  masks: usize,
  leaves: usize,
  starts: usize,
  out: usize,
  rowStride: i32,
  planeStride: i32,
  ox: i32,
  oy: i32,
  oz: i32,
  wx: i32,
  wy: i32,
  wz: i32,
  lx: i32,
  ly: i32,
  k0: i32,
  k1: i32,
): void {
  const many = b ? 3 : 1;
  for (let n = k0; n < k1; n++) {
    const leaf = load<i32>(leaves + ((<usize>n) << 2));
    const mask = masks + ((<usize>leaf) << MASK_SHIFT);
    const x = 8 * (leaf % lx) - ox;
    const y = 8 * ((leaf / lx) % ly) - oy;
    const z = 8 * (leaf / (lx * ly)) - oz;
    let to = out + <usize>load<u32>(starts + ((<usize>n) << 2));
    let left = 0;
    for (let r = 0; r < MASK_BYTES; r++) {
      const i = x + (r >> 3);
      const j = y + (r & 7);
      for (let bits = <i32>load<u8>(mask + <usize>r); bits; bits &= bits - 1) {
        const k = z + ctz(bits);
        const o = row(0, j, k, rowStride, planeStride) + ((<isize>i) << 2);
        let any = false;
        for (let p = 0; p < many; p++) {
          const f = byAxis(p, a, b, c);
          const place = <f64>byAxis(p, i + wx, j + wy, k + wz) + 0.5;
          const value = valueAt(f, density, o, held, place, h);
          if (sparse) any = any || value != 0;
          else if (halves) {
            store<u16>(to, <u16>half(value));
            to += 2;
          } else {
            store<f32>(to, value);
            to += 4;
          }
        }

        if (!sparse) continue;
        if (any) left++;
        else {
          const byte = i32(load<u8>(mask + <usize>r));
          store<u8>(mask + <usize>r, u8(byte & ~(1 << ctz(bits))));
        }
      }
    }

    if (sparse) store<u32>(starts + ((<usize>n) << 2), left);
  }
}
