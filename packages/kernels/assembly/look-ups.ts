// How often rays look the medium's extinction up: what the time of a picture is measured by.

let lookUps: i64 = 0;

/** Counts the lanes of a mask. */
// @ts-ignore: decorator
@inline
export function countLookUps(lanes: v128): void {
  lookUps += <i64>popcnt<i32>(i32x4.bitmask(lanes));
}

/** Adds what this worker has counted to a sum of all, where there is one. */
export function tellLookUps(sum: usize): void {
  if (sum) atomic.add<i64>(sum, lookUps);
  lookUps = 0;
}
