// Look-ups beside obstacles: the way back stops at the first closed face, and nothing is read from behind
// one.
import { Advection } from './advection';
import { byAxis } from './common';
import { kindOf, Level } from './level';

/** Whether the face of cell (i, j, k) on the side s (−1, 1) across an axis lets anything through. */
// @ts-ignore: decorator
@inline
function isFaceOpen(L: Level, axis: i32, i: i32, j: i32, k: i32, s: i32): bool {
  const up = i32(s > 0);
  if (axis == 0)
    return load<f32>(L.ax + <usize>(k * L.facePlaneBytes + j * L.faceRowBytes + ((i + up) << 2))) > 0;
  if (axis == 1)
    return load<f32>(L.ay + <usize>(k * L.facePlaneBytes + (j + up) * L.faceRowBytes + (i << 2))) > 0;
  return load<f32>(L.az + <usize>((k + up) * L.facePlaneBytes + j * L.faceRowBytes + (i << 2))) > 0;
}

/** Where the way back of a cell ends: its last cell, and how far along the way that is, 0…1. */
let endI: i32 = 0;
let endJ: i32 = 0;
let endK: i32 = 0;
let endT: f32 = 1;

/**
 * Follows the way back from cell to cell, to its end or the first closed face; false where it leaves the
 * window.
 */
function walkBack(L: Level, i: i32, j: i32, k: i32, dx: f32, dy: f32, dz: f32): bool {
  const sx = dx < 0 ? -1 : 1;
  const sy = dy < 0 ? -1 : 1;
  const sz = dz < 0 ? -1 : 1;
  const big: f32 = 1e30;
  const ex: f32 = dx != 0 ? abs<f32>(1 / dx) : big;
  const ey: f32 = dy != 0 ? abs<f32>(1 / dy) : big;
  const ez: f32 = dz != 0 ? abs<f32>(1 / dz) : big;
  let tx: f32 = <f32>0.5 * ex;
  let ty: f32 = <f32>0.5 * ey;
  let tz: f32 = <f32>0.5 * ez;
  endT = 1;
  endI = i;
  endJ = j;
  endK = k;
  while (true) {
    const next = min<f32>(tx, min<f32>(ty, tz));
    if (!(next < 1)) return true;
    let axis = 2;
    if (next == tx) axis = 0;
    else if (next == ty) axis = 1;
    if (!isFaceOpen(L, axis, endI, endJ, endK, byAxis(axis, sx, sy, sz))) {
      endT = next;
      return true;
    }

    if (axis == 0) {
      endI += sx;
      tx += ex;
    } else if (axis == 1) {
      endJ += sy;
      ty += ey;
    } else {
      endK += sz;
      tz += ez;
    }

    if (endI < 0 || endJ < 0 || endK < 0 || endI >= L.nx || endJ >= L.ny || endK >= L.nz) return false;
  }
}

/** What guardedLook found: the value, and the least and the most of what it was mixed from. */
let foundValue: f32 = 0;
let foundLeast: f32 = 0;
let foundMost: f32 = 0;

/**
 * A trilinear look-up around cell (a, b, c), u cells from its middle, that reads nothing from behind a closed
 * face: what has no open way of faces to it counts as the cell itself.
 */
