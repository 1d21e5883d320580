// Accelerations at cell centres (m/s²), gathered in three fields, and their way onto the faces.
import { byAxis, Constant, constant, row, max4, partial } from './common';
import { haloXY } from './halo';

// @ts-ignore: decorator
@inline
function curlX(v: usize, w: usize, rs: usize, ps: usize): v128 {
  const dw = f32x4.add(
    f32x4.sub(v128.load(w + rs), v128.load(w - rs)),
    f32x4.sub(v128.load(w + ps + rs), v128.load(w + ps - rs)),
  );
  const dv = f32x4.add(
    f32x4.sub(v128.load(v + ps), v128.load(v - ps)),
    f32x4.sub(v128.load(v + rs + ps), v128.load(v + rs - ps)),
  );
  return f32x4.sub(dw, dv);
}
// @ts-ignore: decorator
@inline
function curlY(u: usize, w: usize, ps: usize): v128 {
  const du = f32x4.add(
    f32x4.sub(v128.load(u + ps), v128.load(u - ps)),
    f32x4.sub(v128.load(u + ps, 4), v128.load(u - ps, 4)),
  );
  const dw = f32x4.add(
    f32x4.sub(v128.load(w, 4), v128.load(w - 4)),
    f32x4.sub(v128.load(w + ps, 4), v128.load(w + ps - 4)),
  );
  return f32x4.sub(du, dw);
}
// @ts-ignore: decorator
@inline
function curlZ(u: usize, v: usize, rs: usize): v128 {
  const dv = f32x4.add(
    f32x4.sub(v128.load(v, 4), v128.load(v - 4)),
    f32x4.sub(v128.load(v + rs, 4), v128.load(v + rs - 4)),
  );
  const du = f32x4.add(
    f32x4.sub(v128.load(u + rs), v128.load(u - rs)),
    f32x4.sub(v128.load(u + rs, 4), v128.load(u - rs, 4)),
  );
  return f32x4.sub(dv, du);
}

/**
 * ω and |ω| at the cell centres of plane k, 1/s; quarter = 1 / (4 h). The ring |ω| around the plane goes on
 * from its edge.
 */
function curlPlane(
  u: usize,
  v: usize,
  w: usize,
  ox: usize,
  oy: usize,
  oz: usize,
  mag: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  quarter: f32,
  k: i32,
  shift: usize,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const q = f32x4.splat(quarter);
  for (let j = 0; j < ny; j++) {
    const at = row(0, j, k, rowStride, planeStride);
    for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
      const x = curlX(v + o, w + o, rs, ps);
      const y = curlY(u + o, w + o, ps);
      const z = curlZ(u + o, v + o, rs);
      const to = o + shift;
      v128.store(ox + to, x);
      v128.store(oy + to, y);
      v128.store(oz + to, z);
      v128.store(
        mag + to,
        f32x4.mul(q, f32x4.sqrt(f32x4.add(f32x4.mul(x, x), f32x4.add(f32x4.mul(y, y), f32x4.mul(z, z))))),
      );
    }
  }

  haloXY(mag + shift, nx, ny, rowStride, planeStride, 0, k, k + 1);
}

/** An amount of four voxels, times how far it counts there; weight 0: everywhere. */
// @ts-ignore: decorator
@inline
function weighted(v: v128, weight: usize, o: usize): v128 {
  return weight ? f32x4.mul(v, v128.load(weight + o)) : v;
}

/**
 * Vorticity confinement (Fedkiw, Stam, Jensen 2001): strength · N × ω added to fx, fy, fz, N = ∇|ω| / |∇|ω||,
 * ω = ∇ × u. ox, oy, oz, mag: fields in which each slab keeps four planes in turn, so that the curl stays in
 * the cache; what a slab needs of its neighbours' planes it computes again. Halos of u, v, w are filled;
 * slab: planes a worker takes, at least 8.
 */
