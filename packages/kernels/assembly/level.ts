// One level of the pressure hierarchy, as its kernels see it: a block of words that the step writes once per
// window.
//
// The solver's own fields are split by the parity of x: a row is [even x | 4 zeros | odd x | 4 zeros]. The
// two colours of red-black Gauss-Seidel and both grid transfers are then contiguous. Rows -1 and ny, planes
// -1 and nz, the gaps and the padding of a half row to whole vectors always hold 0, so what lies outside the
// window is p = 0;
// only in the pressure itself they may hold what the far field says (far-field.ts).
//
// The open fractions stay in the plain layout of common.ts. Where all faces of a row are open (or belong to
// the sides of the window) the operator needs no fractions, only the diagonal: nine rows of coefficients, by
// whether j and k are at an end, serve all of them. `kind` says for each row which vectors are not so: from |
// to << 8, in vectors of the half row.

import { byAxis } from './common';


@unmanaged
export class Level {
  nx: i32;
  ny: i32;
  nz: i32;
  /**
   * Bytes of a half row (whole vectors), from the even to the odd half, from row to row, from plane to plane.
   */
  half: i32;
  odd: i32;
  rowBytes: i32;
  planeBytes: i32;
  /** A bit for each side (−x +x −y +y −z +z) that is a wall. */
  walls: i32;
  ax: usize;
  ay: usize;
  az: usize;
  /** Bytes from row to row and plane to plane of the fractions. */
  faceRowBytes: i32;
  facePlaneBytes: i32;
  kind: usize;
  /** Nine times three rows: 1 / diagonal, diagonal, mask (all bits set where a cell is). */
  coefficients: usize;
  r: usize;
  e: usize;
  q: usize;
  /** Scratch of a slab: eleven planes and four rows, and how many bytes that is. */
  ring: usize;
  ringBytes: i32;
  /** Rows that a sweep takes at a time, so that its planes stay in the cache. */
  tile: i32;
  /** What a face on each side counts in the operator. */
  side0: f32;
  side1: f32;
  side2: f32;
  side3: f32;
  side4: f32;
  side5: f32;
}

// @ts-ignore: decorator
@inline
export function at(f: usize, L: Level, j: i32, k: i32): usize {
  return f + <isize>(k * L.planeBytes + j * L.rowBytes);
}

// @ts-ignore: decorator
@inline
export function kindOf(L: Level, j: i32, k: i32): u32 {
  return load<u32>(L.kind + ((<usize>(k * L.ny + j)) << 2));
}

/** 0 at the first of n rows, 2 at the last, 1 between. */
// @ts-ignore: decorator
@inline
function rowKind(n: i32, rows: i32): i32 {
  if (n == 0) return 0;
  return n == rows - 1 ? 2 : 1;
}

/** The coefficient rows of a plain row. */
// @ts-ignore: decorator
@inline
export function coefficientRow(L: Level, j: i32, k: i32): usize {
  const a = rowKind(j, L.ny);
  const b = rowKind(k, L.nz);
  return L.coefficients + <usize>((b * 3 + a) * 3 * L.rowBytes);
}

/** Sum of the open parts of a cell's six faces; o: its offset in the face fractions. */
// @ts-ignore: decorator
@inline
export function openness(L: Level, o: usize): f32 {
  const x = L.ax + o;
  const y = L.ay + o;
  const z = L.az + o;
  return (
    load<f32>(x) +
    load<f32>(x + 4) +
    load<f32>(y) +
    load<f32>(y + L.faceRowBytes) +
    load<f32>(z) +
    load<f32>(z + L.facePlaneBytes)
  );
}

/** Whether air can enter or leave a cell; o: its offset in the face fractions. */
// @ts-ignore: decorator
@inline
export function isOpen(L: Level, o: usize): bool {
  return openness(L, o) > 1e-6;
}

/** Writes the nine coefficient rows. */
export function fillCoefficients(level: usize): void {
  const L = changetype<Level>(level);
  for (let b = 0; b < 3; b++)
    for (let a = 0; a < 3; a++) {
      const to = L.coefficients + <usize>((b * 3 + a) * 3 * L.rowBytes);
      memory.fill(to, 0, 3 * L.rowBytes);
      const yz: f32 =
        (a == 0 ? L.side2 : 1) + (a == 2 ? L.side3 : 1) + (b == 0 ? L.side4 : 1) + (b == 2 ? L.side5 : 1);
      for (let i = 0; i < L.nx; i++) {
        const d: f32 = yz + (i == 0 ? L.side0 : 1) + (i == L.nx - 1 ? L.side1 : 1);
        const o = to + (i & 1 ? <usize>L.odd : 0) + <usize>((i >> 1) << 2);
        store<f32>(o, 1 / d);
        store<f32>(o + L.rowBytes, d);
        store<i32>(o + 2 * L.rowBytes, -1);
      }
    }
}

