// Trilinear look-ups of four sites at once. They are relative to the site itself: where the four lanes of a
// vector look the same number of cells away, which is nearly everywhere, eight plain loads bring what they
// need; else each lane fetches its own pairs.
import { evens, lerp4, odds, pairs } from './common';

// @ts-ignore: decorator
@inline
export function mix8(
  ae: v128,
  ao: v128,
  be: v128,
  bo: v128,
  ce: v128,
  co: v128,
  de: v128,
  dd: v128,
  fx: v128,
  fy: v128,
  fz: v128,
): v128 {
  return lerp4(
    lerp4(lerp4(ae, ao, fx), lerp4(be, bo, fx), fy),
    lerp4(lerp4(ce, co, fx), lerp4(de, dd, fx), fy),
    fz,
  );
}

/**
 * Bytes of a whole number of floats, by its place in a double's digits: quicker than a conversion with its
 * checks.
 */
// @ts-ignore: decorator
@inline
export function bytesOf(floats: f32): usize {
  return <usize>((<i32>reinterpret<i64>(<f64>floats + 6755399441055744.0)) << 2);
}

/** f at four sites on from address f by (x, y, z) cells each; rowStride, planeStride as floats. */
// @ts-ignore: decorator
@inline
export function sampleTrilinear4(
  f: usize,
  x: v128,
  y: v128,
  z: v128,
  rowStride: v128,
  planeStride: v128,
  rs: usize,
  ps: usize,
): v128 {
  const xf = f32x4.floor(x);
  const yf = f32x4.floor(y);
  const zf = f32x4.floor(z);
  const fx = f32x4.sub(x, xf);
  const fy = f32x4.sub(y, yf);
  const fz = f32x4.sub(z, zf);
  const flat = f32x4.add(xf, f32x4.add(f32x4.mul(yf, rowStride), f32x4.mul(zf, planeStride)));
  const first = f32x4.extract_lane(flat, 0);
  if (i32x4.bitmask(f32x4.eq(flat, f32x4.splat(first))) == 15) {
    const a = f + bytesOf(first);
    const b = a + rs;
    const c = a + ps;
    const d = b + ps;
    return mix8(
      v128.load(a),
      v128.load(a, 4),
      v128.load(b),
      v128.load(b, 4),
      v128.load(c),
      v128.load(c, 4),
      v128.load(d),
      v128.load(d, 4),
      fx,
      fy,
      fz,
    );
  }

  return sampleTrilinear4Apart(f, i32x4.shl(i32x4.trunc_sat_f32x4_s(flat), 2), fx, fy, fz, rs, ps);
}

/** The same, where the lanes look into different rows. */
function sampleTrilinear4Apart(
  f: usize,
  off: v128,
  fx: v128,
  fy: v128,
  fz: v128,
  rs: usize,
  ps: usize,
): v128 {
  const o0 = i32x4.extract_lane(off, 0);
  const o1 = i32x4.extract_lane(off, 1) + 4;
  const o2 = i32x4.extract_lane(off, 2) + 8;
  const o3 = i32x4.extract_lane(off, 3) + 12;
  const a0 = pairs(f, o0, o1);
  const a1 = pairs(f, o2, o3);
  const b0 = pairs(f + rs, o0, o1);
  const b1 = pairs(f + rs, o2, o3);
  const c0 = pairs(f + ps, o0, o1);
  const c1 = pairs(f + ps, o2, o3);
  const d0 = pairs(f + ps + rs, o0, o1);
  const d1 = pairs(f + ps + rs, o2, o3);
  return mix8(
    evens(a0, a1),
    odds(a0, a1),
    evens(b0, b1),
    odds(b0, b1),
    evens(c0, c1),
    odds(c0, c1),
    evens(d0, d1),
    odds(d0, d1),
    fx,
    fy,
    fz,
  );
}
