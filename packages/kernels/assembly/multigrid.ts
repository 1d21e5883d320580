// A V-cycle as preconditioner (McAdams, Sifakis, Teran 2010) for the cut-cell pressure operator (Ng, Min, Gibou 2009):
//   (L p)_c = Σ_faces A_f (p_c − p_neighbour),  A_f the open fraction of a face.
// Outside the window p is 0: an open side is a face with A = 1 to such a neighbour, a wall a face with A = 0.
// kind, a byte a row, says how much of the coefficients has to be read: 0 nothing is open, 1 all faces are fully open
// except perhaps the first and the last along x (the sides of the window), 2 anything.
import { row, evens, odds, sum4, partial } from './common';

export function classifyRows(ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, P: i32, PP: i32, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      let any: f32 = 0;
      let plain = nx >= 12 && nx % 4 == 0;
      for (let i = 0; i < nx; i++) {
        const o = at + (<usize>i << 2);
        const a = load<f32>(ax + o), b = load<f32>(ax + o + 4), c = load<f32>(ay + o), d = load<f32>(ay + o + rs), e = load<f32>(az + o), f = load<f32>(az + o + ps);
        any += a + b + c + d + e + f;
        if ((i > 0 && a != 1) || (i < nx - 1 && b != 1) || c != 1 || d != 1 || e != 1 || f != 1) plain = false;
      }
      store<u8>(kind + <usize>(k * ny + j), any == 0 ? 0 : plain ? 1 : 2);
    }
}

/**
 * Open fractions of a coarse level: the mean of the four fine faces. n…: fine cells, c…: coarse cells.
 * ghost: growth of an open side's coefficient, since p = 0 stays half a *finest* cell outside at every level.
 */
export function coarsenFaces(
  fine: usize, coarse: usize, axis: i32, nx: i32, ny: i32, nz: i32, P: i32, PP: i32,
  cx: i32, cy: i32, cP: i32, cPP: i32, ghost: f32, k0: i32, k1: i32,
): void {
  const mx = cx + i32(axis == 0), my = cy + i32(axis == 1);
  const side = axis == 0 ? nx : axis == 1 ? ny : nz;
  for (let K = k0; K < k1; K++)
    for (let J = 0; J < my; J++)
      for (let I = 0; I < mx; I++) {
        let s: f32 = 0;
        const normal = min((axis == 0 ? I : axis == 1 ? J : K) * 2, side);
        for (let q = 0; q < 4; q++) {
          const a = q & 1, b = q >> 1;
          const i = axis == 0 ? normal : 2 * I + a;
          const j = axis == 1 ? normal : 2 * J + (axis == 0 ? a : b);
          const k = axis == 2 ? normal : 2 * K + b;
          if (i < nx + i32(axis == 0) && j < ny + i32(axis == 1) && k < nz + i32(axis == 2)) s += load<f32>(row(fine, j, k, P, PP) + (<usize>i << 2));
        }
        const rim = normal == 0 || normal == side;
        store<f32>(row(coarse, J, K, cP, cPP) + (<usize>I << 2), <f32>0.25 * s * (rim ? ghost : 1));
      }
}

// @ts-ignore: decorator
@inline
function around(e: usize, rs: usize, ps: usize): v128 {
  return f32x4.add(
    f32x4.add(f32x4.add(v128.load(e - 4), v128.load(e, 4)), f32x4.add(v128.load(e - rs), v128.load(e + rs))),
    f32x4.add(v128.load(e - ps), v128.load(e + ps)));
}
// @ts-ignore: decorator
@inline
function aroundWeighted(e: usize, ax: usize, ay: usize, az: usize, rs: usize, ps: usize): v128 {
  return f32x4.add(
    f32x4.add(
      f32x4.add(f32x4.mul(v128.load(ax), v128.load(e - 4)), f32x4.mul(v128.load(ax, 4), v128.load(e, 4))),
      f32x4.add(f32x4.mul(v128.load(ay), v128.load(e - rs)), f32x4.mul(v128.load(ay + rs), v128.load(e + rs)))),
    f32x4.add(f32x4.mul(v128.load(az), v128.load(e - ps)), f32x4.mul(v128.load(az + ps), v128.load(e + ps))));
}
// @ts-ignore: decorator
@inline
function diagonal(ax: usize, ay: usize, az: usize, rs: usize, ps: usize): v128 {
  return f32x4.add(
    f32x4.add(f32x4.add(v128.load(ax), v128.load(ax, 4)), f32x4.add(v128.load(ay), v128.load(ay + rs))),
    f32x4.add(v128.load(az), v128.load(az + ps)));
}

