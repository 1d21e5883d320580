// One row of the pressure operator: Gauss–Seidel of one colour, and what it leaves (see multigrid.ts).
import { coefficientRow, half, kindOf, Level, lowerX, upperX } from './level';
import { Constant, constant } from './common';

// @ts-ignore: decorator
@inline
export function around(e: usize, x: usize, zm: usize, zp: usize, rowStride: isize): v128 {
  return f32x4.add(
    f32x4.add(v128.load(x), v128.load(x, 4)),
    f32x4.add(
      f32x4.add(v128.load(e - rowStride), v128.load(e + rowStride)),
      f32x4.add(v128.load(zm), v128.load(zp)),
    ),
  );
}

// @ts-ignore: decorator
@inline
function relaxPlain(
  e: usize,
  x: usize,
  zm: usize,
  zp: usize,
  r: usize,
  inv: usize,
  rowStride: isize,
  from: usize,
  to: usize,
): void {
  for (let o = from; o < to; o += 16)
    v128.store(
      e + o,
      f32x4.mul(
        v128.load(inv + o),
        f32x4.add(v128.load(r + o), around(e + o, x + o, zm + o, zp + o, rowStride)),
      ),
    );
}

/** The same, into `copy` too; returns Σ e r. */
// @ts-ignore: decorator
@inline
function relaxPlainKeep(
  e: usize,
  x: usize,
  zm: usize,
  zp: usize,
  r: usize,
  inv: usize,
  copy: usize,
  rowStride: isize,
  from: usize,
  to: usize,
): v128 {
  let acc = f32x4.splat(0);
  for (let o = from; o < to; o += 16) {
    const b = v128.load(r + o);
    const v = f32x4.mul(v128.load(inv + o), f32x4.add(b, around(e + o, x + o, zm + o, zp + o, rowStride)));
    v128.store(e + o, v);
    v128.store(copy + o, v);
    acc = f32x4.add(acc, f32x4.mul(b, v));
  }

  return acc;
}

/**
 * Vectors from..to of a row with fractions. mode 0: relax, 1: relax from zero (no neighbour is read), 2:
 * residual r − L e. copy: 0, or where a relaxed value goes as well; returns Σ value · r, or Σ value · e of a
 * residual.
 */
export function general(
  L: Level,
  to: usize,
  e: usize,
  x: usize,
  zm: usize,
  zp: usize,
  r: usize,
  copy: usize,
  j: i32,
  k: i32,
  isOdd: bool,
  mask: usize,
  from: usize,
  end: usize,
  mode: i32,
): v128 {
  const rowStride = L.rowBytes;
  const aP = L.faceRowBytes;
  const aPP = L.facePlaneBytes;
  const tiny = constant(Constant.TINY);
  const a = <usize>(k * aPP + j * aP);
  const ax = L.ax + a;
  const ay = L.ay + a;
  const az = L.az + a;
  let acc = f32x4.splat(0);
  for (let o = from; o < end; o += 16) {
    const x0 = lowerX(ax, o, isOdd);
    const x1 = upperX(ax, o, isOdd);
    const y0 = half(ay + 2 * o, isOdd);
    const y1 = half(ay + 2 * o + aP, isOdd);
    const z0 = half(az + 2 * o, isOdd);
    const z1 = half(az + 2 * o + aPP, isOdd);
    const d = f32x4.add(f32x4.add(f32x4.add(x0, x1), f32x4.add(y0, y1)), f32x4.add(z0, z1));
    const lives = v128.and(f32x4.gt(d, tiny), v128.load(mask + o));
    const b = v128.load(r + o);
    let s = b;
    if (mode != 1) {
      s = f32x4.add(
        s,
        f32x4.add(
          f32x4.add(f32x4.mul(x0, v128.load(x + o)), f32x4.mul(x1, v128.load(x + o, 4))),
          f32x4.add(
            f32x4.add(
              f32x4.mul(y0, v128.load(e + o - rowStride)),
              f32x4.mul(y1, v128.load(e + o + rowStride)),
            ),
            f32x4.add(f32x4.mul(z0, v128.load(zm + o)), f32x4.mul(z1, v128.load(zp + o))),
          ),
        ),
      );
    }

    if (mode == 2) s = f32x4.sub(s, f32x4.mul(d, v128.load(e + o)));
    else s = f32x4.div(s, f32x4.pmax(d, tiny));
    s = v128.and(s, lives);
    v128.store(to + o, s);
    if (copy) v128.store(copy + o, s);
    acc = f32x4.add(acc, f32x4.mul(mode == 2 ? v128.load(e + o) : b, s));
  }

  return acc;
}

