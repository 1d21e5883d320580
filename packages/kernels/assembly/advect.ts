// MacCormack transport (Selle, Fedkiw, Kim, Liu, Rossignac 2008) over displacements that all channels share.
//
// The back-trace is done once, at cell centres (midpoint rule), and averaged to the faces: second order like
// the trace itself, at a third of the look-ups. The forward displacement follows from it and the velocity
// without a look-up: u(x+a) + u(x-a) = 2 u(x) + O(a²), so D+ = 2 κ u + D-. Lengths are in cells, κ = dt / h.
//
// Rows whose surroundings hold nothing of a channel are not looked up at all: most of a scene is clear air.
//
// Look-ups are relative to the site itself: where the four lanes of a vector look the same number of cells
// away, which is nearly everywhere, eight plain loads bring what they need; else each lane fetches its own
// pairs.
import { byAxis, Constant, constant, clamp4, evens, lerp4, odds, pairs, row } from './common';
import { haloAbove, haloBelow, haloXY } from './halo';
import { kindOf, Level } from './level';

// @ts-ignore: decorator
@inline
function mix8(
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
function bytesOf(floats: f32): usize {
  return <usize>((<i32>reinterpret<i64>(<f64>floats + 6755399441055744.0)) << 2);
}

/** f at four sites on from address f by (x, y, z) cells each; rowStride, planeStride as floats. */
// @ts-ignore: decorator
@inline
function sampleTrilinear4(
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

/**
 * Displacement over one step back in time at cell centres, in cells, into dx, dy, dz (the midpoint rule), and
 * the one forward into ex, ey, ez. u, v, w: face velocities, halos filled.
 */
export function traceBack(
  u: usize,
  v: usize,
  w: usize,
  dx: usize,
  dy: usize,
  dz: usize,
  ex: usize,
  ey: usize,
  ez: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  kappa: f32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const half = constant(Constant.HALF);
  const back = f32x4.splat(-kappa);
  const along = f32x4.splat(kappa);
  const quarter = constant(Constant.MINUS_QUARTER);
  const Pf = f32x4.splat(<f32>rowStride);
  const PPf = f32x4.splat(<f32>planeStride);
  const four = constant(Constant.FOUR);
  const one = constant(Constant.ONE);
  for (let k = k0; k < k1; k++) {
    // how far a look-up may reach on the cell lattice (c) and, half a cell on, on the faces across it (g)
    const kf = <f32>k;
    const cz0 = f32x4.splat(-1 - kf);
    const z1 = f32x4.splat(<f32>nz - kf);
    const gz0 = f32x4.splat(-kf);
    for (let j = 0; j < ny; j++) {
      const jf = <f32>j;
      const cy0 = f32x4.splat(-1 - jf);
      const y1 = f32x4.splat(<f32>ny - jf);
      const gy0 = f32x4.splat(-jf);
      const at = row(0, j, k, rowStride, planeStride);
      let gx0 = f32x4(0, -1, -2, -3);
      let x1 = f32x4.add(f32x4.splat(<f32>nx), gx0);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const cu = f32x4.mul(along, f32x4.add(v128.load(u + o), v128.load(u + o, 4)));
        const cv = f32x4.mul(along, f32x4.add(v128.load(v + o), v128.load(v + o + rs)));
        const cw = f32x4.mul(along, f32x4.add(v128.load(w + o), v128.load(w + o + ps)));
        const x = f32x4.mul(quarter, cu);
        const y = f32x4.mul(quarter, cv);
        const z = f32x4.mul(quarter, cw);
        const cx = clamp4(x, f32x4.sub(gx0, one), x1);
        const cy = clamp4(y, cy0, y1);
        const cz = clamp4(z, cz0, z1);
        const bx = f32x4.mul(
          back,
          sampleTrilinear4(u + o, clamp4(f32x4.add(x, half), gx0, x1), cy, cz, Pf, PPf, rs, ps),
        );
        v128.store(dx + o, bx);
        v128.store(ex + o, f32x4.add(cu, bx));
        const by = f32x4.mul(
          back,
          sampleTrilinear4(v + o, cx, clamp4(f32x4.add(y, half), gy0, y1), cz, Pf, PPf, rs, ps),
        );
        v128.store(dy + o, by);
        v128.store(ey + o, f32x4.add(cv, by));
        const bz = f32x4.mul(
          back,
          sampleTrilinear4(w + o, cx, cy, clamp4(f32x4.add(z, half), gz0, z1), Pf, PPf, rs, ps),
        );
        v128.store(dz + o, bz);
        v128.store(ez + o, f32x4.add(cw, bz));
        gx0 = f32x4.sub(gx0, four);
        x1 = f32x4.sub(x1, four);
      }
    }
  }
}

/**
 * One more stage for dx … ez: Ralston's third-order Runge-Kutta (1962), 2/9 k1 + 1/3 k2 + 4/9 k3, k3 at three
 * quarters of k2. On the way in dx, dy, dz hold −κ k2 of traceBack.
 */
export function traceRalston(
  u: usize,
  v: usize,
  w: usize,
  dx: usize,
  dy: usize,
  dz: usize,
  ex: usize,
  ey: usize,
  ez: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  kappa: f32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const half = constant(Constant.HALF);
  const reach = constant(Constant.THREE_QUARTERS);
  const along = f32x4.splat(kappa);
  const w1 = constant(Constant.MINUS_NINTH);
  const w2 = constant(Constant.THIRD);
  const w3 = f32x4.splat(<f32>(-4.0 / 9.0) * kappa);
  const Pf = f32x4.splat(<f32>rowStride);
  const PPf = f32x4.splat(<f32>planeStride);
  const four = constant(Constant.FOUR);
  const one = constant(Constant.ONE);
  for (let k = k0; k < k1; k++) {
    const kf = <f32>k;
    const cz0 = f32x4.splat(-1 - kf);
    const z1 = f32x4.splat(<f32>nz - kf);
    const gz0 = f32x4.splat(-kf);
    for (let j = 0; j < ny; j++) {
      const jf = <f32>j;
      const cy0 = f32x4.splat(-1 - jf);
      const y1 = f32x4.splat(<f32>ny - jf);
      const gy0 = f32x4.splat(-jf);
      const at = row(0, j, k, rowStride, planeStride);
      let gx0 = f32x4(0, -1, -2, -3);
      let x1 = f32x4.add(f32x4.splat(<f32>nx), gx0);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const cu = f32x4.mul(along, f32x4.add(v128.load(u + o), v128.load(u + o, 4)));
        const cv = f32x4.mul(along, f32x4.add(v128.load(v + o), v128.load(v + o + rs)));
        const cw = f32x4.mul(along, f32x4.add(v128.load(w + o), v128.load(w + o + ps)));
        const mx = v128.load(dx + o);
        const my = v128.load(dy + o);
        const mz = v128.load(dz + o);
        const x = f32x4.mul(reach, mx);
        const y = f32x4.mul(reach, my);
        const z = f32x4.mul(reach, mz);
        const cx = clamp4(x, f32x4.sub(gx0, one), x1);
        const cy = clamp4(y, cy0, y1);
        const cz = clamp4(z, cz0, z1);
        const nu = sampleTrilinear4(u + o, clamp4(f32x4.add(x, half), gx0, x1), cy, cz, Pf, PPf, rs, ps);
        const nv = sampleTrilinear4(v + o, cx, clamp4(f32x4.add(y, half), gy0, y1), cz, Pf, PPf, rs, ps);
        const nw = sampleTrilinear4(w + o, cx, cy, clamp4(f32x4.add(z, half), gz0, z1), Pf, PPf, rs, ps);
        const bx = f32x4.add(f32x4.mul(w1, cu), f32x4.add(f32x4.mul(w2, mx), f32x4.mul(w3, nu)));
        const by = f32x4.add(f32x4.mul(w1, cv), f32x4.add(f32x4.mul(w2, my), f32x4.mul(w3, nv)));
        const bz = f32x4.add(f32x4.mul(w1, cw), f32x4.add(f32x4.mul(w2, mz), f32x4.mul(w3, nw)));
        v128.store(dx + o, bx);
        v128.store(dy + o, by);
        v128.store(dz + o, bz);
        v128.store(ex + o, f32x4.add(cu, bx));
        v128.store(ey + o, f32x4.add(cv, by));
        v128.store(ez + o, f32x4.add(cw, bz));
        gx0 = f32x4.sub(gx0, four);
        x1 = f32x4.sub(x1, four);
      }
    }
  }
}

