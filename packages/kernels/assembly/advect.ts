// MacCormack transport (Selle, Fedkiw, Kim, Liu, Rossignac 2008) over displacements that all channels share.
//
// The back-trace is done once, at cell centres (midpoint rule), and averaged to the faces: second order like
// the trace itself, at a third of the look-ups. The forward displacement follows from it and the velocity
// without a look-up: u(x+a) + u(x-a) = 2 u(x) + O(a²), so D+ = 2 κ u + D-. Lengths are in cells, κ = dt / h.
import { Advection } from './advection';
import { byAxis, clamp4, Constant, constant, evens, odds, pairs, row } from './common';
import { guarded, guardRow } from './guard';
import { bytesOf, mix8, sampleTrilinear4 } from './sample';
import { haloAbove, haloBelow, haloXY } from './halo';
import { kindOf, Level } from './level';

/**
 * The displacement on a lattice: at cell centres (T an integer) as it is, on faces the mean of the two cells.
 */
// @ts-ignore: decorator
@inline
function displacement<T>(d: usize, back: isize, half: v128): v128 {
  if (isInteger<T>()) return v128.load(d);
  return f32x4.mul(half, f32x4.add(v128.load(d), v128.load(d + back)));
}

/**
 * First estimate in sites from..to of a row, with the least and the greatest of the eight values each was
 * mixed from.
 */
function backRow<T>(
  C: Advection,
  lo: usize,
  hi: usize,
  at: usize,
  from: usize,
  to: usize,
  back: isize,
  rowStride: i32,
  planeStride: i32,
  x0: v128,
  x1: v128,
  y0: v128,
  y1: v128,
  z0: v128,
  z1: v128,
): void {
  const f = C.f;
  const hat = C.hat;
  const dx = C.dx;
  const dy = C.dy;
  const dz = C.dz;
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const four = constant(Constant.FOUR);
  const half = constant(Constant.HALF);
  const Pf = f32x4.splat(<f32>rowStride);
  const PPf = f32x4.splat(<f32>planeStride);
  for (let o = at + from, e = at + to; o < e; o += 16) {
    const x = clamp4(displacement<T>(dx + o, back, half), x0, x1);
    const y = clamp4(displacement<T>(dy + o, back, half), y0, y1);
    const z = clamp4(displacement<T>(dz + o, back, half), z0, z1);
    x0 = f32x4.sub(x0, four);
    x1 = f32x4.sub(x1, four);
    const xf = f32x4.floor(x);
    const yf = f32x4.floor(y);
    const zf = f32x4.floor(z);
    const fx = f32x4.sub(x, xf);
    const fy = f32x4.sub(y, yf);
    const fz = f32x4.sub(z, zf);
    const flat = f32x4.add(xf, f32x4.add(f32x4.mul(yf, Pf), f32x4.mul(zf, PPf)));
    const first = f32x4.extract_lane(flat, 0);
    let ae: v128;
    let ao: v128;
    let be: v128;
    let bo: v128;
    let ce: v128;
    let co: v128;
    let de: v128;
    let dd: v128;
    if (i32x4.bitmask(f32x4.eq(flat, f32x4.splat(first))) == 15) {
      const a = f + o + bytesOf(first);
      const b = a + rs;
      const c = a + ps;
      const d = b + ps;
      ae = v128.load(a);
      ao = v128.load(a, 4);
      be = v128.load(b);
      bo = v128.load(b, 4);
      ce = v128.load(c);
      co = v128.load(c, 4);
      de = v128.load(d);
      dd = v128.load(d, 4);
    } else {
      const off = i32x4.shl(i32x4.trunc_sat_f32x4_s(flat), 2);
      const o0 = i32x4.extract_lane(off, 0);
      const a = f + o + <usize>o0;
      const b = a + rs;
      const c = a + ps;
      const d = b + ps;
      const o1 = i32x4.extract_lane(off, 1) + 4 - o0;
      const o2 = i32x4.extract_lane(off, 2) + 8 - o0;
      const o3 = i32x4.extract_lane(off, 3) + 12 - o0;
      const a0 = pairs(a, 0, o1);
      const a1 = pairs(a, o2, o3);
      const b0 = pairs(b, 0, o1);
      const b1 = pairs(b, o2, o3);
      const c0 = pairs(c, 0, o1);
      const c1 = pairs(c, o2, o3);
      const d0 = pairs(d, 0, o1);
      const d1 = pairs(d, o2, o3);
      ae = evens(a0, a1);
      ao = odds(a0, a1);
      be = evens(b0, b1);
      bo = odds(b0, b1);
      ce = evens(c0, c1);
      co = odds(c0, c1);
      de = evens(d0, d1);
      dd = odds(d0, d1);
    }

    v128.store(
      lo + o,
      f32x4.pmin(
        f32x4.pmin(f32x4.pmin(ae, ao), f32x4.pmin(be, bo)),
        f32x4.pmin(f32x4.pmin(ce, co), f32x4.pmin(de, dd)),
      ),
    );
    v128.store(
      hi + o,
      f32x4.pmax(
        f32x4.pmax(f32x4.pmax(ae, ao), f32x4.pmax(be, bo)),
        f32x4.pmax(f32x4.pmax(ce, co), f32x4.pmax(de, dd)),
      ),
    );
    v128.store(hat + o, mix8(ae, ao, be, bo, ce, co, de, dd, fx, fy, fz));
  }
}

