// MacCormack transport (Selle, Fedkiw, Kim, Liu, Rossignac 2008) over displacements that all channels share.
//
// The back-trace is done once, at cell centres (midpoint rule), and averaged to the faces: second order like the trace
// itself, at a third of the look-ups. The forward displacement follows from it and the velocity without a look-up:
// u(x+a) + u(x-a) = 2 u(x) + O(a²), so D+ = 2 κ u + D-. Lengths are in cells, κ = dt / h.
import { clamp4, evens, lerp4, odds, pairs, row } from './common';

/** Where one vector of four look-ups goes: byte offsets from `origin` and the three fractions are kept in locals by callers. */
// @ts-ignore: decorator
@inline
function trilinear(f: usize, o0: i32, o1: i32, o2: i32, o3: i32, rs: usize, ps: usize, fx: v128, fy: v128, fz: v128): v128 {
  const a0 = pairs(f, o0, o1), a1 = pairs(f, o2, o3);
  const b0 = pairs(f + rs, o0, o1), b1 = pairs(f + rs, o2, o3);
  const c0 = pairs(f + ps, o0, o1), c1 = pairs(f + ps, o2, o3);
  const d0 = pairs(f + ps + rs, o0, o1), d1 = pairs(f + ps + rs, o2, o3);
  const a = lerp4(evens(a0, a1), odds(a0, a1), fx), b = lerp4(evens(b0, b1), odds(b0, b1), fx);
  const c = lerp4(evens(c0, c1), odds(c0, c1), fx), d = lerp4(evens(d0, d1), odds(d0, d1), fx);
  return lerp4(lerp4(a, b, fy), lerp4(c, d, fy), fz);
}

/** Byte offset of each lane's lower corner. */
// @ts-ignore: decorator
@inline
function cornerOffsets(ix: v128, iy: v128, iz: v128, P: i32, PP: i32): v128 {
  const flat = i32x4.add(i32x4.add(ix, i32x4.mul(iy, i32x4.splat(P))), i32x4.mul(iz, i32x4.splat(PP)));
  return i32x4.shl(flat, 2);
}


/**
 * Displacement over one step back in time at cell centres, in cells, into dx, dy, dz.
 * u, v, w: face velocities, halos filled.
 */
