// The pressure around the multigrid preconditioner: right-hand side and conjugate-gradient steps. The unknown
// is dt/(ρ h) · pressure, a velocity. Velocities are in the plain layout of common.ts, everything else in the
// split one of level.ts.
import { around, general, residualHalf } from './relax';
import { plane, spareRow } from './ring';
import { at, coefficientRow, isOpen, kindOf, Level } from './level';
import { evens, max4, odds, partial, sum4 } from './common';

/**
 * −div u of a row in plain order, cells nx and above 0. outflow: 0, or a field of what must flow out of a
 * cell (m/s over a voxel).
 */
export function outflowRow(
  L: Level,
  u: usize,
  v: usize,
  w: usize,
  outflow: usize,
  line: usize,
  j: i32,
  k: i32,
): void {
  const rs = <usize>L.faceRowBytes;
  const ps = <usize>L.facePlaneBytes;
  const o = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
  const end = (<usize>L.nx) << 2;
  u += o;
  v += o;
  w += o;
  for (let i: usize = 0; i < end; i += 16)
    v128.store(
      line + i,
      f32x4.add(
        f32x4.sub(v128.load(u + i), v128.load(u + i, 4)),
        f32x4.add(
          f32x4.sub(v128.load(v + i), v128.load(v + i + rs)),
          f32x4.sub(v128.load(w + i), v128.load(w + i + ps)),
        ),
      ),
    );
  const kind = kindOf(L, j, k);
  if (kind) {
    const ax = L.ax + o;
    const ay = L.ay + o;
    const az = L.az + o;
    for (
      let i = (<usize>(kind & 255)) << 5, to = min<usize>(end, (<usize>(kind >> 8)) << 5);
      i < to;
      i += 16
    ) {
      const b = f32x4.add(
        f32x4.sub(
          f32x4.mul(v128.load(ax + i), v128.load(u + i)),
          f32x4.mul(v128.load(ax + i, 4), v128.load(u + i, 4)),
        ),
        f32x4.add(
          f32x4.sub(
            f32x4.mul(v128.load(ay + i), v128.load(v + i)),
            f32x4.mul(v128.load(ay + i + rs), v128.load(v + i + rs)),
          ),
          f32x4.sub(
            f32x4.mul(v128.load(az + i), v128.load(w + i)),
            f32x4.mul(v128.load(az + i + ps), v128.load(w + i + ps)),
          ),
        ),
      );
      v128.store(line + i, b);
    }
  }

  if (outflow)
    for (let i: usize = 0; i < end; i += 16)
      v128.store(line + i, f32x4.add(v128.load(line + i), v128.load(outflow + o + i)));
  if (L.nx & 4) v128.store(line + end, f32x4.splat(0));
}

/**
 * r = −div u + outflow − L p: what the pressure of the step before leaves to do. Partials: slot 0 the
 * greatest |div u|, 1 the greatest |r|.
 */
export function rightHandSide(
  level: usize,
  u: usize,
  v: usize,
  w: usize,
  outflow: usize,
  p: usize,
  partials: usize,
  slab: i32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const ring = L.ring + <usize>(k0 / slab) * <usize>L.ringBytes;
  const line = spareRow(L, ring, 0);
  const b = spareRow(L, ring, 3);
  const zero = plane(L, ring, 10);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0);
    let left = f32x4.splat(0);
    for (let j = 0; j < L.ny; j++) {
      outflowRow(L, u, v, w, outflow, line, j, k);
      for (let m: usize = 0; m < <usize>L.half; m += 16) {
        const x = v128.load(line + 2 * m);
        const y = v128.load(line + 2 * m, 16);
        v128.store(b + m, evens(x, y));
        v128.store(b + m + L.odd, odds(x, y));
      }

      // no pressure reaches a cell without an open face, and none of its divergence counts
      const r = at(L.r, L, j, k);
      const e = at(p, L, j, k);
      for (let h = 0; h < 2; h++) {
        const o = h ? <usize>L.odd : 0;
        if (kindOf(L, j, k)) {
          residualHalf(L, r, zero, zero, zero, b, j, k, h != 0);
          for (let m: usize = 0; m < <usize>L.half; m += 16)
            most = f32x4.pmax(most, f32x4.abs(v128.load(r + o + m)));
        } else
          for (let m: usize = 0; m < <usize>L.half; m += 16)
            most = f32x4.pmax(most, f32x4.abs(v128.load(b + o + m)));
        residualHalf(L, r, e, e - L.planeBytes, e + L.planeBytes, b, j, k, h != 0);
        for (let m: usize = 0; m < <usize>L.half; m += 16)
          left = f32x4.pmax(left, f32x4.abs(v128.load(r + o + m)));
      }
    }

    store<f64>(partial(partials, k, 0), <f64>max4(most));
    store<f64>(partial(partials, k, 1), <f64>max4(left));
  }
}