/** Marks each row of a cell field with 1 where anything is in it, a byte a row. */
export function markRows(
  f: usize,
  marks: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      let any = i32x4.splat(0);
      for (let o = row(f, j, k, rowStride, planeStride), e = o + ((<usize>nx) << 2); o < e; o += 16)
        any = v128.or(any, v128.load(o));
      store<u8>(marks + <usize>(k * ny + j), v128.any_true(any) ? 1 : 0);
    }
}

/** What one channel is carried with, written by the step. */
@unmanaged
class Advection {
  f: usize;
  hat: usize;
  lo: usize;
  hi: usize;
  out: usize;
  dx: usize;
  dy: usize;
  dz: usize;
  ex: usize;
  ey: usize;
  ez: usize;
  /** 0, 1, 2: a face lattice; 3: cell centres. */
  axis: i32;
  /** Sides past which there is nothing (see halo.ts). */
  zeroSides: i32;
  /** Cells along x, y, z that no look-up reaches beyond. */
  reachX: i32;
  reachY: i32;
  reachZ: i32;
  /** 1: MacCormack; 0: the first estimate is the result. */
  order: i32;
  /** 0, or the marks of rows with anything in them. */
  marks: usize;
  /** 1 where obstacles stand in the way. */
  guard: i32;
  gain: f32;
}