export function traceBack(
  u: usize, v: usize, w: usize, dx: usize, dy: usize, dz: usize,
  nx: i32, ny: i32, nz: i32, P: i32, PP: i32, kappa: f32, k0: i32, k1: i32,
): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  const half = f32x4.splat(0.5), zero = f32x4.splat(0);
  const quarter = f32x4.splat(<f32>-0.25 * kappa), full = f32x4.splat(-kappa);
  const mx = f32x4.splat(<f32>nx), my = f32x4.splat(<f32>ny), mz = f32x4.splat(<f32>nz);
  const minus = f32x4.splat(-1);
  for (let k = k0; k < k1; k++) {
    for (let j = 0; j < ny; j++) {
      const ur = row(u, j, k, P, PP), vr = row(v, j, k, P, PP), wr = row(w, j, k, P, PP);
      const at = row(0, j, k, P, PP);
      const py = f32x4.splat(<f32>j), pz = f32x4.splat(<f32>k);
      for (let i = 0; i < nx; i += 4) {
        const o = <usize>i << 2;
        const hx = f32x4.mul(quarter, f32x4.add(v128.load(ur + o), v128.load(ur + o, 4)));
        const hy = f32x4.mul(quarter, f32x4.add(v128.load(vr + o), v128.load(vr + o + rs)));
        const hz = f32x4.mul(quarter, f32x4.add(v128.load(wr + o), v128.load(wr + o + ps)));
        // cell lattice coordinates of the midpoint, and half a cell on for the face lattices
        const cx = f32x4.add(f32x4.add(f32x4.splat(<f32>i), f32x4(0, 1, 2, 3)), hx);
        const cy = f32x4.add(py, hy), cz = f32x4.add(pz, hz);
        const gx = clamp4(f32x4.add(cx, half), zero, mx), gy = clamp4(f32x4.add(cy, half), zero, my), gz = clamp4(f32x4.add(cz, half), zero, mz);
        const ex = clamp4(cx, minus, mx), ey = clamp4(cy, minus, my), ez = clamp4(cz, minus, mz);
        const gxf = f32x4.floor(gx), gyf = f32x4.floor(gy), gzf = f32x4.floor(gz);
        const exf = f32x4.floor(ex), eyf = f32x4.floor(ey), ezf = f32x4.floor(ez);
        const gxi = i32x4.trunc_sat_f32x4_s(gxf), gyi = i32x4.trunc_sat_f32x4_s(gyf), gzi = i32x4.trunc_sat_f32x4_s(gzf);
        const exi = i32x4.trunc_sat_f32x4_s(exf), eyi = i32x4.trunc_sat_f32x4_s(eyf), ezi = i32x4.trunc_sat_f32x4_s(ezf);
        const gfx = f32x4.sub(gx, gxf), gfy = f32x4.sub(gy, gyf), gfz = f32x4.sub(gz, gzf);
        const efx = f32x4.sub(ex, exf), efy = f32x4.sub(ey, eyf), efz = f32x4.sub(ez, ezf);
        const ou = cornerOffsets(gxi, eyi, ezi, P, PP);
        v128.store(dx + at + o, f32x4.mul(full, trilinear(u, i32x4.extract_lane(ou, 0), i32x4.extract_lane(ou, 1), i32x4.extract_lane(ou, 2), i32x4.extract_lane(ou, 3), rs, ps, gfx, efy, efz)));
        const ov = cornerOffsets(exi, gyi, ezi, P, PP);
        v128.store(dy + at + o, f32x4.mul(full, trilinear(v, i32x4.extract_lane(ov, 0), i32x4.extract_lane(ov, 1), i32x4.extract_lane(ov, 2), i32x4.extract_lane(ov, 3), rs, ps, efx, gfy, efz)));
        const ow = cornerOffsets(exi, eyi, gzi, P, PP);
        v128.store(dz + at + o, f32x4.mul(full, trilinear(w, i32x4.extract_lane(ow, 0), i32x4.extract_lane(ow, 1), i32x4.extract_lane(ow, 2), i32x4.extract_lane(ow, 3), rs, ps, efx, efy, gfz)));
      }
    }
  }
}

/**
 * First estimate: f at the end of the back-trace, with the least and the greatest of the eight values it was mixed from.
 * axis: 0, 1, 2 for a face lattice, 3 for cell centres; mx, my, mz: sites to visit (a face lattice has one more).
 */
