// Where the air of a cell came from: displacements back and ahead that all channels share. Lengths are in
// cells, κ = dt / h.
import { clamp4, Constant, constant, row } from './common';
import { sampleTrilinear4 } from './sample';

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
