// Plain operations on whole fields.
import { max4, partial, row } from './common';
import { kindOf, Level } from './level';

/** f += gain · g: the age of a medium grows by what there is of it. */
export function addScaled(
  f: usize,
  g: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  gain: f32,
  k0: i32,
  k1: i32,
): void {
  const s = f32x4.splat(gain);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16)
        v128.store(f + o, f32x4.add(v128.load(f + o), f32x4.mul(s, v128.load(g + o))));
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

/** Sets a box of cells of a field. */
export function fillBox(
  f: usize,
  value: f32,
  i0: i32,
  i1: i32,
  j0: i32,
  j1: i32,
  from: i32,
  to: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = max(k0, from); k < min(k1, to); k++)
    for (let j = j0; j < j1; j++) {
      const at = row(f, j, k, rowStride, planeStride);
      for (let i = i0; i < i1; i++) store<f32>(at + ((<usize>i) << 2), value);
    }
}

/** Nothing stays inside an obstacle: cells whose six faces are closed become 0. */
export function clearSolids(level: usize, f: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const rs = <usize>L.faceRowBytes;
  const ps = <usize>L.facePlaneBytes;
  const zero = f32x4.splat(0);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < L.ny; j++) {
      const kind = kindOf(L, j, k);
      const at = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
      const x = L.ax + at;
      const y = L.ay + at;
      const z = L.az + at;
      for (
        let o = (<usize>(kind & 255)) << 5, to = min<usize>((<usize>(kind >> 8)) << 5, (<usize>L.nx) << 2);
        o < to;
        o += 16
      ) {
        const open = f32x4.add(
          f32x4.add(
            f32x4.add(v128.load(x + o), v128.load(x + o, 4)),
            f32x4.add(v128.load(y + o), v128.load(y + o + rs)),
          ),
          f32x4.add(v128.load(z + o), v128.load(z + o + ps)),
        );
        v128.store(f + at + o, v128.and(v128.load(f + at + o), f32x4.gt(open, zero)));
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
