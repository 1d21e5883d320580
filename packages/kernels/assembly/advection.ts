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
  /** Cells along x, y, z that no look-up reaches beyond. */
  reachX: i32;
  reachY: i32;
  reachZ: i32;
  /** 1 where obstacles stand in the way. */
  guard: i32;
}