function backPlane(L: Level, C: Advection, lo: usize, hi: usize, k: i32): void {
  const nx = L.nx;
  const ny = L.ny;
  const nz = L.nz;
  const rowStride = L.faceRowBytes >> 2;
  const planeStride = L.facePlaneBytes >> 2;
  const axis = C.axis;
  const back: isize = byAxis(axis, -4, -(rowStride << 2), -(planeStride << 2));
  const my = ny + i32(axis == 1);
  const end = (<usize>(nx + i32(axis == 0))) << 2;
  const lx: f32 = axis == 0 ? 0 : -1;
  const ly: f32 = axis == 1 ? 0 : -1;
  const lz: f32 = axis == 2 ? 0 : -1;
  const z0 = f32x4.splat(lz - <f32>k);
  const z1 = f32x4.splat(<f32>(nz - k));
  const x0 = f32x4.sub(f32x4.splat(lx), f32x4(0, 1, 2, 3));
  const x1 = f32x4.sub(f32x4.splat(<f32>nx), f32x4(0, 1, 2, 3));
  for (let j = 0; j < my; j++) {
    const at = row(0, j, k, rowStride, planeStride);
    const y0 = f32x4.splat(ly - <f32>j);
    const y1 = f32x4.splat(<f32>(ny - j));
    if (axis != 3) backRow<f32>(C, lo, hi, at, 0, end, back, rowStride, planeStride, x0, x1, y0, y1, z0, z1);
    else {
      backRow<i32>(C, lo, hi, at, 0, end, 0, rowStride, planeStride, x0, x1, y0, y1, z0, z1);
      if (C.guard) {
        const cells = guarded(L, C, j, k);
        if (cells) guardRow(L, C, lo, hi, j, k, cells & 0xffff, cells >> 16);
      }
    }
  }
}

/**
 * Second half in sites from..to of a row, see fixPlane. open: set where first order has to be kept beside
 * closed faces.
 */
function fixRow<T>(
  L: Level,
  C: Advection,
  lo: usize,
  hi: usize,
  at: usize,
  end: usize,
  back: isize,
  plain: bool,
  x0: v128,
  x1: v128,
  y0: v128,
  y1: v128,
  z0: v128,
  z1: v128,
): void {
  const rs = <usize>L.faceRowBytes;
  const ps = <usize>L.facePlaneBytes;
  const inner = at + ((<usize>(L.nx - 4)) << 2);
  const f = C.f;
  const hat = C.hat;
  const out = C.out;
  const ex = C.ex;
  const ey = C.ey;
  const ez = C.ez;
  const Pf = f32x4.splat(<f32>(L.faceRowBytes >> 2));
  const PPf = f32x4.splat(<f32>(L.facePlaneBytes >> 2));
  const four = constant(Constant.FOUR);
  const half = constant(Constant.HALF);
  const one = constant(Constant.ONE);
  const nothing = constant(Constant.NOTHING);
  for (let o = at, e = at + end; o < e; o += 16) {
    const least = v128.load(lo + o);
    const most = v128.load(hi + o);
    const est = v128.load(hat + o);
    let best = est;
    // where nothing varies (still, empty air) the limits leave one value, and there is nothing to look up
    if (v128.any_true(f32x4.ne(least, most))) {
      const x = clamp4(displacement<T>(ex + o, back, half), x0, x1);
      const y = clamp4(displacement<T>(ey + o, back, half), y0, y1);
      const z = clamp4(displacement<T>(ez + o, back, half), z0, z1);
      const there = sampleTrilinear4(hat + o, x, y, z, Pf, PPf, rs, ps);
      let fix = f32x4.mul(half, f32x4.sub(v128.load(f + o), there));
      if (!plain || o == at || o >= inner) {
        let open: v128;
        if (isInteger<T>()) {
          open = f32x4.pmin(
            f32x4.pmin(
              f32x4.pmin(v128.load(L.ax + o), v128.load(L.ax + o, 4)),
              f32x4.pmin(v128.load(L.ay + o), v128.load(L.ay + o + rs)),
            ),
            f32x4.pmin(v128.load(L.az + o), v128.load(L.az + o + ps)),
          );
        } else {
          let a = L.az + o;
          if (back == -4) a = L.ax + o;
          else if (back == -(<isize>rs)) a = L.ay + o;
          open = f32x4.pmin(v128.load(a), f32x4.pmin(v128.load(a + back), v128.load(a - back)));
        }

        fix = v128.and(fix, f32x4.ge(open, one));
      }

      best = clamp4(f32x4.add(est, fix), least, most);
    }

    x0 = f32x4.sub(x0, four);
    x1 = f32x4.sub(x1, four);
    // what has thinned to nothing becomes nothing: denormal numbers cost a hundred times as much to compute
    // with
    v128.store(out + o, v128.andnot(best, f32x4.lt(f32x4.abs(best), nothing)));
  }
}