/** Of the residual: its sum into slot 0 and the number of cells that have an open face into slot 1. */
export function sumResidual(level: usize, partials: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  for (let k = k0; k < k1; k++) {
    let sum: f64 = 0;
    let count: f64 = 0;
    for (let j = 0; j < L.ny; j++) {
      const r = at(L.r, L, j, k);
      const a = k * L.facePlaneBytes + j * L.faceRowBytes;
      for (let i = 0; i < L.nx; i++) {
        if (!isOpen(L, a + (i << 2))) continue;
        sum += <f64>load<f32>(r + (i & 1 ? <usize>L.odd : 0) + <usize>((i >> 1) << 2));
        count += 1;
      }
    }

    store<f64>(partial(partials, k, 0), sum);
    store<f64>(partial(partials, k, 1), count);
  }
}

/** r −= mean in open cells: a box without an open side can only be solved up to a constant. */
export function removeMean(level: usize, mean: f32, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < L.ny; j++) {
      const r = at(L.r, L, j, k);
      const a = k * L.facePlaneBytes + j * L.faceRowBytes;
      for (let i = 0; i < L.nx; i++) {
        if (!isOpen(L, a + (i << 2))) continue;
        const o = r + (i & 1 ? <usize>L.odd : 0) + <usize>((i >> 1) << 2);
        store<f32>(o, load<f32>(o) - mean);
      }
    }
}

/**
 * −L s, into the spare row, in vectors from..to of half a row, where some faces are less than open; s in
 * whole planes. Returns −Σ s · L s.
 */
// @ts-ignore: decorator
@inline
function besideWalls(
  L: Level,
  ring: usize,
  e: usize,
  x: usize,
  j: i32,
  k: i32,
  isOdd: bool,
  from: usize,
  to: usize,
): v128 {
  const mask = coefficientRow(L, j, k) + (isOdd ? <usize>L.odd : 0) + 2 * L.rowBytes;
  const line = spareRow(L, ring, 0);
  const zero = plane(L, ring, 10);
  const below = e - L.planeBytes;
  const above = e + L.planeBytes;
  return general(L, line, e, x, below, above, zero, 0, j, k, isOdd, mask, from, to, 2);
}

/** acc + Σ s · L s in vectors from..to of half a row whose faces are all open. */
// @ts-ignore: decorator
@inline
function plainEnergy(acc: v128, L: Level, e: usize, x: usize, c: usize, from: usize, to: usize): v128 {
  for (let m = from; m < to; m += 16) {
    const v = v128.load(e + m);
    const off = around(e + m, x + m, e - L.planeBytes + m, e + L.planeBytes + m, L.rowBytes);
    acc = f32x4.add(acc, f32x4.mul(v, f32x4.sub(f32x4.mul(v128.load(c + m), v), off)));
  }

  return acc;
}

