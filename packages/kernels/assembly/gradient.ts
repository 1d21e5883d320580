// What a pressure does to the air: its gradient is taken from the faces, and air is laid into obstacles for
// look-ups beside them. Velocities are in the plain layout of common.ts, pressures in the split one of
// level.ts.
import { byAxis, max4, partial, sum4 } from './common';
import { at, isOpen, kindOf, Level } from './level';
import { plane } from './ring';

/** Where a slab keeps plane k of the pressure in plain order: each of its rows is put in order once. */
// @ts-ignore: decorator
@inline
function plainPlane(L: Level, ring: usize, k: i32): usize {
  return plane(L, ring, 6 + (k & 1));
}

/** A plane of p in plain order, and what is beyond its first cells: 0, or what the far field says. */
function toPlain(L: Level, ring: usize, p: usize, k: i32): void {
  for (let j = -1; j <= L.ny; j++) {
    const from = at(p, L, j, k);
    const to = plainPlane(L, ring, k) + <isize>(j * L.rowBytes);
    store<f32>(to - 4, load<f32>(from + L.odd - 4));
    for (let m: usize = 0; m < <usize>L.half; m += 16) {
      const x = v128.load(from + m);
      const y = v128.load(from + m + L.odd);
      v128.store(to + 2 * m, v128.shuffle<f32>(x, y, 0, 4, 1, 5));
      v128.store(to + 2 * m, v128.shuffle<f32>(x, y, 2, 6, 3, 7), 16);
    }
  }
}

/** Four faces of which only the open ones count. */
// @ts-ignore: decorator
@inline
function whereOpen(slope: v128, open: usize): v128 {
  return v128.and(slope, f32x4.gt(v128.load(open), f32x4.splat(0)));
}

/**
 * All three velocity components minus the pressure difference across their faces; closed faces are left as
 * they are. The greatest |u|, |v|, |w| of a plane into slots 0, 1, 2; into slot 3 whether all of them are
 * finite numbers. Run over nz + 1 planes.
 */
export function subtractGradient(
  level: usize,
  u: usize,
  v: usize,
  w: usize,
  p: usize,
  partials: usize,
  slab: i32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const ring = L.ring + <usize>(k0 / slab) * <usize>L.ringBytes;
  const zero = f32x4.splat(0);
  const end = (<usize>L.nx) << 2;
  toPlain(L, ring, p, k0 - 1);
  for (let k = k0; k < k1; k++) {
    let mu = zero;
    let mv = zero;
    let mw = zero;
    let odd = zero; // odd: x − x, 0 as long as x is a number and finite
    toPlain(L, ring, p, k);
    for (let j = 0; j <= L.ny; j++) {
      const o = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
      const here = plainPlane(L, ring, k) + <usize>(j * L.rowBytes);
      const below = here - L.rowBytes;
      const behind = plainPlane(L, ring, k - 1) + <usize>(j * L.rowBytes);
      if (j == L.ny || k == L.nz) {
        // the last faces along y and along z
        for (let q: usize = 0; k < L.nz && q < end; q += 16) {
          const slope = f32x4.sub(v128.load(here + q), v128.load(below + q));
          const y = f32x4.sub(v128.load(v + o + q), whereOpen(slope, L.ay + o + q));
          v128.store(v + o + q, y);
          mv = f32x4.pmax(mv, f32x4.abs(y));
          odd = f32x4.add(odd, f32x4.sub(y, y));
        }

        for (let q: usize = 0; j < L.ny && q < end; q += 16) {
          const slope = f32x4.sub(v128.load(here + q), v128.load(behind + q));
          const z = f32x4.sub(v128.load(w + o + q), whereOpen(slope, L.az + o + q));
          v128.store(w + o + q, z);
          mw = f32x4.pmax(mw, f32x4.abs(z));
          odd = f32x4.add(odd, f32x4.sub(z, z));
        }

        continue;
      }

      // behind the first face of a row with plain cells all are open
      const isPlain = j > 0 && k > 0 && kindOf(L, j, k) == 0;
      const masked: usize = isPlain ? 16 : end;
      for (let q: usize = 0; q < end; q += 16) {
        const own = v128.load(here + q);
        let dx = f32x4.sub(own, v128.load(here + q - 4));
        let dy = f32x4.sub(own, v128.load(below + q));
        let dz = f32x4.sub(own, v128.load(behind + q));
        if (q < masked) {
          dx = whereOpen(dx, L.ax + o + q);
          dy = whereOpen(dy, L.ay + o + q);
          dz = whereOpen(dz, L.az + o + q);
        }

        const x = f32x4.sub(v128.load(u + o + q), dx);
        const y = f32x4.sub(v128.load(v + o + q), dy);
        const z = f32x4.sub(v128.load(w + o + q), dz);
        v128.store(u + o + q, x);
        v128.store(v + o + q, y);
        v128.store(w + o + q, z);
        mu = f32x4.pmax(mu, f32x4.abs(x));
        mv = f32x4.pmax(mv, f32x4.abs(y));
        mw = f32x4.pmax(mw, f32x4.abs(z));
        odd = f32x4.add(odd, f32x4.add(f32x4.sub(x, x), f32x4.add(f32x4.sub(y, y), f32x4.sub(z, z))));
      }

      // the face behind the last cell, of an even number
      const f = u + o + end;
      const beyond = load<f32>(at(p, L, j, k) + (end >> 1));
      if (load<f32>(L.ax + o + end) > 0) store<f32>(f, load<f32>(f) - (beyond - load<f32>(here + end - 4)));
      const last = f32x4.splat(load<f32>(f));
      mu = f32x4.pmax(mu, f32x4.abs(last));
      odd = f32x4.add(odd, f32x4.sub(last, last));
    }

    store<f64>(partial(partials, k, 0), <f64>max4(mu));
    store<f64>(partial(partials, k, 1), <f64>max4(mv));
    store<f64>(partial(partials, k, 2), <f64>max4(mw));
    store<f64>(partial(partials, k, 3), sum4(odd) == 0 ? 0 : 1);
  }
}

