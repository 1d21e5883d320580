// Where a slab keeps planes and rows that it works in, so that they stay in the cache.
import { Level } from './level';

// A slab's ring: six planes of e, four of residuals, one of zeros, then four rows.
// @ts-ignore: decorator
@inline
export function plane(L: Level, ring: usize, n: i32): usize {
  return ring + <usize>(n * L.planeBytes + L.rowBytes) + 32;
}
// @ts-ignore: decorator
@inline
export function ringPlane(L: Level, ring: usize, k: i32): usize {
  return plane(L, ring, k < 0 || k >= L.nz ? 10 : k % 6);
}
// @ts-ignore: decorator
@inline
export function residualPlane(L: Level, ring: usize, k: i32): usize {
  return plane(L, ring, 6 + (k & 3));
}
// @ts-ignore: decorator
@inline
export function spareRow(L: Level, ring: usize, n: i32): usize {
  return ring + <usize>(11 * L.planeBytes + n * (L.rowBytes + 64)) + 64;
}