function guardedLook(L: Level, f: usize, a: i32, b: i32, c: i32, ux: f32, uy: f32, uz: f32): void {
  const rowStride = L.faceRowBytes;
  const planeStride = L.facePlaneBytes;
  const nx = L.nx;
  const ny = L.ny;
  const nz = L.nz;
  const qx = ux < 0 ? -1 : 1;
  const qy = uy < 0 ? -1 : 1;
  const qz = uz < 0 ? -1 : 1;
  const here = f + <usize>(c * planeStride + b * rowStride + (a << 2));
  const v0 = load<f32>(here);
  const X = isFaceOpen(L, 0, a, b, c, qx);
  const Y = isFaceOpen(L, 1, a, b, c, qy);
  const Z = isFaceOpen(L, 2, a, b, c, qz);
  const inX = a + qx >= 0 && a + qx < nx;
  const inY = b + qy >= 0 && b + qy < ny;
  const inZ = c + qz >= 0 && c + qz < nz;
  const vx = X ? load<f32>(here + (qx << 2)) : v0;
  const vy = Y ? load<f32>(here + qy * rowStride) : v0;
  const vz = Z ? load<f32>(here + qz * planeStride) : v0;
  // behind an edge or a corner: there has to be an open way of faces to it
  const XY =
    (X && (!inX || isFaceOpen(L, 1, a + qx, b, c, qy))) ||
    (Y && (!inY || isFaceOpen(L, 0, a, b + qy, c, qx)));
  const XZ =
    (X && (!inX || isFaceOpen(L, 2, a + qx, b, c, qz))) ||
    (Z && (!inZ || isFaceOpen(L, 0, a, b, c + qz, qx)));
  const YZ =
    (Y && (!inY || isFaceOpen(L, 2, a, b + qy, c, qz))) ||
    (Z && (!inZ || isFaceOpen(L, 1, a, b, c + qz, qy)));
  const XYZ =
    (XY && (!inX || !inY || isFaceOpen(L, 2, a + qx, b + qy, c, qz))) ||
    (XZ && (!inX || !inZ || isFaceOpen(L, 1, a + qx, b, c + qz, qy))) ||
    (YZ && (!inY || !inZ || isFaceOpen(L, 0, a, b + qy, c + qz, qx)));
  const vxy = XY ? load<f32>(here + (qx << 2) + qy * rowStride) : v0;
  const vxz = XZ ? load<f32>(here + (qx << 2) + qz * planeStride) : v0;
  const vyz = YZ ? load<f32>(here + qy * rowStride + qz * planeStride) : v0;
  const vxyz = XYZ ? load<f32>(here + (qx << 2) + qy * rowStride + qz * planeStride) : v0;
  const wx = abs<f32>(ux);
  const wy = abs<f32>(uy);
  const wz = abs<f32>(uz);
  const e0 = v0 + wx * (vx - v0);
  const e1 = vy + wx * (vxy - vy);
  const e2 = vz + wx * (vxz - vz);
  const e3 = vyz + wx * (vxyz - vyz);
  const g0 = e0 + wy * (e1 - e0);
  const g1 = e2 + wy * (e3 - e2);
  foundValue = g0 + wz * (g1 - g0);
  foundLeast = min<f32>(
    min<f32>(min<f32>(v0, vx), min<f32>(vy, vxy)),
    min<f32>(min<f32>(vz, vxz), min<f32>(vyz, vxyz)),
  );
  foundMost = max<f32>(
    max<f32>(max<f32>(v0, vx), max<f32>(vy, vxy)),
    max<f32>(max<f32>(vz, vxz), max<f32>(vyz, vxyz)),
  );
}

/** Whether all six faces of a cell are shut. */
function isShut(L: Level, i: i32, j: i32, k: i32): bool {
  return !(
    isFaceOpen(L, 0, i, j, k, -1) ||
    isFaceOpen(L, 0, i, j, k, 1) ||
    isFaceOpen(L, 1, i, j, k, -1) ||
    isFaceOpen(L, 1, i, j, k, 1) ||
    isFaceOpen(L, 2, i, j, k, -1) ||
    isFaceOpen(L, 2, i, j, k, 1)
  );
}

/**
 * The first estimate of cells near obstacles, again: the way back ends at the first closed face it meets
 * (cell by cell, Amanatides & Woo 1987), and of the eight cells around its end those behind closed faces
 * count as the cell it ends in. So nothing is read from the other side of a wall, however thin.
 */
export function guardRow(
  L: Level,
  C: Advection,
  lo: usize,
  hi: usize,
  j: i32,
  k: i32,
  from: i32,
  to: i32,
): void {
  const at = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
  for (let i = from; i < to; i++) {
    const o = at + ((<usize>i) << 2);
    if (isShut(L, i, j, k)) {
      store<f32>(C.hat + o, 0);
      store<f32>(lo + o, 0);
      store<f32>(hi + o, 0);
      continue;
    }

    const dx = load<f32>(C.dx + o);
    const dy = load<f32>(C.dy + o);
    const dz = load<f32>(C.dz + o);
    // through an open side: the plain look-up says what is there
    if (!walkBack(L, i, j, k, dx, dy, dz)) continue;
    const ux = <f32>(i - endI) + dx * endT;
    const uy = <f32>(j - endJ) + dy * endT;
    const uz = <f32>(k - endK) + dz * endT;
    guardedLook(L, C.f, endI, endJ, endK, ux, uy, uz);
    store<f32>(C.hat + o, foundValue);
    store<f32>(lo + o, foundLeast);
    store<f32>(hi + o, foundMost);
  }
}

/**
 * Cells of row (j, k) that look-ups may take through something closed: from | to << 16, 0 where none does.
 */
export function guarded(L: Level, C: Advection, j: i32, k: i32): i32 {
  let from = L.nx;
  let to = 0;
  for (let c = max(0, k - C.reachZ), ce = min(L.nz, k + C.reachZ + 1); c < ce; c++)
    for (let b = max(0, j - C.reachY), be = min(L.ny, j + C.reachY + 1); b < be; b++) {
      const kind = kindOf(L, b, c);
      if (!kind) continue;
      from = min(from, (<i32>(kind & 255)) << 3);
      to = max(to, (<i32>(kind >> 8)) << 3);
    }

  if (to == 0) return 0;
  return max(0, from - C.reachX) | (min(L.nx, to + C.reachX) << 16);
}
