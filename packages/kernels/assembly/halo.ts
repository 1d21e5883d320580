// The ring of cells around a field, which look-ups past the edge read.
import { row } from './common';

/**
 * Sides, one bit each, of the mask `zeroSides`: set = the outside is empty (0), clear = the edge value goes
 * on.
 */
const X0 = 1;
const X1 = 2;
const Y0 = 4;
const Y1 = 8;
const Z0 = 16;
const Z1 = 32;

/** Fills x and y halos of the planes k0..k1; mx, my: sites along x and y. */
export function haloXY(
  f: usize,
  mx: i32,
  my: i32,
  rowStride: i32,
  planeStride: i32,
  zeroSides: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    for (let j = 0; j < my; j++) {
      const r = row(f, j, k, rowStride, planeStride);
      store<f32>(r - 4, zeroSides & X0 ? <f32>0 : load<f32>(r));
      const e = r + ((<usize>mx) << 2);
      store<f32>(e, zeroSides & X1 ? <f32>0 : load<f32>(e - 4));
    }

    edgeRow(row(f, -1, k, rowStride, planeStride), row(f, 0, k, rowStride, planeStride), mx, zeroSides & Y0);
    edgeRow(
      row(f, my, k, rowStride, planeStride),
      row(f, my - 1, k, rowStride, planeStride),
      mx,
      zeroSides & Y1,
    );
  }
}

function edgeRow(to: usize, from: usize, mx: i32, zero: i32): void {
  if (zero) memory.fill(to - 4, 0, (<usize>(mx + 2)) << 2);
  else memory.copy(to - 4, from - 4, (<usize>(mx + 2)) << 2);
}

/** Fills the planes -1 and mz; run once, after haloXY has done all planes. */
export function haloZ(f: usize, mz: i32, rowStride: i32, planeStride: i32, rows: i32, zeroSides: i32): void {
  haloBelow(f, rowStride, planeStride, rows, zeroSides);
  haloAbove(f, mz, rowStride, planeStride, rows, zeroSides);
}

export function haloBelow(f: usize, rowStride: i32, planeStride: i32, rows: i32, zeroSides: i32): void {
  const bytes = (<usize>(rows * rowStride)) << 2;
  const first = row(f, -1, 0, rowStride, planeStride) - 16;
  const plane = (<usize>planeStride) << 2;
  if (zeroSides & Z0) memory.fill(first - plane, 0, bytes);
  else memory.copy(first - plane, first, bytes);
}

export function haloAbove(
  f: usize,
  mz: i32,
  rowStride: i32,
  planeStride: i32,
  rows: i32,
  zeroSides: i32,
): void {
  const bytes = (<usize>(rows * rowStride)) << 2;
  const last = row(f, -1, mz - 1, rowStride, planeStride) - 16;
  const plane = (<usize>planeStride) << 2;
  if (zeroSides & Z1) memory.fill(last + plane, 0, bytes);
  else memory.copy(last + plane, last, bytes);
}

/** Whole fields, halos and all. */
export function copyBytes(to: usize, from: usize, bytes: usize): void {
  memory.copy(to, from, bytes);
}