export function confineVorticity(
  u: usize,
  v: usize,
  w: usize,
  ox: usize,
  oy: usize,
  oz: usize,
  mag: usize,
  fx: usize,
  fy: usize,
  fz: usize,
  weight: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  quarter: f32,
  strength: f32,
  slab: i32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const first = 4 * (k0 / slab);
  const scale = f32x4.splat(quarter * strength);
  const tiny = constant(Constant.LEAST);
  for (let c = max(k0 - 1, 0); c <= min(k1, nz); c++) {
    if (c < nz)
      curlPlane(
        u,
        v,
        w,
        ox,
        oy,
        oz,
        mag,
        nx,
        ny,
        rowStride,
        planeStride,
        quarter,
        c,
        (<usize>((first + (c & 3) - c) * planeStride)) << 2,
      );
    const k = c - 1;
    if (k < k0) continue;
    const here = (<usize>((first + (k & 3) - k) * planeStride)) << 2;
    const below = max(k - 1, 0);
    const above = min(k + 1, nz - 1);
    const down = (<usize>((first + (below & 3) - k) * planeStride)) << 2;
    const up = (<usize>((first + (above & 3) - k) * planeStride)) << 2;
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const r = o + here;
        const m = mag + r;
        const gx = f32x4.sub(v128.load(m, 4), v128.load(m - 4));
        const gy = f32x4.sub(v128.load(m + rs), v128.load(m - rs));
        const gz = f32x4.sub(v128.load(mag + o + up), v128.load(mag + o + down));
        const len = f32x4.sqrt(
          f32x4.add(tiny, f32x4.add(f32x4.mul(gx, gx), f32x4.add(f32x4.mul(gy, gy), f32x4.mul(gz, gz)))),
        );
        const s = weighted(f32x4.div(scale, len), weight, o);
        const x = v128.load(ox + r);
        const y = v128.load(oy + r);
        const z = v128.load(oz + r);
        v128.store(
          fx + o,
          f32x4.add(v128.load(fx + o), f32x4.mul(s, f32x4.sub(f32x4.mul(gy, z), f32x4.mul(gz, y)))),
        );
        v128.store(
          fy + o,
          f32x4.add(v128.load(fy + o), f32x4.mul(s, f32x4.sub(f32x4.mul(gz, x), f32x4.mul(gx, z)))),
        );
        v128.store(
          fz + o,
          f32x4.add(v128.load(fz + o), f32x4.mul(s, f32x4.sub(f32x4.mul(gx, y), f32x4.mul(gy, x)))),
        );
      }
    }
  }
}

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

export function fill(
  f: usize,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  nx: i32,
  value: f32,
  k0: i32,
  k1: i32,
): void {
  const x = f32x4.splat(value);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const r = row(f, j, k, rowStride, planeStride);
      for (let o: usize = 0, e = (<usize>nx) << 2; o < e; o += 16) v128.store(r + o, x);
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

/** One velocity component on its faces: vel += dt · f. Closed faces (open fraction 0) get 0. */
export function applyForce(
  vel: usize,
  f: usize,
  open: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  axis: i32,
  dt: f32,
  k0: i32,
  k1: i32,
): void {
  const back: isize = byAxis(axis, -4, -((<isize>rowStride) << 2), -((<isize>planeStride) << 2));
  const halfDt = f32x4.splat(<f32>0.5 * dt);
  const zero = f32x4.splat(0);
  const mx = nx + i32(axis == 0);
  const my = ny + i32(axis == 1);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < my; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = 0; i < mx; i += 4) {
        const o = at + ((<usize>i) << 2);
        const x = f32x4.add(
          v128.load(vel + o),
          f32x4.mul(halfDt, f32x4.add(v128.load(f + o), v128.load(f + o + back))),
        );
        v128.store(vel + o, v128.and(x, f32x4.gt(v128.load(open + o), zero)));
      }
    }
}

/** Greatest |value| of a face lattice, a partial maximum a plane. */
export function maxAbs(
  f: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  slot: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    let m = f32x4.splat(0);
    for (let j = 0; j < ny; j++) {
      const r = row(f, j, k, rowStride, planeStride);
      for (let o: usize = 0, e = (<usize>nx) << 2; o < e; o += 16)
        m = f32x4.pmax(m, f32x4.abs(v128.load(r + o)));
    }

    store<f64>(partial(partials, k, slot), <f64>max4(m));
  }
}

// Large-scale confinement: the same on air that is averaged over cubes of `factor` cells, so its size is one
// in the world.

/** Mean velocity of each coarse cell, at its middle. */
export function coarsenVelocity(
  u: usize,
  v: usize,
  w: usize,
  cu: usize,
  cv: usize,
  cw: usize,
  factor: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  cx: i32,
  cy: i32,
  coarseRowStride: i32,
  coarsePlaneStride: i32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  for (let K = k0; K < k1; K++)
    for (let J = 0; J < cy; J++)
      for (let I = 0; I < cx; I++) {
        let x: f32 = 0;
        let y: f32 = 0;
        let z: f32 = 0;
        let n: f32 = 0;
        for (let k = K * factor, ke = min(k + factor, nz); k < ke; k++)
          for (let j = J * factor, je = min(j + factor, ny); j < je; j++) {
            const at = row(0, j, k, rowStride, planeStride);
            for (let i = I * factor, ie = min(i + factor, nx); i < ie; i++) {
              const o = at + ((<usize>i) << 2);
              x += load<f32>(u + o) + load<f32>(u + o + 4);
              y += load<f32>(v + o) + load<f32>(v + o + rs);
              z += load<f32>(w + o) + load<f32>(w + o + ps);
              n += 2;
            }
          }

        const to = row(0, J, K, coarseRowStride, coarsePlaneStride) + ((<usize>I) << 2);
        store<f32>(cu + to, x / n);
        store<f32>(cv + to, y / n);
        store<f32>(cw + to, z / n);
      }
}