/** Whether nothing is in the rows that look-ups from row (j, k) reach. */
function isClear(C: Advection, ny: i32, nz: i32, j: i32, k: i32): bool {
  const j0 = max(0, j - C.reachY);
  const n = min(ny, j + C.reachY + 2) - j0;
  for (let q = max(0, k - C.reachZ), end = min(nz, k + C.reachZ + 2); q < end; q++)
    for (let m = C.marks + <usize>(q * ny + j0), e = m + <usize>n; m < e; m++) if (load<u8>(m)) return false;
  return true;
}

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

/** Whether the face of cell (i, j, k) on the side s (−1, 1) across an axis lets anything through. */
// @ts-ignore: decorator
@inline
function isFaceOpen(L: Level, axis: i32, i: i32, j: i32, k: i32, s: i32): bool {
  const up = i32(s > 0);
  if (axis == 0)
    return load<f32>(L.ax + <usize>(k * L.facePlaneBytes + j * L.faceRowBytes + ((i + up) << 2))) > 0;
  if (axis == 1)
    return load<f32>(L.ay + <usize>(k * L.facePlaneBytes + (j + up) * L.faceRowBytes + (i << 2))) > 0;
  return load<f32>(L.az + <usize>((k + up) * L.facePlaneBytes + j * L.faceRowBytes + (i << 2))) > 0;
}

/**
 * The first estimate of cells near obstacles, again: the way back ends at the first closed face it meets
 * (cell by cell, Amanatides & Woo 1987), and of the eight cells around its end those behind closed faces
 * count as the cell it ends in. So nothing is read from the other side of a wall, however thin.
 */
