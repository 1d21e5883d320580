// Where the air of a cell came from: displacements back and ahead that all channels share. Lengths are in
// cells, κ = dt / h.
import { clamp4, Constant, constant, row } from './common';
import { haloXY } from './halo';
import { sampleTrilinear4 } from './sample';

/** Which stage of a trace. */
export const enum TraceStage {
  /** The midpoint rule. */
  MIDPOINT = 0,
  /**
   * One more after it, which makes it Ralston's third-order Runge-Kutta (1962): 2/9 k1 + 1/3 k2 + 4/9 k3, k3
   * at three quarters of k2.
   */
  RALSTON = 1,
}

/**
 * Displacement over one step back in time at cell centres, in cells, into dx, dy, dz, and the one forward
 * into ex, ey, ez, with their halos of x and y. u, v, w: face velocities, halos filled. Ralston's stage finds
 * −κ k2, what the midpoint rule gave, in dx, dy, dz.
 */
export function trace(
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
  stage: TraceStage,
  k0: i32,
  k1: i32,
): void {
  const third = stage == TraceStage.RALSTON;
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const half = constant(Constant.HALF);
  const along = f32x4.splat(kappa);
  const back = f32x4.splat(-kappa);
  const quarter = constant(Constant.MINUS_QUARTER);
  const reach = constant(Constant.THREE_QUARTERS);
  const w1 = constant(Constant.MINUS_NINTH);
  const w2 = constant(Constant.THIRD);
  const w3 = f32x4.splat(<f32>(-4.0 / 9.0) * kappa);
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
        // where the next look-up goes: half of −κ k1, three quarters of −κ k2
        const mx = v128.load(dx + o);
        const my = v128.load(dy + o);
        const mz = v128.load(dz + o);
        const x = third ? f32x4.mul(reach, mx) : f32x4.mul(quarter, cu);
        const y = third ? f32x4.mul(reach, my) : f32x4.mul(quarter, cv);
        const z = third ? f32x4.mul(reach, mz) : f32x4.mul(quarter, cw);
        const cx = clamp4(x, f32x4.sub(gx0, one), x1);
        const cy = clamp4(y, cy0, y1);
        const cz = clamp4(z, cz0, z1);
        const nu = sampleTrilinear4(u + o, clamp4(f32x4.add(x, half), gx0, x1), cy, cz, Pf, PPf, rs, ps);
        const nv = sampleTrilinear4(v + o, cx, clamp4(f32x4.add(y, half), gy0, y1), cz, Pf, PPf, rs, ps);
        const nw = sampleTrilinear4(w + o, cx, cy, clamp4(f32x4.add(z, half), gz0, z1), Pf, PPf, rs, ps);
        const bx = third ? ralston(w1, cu, w2, mx, w3, nu) : f32x4.mul(back, nu);
        const by = third ? ralston(w1, cv, w2, my, w3, nv) : f32x4.mul(back, nv);
        const bz = third ? ralston(w1, cw, w2, mz, w3, nw) : f32x4.mul(back, nw);
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

    // as long as the plane is in the cache
    haloXY(dx, nx, ny, rowStride, planeStride, 0, k, k + 1);
    haloXY(dy, nx, ny, rowStride, planeStride, 0, k, k + 1);
    haloXY(dz, nx, ny, rowStride, planeStride, 0, k, k + 1);
    haloXY(ex, nx, ny, rowStride, planeStride, 0, k, k + 1);
    haloXY(ey, nx, ny, rowStride, planeStride, 0, k, k + 1);
    haloXY(ez, nx, ny, rowStride, planeStride, 0, k, k + 1);
  }
}

// @ts-ignore: decorator
@inline
function ralston(w1: v128, c: v128, w2: v128, m: v128, w3: v128, n: v128): v128 {
  return f32x4.add(f32x4.mul(w1, c), f32x4.add(f32x4.mul(w2, m), f32x4.mul(w3, n)));
}
