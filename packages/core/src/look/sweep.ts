// A quick light volume for previews: one sweep along the sun's main axis, each cell lit through the plane
// before it.
import type { PreviewVolume } from '../volume/preview-volume';

/**
 * @param toSun unit vector toward the light
 * @param extinctionPerM at density 1
 * @returns a byte a voxel: transmittance toward the light · 255. First order; for the eye, not for final
 * pictures.
 */
export function lightSweep(
  brick: Pick<PreviewVolume, 'dims' | 'bytes' | 'greatest' | 'voxelSizeM'>,
  toSun: readonly [number, number, number],
  extinctionPerM: number,
): Uint8Array {
  const { dims, bytes } = brick;
  const strides = [1, dims[0], dims[0] * dims[1]];
  const axis = toSun.map(Math.abs).reduce((best, v, a, all) => (v > all[best] ? a : best), 0);
  const [b, c] = [0, 1, 2].filter((a) => a !== axis);
  const forward = toSun[axis] < 0; // walk away from the light
  const db = toSun[b] / Math.abs(toSun[axis]);
  const dc = toSun[c] / Math.abs(toSun[axis]);
  const length = Math.hypot(1, db, dc) * brick.voxelSizeM;
  const perByte = (extinctionPerM * length * brick.greatest) / 255;
  const fall = Float32Array.from({ length: 256 }, (_, v) => Math.exp(-v * perByte));
  // the place that light comes from is the same for every cell of a plane, so four fixed neighbours with
  // fixed weights do;
  // |db|, |dc| ≤ 1, so a rim of full light two cells wide takes every look past the edge
  const nb = dims[b];
  const nc = dims[c];
  const pitch = nb + 4;
  const i = Math.floor(db);
  const j = Math.floor(dc);
  const fx = db - i;
  const fy = dc - j;
  const w00 = (1 - fx) * (1 - fy);
  const w10 = fx * (1 - fy);
  const w01 = (1 - fx) * fy;
  const w11 = fx * fy;
  const light = new Uint8Array(bytes.length);
  let before = new Float32Array(pitch * (nc + 4)).fill(1);
  let now = before.slice();
  for (let s = 0; s < dims[axis]; s++) {
    const plane = (forward ? s : dims[axis] - 1 - s) * strides[axis];
    for (let q = 0; q < nc; q++) {
      const to = (q + 2) * pitch + 2;
      const from = (q + 2 + j) * pitch + 2 + i;
      for (let p = 0, n = plane + q * strides[c]; p < nb; p++, n += strides[b]) {
        const o = from + p;
        const incoming =
          w00 * before[o] + w10 * before[o + 1] + w01 * before[o + pitch] + w11 * before[o + pitch + 1];
        light[n] = incoming * 255 + 0.5;
        now[to + p] = incoming * fall[bytes[n]];
      }
    }

    [before, now] = [now, before];
  }

  return light;
}
