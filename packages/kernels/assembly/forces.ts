// Accelerations at cell centres (m/s²), gathered in three fields, and their way onto the faces.
import { Constant, constant, row, max4, partial } from './common';

// @ts-ignore: decorator
@inline
function curlX(v: usize, w: usize, rs: usize, ps: usize): v128 {
  const dw = f32x4.add(f32x4.sub(v128.load(w + rs), v128.load(w - rs)), f32x4.sub(v128.load(w + ps + rs), v128.load(w + ps - rs)));
  const dv = f32x4.add(f32x4.sub(v128.load(v + ps), v128.load(v - ps)), f32x4.sub(v128.load(v + rs + ps), v128.load(v + rs - ps)));
  return f32x4.sub(dw, dv);
}
// @ts-ignore: decorator
@inline
function curlY(u: usize, w: usize, ps: usize): v128 {
  const du = f32x4.add(f32x4.sub(v128.load(u + ps), v128.load(u - ps)), f32x4.sub(v128.load(u + ps, 4), v128.load(u - ps, 4)));
  const dw = f32x4.add(f32x4.sub(v128.load(w, 4), v128.load(w - 4)), f32x4.sub(v128.load(w + ps, 4), v128.load(w + ps - 4)));
  return f32x4.sub(du, dw);
}
// @ts-ignore: decorator
@inline
function curlZ(u: usize, v: usize, rs: usize): v128 {
  const dv = f32x4.add(f32x4.sub(v128.load(v, 4), v128.load(v - 4)), f32x4.sub(v128.load(v + rs, 4), v128.load(v + rs - 4)));
  const du = f32x4.add(f32x4.sub(v128.load(u + rs), v128.load(u - rs)), f32x4.sub(v128.load(u + rs, 4), v128.load(u - rs, 4)));
  return f32x4.sub(dv, du);
}

/** |curl u| at cell centres, 1/s; quarter = 1 / (4 h). */
export function vorticity(u: usize, v: usize, w: usize, mag: usize, nx: i32, ny: i32, P: i32, PP: i32, quarter: f32, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2, q = f32x4.splat(quarter);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      for (let o: usize = 0, e = <usize>nx << 2; o < e; o += 16) {
        const x = curlX(v + at + o, w + at + o, rs, ps), y = curlY(u + at + o, w + at + o, ps), z = curlZ(u + at + o, v + at + o, rs);
        v128.store(mag + at + o, f32x4.mul(q, f32x4.sqrt(f32x4.add(f32x4.mul(x, x), f32x4.add(f32x4.mul(y, y), f32x4.mul(z, z))))));
      }
    }
}

/** Vorticity confinement (Fedkiw, Stam, Jensen 2001): strength · N × ω into fx, fy, fz, N = ∇|ω| / |∇|ω||. */
export function confine(
  u: usize, v: usize, w: usize, mag: usize, fx: usize, fy: usize, fz: usize,
  nx: i32, ny: i32, P: i32, PP: i32, quarter: f32, strength: f32, k0: i32, k1: i32,
): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  const scale = f32x4.splat(quarter * strength), tiny = constant(Constant.LEAST);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      for (let o: usize = 0, e = <usize>nx << 2; o < e; o += 16) {
        const m = mag + at + o;
        const gx = f32x4.sub(v128.load(m, 4), v128.load(m - 4)), gy = f32x4.sub(v128.load(m + rs), v128.load(m - rs)), gz = f32x4.sub(v128.load(m + ps), v128.load(m - ps));
        const len = f32x4.sqrt(f32x4.add(tiny, f32x4.add(f32x4.mul(gx, gx), f32x4.add(f32x4.mul(gy, gy), f32x4.mul(gz, gz)))));
        const s = f32x4.div(scale, len);
        const x = curlX(v + at + o, w + at + o, rs, ps), y = curlY(u + at + o, w + at + o, ps), z = curlZ(u + at + o, v + at + o, rs);
        v128.store(fx + at + o, f32x4.mul(s, f32x4.sub(f32x4.mul(gy, z), f32x4.mul(gz, y))));
        v128.store(fy + at + o, f32x4.mul(s, f32x4.sub(f32x4.mul(gz, x), f32x4.mul(gx, z))));
        v128.store(fz + at + o, f32x4.mul(s, f32x4.sub(f32x4.mul(gx, y), f32x4.mul(gy, x))));
      }
    }
}

/** fy += lift · temperature − weight · density. lift in m/s² per kelvin, weight in m/s² per unit of density. */
export function buoyancy(fy: usize, density: usize, temperature: usize, nx: i32, ny: i32, P: i32, PP: i32, lift: f32, weight: f32, k0: i32, k1: i32): void {
  const a = f32x4.splat(lift), b = f32x4.splat(weight);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      for (let o: usize = 0, e = <usize>nx << 2; o < e; o += 16) {
        const f = f32x4.sub(f32x4.mul(a, v128.load(temperature + at + o)), f32x4.mul(b, v128.load(density + at + o)));
        v128.store(fy + at + o, f32x4.add(v128.load(fy + at + o), f));
      }
    }
}

export function fill(f: usize, ny: i32, P: i32, PP: i32, nx: i32, value: f32, k0: i32, k1: i32): void {
  const x = f32x4.splat(value);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const r = row(f, j, k, P, PP);
      for (let o: usize = 0, e = <usize>nx << 2; o < e; o += 16) v128.store(r + o, x);
    }
}

/**
 * One velocity component on its faces: vel += dt · f, then a pull toward the wind: vel += grip (wind − vel),
 * grip = 1 − exp(−dt/τ), exact for linear drag. Closed faces (open fraction 0) get 0.
 */
export function applyForce(
  vel: usize, f: usize, open: usize, nx: i32, ny: i32, P: i32, PP: i32, axis: i32, dt: f32, wind: f32, grip: f32, k0: i32, k1: i32,
): void {
  const back: isize = axis == 0 ? -4 : axis == 1 ? -(<isize>P << 2) : -(<isize>PP << 2);
  const halfDt = f32x4.splat(<f32>0.5 * dt), g = f32x4.splat(grip), wd = f32x4.splat(wind), zero = f32x4.splat(0);
  const mx = nx + i32(axis == 0), my = ny + i32(axis == 1);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < my; j++) {
      const at = row(0, j, k, P, PP);
      for (let i = 0; i < mx; i += 4) {
        const o = at + (<usize>i << 2);
        let x = f32x4.add(v128.load(vel + o), f32x4.mul(halfDt, f32x4.add(v128.load(f + o), v128.load(f + o + back))));
        x = f32x4.add(x, f32x4.mul(g, f32x4.sub(wd, x)));
        v128.store(vel + o, v128.and(x, f32x4.gt(v128.load(open + o), zero)));
      }
    }
}

/** Greatest |value| of a face lattice, a partial maximum a plane. */
export function maxAbs(f: usize, nx: i32, ny: i32, P: i32, PP: i32, parts: usize, slot: i32, k0: i32, k1: i32): void {
  for (let k = k0; k < k1; k++) {
    let m = f32x4.splat(0);
    for (let j = 0; j < ny; j++) {
      const r = row(f, j, k, P, PP);
      for (let o: usize = 0, e = <usize>nx << 2; o < e; o += 16) m = f32x4.pmax(m, f32x4.abs(v128.load(r + o)));
    }
    store<f64>(partial(parts, k, slot), <f64>max4(m));
  }
}
