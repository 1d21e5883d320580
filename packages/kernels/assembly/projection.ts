// The pressure projection around the multigrid preconditioner: right-hand side, conjugate-gradient steps, gradient.
// The unknown is dt/(ρ h) · pressure, a velocity. Only the finest level comes here, so nx is a multiple of 4.
import { row, max4, sum4, partial } from './common';

// @ts-ignore: decorator
@inline
function operator(p: usize, ax: usize, ay: usize, az: usize, rs: usize, ps: usize, plain: bool): v128 {
  if (plain) {
    const s = f32x4.add(
      f32x4.add(f32x4.add(v128.load(p - 4), v128.load(p, 4)), f32x4.add(v128.load(p - rs), v128.load(p + rs))),
      f32x4.add(v128.load(p - ps), v128.load(p + ps)));
    return f32x4.sub(f32x4.mul(f32x4.splat(6), v128.load(p)), s);
  }
  const x = v128.load(p);
  return f32x4.add(
    f32x4.add(
      f32x4.add(f32x4.mul(v128.load(ax), f32x4.sub(x, v128.load(p - 4))), f32x4.mul(v128.load(ax, 4), f32x4.sub(x, v128.load(p, 4)))),
      f32x4.add(f32x4.mul(v128.load(ay), f32x4.sub(x, v128.load(p - rs))), f32x4.mul(v128.load(ay + rs), f32x4.sub(x, v128.load(p + rs))))),
    f32x4.add(f32x4.mul(v128.load(az), f32x4.sub(x, v128.load(p - ps))), f32x4.mul(v128.load(az + ps), f32x4.sub(x, v128.load(p + ps)))));
}

// @ts-ignore: decorator
@inline
function isPlain(class_: u8, o: usize, end: usize): bool {
  return class_ == 1 && o >= 16 && o < end - 16;
}

/**
 * r = −div u − L p: what the pressure of the step before leaves to do. Partials: slot 0 the greatest |div u|,
 * 1 the greatest |r|, 2 the sum of r, 3 the number of open cells.
 */
export function rightHandSide(
  u: usize, v: usize, w: usize, ax: usize, ay: usize, az: usize, kind: usize, p: usize, r: usize,
  nx: i32, ny: i32, P: i32, PP: i32, parts: usize, k0: i32, k1: i32,
): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2, end = <usize>nx << 2, zero = f32x4.splat(0), one = f32x4.splat(1);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0), left = f32x4.splat(0);
    let sum: f64 = 0, count: f64 = 0;
    for (let j = 0; j < ny; j++) {
      const class_ = load<u8>(kind + <usize>(k * ny + j));
      const at = row(0, j, k, P, PP);
      let acc = f32x4.splat(0), cells = f32x4.splat(0);
      for (let o: usize = 0; o < end; o += 16) {
        const q = at + o;
        let b: v128, x: v128;
        if (isPlain(class_, o, end)) {
          b = f32x4.add(
            f32x4.add(f32x4.sub(v128.load(u + q), v128.load(u + q, 4)), f32x4.sub(v128.load(v + q), v128.load(v + q + rs))),
            f32x4.sub(v128.load(w + q), v128.load(w + q + ps)));
          x = f32x4.sub(b, operator(p + q, ax, ay, az, rs, ps, true));
          cells = f32x4.add(cells, one);
        } else {
          const x0 = v128.load(ax + q), x1 = v128.load(ax + q, 4), y0 = v128.load(ay + q), y1 = v128.load(ay + q + rs), z0 = v128.load(az + q), z1 = v128.load(az + q + ps);
          const open = f32x4.gt(f32x4.add(f32x4.add(f32x4.add(x0, x1), f32x4.add(y0, y1)), f32x4.add(z0, z1)), f32x4.splat(1e-6));
          b = f32x4.add(
            f32x4.add(
              f32x4.sub(f32x4.mul(x0, v128.load(u + q)), f32x4.mul(x1, v128.load(u + q, 4))),
              f32x4.sub(f32x4.mul(y0, v128.load(v + q)), f32x4.mul(y1, v128.load(v + q + rs)))),
            f32x4.sub(f32x4.mul(z0, v128.load(w + q)), f32x4.mul(z1, v128.load(w + q + ps))));
          b = v128.and(b, open);
          x = v128.and(f32x4.sub(b, operator(p + q, ax + q, ay + q, az + q, rs, ps, false)), open);
          cells = f32x4.add(cells, v128.and(one, open));
        }
        v128.store(r + q, x);
        most = f32x4.pmax(most, f32x4.abs(b));
        left = f32x4.pmax(left, f32x4.abs(x));
        acc = f32x4.add(acc, x);
      }
      sum += sum4(acc);
      count += sum4(cells);
    }
    store<f64>(partial(parts, k, 0), <f64>max4(most));
    store<f64>(partial(parts, k, 1), <f64>max4(left));
    store<f64>(partial(parts, k, 2), sum);
    store<f64>(partial(parts, k, 3), count);
  }
}

/** r −= mean in open cells: a box without an open side can only be solved up to a constant. */
export function removeMean(r: usize, ax: usize, ay: usize, az: usize, nx: i32, ny: i32, P: i32, PP: i32, mean: f32, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2, m = f32x4.splat(mean);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      for (let q = at, e = at + (<usize>nx << 2); q < e; q += 16) {
        const d = f32x4.add(
          f32x4.add(f32x4.add(v128.load(ax + q), v128.load(ax + q, 4)), f32x4.add(v128.load(ay + q), v128.load(ay + q + rs))),
          f32x4.add(v128.load(az + q), v128.load(az + q + ps)));
        v128.store(r + q, f32x4.sub(v128.load(r + q), v128.and(m, f32x4.gt(d, f32x4.splat(1e-6)))));
      }
    }
}

