// The air of a cached frame, carried on a little beyond where it was kept.
import type { Triple } from '../math/vector';
import type { CacheVolume } from './volume';

/**
 * Layers of voxels beyond the medium in which its air is taken to go on, so that the rim has what the inside
 * has.
 */
const BEYOND = 3;
/** Layers more that are filled, so that what lies across a corner is there when it is mixed in. */
const FILLED = BEYOND + 3;

/**
 * Velocity in a box that is wider by some layers, each layer the mean of what it touches.
 * @returns staggered components, and 1 where all that is mixed at a place of the voxel is known
 */
export function extrapolateVelocity(
  volume: CacheVolume,
  velocity: readonly Float32Array[],
): { parts: Float32Array[]; known: Uint8Array; min: Triple; dims: Triple } {
  const whole = volume.moving.every((m) => m === 1);
  const by = whole ? 1 : FILLED;
  const [ox, oy, oz] = volume.dims;
  const dims = volume.dims.map((d) => d + 2 * by) as Triple;
  const [nx, ny, nz] = dims;
  const known = new Uint8Array(nx * ny * nz);
  const parts = velocity.map(() => new Float32Array(known.length));
  const outer: number[] = [];
  let rim: number[] = [];
  for (let k = 0, n = 0; k < oz; k++)
    for (let j = 0; j < oy; j++)
      for (let i = 0; i < ox; i++, n++) {
        if (!volume.moving[n]) continue;
        const to = ((k + by) * ny + j + by) * nx + i + by;
        known[to] = 1;
        velocity.forEach((p, a) => (parts[a][to] = p[n]));
        rim.push(to);
      }

  const steps = [1, -1, nx, -nx, nx * ny, -nx * ny];
  for (let layer = 0; layer < by; layer++) {
    const next: number[] = [];
    for (const n of rim)
      for (const s of steps)
        if (n + s >= 0 && n + s < known.length && known[n + s] === 0) {
          known[n + s] = 2;
          next.push(n + s);
        }

    for (const n of next) {
      let sum = 0;
      for (const s of steps) {
        if (n + s < 0 || n + s >= known.length || known[n + s] !== 1) continue;
        sum++;
        for (const p of parts) p[n] += p[n + s];
      }

      for (const p of parts) p[n] /= sum;
    }

    for (const n of next) known[n] = 1;
    if (layer >= BEYOND) for (const n of next) outer.push(n);
    rim = next;
  }

  for (const n of outer) known[n] = 0;
  return { parts, known, min: volume.min.map((m) => m - by) as Triple, dims };
}