/** ω and |ω| at the middles of cells from velocities there, halos filled; half = 1 / (2 H). */
export function curlOfCells(
  u: usize,
  v: usize,
  w: usize,
  ox: usize,
  oy: usize,
  oz: usize,
  mag: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  half: f32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 4) {
        const x =
          half *
          (load<f32>(w + o + rs) - load<f32>(w + o - rs) - (load<f32>(v + o + ps) - load<f32>(v + o - ps)));
        const y =
          half *
          (load<f32>(u + o + ps) - load<f32>(u + o - ps) - (load<f32>(w + o + 4) - load<f32>(w + o - 4)));
        const z =
          half *
          (load<f32>(v + o + 4) - load<f32>(v + o - 4) - (load<f32>(u + o + rs) - load<f32>(u + o - rs)));
        store<f32>(ox + o, x);
        store<f32>(oy + o, y);
        store<f32>(oz + o, z);
        store<f32>(mag + o, sqrt<f32>(x * x + y * y + z * z));
      }
    }
}

/** strength · N × ω at the middles of cells, N = ∇|ω| / |∇|ω||; the halo of mag is filled. */
export function confineVorticityCells(
  ox: usize,
  oy: usize,
  oz: usize,
  mag: usize,
  fx: usize,
  fy: usize,
  fz: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  strength: f32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 4) {
        const m = mag + o;
        const gx = load<f32>(m + 4) - load<f32>(m - 4);
        const gy = load<f32>(m + rs) - load<f32>(m - rs);
        const gz = load<f32>(m + ps) - load<f32>(m - ps);
        const s: f32 = strength / sqrt<f32>(gx * gx + gy * gy + gz * gz + <f32>1e-12);
        const x = load<f32>(ox + o);
        const y = load<f32>(oy + o);
        const z = load<f32>(oz + o);
        store<f32>(fx + o, s * (gy * z - gz * y));
        store<f32>(fy + o, s * (gz * x - gx * z));
        store<f32>(fz + o, s * (gx * y - gy * x));
      }
    }
}

/** fine += trilinear coarse, `factor` cells of fine to one of coarse, whose halo is filled. */
export function addUpsampledWide(
  coarse: usize,
  fine: usize,
  weight: usize,
  factor: i32,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  coarseRowStride: i32,
  coarsePlaneStride: i32,
  k0: i32,
  k1: i32,
): void {
  const per: f32 = <f32>1 / <f32>factor;
  const rs = (<usize>coarseRowStride) << 2;
  const ps = (<usize>coarsePlaneStride) << 2;
  for (let k = k0; k < k1; k++) {
    const z = (<f32>k + <f32>0.5) * per - <f32>0.5;
    const K = <i32>Mathf.floor(z);
    const fz = z - <f32>K;
    for (let j = 0; j < ny; j++) {
      const y = (<f32>j + <f32>0.5) * per - <f32>0.5;
      const J = <i32>Mathf.floor(y);
      const fy = y - <f32>J;
      const from = row(coarse, J, K, coarseRowStride, coarsePlaneStride);
      const to = row(0, j, k, rowStride, planeStride);
      for (let i = 0; i < nx; i++) {
        const x = (<f32>i + <f32>0.5) * per - <f32>0.5;
        const I = <i32>Mathf.floor(x);
        const fx = x - <f32>I;
        const c = from + ((<isize>I) << 2);
        const a = load<f32>(c) + fx * (load<f32>(c + 4) - load<f32>(c));
        const b = load<f32>(c + rs) + fx * (load<f32>(c + rs + 4) - load<f32>(c + rs));
        const d = load<f32>(c + ps) + fx * (load<f32>(c + ps + 4) - load<f32>(c + ps));
        const e = load<f32>(c + ps + rs) + fx * (load<f32>(c + ps + rs + 4) - load<f32>(c + ps + rs));
        const p = a + fy * (b - a);
        const q = d + fy * (e - d);
        const o = to + ((<usize>i) << 2);
        const by = p + fz * (q - p);
        store<f32>(fine + o, load<f32>(fine + o) + (weight ? by * load<f32>(weight + o) : by));
      }
    }
  }
}