/** Lanes of x < n, for the last vector of a row on coarse levels. */
// @ts-ignore: decorator
@inline
function within(i: i32, n: i32): v128 {
  return i32x4.lt_s(i32x4.add(i32x4.splat(i), i32x4(0, 1, 2, 3)), i32x4.splat(n));
}

/** Gauss–Seidel of one colour on plane k: e = (r + Σ A e_neighbour) / Σ A. fresh: e counts as 0 and is not read. */
function relaxPlane(e: usize, r: usize, ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, P: i32, PP: i32, k: i32, colour: i32, fresh: bool): void {
  for (let j = 0; j < ny; j++) {
    const class_ = load<u8>(kind + <usize>(k * ny + j));
    const at = row(0, j, k, P, PP);
    if (class_ == 0) {
      if (fresh) memory.fill(e + at, 0, <usize>nx << 2);
      continue;
    }
    const odd = ((j + k + colour) & 1) != 0;
    if (class_ == 1) {
      const end = <usize>(nx - 4) << 2;
      relaxSide(e + at, r + at, ax + at, <usize>P << 2, <usize>PP << 2, odd, fresh);
      if (fresh) relaxPlainFresh(e + at + 16, r + at + 16, end - 16, odd);
      else relaxPlain(e + at + 16, r + at + 16, end - 16, <usize>P << 2, <usize>PP << 2, odd);
      relaxSide(e + at + end, r + at + end, ax + at + end, <usize>P << 2, <usize>PP << 2, odd, fresh);
    } else relaxGeneral(e, r, ax, ay, az, at, 0, nx, nx, P, PP, odd, fresh);
  }
}

// @ts-ignore: decorator
@inline
function lanes(odd: bool): v128 {
  return odd ? i32x4(0, -1, 0, -1) : i32x4(-1, 0, -1, 0);
}

// @ts-ignore: decorator
@inline
function relaxPlain(e: usize, r: usize, bytes: usize, rs: usize, ps: usize, odd: bool): void {
  const sixth = f32x4.splat(1.0 / 6.0), mask = lanes(odd);
  const ym = e - rs, yp = e + rs, zm = e - ps, zp = e + ps;
  let left = v128.load(e - 16), here = v128.load(e);
  for (let o: usize = 0; o < bytes; o += 16) {
    const right = v128.load(e + o, 16);
    const x = f32x4.add(v128.shuffle<f32>(left, here, 3, 4, 5, 6), v128.shuffle<f32>(here, right, 1, 2, 3, 4));
    const y = f32x4.add(v128.load(ym + o), v128.load(yp + o));
    const z = f32x4.add(v128.load(zm + o), v128.load(zp + o));
    const s = f32x4.mul(sixth, f32x4.add(f32x4.add(v128.load(r + o), x), f32x4.add(y, z)));
    const next = v128.bitselect(s, here, mask);
    v128.store(e + o, next);
    left = here;
    here = right;
  }
}

/** The first or last four cells of a plain row: only their faces along x may be closed. */
// @ts-ignore: decorator
@inline
function relaxSide(e: usize, r: usize, ax: usize, rs: usize, ps: usize, odd: bool, fresh: bool): void {
  const lower = v128.load(ax), upper = v128.load(ax, 4);
  let s = v128.load(r);
  if (!fresh) {
    const x = f32x4.add(f32x4.mul(lower, v128.load(e - 4)), f32x4.mul(upper, v128.load(e, 4)));
    const y = f32x4.add(v128.load(e - rs), v128.load(e + rs)), z = f32x4.add(v128.load(e - ps), v128.load(e + ps));
    s = f32x4.add(f32x4.add(s, x), f32x4.add(y, z));
  }
  const d = f32x4.add(f32x4.splat(4), f32x4.add(lower, upper));
  v128.store(e, v128.bitselect(f32x4.div(s, d), fresh ? f32x4.splat(0) : v128.load(e), lanes(odd)));
}

// @ts-ignore: decorator
@inline
function relaxPlainFresh(e: usize, r: usize, bytes: usize, odd: bool): void {
  const sixth = f32x4.splat(1.0 / 6.0), mask = lanes(odd);
  for (let o: usize = 0; o < bytes; o += 16) v128.store(e + o, v128.and(f32x4.mul(sixth, v128.load(r + o)), mask));
}

function relaxGeneral(e: usize, r: usize, ax: usize, ay: usize, az: usize, at: usize, from: i32, to: i32, nx: i32, P: i32, PP: i32, odd: bool, fresh: bool): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  const tiny = f32x4.splat(1e-6), mask = lanes(odd);
  for (let i = from; i < to; i += 4) {
    const o = at + (<usize>i << 2);
    const d = diagonal(ax + o, ay + o, az + o, rs, ps);
    let s = v128.load(r + o);
    if (!fresh) s = f32x4.add(s, aroundWeighted(e + o, ax + o, ay + o, az + o, rs, ps));
    const x = v128.and(f32x4.div(s, f32x4.pmax(d, tiny)), v128.and(f32x4.gt(d, tiny), within(i, nx)));
    v128.store(e + o, v128.bitselect(x, fresh ? f32x4.splat(0) : v128.load(e + o), mask));
  }
}