/** Puts the pressure aside, kept ← p, and scales it, p ← gain p; over whole planes of split fields. */
export function setPressureAside(p: usize, kept: usize, planeBytes: i32, gain: f32, k0: i32, k1: i32): void {
  const g = f32x4.splat(gain);
  for (let o = <usize>(k0 * planeBytes), e = <usize>(k1 * planeBytes); o < e; o += 16) {
    const x = v128.load(p + o);
    v128.store(kept + o, x);
    v128.store(p + o, f32x4.mul(g, x));
  }
}

/** p ← rate (p + gain kept) over whole planes of split fields. */
export function sumPressures(
  p: usize,
  kept: usize,
  planeBytes: i32,
  gain: f32,
  rate: f32,
  k0: i32,
  k1: i32,
): void {
  const g = f32x4.splat(gain);
  const r = f32x4.splat(rate);
  for (let o = <usize>(k0 * planeBytes), e = <usize>(k1 * planeBytes); o < e; o += 16)
    v128.store(p + o, f32x4.mul(r, f32x4.add(v128.load(p + o), f32x4.mul(g, v128.load(kept + o)))));
}

/**
 * Faces deep in an obstacle (both cells closed) take the mean of their open neighbours on the same lattice,
 * so that look-ups beside a surface see air that slips along it. Open faces are only read, closed ones only
 * written.
 */
export function extrapolate(level: usize, vel: usize, axis: i32, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const rs = <usize>L.faceRowBytes;
  const ps = <usize>L.facePlaneBytes;
  const nx = L.nx;
  const ny = L.ny;
  const nz = L.nz;
  const open = byAxis(axis, L.ax, L.ay, L.az);
  const back: usize = byAxis(axis, 4, rs, ps);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const kind = kindOf(L, j, k);
      if (!kind) continue;
      const a = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
      for (let i = (<i32>(kind & 255)) << 3, to = min(nx, (<i32>(kind >> 8)) << 3); i < to; i++) {
        if ((axis == 0 && i == 0) || (axis == 1 && j == 0) || (axis == 2 && k == 0)) continue;
        const o = a + ((<usize>i) << 2);
        const f = open + o;
        const x = vel + o;
        if (load<f32>(f) > 0 || isOpen(L, o) || isOpen(L, o - back)) continue;
        let sum: f32 = 0;
        let n: f32 = 0;
        if (i > 0 && load<f32>(f - 4) > 0) {
          sum += load<f32>(x - 4);
          n += 1;
        }

        if (i < nx - 1 && load<f32>(f + 4) > 0) {
          sum += load<f32>(x + 4);
          n += 1;
        }

        if (j > 0 && load<f32>(f - rs) > 0) {
          sum += load<f32>(x - rs);
          n += 1;
        }

        if (j < ny - 1 && load<f32>(f + rs) > 0) {
          sum += load<f32>(x + rs);
          n += 1;
        }

        if (k > 0 && load<f32>(f - ps) > 0) {
          sum += load<f32>(x - ps);
          n += 1;
        }

        if (k < nz - 1 && load<f32>(f + ps) > 0) {
          sum += load<f32>(x + ps);
          n += 1;
        }

        store<f32>(x, n > 0 ? sum / n : 0);
      }
    }
}
