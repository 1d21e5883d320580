// What one channel is carried with.

/** Written by the step. */
@unmanaged
export class Advection {
  f: usize;
  hat: usize;
  lo: usize;
  hi: usize;
  out: usize;
  dx: usize;
  dy: usize;
  dz: usize;
  ex: usize;
  ey: usize;
  ez: usize;
  /** 0, 1, 2: a face lattice; 3: cell centres. */
  axis: i32;
  /** Sides past which there is nothing (see halo.ts). */
  zeroSides: i32;
  /** Cells along x, y, z that no look-up reaches beyond. */
  reachX: i32;
  reachY: i32;
  reachZ: i32;
  /** 1: MacCormack; 0: the first estimate is the result. */
  order: i32;
  /** 0, or the marks of rows with anything in them. */
  marks: usize;
  /** 1 where obstacles stand in the way. */
  guard: i32;
  gain: f32;
}