/**
 * One colour on all planes of the slab, the other a plane behind it; the other colour of the first and last plane of the
 * slab reads the neighbouring slabs and is left to relaxEdges, so the result does not depend on slabs or threads.
 */
export function relaxPair(e: usize, r: usize, ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, P: i32, PP: i32, colour: i32, fresh: i32, k0: i32, k1: i32): void {
  for (let k = k0; k < k1; k++) {
    relaxPlane(e, r, ax, ay, az, kind, nx, ny, P, PP, k, colour, fresh != 0);
    if (k - 1 > k0) relaxPlane(e, r, ax, ay, az, kind, nx, ny, P, PP, k - 1, 1 - colour, false);
  }
}
export function relaxEdges(e: usize, r: usize, ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, P: i32, PP: i32, colour: i32, k0: i32, k1: i32): void {
  relaxPlane(e, r, ax, ay, az, kind, nx, ny, P, PP, k0, 1 - colour, false);
  if (k1 - 1 > k0) relaxPlane(e, r, ax, ay, az, kind, nx, ny, P, PP, k1 - 1, 1 - colour, false);
}

/** The coarsest level, by a symmetric run of sweeps. */
export function relaxCoarsest(e: usize, r: usize, ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, nz: i32, P: i32, PP: i32, sweeps: i32): void {
  for (let s = 0; s < 2 * sweeps; s++) {
    const colour = s < sweeps ? s & 1 : (~s) & 1;
    for (let k = 0; k < nz; k++) relaxPlane(e, r, ax, ay, az, kind, nx, ny, P, PP, k, colour, s == 0);
  }
}

/** q = r − L e, 0 in closed cells. */
export function residual(e: usize, r: usize, q: usize, ax: usize, ay: usize, az: usize, kind: usize, nx: i32, ny: i32, P: i32, PP: i32, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2, six = f32x4.splat(6), tiny = f32x4.splat(1e-6), zero = f32x4.splat(0);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const class_ = load<u8>(kind + <usize>(k * ny + j));
      const at = row(0, j, k, P, PP);
      for (let i = 0; i < nx; i += 4) {
        const o = at + (<usize>i << 2);
        if (class_ == 0) v128.store(q + o, zero);
        else if (class_ == 1 && i >= 4 && i < nx - 4) {
          v128.store(q + o, f32x4.add(f32x4.sub(v128.load(r + o), f32x4.mul(six, v128.load(e + o))), around(e + o, rs, ps)));
        } else {
          const d = diagonal(ax + o, ay + o, az + o, rs, ps);
          const x = f32x4.add(f32x4.sub(v128.load(r + o), f32x4.mul(d, v128.load(e + o))), aroundWeighted(e + o, ax + o, ay + o, az + o, rs, ps));
          v128.store(q + o, v128.and(x, v128.and(f32x4.gt(d, tiny), within(i, nx))));
        }
      }
    }
}

/**
 * Coarse right-hand side: weights 1 3 3 1 along each axis, the transpose of prolong, scaled for the doubled cell
 * (64 weights of sum 512/8 each; times 4 for the coarse operator). q's halo holds the mirrored residual at walls.
 * line: scratch for one row of the fine level for each thread's plane, at line + K · bytes.
 */
