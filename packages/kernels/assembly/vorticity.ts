// Vorticity confinement (Fedkiw, Stam and Jensen 2001): a push at cell centres (m/s²) along N × ω that keeps
// eddies from dying of the grid, on the air itself and on air that is averaged over cubes of cells.
import { Constant, constant, row, weighted } from './common';
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
