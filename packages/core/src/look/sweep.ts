// A quick light volume for previews: one sweep along the sun's main axis, each cell lit through the plane before it.
import type { Brick } from '../cache/brick';

/**
 * @param toSun unit vector toward the light
 * @param extinctionPerM at density 1
 * @returns a byte a voxel: transmittance toward the light · 255. First order; for the eye, not for final pictures.
 */
export function lightSweep(
  brick: Pick<Brick, 'dims' | 'bytes' | 'greatest' | 'voxelSizeM'>,
  toSun: readonly [number, number, number],
  extinctionPerM: number,
): Uint8Array {
  const { dims, bytes } = brick,
    strides = [1, dims[0], dims[0] * dims[1]];
  const axis = toSun.map(Math.abs).reduce((best, v, a, all) => (v > all[best] ? a : best), 0);
  const [b, c] = [0, 1, 2].filter((a) => a !== axis);
  const forward = toSun[axis] < 0; // walk away from the light
  const db = toSun[b] / Math.abs(toSun[axis]),
    dc = toSun[c] / Math.abs(toSun[axis]);
  const length = Math.hypot(1, db, dc) * brick.voxelSizeM,
    perByte = (extinctionPerM * length * brick.greatest) / 255;
  const fall = Float32Array.from({ length: 256 }, (_, v) => Math.exp(-v * perByte));
  const nb = dims[b],
    nc = dims[c],
    light = new Uint8Array(bytes.length);
  let before = new Float32Array(nb * nc).fill(1),
    now = new Float32Array(nb * nc);
  for (let s = 0; s < dims[axis]; s++) {
    const plane = (forward ? s : dims[axis] - 1 - s) * strides[axis];
    for (let q = 0; q < nc; q++) {
      const y = q + dc,
        j = Math.floor(y),
        fy = y - j;
      for (let p = 0; p < nb; p++) {
        const x = p + db,
          i = Math.floor(x),
          fx = x - i;
        const at = (u: number, v: number): number => (u < 0 || v < 0 || u >= nb || v >= nc ? 1 : before[v * nb + u]);
        const incoming =
          s === 0 ? 1 : (at(i, j) * (1 - fx) + at(i + 1, j) * fx) * (1 - fy) + (at(i, j + 1) * (1 - fx) + at(i + 1, j + 1) * fx) * fy;
        const n = plane + p * strides[b] + q * strides[c];
        light[n] = incoming * 255 + 0.5;
        now[q * nb + p] = incoming * fall[bytes[n]];
      }
    }
    [before, now] = [now, before];
  }
  return light;
}