export function restrict(q: usize, b: usize, line: usize, P: i32, PP: i32, nx: i32, cx: i32, cy: i32, cP: i32, cPP: i32, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2;
  const n9 = f32x4.splat(9.0 * 4.0 / 512.0), n3 = f32x4.splat(3.0 * 4.0 / 512.0), n1 = f32x4.splat(4.0 / 512.0), three = f32x4.splat(3);
  for (let K = k0; K < k1; K++) {
    const t = line + <usize>K * ((<usize>P + 8) << 2) + 16;
    for (let J = 0; J < cy; J++) {
      const q00 = row(q, 2 * J - 1, 2 * K - 1, P, PP);
      for (let i = -4; i < nx + 4; i += 4) {
        const p = q00 + ((<isize>i) << 2);
        const z0 = p, z1 = p + ps, z2 = p + 2 * ps, z3 = p + 3 * ps;
        const corner = f32x4.add(f32x4.add(v128.load(z0), v128.load(z0 + 3 * rs)), f32x4.add(v128.load(z3), v128.load(z3 + 3 * rs)));
        const edge = f32x4.add(
          f32x4.add(f32x4.add(v128.load(z0 + rs), v128.load(z0 + 2 * rs)), f32x4.add(v128.load(z3 + rs), v128.load(z3 + 2 * rs))),
          f32x4.add(f32x4.add(v128.load(z1), v128.load(z1 + 3 * rs)), f32x4.add(v128.load(z2), v128.load(z2 + 3 * rs))));
        const mid = f32x4.add(f32x4.add(v128.load(z1 + rs), v128.load(z1 + 2 * rs)), f32x4.add(v128.load(z2 + rs), v128.load(z2 + 2 * rs)));
        v128.store(t + ((<isize>i) << 2), f32x4.add(f32x4.mul(n9, mid), f32x4.add(f32x4.mul(n3, edge), f32x4.mul(n1, corner))));
      }
      const to = row(b, J, K, cP, cPP);
      for (let I = 0; I < cx; I += 4) {
        const s = t + (<usize>(2 * I) << 2);
        const a = v128.load(s - 4), c = v128.load(s + 12), m = v128.load(s), n = v128.load(s, 16), d = v128.load(s, 4), f = v128.load(s, 20);
        // fine 2I-1, 2I, 2I+1, 2I+2
        const outer = f32x4.add(evens(a, c), odds(d, f));
        const inner = f32x4.add(evens(m, n), odds(m, n));
        v128.store(to + (<usize>I << 2), v128.and(f32x4.add(outer, f32x4.mul(three, inner)), within(I, cx)));
      }
    }
  }
}

/** fine += gain · trilinear coarse; where masked, only in cells that have an open face. coarse's halo is filled. */
export function prolong(coarse: usize, fine: usize, line: usize, ax: usize, ay: usize, az: usize, masked: i32, gain: f32, nx: i32, ny: i32, P: i32, PP: i32, cx: i32, cP: i32, cPP: i32, k0: i32, k1: i32): void {
  const rs = <usize>P << 2, ps = <usize>PP << 2, tiny = f32x4.splat(1e-6);
  const far = f32x4.splat(0.25), near = f32x4.splat(0.75), g = f32x4.splat(gain);
  for (let k = k0; k < k1; k++) {
    const K = k >> 1, K2 = k & 1 ? K + 1 : K - 1;
    const t = line + <usize>k * ((<usize>P + 8) << 2) + 16;
    for (let j = 0; j < ny; j++) {
      const J = j >> 1, J2 = j & 1 ? J + 1 : J - 1;
      const c00 = row(coarse, J, K, cP, cPP), c10 = row(coarse, J2, K, cP, cPP), c01 = row(coarse, J, K2, cP, cPP), c11 = row(coarse, J2, K2, cP, cPP);
      for (let i = -4; i < cx + 1; i += 4) {
        const o = (<isize>i) << 2;
        const a = f32x4.add(f32x4.mul(near, v128.load(c00 + o)), f32x4.mul(far, v128.load(c10 + o)));
        const b = f32x4.add(f32x4.mul(near, v128.load(c01 + o)), f32x4.mul(far, v128.load(c11 + o)));
        v128.store(t + o, f32x4.mul(g, f32x4.add(f32x4.mul(near, a), f32x4.mul(far, b))));
      }
      const at = row(0, j, k, P, PP);
      for (let i = 0; i < nx; i += 4) {
        const s = t + (<usize>(i >> 1) << 2), o = at + (<usize>i << 2);
        const m = v128.load(s); // c0 c1 . .
        const l = v128.load(s - 4); // c-1 c0 c1 c2
        const own = v128.shuffle<f32>(m, m, 0, 0, 1, 1);
        const next = v128.shuffle<f32>(l, l, 0, 2, 1, 3);
        let add = f32x4.add(f32x4.mul(near, own), f32x4.mul(far, next));
        if (masked) add = v128.and(add, v128.and(f32x4.gt(diagonal(ax + o, ay + o, az + o, rs, ps), tiny), within(i, nx)));
        v128.store(fine + o, f32x4.add(v128.load(fine + o), add));
      }
    }
  }
}

/** Partial sums of a · b, a plane each. */
export function dot(a: usize, b: usize, nx: i32, ny: i32, P: i32, PP: i32, parts: usize, slot: i32, k0: i32, k1: i32): void {
  for (let k = k0; k < k1; k++) {
    let s: f64 = 0;
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      let acc = f32x4.splat(0);
      for (let o = at, e = at + (<usize>nx << 2); o < e; o += 16) acc = f32x4.add(acc, f32x4.mul(v128.load(a + o), v128.load(b + o)));
      s += sum4(acc);
    }
    store<f64>(partial(parts, k, slot), s);
  }
}
