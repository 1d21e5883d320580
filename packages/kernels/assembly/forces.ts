// Accelerations at cell centres (m/s²), gathered in three fields, and their way onto the faces.
import { Constant, constant, row, weighted } from './common';
import { kindOf, Level } from './level';

/**
 * f += lift · temperature − heaviness · density. lift in m/s² per kelvin, heaviness in m/s² per unit of
 * density.
 */
export function applyBuoyancy(
  f: usize,
  density: usize,
  temperature: usize,
  weight: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  lift: f32,
  heaviness: f32,
  k0: i32,
  k1: i32,
): void {
  const a = f32x4.splat(lift);
  const b = f32x4.splat(heaviness);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o: usize = 0, e = (<usize>nx) << 2; o < e; o += 16) {
        const up = f32x4.sub(
          f32x4.mul(a, v128.load(temperature + at + o)),
          f32x4.mul(b, v128.load(density + at + o)),
        );
        v128.store(f + at + o, f32x4.add(v128.load(f + at + o), weighted(up, weight, at + o)));
      }
    }
}

/** f += grip (goal − u), u the mean of a component's two faces, `next` bytes apart; grip in 1/s. */
export function relaxToVelocity(
  f: usize,
  u: usize,
  weight: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  next: i32,
  goal: f32,
  grip: f32,
  k0: i32,
  k1: i32,
): void {
  const half = constant(Constant.HALF);
  const to = f32x4.splat(goal);
  const g = f32x4.splat(grip);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const air = f32x4.mul(half, f32x4.add(v128.load(u + o), v128.load(u + o + <usize>next)));
        v128.store(f + o, f32x4.add(v128.load(f + o), weighted(f32x4.mul(g, f32x4.sub(to, air)), weight, o)));
      }
    }
}

/**
 * f −= grip u, as far as there is medium: times the density, at most 1; density 0 (no address): everywhere
 * alike.
 */
export function applyDrag(
  f: usize,
  u: usize,
  weight: usize,
  density: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  next: i32,
  grip: f32,
  k0: i32,
  k1: i32,
): void {
  const half = constant(Constant.HALF);
  const one = constant(Constant.ONE);
  const zero = f32x4.splat(0);
  const g = f32x4.splat(grip);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        let by = weighted(
          f32x4.mul(g, f32x4.mul(half, f32x4.add(v128.load(u + o), v128.load(u + o + <usize>next)))),
          weight,
          o,
        );
        if (density) by = f32x4.mul(by, f32x4.pmin(one, f32x4.pmax(zero, v128.load(density + o))));
        v128.store(f + o, f32x4.sub(v128.load(f + o), by));
      }
    }
}

/**
 * How much of an edge of the medium a voxel is, 0…1, times a weight: s |∇ρ| / (s |∇ρ| + ρ), s the size of the
 * wisps in pairs of cells; the halo of the density is filled.
 */
export function edgeWeight(
  density: usize,
  out: usize,
  weight: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  pairs: f32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const tiny = f32x4.splat(1e-4);
  const s = f32x4.splat(pairs);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const d = density + o;
        const x = f32x4.sub(v128.load(d, 4), v128.load(d - 4));
        const y = f32x4.sub(v128.load(d + rs), v128.load(d - rs));
        const z = f32x4.sub(v128.load(d + ps), v128.load(d - ps));
        const slope = f32x4.mul(
          s,
          f32x4.sqrt(f32x4.add(f32x4.mul(x, x), f32x4.add(f32x4.mul(y, y), f32x4.mul(z, z)))),
        );
        const edge = f32x4.div(
          slope,
          f32x4.add(slope, f32x4.add(tiny, f32x4.pmax(v128.load(d), f32x4.splat(0)))),
        );
        v128.store(out + o, weighted(edge, weight, o));
      }
    }
}

/**
 * f *= exp(weight · rate · lean), lean = 1 + bias (density − even) / (density + even); rate = −ln 2 · dt /
 * half-life.
 */
export function dissipate(
  f: usize,
  density: usize,
  weight: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  rate: f64,
  bias: f32,
  even: f32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 4) {
        const x = load<f32>(f + o);
        const w: f32 = weight ? load<f32>(weight + o) : 1;
        if (x == 0 || w == 0) continue;
        const d = max<f32>(0, load<f32>(density + o));
        const lean = <f32>1 + (bias * (d - even)) / (d + even);
        store<f32>(f + o, x * <f32>NativeMath.exp(rate * <f64>(w * lean)));
      }
    }
}

/** What four faces have after a push: velocity plus half a substep of the two cells beside them. */
// @ts-ignore: decorator
@inline
function pushed(vel: usize, f: usize, back: usize, halfDt: v128): v128 {
  return f32x4.add(v128.load(vel), f32x4.mul(halfDt, f32x4.add(v128.load(f), v128.load(f - back))));
}

/** The same, 0 where the faces are closed. */
// @ts-ignore: decorator
@inline
function pushedWhereOpen(vel: usize, f: usize, back: usize, halfDt: v128, open: usize): v128 {
  return v128.and(pushed(vel, f, back, halfDt), f32x4.gt(v128.load(open), f32x4.splat(0)));
}

/**
 * All three velocity components on their faces: u += dt · f, f the mean of the two cells beside a face.
 * Closed faces (open fraction 0) get 0. Halos of the accelerations are filled. Run over nz + 1 planes.
 */
export function applyForces(
  level: usize,
  u: usize,
  v: usize,
  w: usize,
  fx: usize,
  fy: usize,
  fz: usize,
  dt: f32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const rs = <usize>L.faceRowBytes;
  const ps = <usize>L.facePlaneBytes;
  const halfDt = f32x4.splat(<f32>0.5 * dt);
  const end = (<usize>L.nx) << 2;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j <= L.ny; j++) {
      const at = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
      if (j == L.ny || k == L.nz) {
        // the last faces along y and along z
        for (let o = at; k < L.nz && o < at + end; o += 16)
          v128.store(v + o, pushedWhereOpen(v + o, fy + o, rs, halfDt, L.ay + o));
        for (let o = at; j < L.ny && o < at + end; o += 16)
          v128.store(w + o, pushedWhereOpen(w + o, fz + o, ps, halfDt, L.az + o));
        continue;
      }

      // behind the first face of a row with plain cells all are open
      const isPlain = j > 0 && k > 0 && kindOf(L, j, k) == 0;
      const masked = at + (isPlain ? 16 : end);
      for (let o = at; o < masked; o += 16) {
        v128.store(u + o, pushedWhereOpen(u + o, fx + o, 4, halfDt, L.ax + o));
        v128.store(v + o, pushedWhereOpen(v + o, fy + o, rs, halfDt, L.ay + o));
        v128.store(w + o, pushedWhereOpen(w + o, fz + o, ps, halfDt, L.az + o));
      }

      for (let o = masked; o < at + end; o += 16) {
        v128.store(u + o, pushed(u + o, fx + o, 4, halfDt));
        v128.store(v + o, pushed(v + o, fy + o, rs, halfDt));
        v128.store(w + o, pushed(w + o, fz + o, ps, halfDt));
      }

      const last = at + end;
      const x = load<f32>(u + last) + <f32>0.5 * dt * (load<f32>(fx + last) + load<f32>(fx + last - 4));
      store<f32>(u + last, load<f32>(L.ax + last) > 0 ? x : 0);
    }
}
