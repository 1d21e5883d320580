// Trilinear interpolation: between eight corners of a cell, x first, then y, then z.

/** @param a, b, c how far from the lower corner to the upper one along x, y, z, 0…1 */
export function trilinear(
  v000: number,
  v100: number,
  v010: number,
  v110: number,
  v001: number,
  v101: number,
  v011: number,
  v111: number,
  a: number,
  b: number,
  c: number,
): number {
  const p = v000 + a * (v100 - v000);
  const q = v010 + a * (v110 - v010);
  const r = v001 + a * (v101 - v001);
  const s = v011 + a * (v111 - v011);
  const low = p + b * (q - p);
  return low + c * (r + b * (s - r) - low);
}