/**
 * Second half on plane k: carries the estimate forward again, takes half of the round-trip error off, limits
 * to [lo, hi]. First order is kept where the site touches something closed: next to obstacles and
 * walls.
 */
function fixPlane(L: Level, C: Advection, lo: usize, hi: usize, k: i32): void {
  const nx = L.nx;
  const ny = L.ny;
  const nz = L.nz;
  const axis = C.axis;
  const back: isize = byAxis(axis, -4, -L.faceRowBytes, -L.facePlaneBytes);
  const my = ny + i32(axis == 1);
  const end = (<usize>(nx + i32(axis == 0))) << 2;
  const lx: f32 = axis == 0 ? 0 : -1;
  const ly: f32 = axis == 1 ? 0 : -1;
  const lz: f32 = axis == 2 ? 0 : -1;
  // nearly `reach` planes at most: what lies further may not be there yet
  const far = <f32>C.reachZ - <f32>0.001;
  const z0 = f32x4.splat(max<f32>(lz - <f32>k, -far));
  const z1 = f32x4.splat(min<f32>(<f32>(nz - k), far));
  const x0 = f32x4.sub(f32x4.splat(lx), f32x4(0, 1, 2, 3));
  const x1 = f32x4.sub(f32x4.splat(<f32>nx), f32x4(0, 1, 2, 3));
  for (let j = 0; j < my; j++) {
    const at = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
    const y0 = f32x4.splat(ly - <f32>j);
    const y1 = f32x4.splat(<f32>(ny - j));
    const plain = j > 0 && k > 0 && j < ny - 1 && k < nz - 1 && kindOf(L, j, k) == 0;
    if (axis != 3) fixRow<f32>(L, C, lo, hi, at, end, back, plain, x0, x1, y0, y1, z0, z1);
    else fixRow<i32>(L, C, lo, hi, at, end, 0, plain, x0, x1, y0, y1, z0, z1);
  }
}

// @ts-ignore: decorator
@inline
function isEarly(reach: i32, last: i32, k: i32, k0: i32, k1: i32): bool {
  return (k0 == 0 || k - reach >= k0) && (k1 == last || k + reach < k1);
}

/**
 * Where the bounds of plane k are kept: the first planes of a slab have a place of their own, the others take
 * turns.
 */
// @ts-ignore: decorator
@inline
function boundsPlane(reach: i32, k: i32, k0: i32, k1: i32): i32 {
  if (k1 - k0 < 2 * reach + 1) return k;
  const n = k - k0;
  return k0 + (n < reach ? n : reach + ((n - reach) % (reach + 1)));
}

/**
 * Carries one channel over planes k0..k1 of its lattice. The second half follows the first by as few planes
 * as the air's speed along z allows, so that estimate and bounds are still in the cache; planes that need a
 * neighbouring slab's estimate are left to carryEdges.
 */
export function advectChannel(level: usize, channel: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const C = changetype<Advection>(channel);
  const rowStride = L.faceRowBytes >> 2;
  const planeStride = L.facePlaneBytes >> 2;
  const ps = L.facePlaneBytes;
  const reach = C.reachZ;
  const mx = L.nx + i32(C.axis == 0);
  const my = L.ny + i32(C.axis == 1);
  const last = L.nz + i32(C.axis == 2);
  for (let k = k0; k < k1 + reach; k++) {
    if (k < k1) {
      const shift = <usize>((boundsPlane(reach, k, k0, k1) - k) * ps);
      backPlane(L, C, C.lo + shift, C.hi + shift, k);
      haloXY(C.hat, mx, my, rowStride, planeStride, 0, k, k + 1);
      if (k == 0) haloBelow(C.hat, rowStride, planeStride, my + 2, 0);
      if (k == last - 1) haloAbove(C.hat, last, rowStride, planeStride, my + 2, 0);
    }

    const q = k - reach;
    if (q >= k0 && isEarly(reach, last, q, k0, k1)) {
      const shift = <usize>((boundsPlane(reach, q, k0, k1) - q) * ps);
      fixPlane(L, C, C.lo + shift, C.hi + shift, q);
    }
  }
}

export function advectChannelEdges(level: usize, channel: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const C = changetype<Advection>(channel);
  const last = L.nz + i32(C.axis == 2);
  const reach = C.reachZ;
  for (let k = k0; k < k1; k++) {
    if (isEarly(reach, last, k, k0, k1)) continue;
    const shift = <usize>((boundsPlane(reach, k, k0, k1) - k) * L.facePlaneBytes);
    fixPlane(L, C, C.lo + shift, C.hi + shift, k);
  }
}