function guardRow(L: Level, C: Advection, lo: usize, hi: usize, j: i32, k: i32, from: i32, to: i32): void {
  const rowStride = L.faceRowBytes;
  const planeStride = L.facePlaneBytes;
  const nx = L.nx;
  const ny = L.ny;
  const nz = L.nz;
  const at = <usize>(k * planeStride + j * rowStride);
  for (let i = from; i < to; i++) {
    const o = at + ((<usize>i) << 2);
    if (!(
      isFaceOpen(L, 0, i, j, k, -1) ||
      isFaceOpen(L, 0, i, j, k, 1) ||
      isFaceOpen(L, 1, i, j, k, -1) ||
      isFaceOpen(L, 1, i, j, k, 1) ||
      isFaceOpen(L, 2, i, j, k, -1) ||
      isFaceOpen(L, 2, i, j, k, 1)
    )) {
      store<f32>(C.hat + o, 0);
      store<f32>(lo + o, 0);
      store<f32>(hi + o, 0);
      continue;
    }

    const dx = load<f32>(C.dx + o);
    const dy = load<f32>(C.dy + o);
    const dz = load<f32>(C.dz + o);
    const sx = dx < 0 ? -1 : 1;
    const sy = dy < 0 ? -1 : 1;
    const sz = dz < 0 ? -1 : 1;
    const big: f32 = 1e30;
    const ex: f32 = dx != 0 ? abs<f32>(1 / dx) : big;
    const ey: f32 = dy != 0 ? abs<f32>(1 / dy) : big;
    const ez: f32 = dz != 0 ? abs<f32>(1 / dz) : big;
    let tx: f32 = <f32>0.5 * ex;
    let ty: f32 = <f32>0.5 * ey;
    let tz: f32 = <f32>0.5 * ez;
    let t: f32 = 1;
    let a = i;
    let b = j;
    let c = k;
    let gone = false;
    while (true) {
      const next = min<f32>(tx, min<f32>(ty, tz));
      if (!(next < 1)) break;
      let axis = 2;
      if (next == tx) axis = 0;
      else if (next == ty) axis = 1;
      if (!isFaceOpen(L, axis, a, b, c, byAxis(axis, sx, sy, sz))) {
        t = next;
        break;
      }

      if (axis == 0) {
        a += sx;
        tx += ex;
      } else if (axis == 1) {
        b += sy;
        ty += ey;
      } else {
        c += sz;
        tz += ez;
      }

      if (a < 0 || b < 0 || c < 0 || a >= nx || b >= ny || c >= nz) {
        gone = true;
        break;
      }
    }

    if (gone) continue; // through an open side: the plain look-up says what is there
    const ux = <f32>(i - a) + dx * t;
    const uy = <f32>(j - b) + dy * t;
    const uz = <f32>(k - c) + dz * t;
    const qx = ux < 0 ? -1 : 1;
    const qy = uy < 0 ? -1 : 1;
    const qz = uz < 0 ? -1 : 1;
    const here = C.f + <usize>(c * planeStride + b * rowStride + (a << 2));
    const v0 = load<f32>(here);
    const X = isFaceOpen(L, 0, a, b, c, qx);
    const Y = isFaceOpen(L, 1, a, b, c, qy);
    const Z = isFaceOpen(L, 2, a, b, c, qz);
    const inX = a + qx >= 0 && a + qx < nx;
    const inY = b + qy >= 0 && b + qy < ny;
    const inZ = c + qz >= 0 && c + qz < nz;
    const vx = X ? load<f32>(here + (qx << 2)) : v0;
    const vy = Y ? load<f32>(here + qy * rowStride) : v0;
    const vz = Z ? load<f32>(here + qz * planeStride) : v0;
    // behind an edge or a corner: there has to be an open way of faces to it
    const XY =
      (X && (!inX || isFaceOpen(L, 1, a + qx, b, c, qy))) ||
      (Y && (!inY || isFaceOpen(L, 0, a, b + qy, c, qx)));
    const XZ =
      (X && (!inX || isFaceOpen(L, 2, a + qx, b, c, qz))) ||
      (Z && (!inZ || isFaceOpen(L, 0, a, b, c + qz, qx)));
    const YZ =
      (Y && (!inY || isFaceOpen(L, 2, a, b + qy, c, qz))) ||
      (Z && (!inZ || isFaceOpen(L, 1, a, b, c + qz, qy)));
    const XYZ =
      (XY && (!inX || !inY || isFaceOpen(L, 2, a + qx, b + qy, c, qz))) ||
      (XZ && (!inX || !inZ || isFaceOpen(L, 1, a + qx, b, c + qz, qy))) ||
      (YZ && (!inY || !inZ || isFaceOpen(L, 0, a, b + qy, c + qz, qx)));
    const vxy = XY ? load<f32>(here + (qx << 2) + qy * rowStride) : v0;
    const vxz = XZ ? load<f32>(here + (qx << 2) + qz * planeStride) : v0;
    const vyz = YZ ? load<f32>(here + qy * rowStride + qz * planeStride) : v0;
    const vxyz = XYZ ? load<f32>(here + (qx << 2) + qy * rowStride + qz * planeStride) : v0;
    const wx = abs<f32>(ux);
    const wy = abs<f32>(uy);
    const wz = abs<f32>(uz);
    const e0 = v0 + wx * (vx - v0);
    const e1 = vy + wx * (vxy - vy);
    const e2 = vz + wx * (vxz - vz);
    const e3 = vyz + wx * (vxyz - vyz);
    const g0 = e0 + wy * (e1 - e0);
    const g1 = e2 + wy * (e3 - e2);
    store<f32>(C.hat + o, g0 + wz * (g1 - g0));
    store<f32>(
      lo + o,
      min<f32>(
        min<f32>(min<f32>(v0, vx), min<f32>(vy, vxy)),
        min<f32>(min<f32>(vz, vxz), min<f32>(vyz, vxyz)),
      ),
    );
    store<f32>(
      hi + o,
      max<f32>(
        max<f32>(max<f32>(v0, vx), max<f32>(vy, vxy)),
        max<f32>(max<f32>(vz, vxz), max<f32>(vyz, vxyz)),
      ),
    );
  }
}