export function advectBack(
  f: usize, hat: usize, lo: usize, hi: usize, dx: usize, dy: usize, dz: usize,
  nx: i32, ny: i32, nz: i32, P: i32, PP: i32, axis: i32, k0: i32, k1: i32,
): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  const half = f32x4.splat(0.5);
  const back: isize = axis == 0 ? -4 : axis == 1 ? -(<isize>rs) : axis == 2 ? -(<isize>ps) : 0;
  const mx = nx + i32(axis == 0), my = ny + i32(axis == 1);
  const lx = f32x4.splat(axis == 0 ? 0 : -1), ly = f32x4.splat(axis == 1 ? 0 : -1), lz = f32x4.splat(axis == 2 ? 0 : -1);
  const hx = f32x4.splat(<f32>nx), hy = f32x4.splat(<f32>ny), hz = f32x4.splat(<f32>nz);
  for (let k = k0; k < k1; k++) {
    for (let j = 0; j < my; j++) {
      const at = row(0, j, k, P, PP);
      const xr = dx + at, yr = dy + at, zr = dz + at;
      const py = f32x4.splat(<f32>j), pz = f32x4.splat(<f32>k);
      for (let i = 0; i < mx; i += 4) {
        const o = <usize>i << 2;
        const x = clamp4(f32x4.add(f32x4.add(f32x4.splat(<f32>i), f32x4(0, 1, 2, 3)), f32x4.mul(half, f32x4.add(v128.load(xr + o), v128.load(xr + o + back)))), lx, hx);
        const y = clamp4(f32x4.add(py, f32x4.mul(half, f32x4.add(v128.load(yr + o), v128.load(yr + o + back)))), ly, hy);
        const z = clamp4(f32x4.add(pz, f32x4.mul(half, f32x4.add(v128.load(zr + o), v128.load(zr + o + back)))), lz, hz);
        const xf = f32x4.floor(x), yf = f32x4.floor(y), zf = f32x4.floor(z);
        const fx = f32x4.sub(x, xf), fy = f32x4.sub(y, yf), fz = f32x4.sub(z, zf);
        const off = cornerOffsets(i32x4.trunc_sat_f32x4_s(xf), i32x4.trunc_sat_f32x4_s(yf), i32x4.trunc_sat_f32x4_s(zf), P, PP);
        const o0 = i32x4.extract_lane(off, 0), o1 = i32x4.extract_lane(off, 1), o2 = i32x4.extract_lane(off, 2), o3 = i32x4.extract_lane(off, 3);
        const a0 = pairs(f, o0, o1), a1 = pairs(f, o2, o3);
        const b0 = pairs(f + rs, o0, o1), b1 = pairs(f + rs, o2, o3);
        const c0 = pairs(f + ps, o0, o1), c1 = pairs(f + ps, o2, o3);
        const d0 = pairs(f + ps + rs, o0, o1), d1 = pairs(f + ps + rs, o2, o3);
        const ae = evens(a0, a1), ao = odds(a0, a1), be = evens(b0, b1), bo = odds(b0, b1);
        const ce = evens(c0, c1), co = odds(c0, c1), de = evens(d0, d1), dd = odds(d0, d1);
        const e = lerp4(lerp4(ae, ao, fx), lerp4(be, bo, fx), fy);
        const g = lerp4(lerp4(ce, co, fx), lerp4(de, dd, fx), fy);
        v128.store(hat + at + o, lerp4(e, g, fz));
        v128.store(lo + at + o, f32x4.pmin(
          f32x4.pmin(f32x4.pmin(ae, ao), f32x4.pmin(be, bo)), f32x4.pmin(f32x4.pmin(ce, co), f32x4.pmin(de, dd))));
        v128.store(hi + at + o, f32x4.pmax(
          f32x4.pmax(f32x4.pmax(ae, ao), f32x4.pmax(be, bo)), f32x4.pmax(f32x4.pmax(ce, co), f32x4.pmax(de, dd))));
      }
    }
  }
}

/**
 * Second half: carries the estimate forward again, takes half of the round-trip error off, limits to [lo, hi], times gain.
 * First order is kept where `open` says that the site touches something closed: next to obstacles and window edges.
 * ax, ay, az: open fractions of the faces; kind: row classes of the finest level.
 */