/**
 * Gauss–Seidel of one colour in row (j, k): e = (r + Σ A e_neighbour) / Σ A. e, zm, zp: the row in the planes
 * k, k−1, k+1. copy: 0, or the row that takes the result as well; returns Σ e r then.
 */
export function relaxRow(
  L: Level,
  e: usize,
  zm: usize,
  zp: usize,
  r: usize,
  copy: usize,
  j: i32,
  k: i32,
  colour: i32,
): v128 {
  const isOdd = ((j + k + colour) & 1) != 0;
  const o = isOdd ? L.odd : 0;
  const x = isOdd ? e : e + L.odd - 4;
  const rowStride = <isize>L.rowBytes;
  const end = <usize>L.half;
  const inv = coefficientRow(L, j, k) + o;
  const kind = kindOf(L, j, k);
  const from = (<usize>(kind & 255)) << 4;
  const to = (<usize>(kind >> 8)) << 4;
  e += o;
  zm += o;
  zp += o;
  r += o;
  if (copy) {
    copy += o;
    if (kind == 0) return relaxPlainKeep(e, x, zm, zp, r, inv, copy, rowStride, 0, end);
    return f32x4.add(
      f32x4.add(
        relaxPlainKeep(e, x, zm, zp, r, inv, copy, rowStride, 0, from),
        general(L, e, e, x, zm, zp, r, copy, j, k, isOdd, inv + 2 * rowStride, from, to, 0),
      ),
      relaxPlainKeep(e, x, zm, zp, r, inv, copy, rowStride, to, end),
    );
  }

  if (kind == 0) relaxPlain(e, x, zm, zp, r, inv, rowStride, 0, end);
  else {
    relaxPlain(e, x, zm, zp, r, inv, rowStride, 0, from);
    general(L, e, e, x, zm, zp, r, 0, j, k, isOdd, inv + 2 * rowStride, from, to, 0);
    relaxPlain(e, x, zm, zp, r, inv, rowStride, to, end);
  }

  return f32x4.splat(0);
}

/** The first red: what relaxRow gives where all neighbours are 0. */
export function startRow(L: Level, e: usize, r: usize, j: i32, k: i32): void {
  const isOdd = ((j + k) & 1) != 0;
  const o = isOdd ? L.odd : 0;
  const end = <usize>L.half;
  const inv = coefficientRow(L, j, k) + o;
  const kind = kindOf(L, j, k);
  e += o;
  r += o;
  for (let m: usize = 0; m < end; m += 16) v128.store(e + m, f32x4.mul(v128.load(inv + m), v128.load(r + m)));
  if (kind)
    general(
      L,
      e,
      e,
      e,
      e,
      e,
      r,
      0,
      j,
      k,
      isOdd,
      inv + 2 * <usize>L.rowBytes,
      (<usize>(kind & 255)) << 4,
      (<usize>(kind >> 8)) << 4,
      1,
    );
}

/** d = r − L e in the even or odd cells of a row. */
export function residualHalf(
  L: Level,
  d: usize,
  e: usize,
  zm: usize,
  zp: usize,
  r: usize,
  j: i32,
  k: i32,
  isOdd: bool,
): void {
  const o = isOdd ? L.odd : 0;
  const x = isOdd ? e : e + L.odd - 4;
  const rowStride = <isize>L.rowBytes;
  const end = <usize>L.half;
  const diagonal = coefficientRow(L, j, k) + o + rowStride;
  const mask = diagonal + rowStride;
  const kind = kindOf(L, j, k);
  e += o;
  zm += o;
  zp += o;
  r += o;
  d += o;
  for (let m: usize = 0; m < end; m += 16) {
    const s = f32x4.sub(
      around(e + m, x + m, zm + m, zp + m, rowStride),
      f32x4.mul(v128.load(diagonal + m), v128.load(e + m)),
    );
    v128.store(d + m, v128.and(f32x4.add(v128.load(r + m), s), v128.load(mask + m)));
  }

  if (kind)
    general(
      L,
      d,
      e,
      x,
      zm,
      zp,
      r,
      0,
      j,
      k,
      isOdd,
      mask,
      (<usize>(kind & 255)) << 4,
      (<usize>(kind >> 8)) << 4,
      2,
    );
}
