// What lies outside the window: the domain about it on cells four times as large. The pressure that the
// window's divergence makes goes on there, so that the window's sides meet what they would in all of it.
import { byAxis, partial, sum4 } from './common';
import { at, Level } from './level';
import { spareRow } from './ring';
import { outflowRow } from './projection';
import { faces, offset } from './solids';

/** Fine cells to a far one along an edge. */
const TIMES: i32 = 4;

/** Cell i of a row of a field that is split by the parity of x. */
// @ts-ignore: decorator
@inline
function cell(L: Level, f: usize, i: i32, j: i32, k: i32): usize {
  return at(f, L, j, k) + (i & 1 ? <usize>L.odd : 0) + <isize>((i >> 1) << 2);
}

/**
 * The residual of the far cells without a pressure: a quarter of the sum of −div u over the 64 cells of the
 * window in each, 0 outside of the window (flows are sums over 16 faces, and the far cells' differences of
 * pressure lie four times as far apart). The greatest of a plane into slot 0.
 * i, j, k: the far cell that the window begins in.
 */
export function farDivergence(
  fine: usize,
  far: usize,
  u: usize,
  v: usize,
  w: usize,
  outflow: usize,
  i: i32,
  j: i32,
  k: i32,
  partials: usize,
  slab: i32,
  k0: i32,
  k1: i32,
): void {
  const F = changetype<Level>(fine);
  const L = changetype<Level>(far);
  const ring = F.ring + <usize>(k0 / slab) * <usize>F.ringBytes;
  const line = spareRow(F, ring, 0);
  const sums = spareRow(F, ring, 3);
  const end = (<usize>F.nx) << 2;
  for (let c = k0; c < k1; c++) {
    let most: f32 = 0;
    const z = TIMES * (c - k);
    for (let b = 0; b < L.ny; b++) {
      memory.fill(at(L.r, L, b, c), 0, L.rowBytes - 16);
      const y = TIMES * (b - j);
      if (z < 0 || z >= F.nz || y < 0 || y >= F.ny) continue;
      memory.fill(sums, 0, end);
      for (let q = z, last = min(F.nz, z + TIMES); q < last; q++)
        for (let p = y, lastRow = min(F.ny, y + TIMES); p < lastRow; p++) {
          outflowRow(F, u, v, w, outflow, line, p, q);
          for (let o: usize = 0; o < end; o += 16)
            v128.store(sums + o, f32x4.add(v128.load(sums + o), v128.load(line + o)));
        }

      for (let a = 0; a << 2 < F.nx; a++) {
        const r = <f32>(0.25 * sum4(v128.load(sums + ((<usize>a) << 4))));
        store<f32>(cell(L, L.r, i + a, b, c), r);
        most = max(most, abs(r));
      }
    }

    store<f64>(partial(partials, c, 0), <f64>most);
  }
}

/**
 * Open parts of the far faces across an axis: the mean of the sixteen fine ones where the window is, all of
 * it elsewhere; at the sides of the far box what they count for. Run over the planes of those faces.
 */
export function farFaces(fine: usize, far: usize, axis: i32, i: i32, j: i32, k: i32, k0: i32, k1: i32): void {
  const F = changetype<Level>(fine);
  const L = changetype<Level>(far);
  const from = faces(F, axis);
  const to = faces(L, axis);
  const last = byAxis(axis, L.nx, L.ny, L.nz);
  const lower = byAxis(axis, L.side0, L.side2, L.side4);
  const upper = byAxis(axis, L.side1, L.side3, L.side5);
  for (let c = k0; c < k1; c++)
    for (let b = 0, rows = L.ny + i32(axis == 1); b < rows; b++)
      for (let a = 0, many = L.nx + i32(axis == 0); a < many; a++) {
        const n = byAxis(axis, a, b, c);
        let open: f32 = 1;
        if (n == 0) open = lower;
        else if (n == last) open = upper;
        const x = TIMES * (a - i);
        const y = TIMES * (b - j);
        const z = TIMES * (c - k);
        let sum: f32 = 0;
        let found: f32 = 0;
        for (let q = 0; q < TIMES * TIMES; q++) {
          const one = q & 3;
          const two = q >> 2;
          const fi = axis == 0 ? x : x + one;
          const fj = axis == 1 ? y : y + (axis == 0 ? one : two);
          const fk = axis == 2 ? z : z + two;
          if (fi < 0 || fj < 0 || fk < 0) continue;
          if (fi >= F.nx + i32(axis == 0) || fj >= F.ny + i32(axis == 1) || fk >= F.nz + i32(axis == 2))
            continue;
          sum += load<f32>(from + offset(F, fi, fj, fk));
          found += 1;
        }

        store<f32>(to + offset(L, a, b, c), found > 0 ? (open * sum) / found : open);
      }
}

/** A value of the far pressure; beyond walls it goes on, beyond open sides it is 0. */
// @ts-ignore: decorator
@inline
function valueAt(L: Level, p: usize, i: i32, j: i32, k: i32): f32 {
  if (i < 0 || i >= L.nx) {
    if (!((L.walls >> i32(i >= 0)) & 1)) return 0;
    i = i < 0 ? 0 : L.nx - 1;
  }

  if (j < 0 || j >= L.ny) {
    if (!((L.walls >> (2 + i32(j >= 0))) & 1)) return 0;
    j = j < 0 ? 0 : L.ny - 1;
  }

  if (k < 0 || k >= L.nz) {
    if (!((L.walls >> (4 + i32(k >= 0))) & 1)) return 0;
    k = k < 0 ? 0 : L.nz - 1;
  }

  return load<f32>(cell(L, p, i, j, k));
}

/**
 * The far pressure in the cells just outside of a side of the window, into the ring of zeros around `p`.
 * side: −x +x −y +y −z +z; i, j, k: the far cell that the window begins in.
 */
export function farGhosts(
  fine: usize,
  far: usize,
  p: usize,
  farP: usize,
  side: i32,
  i: i32,
  j: i32,
  k: i32,
): void {
  const F = changetype<Level>(fine);
  const L = changetype<Level>(far);
  const axis = side >> 1;
  const n = side & 1 ? byAxis(axis, F.nx, F.ny, F.nz) : -1;
  for (let c = axis == 2 ? n : 0, ec = axis == 2 ? n + 1 : F.nz; c < ec; c++)
    for (let b = axis == 1 ? n : 0, eb = axis == 1 ? n + 1 : F.ny; b < eb; b++)
      for (let a = axis == 0 ? n : 0, ea = axis == 0 ? n + 1 : F.nx; a < ea; a++) {
        const x = <f32>i + (<f32>a + <f32>0.5) / <f32>TIMES - <f32>0.5;
        const y = <f32>j + (<f32>b + <f32>0.5) / <f32>TIMES - <f32>0.5;
        const z = <f32>k + (<f32>c + <f32>0.5) / <f32>TIMES - <f32>0.5;
        const x0 = <i32>Mathf.floor(x);
        const y0 = <i32>Mathf.floor(y);
        const z0 = <i32>Mathf.floor(z);
        let value: f32 = 0;
        for (let q = 0; q < 8; q++) {
          const wx = q & 1 ? x - <f32>x0 : 1 - (x - <f32>x0);
          const wy = q & 2 ? y - <f32>y0 : 1 - (y - <f32>y0);
          const wz = q & 4 ? z - <f32>z0 : 1 - (z - <f32>z0);
          value += wx * wy * wz * valueAt(L, farP, x0 + (q & 1), y0 + ((q >> 1) & 1), z0 + (q >> 2));
        }

        store<f32>(cell(F, p, a, b, c), value);
      }
}