/** Finds the vectors of each row whose faces are not all plain. */
export function classifyRows(level: usize, j0: i32, j1: i32, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const aP = L.faceRowBytes;
  const aPP = L.facePlaneBytes;
  const last = L.nx - 1;
  for (let k = k0; k < k1; k++) {
    const c0: f32 = k == 0 ? L.side4 : 1;
    const c1: f32 = k == L.nz - 1 ? L.side5 : 1;
    for (let j = j0; j < j1; j++) {
      const b0: f32 = j == 0 ? L.side2 : 1;
      const b1: f32 = j == L.ny - 1 ? L.side3 : 1;
      const o = <usize>(k * aPP + j * aP);
      const x = L.ax + o;
      const y = L.ay + o;
      const z = L.az + o;
      let from = 255;
      let to = 0;
      for (let i = 0; i <= last; i++) {
        const q = (<usize>i) << 2;
        if (
          load<f32>(x + q) == (i == 0 ? L.side0 : 1) &&
          load<f32>(x + q + 4) == (i == last ? L.side1 : 1) &&
          load<f32>(y + q) == b0 &&
          load<f32>(y + q + aP) == b1 &&
          load<f32>(z + q) == c0 &&
          load<f32>(z + q + aPP) == c1
        )
          continue;
        from = min(from, i >> 3);
        to = max(to, (i >> 3) + 1);
      }

      store<u32>(L.kind + ((<usize>(k * L.ny + j)) << 2), to == 0 ? 0 : <u32>(from | (to << 8)));
    }
  }
}

/**
 * Open fractions of a coarse level: the mean of the four fine faces.
 * ghost: growth of an open side's coefficient, since p = 0 stays half a *finest* cell outside at every level.
 */
export function coarsenFaces(fine: usize, coarse: usize, axis: i32, ghost: f32, k0: i32, k1: i32): void {
  const F = changetype<Level>(fine);
  const C = changetype<Level>(coarse);
  const from = byAxis(axis, F.ax, F.ay, F.az);
  const into = byAxis(axis, C.ax, C.ay, C.az);
  const nx = F.nx;
  const ny = F.ny;
  const nz = F.nz;
  const mx = C.nx + i32(axis == 0);
  const my = C.ny + i32(axis == 1);
  const side = byAxis(axis, nx, ny, nz);
  for (let K = k0; K < k1; K++)
    for (let J = 0; J < my; J++)
      for (let I = 0; I < mx; I++) {
        let s: f32 = 0;
        const normal = min(byAxis(axis, I, J, K) * 2, side);
        for (let q = 0; q < 4; q++) {
          const a = q & 1;
          const b = q >> 1;
          const i = axis == 0 ? normal : 2 * I + a;
          const j = axis == 1 ? normal : 2 * J + (axis == 0 ? a : b);
          const k = axis == 2 ? normal : 2 * K + b;
          if (i < nx + i32(axis == 0) && j < ny + i32(axis == 1) && k < nz + i32(axis == 2))
            s += load<f32>(from + <usize>(k * F.facePlaneBytes + j * F.faceRowBytes + (i << 2)));
        }

        const rim = normal == 0 || normal == side;
        store<f32>(
          into + <usize>(K * C.facePlaneBytes + J * C.faceRowBytes + (I << 2)),
          <f32>0.25 * s * (rim ? ghost : 1),
        );
      }
}

/** Lanes of even (or odd) x out of eight plain values. */
// @ts-ignore: decorator
@inline
export function half(plain: usize, isOdd: bool): v128 {
  const a = v128.load(plain);
  const b = v128.load(plain, 16);
  return isOdd ? v128.shuffle<f32>(a, b, 1, 3, 5, 7) : v128.shuffle<f32>(a, b, 0, 2, 4, 6);
}

/**
 * The fractions of the six faces of four cells of one parity, o bytes into the half row: written to six
 * locals by callers.
 */
// @ts-ignore: decorator
@inline
export function lowerX(x: usize, o: usize, isOdd: bool): v128 {
  return half(x + 2 * o, isOdd);
}
// @ts-ignore: decorator
@inline
export function upperX(x: usize, o: usize, isOdd: bool): v128 {
  return isOdd ? half(x + 2 * o + 8, false) : half(x + 2 * o, true);
}
