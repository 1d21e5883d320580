// A sweep of what is carried by mass along an axis, as its kernels see it, and how they go over lines of
// cells.

/** One sweep along an axis, written by the step. */
@unmanaged
export class Sweep {
  /** Medium in a cell's air, before and after. */
  from: usize;
  to: usize;
  /** Volume that flows through the faces across the axis, in cells. */
  flow: usize;
  /** Volume of the cells' air before and after, in cells; 0: 1 everywhere. */
  before: usize;
  after: usize;
  axis: i32;
  nx: i32;
  ny: i32;
  nz: i32;
  rowStride: i32;
  planeStride: i32;
  /** Sides past which there is nothing (see halo.ts). */
  emptySides: i32;
  /** 1: parabolas; 0: even cells, first order. */
  parabolas: i32;
  /** 1: what is carried rides on the mass that `before` is; where there is none it says nothing. */
  rides: i32;
  /** Cells that flows reach at most, and three on. */
  reach: i32;
  /** A byte a row: whether anything is in it, before and after. */
  marks: usize;
  marksTo: usize;
  gain: f32;
  /** What rides lies between these: the least and the greatest of what rode before. */
  least: f32;
  most: f32;
  /** A field that is given what passes the faces across the axis; 0: nobody asks. */
  passed: usize;
  /** Rows to work in: as many sets as slabs, and the bytes of a row. */
  rows: usize;
  rowBytes: i32;
  /** What leaves through the two sides goes to slots 2 · axis and the next; 0: nobody asks. */
  partials: usize;
}

/** The rows of a set; each begins sixteen floats after its start. */
export const enum Row {
  NOTHING = 0,
  ONES = 1,
  EDGES = 2,
  FLUXES = 5,
  LINE = 7,
  VOLUMES = 8,
  MANY = 9,
}
export const PAD: usize = 64;
// @ts-ignore: decorator
@inline
export function place(S: Sweep, set: usize, n: i32): usize {
  return set + <usize>(n * S.rowBytes) + PAD;
}
/** Cell n of a line of rows, or the row that stands for what is beyond. */
// @ts-ignore: decorator
@inline
export function rowAt(S: Sweep, set: usize, line: usize, s: isize, n: i32, cells: i32): usize {
  const side = 1 << (2 * S.axis);
  if (n < 0) return S.emptySides & side ? place(S, set, Row.NOTHING) : line;
  if (n >= cells) return S.emptySides & (side << 1) ? place(S, set, Row.NOTHING) : line + (cells - 1) * s;
  return line + n * s;
}

// @ts-ignore: decorator
@inline
export function volumeAt(S: Sweep, set: usize, volumes: usize, s: isize, n: i32, cells: i32): usize {
  return volumes && n >= 0 && n < cells ? volumes + n * s : place(S, set, Row.ONES);
}

/** The mass of a cell of a line of rows; beyond its ends there is none. */
// @ts-ignore: decorator
@inline
export function massAt(S: Sweep, set: usize, masses: usize, s: isize, n: i32, cells: i32): usize {
  return n >= 0 && n < cells ? masses + n * s : place(S, set, Row.NOTHING);
}