/**
 * Cells of row (j, k) that look-ups may take through something closed: from | to << 16, 0 where none does.
 */
function guarded(L: Level, C: Advection, j: i32, k: i32): i32 {
  let from = L.nx;
  let to = 0;
  for (let c = max(0, k - C.reachZ), ce = min(L.nz, k + C.reachZ + 1); c < ce; c++)
    for (let b = max(0, j - C.reachY), be = min(L.ny, j + C.reachY + 1); b < be; b++) {
      const kind = kindOf(L, b, c);
      if (!kind) continue;
      from = min(from, (<i32>(kind & 255)) << 3);
      to = max(to, (<i32>(kind >> 8)) << 3);
    }

  if (to == 0) return 0;
  return max(0, from - C.reachX) | (min(L.nx, to + C.reachX) << 16);
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
    else if (C.marks && isClear(C, ny, nz, j, k)) memory.fill(C.hat + at, 0, end);
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
  const times = f32x4.splat(C.gain);
  const one = constant(Constant.ONE);
  const nothing = constant(Constant.NOTHING);
  const first = C.order == 0;
  for (let o = at, e = at + end; o < e; o += 16) {
    const least = v128.load(lo + o);
    const most = v128.load(hi + o);
    const est = v128.load(hat + o);
    let best = est;
    // where nothing varies (still, empty air) the limits leave one value, and there is nothing to look up
    if (!first && v128.any_true(f32x4.ne(least, most))) {
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
    const result = f32x4.mul(times, best);
    v128.store(out + o, v128.andnot(result, f32x4.lt(f32x4.abs(result), nothing)));
  }
}

/**
 * Second half on plane k: carries the estimate forward again, takes half of the round-trip error off, limits
 * to [lo, hi], times gain. First order is kept where the site touches something closed: next to obstacles and
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
    else if (C.marks && isClear(C, ny, nz, j, k)) memory.fill(C.out + at, 0, end);
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
      haloXY(C.hat, mx, my, rowStride, planeStride, C.zeroSides, k, k + 1);
      if (k == 0) haloBelow(C.hat, rowStride, planeStride, my + 2, C.zeroSides);
      if (k == last - 1) haloAbove(C.hat, last, rowStride, planeStride, my + 2, C.zeroSides);
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