/** s = e + beta s. */
export function direction(s: usize, e: usize, nx: i32, ny: i32, P: i32, PP: i32, beta: f32, k0: i32, k1: i32): void {
  const b = f32x4.splat(beta);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      for (let o = at, q = at + (<usize>nx << 2); o < q; o += 16) v128.store(s + o, f32x4.add(v128.load(e + o), f32x4.mul(b, v128.load(s + o))));
    }
}

/** Partial sums of s · L s into slot 0. */
export function energy(s: usize, ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, P: i32, PP: i32, parts: usize, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2, end = <usize>nx << 2;
  for (let k = k0; k < k1; k++) {
    let sum: f64 = 0;
    for (let j = 0; j < ny; j++) {
      const class_ = load<u8>(kind + <usize>(k * ny + j));
      if (class_ == 0) continue;
      const at = row(0, j, k, P, PP);
      let acc = f32x4.splat(0);
      for (let o: usize = 0; o < end; o += 16) {
        const q = at + o;
        acc = f32x4.add(acc, f32x4.mul(v128.load(s + q), operator(s + q, ax + q, ay + q, az + q, rs, ps, isPlain(class_, o, end))));
      }
      sum += sum4(acc);
    }
    store<f64>(partial(parts, k, 0), sum);
  }
}

/** p += alpha s, r −= alpha L s; the greatest |r| into slot 0. */
export function advance(p: usize, r: usize, s: usize, ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, P: i32, PP: i32, alpha: f32, parts: usize, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2, end = <usize>nx << 2, a = f32x4.splat(alpha);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0);
    for (let j = 0; j < ny; j++) {
      const class_ = load<u8>(kind + <usize>(k * ny + j));
      if (class_ == 0) continue;
      const at = row(0, j, k, P, PP);
      for (let o: usize = 0; o < end; o += 16) {
        const q = at + o;
        v128.store(p + q, f32x4.add(v128.load(p + q), f32x4.mul(a, v128.load(s + q))));
        const x = f32x4.sub(v128.load(r + q), f32x4.mul(a, operator(s + q, ax + q, ay + q, az + q, rs, ps, isPlain(class_, o, end))));
        v128.store(r + q, x);
        most = f32x4.pmax(most, f32x4.abs(x));
      }
    }
    store<f64>(partial(parts, k, 0), <f64>max4(most));
  }
}

/** One velocity component minus the pressure difference across its face; closed faces 0; the top speed into a slot. */
export function subtractGradient(vel: usize, p: usize, open: usize, nx: i32, ny: i32, P: i32, PP: i32, axis: i32, parts: usize, k0: i32, k1: i32): void {
  const back: isize = axis == 0 ? -4 : axis == 1 ? -(<isize>P << 2) : -(<isize>PP << 2);
  const mx = nx + i32(axis == 0), my = ny + i32(axis == 1), zero = f32x4.splat(0);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0);
    for (let j = 0; j < my; j++) {
      const at = row(0, j, k, P, PP);
      for (let i = 0; i < mx; i += 4) {
        const o = at + (<usize>i << 2);
        let x = f32x4.sub(v128.load(vel + o), f32x4.sub(v128.load(p + o), v128.load(p + o + back)));
        x = v128.and(x, f32x4.gt(v128.load(open + o), zero));
        v128.store(vel + o, x);
        most = f32x4.pmax(most, f32x4.abs(x));
      }
    }
    store<f64>(partial(parts, k, axis), <f64>max4(most));
  }
}

/**
 * Faces deep in an obstacle (both cells closed) take the mean of their open neighbours on the same lattice, so that
 * look-ups beside a surface see air that slips along it. Open faces are only read, closed ones only written.
 */
export function extrapolate(vel: usize, ax: usize, ay: usize, az: usize, open: usize, kind: usize, nx: i32, ny: i32, nz: i32, P: i32, PP: i32, axis: i32, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  const back: usize = axis == 0 ? 4 : axis == 1 ? rs : ps;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      if (load<u8>(kind + <usize>(k * ny + j)) == 1) continue;
      const at = row(0, j, k, P, PP);
      for (let i = 0; i < nx; i++) {
        if ((axis == 0 && i == 0) || (axis == 1 && j == 0) || (axis == 2 && k == 0)) continue;
        const o = at + (<usize>i << 2);
        if (load<f32>(open + o) > 0) continue;
        if (openness(ax + o, ay + o, az + o, rs, ps) > 0 || openness(ax + o - back, ay + o - back, az + o - back, rs, ps) > 0) continue;
        let sum: f32 = 0, n: f32 = 0;
        if (i > 0 && load<f32>(open + o - 4) > 0) { sum += load<f32>(vel + o - 4); n += 1; }
        if (i < nx - 1 && load<f32>(open + o + 4) > 0) { sum += load<f32>(vel + o + 4); n += 1; }
        if (j > 0 && load<f32>(open + o - rs) > 0) { sum += load<f32>(vel + o - rs); n += 1; }
        if (j < ny - 1 && load<f32>(open + o + rs) > 0) { sum += load<f32>(vel + o + rs); n += 1; }
        if (k > 0 && load<f32>(open + o - ps) > 0) { sum += load<f32>(vel + o - ps); n += 1; }
        if (k < nz - 1 && load<f32>(open + o + ps) > 0) { sum += load<f32>(vel + o + ps); n += 1; }
        store<f32>(vel + o, n > 0 ? sum / n : 0);
      }
    }
}

// @ts-ignore: decorator
@inline
function openness(ax: usize, ay: usize, az: usize, rs: usize, ps: usize): f32 {
  return load<f32>(ax) + load<f32>(ax + 4) + load<f32>(ay) + load<f32>(ay + rs) + load<f32>(az) + load<f32>(az + ps);
}