export function advectFix(
  f: usize, hat: usize, lo: usize, hi: usize, out: usize, dx: usize, dy: usize, dz: usize, u: usize, v: usize, w: usize,
  ax: usize, ay: usize, az: usize, kind: usize,
  nx: i32, ny: i32, nz: i32, P: i32, PP: i32, axis: i32, kappa: f32, gain: f32, k0: i32, k1: i32,
): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  const half = f32x4.splat(0.5), halfKappa = f32x4.splat(<f32>0.5 * kappa), times = f32x4.splat(gain), one = f32x4.splat(1), nothing = f32x4.splat(1e-15);
  const back: isize = axis == 0 ? -4 : axis == 1 ? -(<isize>rs) : axis == 2 ? -(<isize>ps) : 0;
  const mx = nx + i32(axis == 0), my = ny + i32(axis == 1);
  const lx = f32x4.splat(axis == 0 ? 0 : -1), ly = f32x4.splat(axis == 1 ? 0 : -1), lz = f32x4.splat(axis == 2 ? 0 : -1);
  const hx = f32x4.splat(<f32>nx), hy = f32x4.splat(<f32>ny), hz = f32x4.splat(<f32>nz);
  for (let k = k0; k < k1; k++) {
    for (let j = 0; j < my; j++) {
      const at = row(0, j, k, P, PP);
      const xr = dx + at, yr = dy + at, zr = dz + at, ur = u + at, vr = v + at, wr = w + at;
      const py = f32x4.splat(<f32>j), pz = f32x4.splat(<f32>k);
      const plain = j > 0 && k > 0 && j < ny - 1 && k < nz - 1 && load<u32>(kind + (<usize>(k * ny + j) << 2)) == 0;
      for (let i = 0; i < mx; i += 4) {
        const o = <usize>i << 2;
        const least = v128.load(lo + at + o), most = v128.load(hi + at + o);
        if (!v128.any_true(f32x4.ne(least, most))) {
          // nothing varies here (still, empty air): the limits leave one value, so there is nothing to look up
          const rest = f32x4.mul(times, least);
          v128.store(out + at + o, v128.andnot(rest, f32x4.lt(f32x4.abs(rest), nothing)));
          continue;
        }
        const su = f32x4.add(f32x4.add(v128.load(ur + o), v128.load(ur + o, 4)), f32x4.add(v128.load(ur + o + back), v128.load(ur + o + back, 4)));
        const sv = f32x4.add(f32x4.add(v128.load(vr + o), v128.load(vr + o + rs)), f32x4.add(v128.load(vr + o + back), v128.load(vr + o + back + rs)));
        const sw = f32x4.add(f32x4.add(v128.load(wr + o), v128.load(wr + o + ps)), f32x4.add(v128.load(wr + o + back), v128.load(wr + o + back + ps)));
        const ex = f32x4.add(f32x4.mul(half, f32x4.add(v128.load(xr + o), v128.load(xr + o + back))), f32x4.mul(halfKappa, su));
        const ey = f32x4.add(f32x4.mul(half, f32x4.add(v128.load(yr + o), v128.load(yr + o + back))), f32x4.mul(halfKappa, sv));
        const ez = f32x4.add(f32x4.mul(half, f32x4.add(v128.load(zr + o), v128.load(zr + o + back))), f32x4.mul(halfKappa, sw));
        const x = clamp4(f32x4.add(f32x4.add(f32x4.splat(<f32>i), f32x4(0, 1, 2, 3)), ex), lx, hx);
        const y = clamp4(f32x4.add(py, ey), ly, hy), z = clamp4(f32x4.add(pz, ez), lz, hz);
        const xf = f32x4.floor(x), yf = f32x4.floor(y), zf = f32x4.floor(z);
        const off = cornerOffsets(i32x4.trunc_sat_f32x4_s(xf), i32x4.trunc_sat_f32x4_s(yf), i32x4.trunc_sat_f32x4_s(zf), P, PP);
        const there = trilinear(hat, i32x4.extract_lane(off, 0), i32x4.extract_lane(off, 1), i32x4.extract_lane(off, 2), i32x4.extract_lane(off, 3), rs, ps, f32x4.sub(x, xf), f32x4.sub(y, yf), f32x4.sub(z, zf));
        const est = v128.load(hat + at + o);
        let fix = f32x4.mul(half, f32x4.sub(v128.load(f + at + o), there));
        if (!plain || i == 0 || i >= nx - 4) {
          let open: v128;
          if (axis == 3) {
            open = f32x4.pmin(
              f32x4.pmin(f32x4.pmin(v128.load(ax + at + o), v128.load(ax + at + o, 4)), f32x4.pmin(v128.load(ay + at + o), v128.load(ay + at + o + rs))),
              f32x4.pmin(v128.load(az + at + o), v128.load(az + at + o + ps)));
          } else {
            const a = (axis == 0 ? ax : axis == 1 ? ay : az) + at + o;
            open = f32x4.pmin(v128.load(a), f32x4.pmin(v128.load(a + back), v128.load(a - back)));
          }
          fix = v128.and(fix, f32x4.ge(open, one));
        }
        const best = clamp4(f32x4.add(est, fix), least, most);
        // what has thinned to nothing becomes nothing: denormal numbers cost a hundred times as much to compute with
        const result = f32x4.mul(times, best);
        v128.store(out + at + o, v128.andnot(result, f32x4.lt(f32x4.abs(result), nothing)));
      }
    }
  }
}