/** Σ s · L s of one plane. */
function energyOf(L: Level, ring: usize, s: usize, k: i32): f64 {
  const end = <usize>L.half;
  let sum: f64 = 0;
  for (let j = 0; j < L.ny; j++) {
    const kind = kindOf(L, j, k);
    const from = kind ? (<usize>(kind & 255)) << 4 : end;
    const to = kind ? (<usize>(kind >> 8)) << 4 : end;
    for (let h = 0; h < 2; h++) {
      const o = h ? <usize>L.odd : 0;
      const e = at(s, L, j, k) + o;
      const x = h ? e - o : e + L.odd - 4;
      const c = coefficientRow(L, j, k) + o + L.rowBytes;
      let acc = plainEnergy(f32x4.splat(0), L, e, x, c, 0, from);
      if (kind) acc = f32x4.sub(acc, besideWalls(L, ring, e, x, j, k, h != 0, from, to));
      acc = plainEnergy(acc, L, e, x, c, to, end);
      sum += sum4(acc);
    }
  }

  return sum;
}

/**
 * s = e + beta s (beta 0: s is left as it is), and Σ s · L s, a partial sum a plane, into slot 0. The first
 * and the last plane of a slab read the neighbouring slabs and are left to energyEdges.
 */
export function updateDirection(
  level: usize,
  s: usize,
  beta: f32,
  partials: usize,
  slab: i32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const ring = L.ring + <usize>(k0 / slab) * <usize>L.ringBytes;
  const b = f32x4.splat(beta);
  for (let k = k0; k < k1; k++) {
    if (beta != 0) {
      const e = at(L.e, L, 0, k);
      const t = at(s, L, 0, k);
      for (let o: usize = 0, end = <usize>(L.ny * L.rowBytes); o < end; o += 16)
        v128.store(t + o, f32x4.add(v128.load(e + o), f32x4.mul(b, v128.load(t + o))));
    }

    if (k - 1 > k0) store<f64>(partial(partials, k - 1, 0), energyOf(L, ring, s, k - 1));
  }
}

export function directionEnergyEdges(
  level: usize,
  s: usize,
  partials: usize,
  slab: i32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const ring = L.ring + <usize>(k0 / slab) * <usize>L.ringBytes;
  store<f64>(partial(partials, k0, 0), energyOf(L, ring, s, k0));
  if (k1 - 1 > k0) store<f64>(partial(partials, k1 - 1, 0), energyOf(L, ring, s, k1 - 1));
}

/** p += alpha s, r −= alpha L s; the greatest |r| into slot 0. */
export function updateSolution(
  level: usize,
  p: usize,
  s: usize,
  alpha: f32,
  partials: usize,
  slab: i32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const ring = L.ring + <usize>(k0 / slab) * <usize>L.ringBytes;
  const rowStride = <isize>L.rowBytes;
  const end = <usize>L.half;
  const a = f32x4.splat(alpha);
  const line = spareRow(L, ring, 0);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0);
    for (let j = 0; j < L.ny; j++) {
      const kind = kindOf(L, j, k);
      const from = kind ? (<usize>(kind & 255)) << 4 : end;
      const to = kind ? (<usize>(kind >> 8)) << 4 : end;
      for (let h = 0; h < 2; h++) {
        const o = h ? <usize>L.odd : 0;
        const e = at(s, L, j, k) + o;
        const x = h ? e - o : e + L.odd - 4;
        const r = at(L.r, L, j, k) + o;
        const q = at(p, L, j, k) + o;
        const c = coefficientRow(L, j, k) + o + rowStride;
        if (kind) besideWalls(L, ring, e, x, j, k, h != 0, from, to);
        for (let m: usize = 0; m < end; m += 16) {
          const v = v128.load(e + m);
          let minus: v128; // −L s
          if (m < from || m >= to)
            minus = v128.and(
              f32x4.sub(
                around(e + m, x + m, e - L.planeBytes + m, e + L.planeBytes + m, rowStride),
                f32x4.mul(v128.load(c + m), v),
              ),
              v128.load(c + rowStride + m),
            );
          else minus = v128.load(line + m);
          const b = f32x4.add(v128.load(r + m), f32x4.mul(a, minus));
          v128.store(q + m, f32x4.add(v128.load(q + m), f32x4.mul(a, v)));
          v128.store(r + m, b);
          most = f32x4.pmax(most, f32x4.abs(b));
        }
      }
    }

    store<f64>(partial(partials, k, 0), <f64>max4(most));
  }
}
