// Transport without loss: finite volumes, direction after direction, second order with van Leer's limiter
// (van Leer 1974; the flux of LeVeque, Finite Volume Methods for Hyperbolic Problems, 2002, ch. 6). What
// leaves a cell through a face enters its neighbour to the last digit. The volume of a cell is carried along
// through the directions (Easter 1993), so that air free of divergence leaves an even field even.
import { byAxis, Constant, constant, row } from './common';
import { Level } from './level';

/**
 * q = f / V: what a cell's content fills once the directions in `done` (a bit an axis) have moved the air;
 * V = 1 − Σ κ (A u out − A u in). Closed cells hold nothing and stay 0.
 */
export function concentration(
  level: usize,
  f: usize,
  q: usize,
  u: usize,
  v: usize,
  w: usize,
  done: i32,
  kappa: f32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const rs = <usize>L.faceRowBytes;
  const ps = <usize>L.facePlaneBytes;
  const one = constant(Constant.ONE);
  const kap = f32x4.splat(kappa);
  const least = constant(Constant.TENTH);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < L.ny; j++) {
      const at = row(0, j, k, L.faceRowBytes >> 2, L.facePlaneBytes >> 2);
      for (let o = at, e = at + ((<usize>L.nx) << 2); o < e; o += 16) {
        let out = f32x4.splat(0);
        if (done & 1)
          out = f32x4.add(
            out,
            f32x4.sub(
              f32x4.mul(v128.load(L.ax + o, 4), v128.load(u + o, 4)),
              f32x4.mul(v128.load(L.ax + o), v128.load(u + o)),
            ),
          );
        if (done & 2)
          out = f32x4.add(
            out,
            f32x4.sub(
              f32x4.mul(v128.load(L.ay + o + rs), v128.load(v + o + rs)),
              f32x4.mul(v128.load(L.ay + o), v128.load(v + o)),
            ),
          );
        if (done & 4)
          out = f32x4.add(
            out,
            f32x4.sub(
              f32x4.mul(v128.load(L.az + o + ps), v128.load(w + o + ps)),
              f32x4.mul(v128.load(L.az + o), v128.load(w + o)),
            ),
          );
        v128.store(
          q + o,
          f32x4.div(v128.load(f + o), f32x4.pmax(f32x4.sub(one, f32x4.mul(kap, out)), least)),
        );
      }
    }
}

/**
 * Flux through four faces, o bytes on: U · (q upwind + ½ (1 − |U|) · limited slope); s: bytes to the next
 * cell. plain: 0 where first order has to do.
 */
// @ts-ignore: decorator
@inline
function flux(
  vel: usize,
  open: usize,
  q: usize,
  s: usize,
  kappa: v128,
  half: v128,
  one: v128,
  sloped: v128,
): v128 {
  const U = f32x4.mul(kappa, f32x4.mul(v128.load(open), v128.load(vel)));
  const ahead = f32x4.gt(U, f32x4.splat(0));
  const below = v128.load(q - s);
  const above = v128.load(q);
  const up = v128.bitselect(below, above, ahead);
  const a = f32x4.sub(above, below);
  const b = v128.bitselect(f32x4.sub(below, v128.load(q - 2 * s)), f32x4.sub(v128.load(q + s), above), ahead);
  const p = f32x4.mul(a, b);
  const slope = v128.and(
    v128.and(f32x4.div(f32x4.add(p, p), f32x4.add(a, b)), f32x4.gt(p, f32x4.splat(0))),
    sloped,
  );
  const reach = f32x4.mul(half, f32x4.sub(one, f32x4.abs(U)));
  const edge = v128.bitselect(
    f32x4.add(up, f32x4.mul(reach, slope)),
    f32x4.sub(up, f32x4.mul(reach, slope)),
    ahead,
  );
  return f32x4.mul(U, edge);
}

/** f += what comes in through the faces across one axis − what goes out. q: concentration with its halo. */
export function fluxSweep(
  level: usize,
  f: usize,
  q: usize,
  vel: usize,
  axis: i32,
  kappa: f32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const s: usize = byAxis(axis, 4, L.faceRowBytes, L.facePlaneBytes);
  const open = byAxis(axis, L.ax, L.ay, L.az);
  const half = constant(Constant.HALF);
  const one = constant(Constant.ONE);
  const kap = f32x4.splat(kappa);
  const four = i32x4.splat(4);
  const all = i32x4.splat(-1);
  const none = i32x4.splat(0);
  const last = i32x4.splat(L.nx);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < L.ny; j++) {
      const at = row(0, j, k, L.faceRowBytes >> 2, L.facePlaneBytes >> 2);
      const n = axis == 1 ? j : k;
      const end = axis == 1 ? L.ny : L.nz;
      let index = i32x4(0, 1, 2, 3);
      for (let o = at, e = at + ((<usize>L.nx) << 2); o < e; o += 16) {
        let lower: v128;
        let upper: v128;
        if (axis == 0) {
          lower = i32x4.ne(index, none);
          upper = i32x4.ne(i32x4.add(index, i32x4.splat(1)), last);
          index = i32x4.add(index, four);
        } else {
          lower = n > 0 ? all : none;
          upper = n < end - 1 ? all : none;
        }

        const into = flux(vel + o, open + o, q + o, s, kap, half, one, lower);
        const out = flux(vel + o + s, open + o + s, q + o + s, s, kap, half, one, upper);
        v128.store(f + o, f32x4.add(v128.load(f + o), f32x4.sub(into, out)));
      }
    }
}

/** f *= gain, what has thinned to nothing becomes nothing; runs over cells. */
export function scaleField(
  f: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  gain: f32,
  k0: i32,
  k1: i32,
): void {
  const g = f32x4.splat(gain);
  const nothing = constant(Constant.NOTHING);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++)
      for (let o = row(f, j, k, rowStride, planeStride), e = o + ((<usize>nx) << 2); o < e; o += 16) {
        const x = f32x4.mul(g, v128.load(o));
        v128.store(o, v128.andnot(x, f32x4.lt(f32x4.abs(x), nothing)));
      }
}
