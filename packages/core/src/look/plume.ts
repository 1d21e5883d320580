// A lumpy plume in a cube of two metres as a formula: what renderers are timed and compared on.
import type { Volume } from './colouring';

/** Middles, radii and amounts of the lumps that it is made of, m. */
const LUMPS = [
  [0.04, 0.28, -0.03, 0.2, 0.55],
  [-0.21, 0.66, 0.12, 0.22, 0.6],
  [0.24, 0.84, -0.06, 0.24, 0.6],
  [-0.14, 1.08, -0.24, 0.26, 0.6],
  [0.3, 1.24, 0.18, 0.27, 0.6],
  [-0.33, 1.36, 0.1, 0.28, 0.6],
  [0.04, 1.56, -0.05, 0.27, 0.6],
] as const;
const { sin, exp, min, max, floor } = Math;
const rise = (t: number): number => {
  const c = min(1, max(0, t));
  return c * c * (3 - 2 * c);
};

function densityAt(x: number, y: number, z: number): number {
  const a = x - (0.14 * sin(2.4 * y + 0.5) - 0.06);
  const b = z - (0.12 * sin(2 * y + 2.2) - 0.07);
  const wide = 0.13 + 0.24 * y;
  let s =
    0.9 * exp(-(a * a + b * b) / (wide * wide)) * rise((y - 0.04) / 0.12) * (1 - rise((y - 1.3) / 0.45));
  for (const [cx, cy, cz, radius, amount] of LUMPS)
    s += amount * exp(-((x - cx) ** 2 + (y - cy) ** 2 + (z - cz) ** 2) / radius ** 2);
  if (s < 0.1) return 0;
  const u = x + 0.05 * sin(6.1 * y + 2.3 * z);
  const v = y + 0.05 * sin(5.3 * z + 2.9 * x + 1);
  const w = z + 0.05 * sin(5.9 * x + 3.1 * y + 2);
  const lumps =
    0.55 * sin(11 * u + 0.7) * sin(10 * v + 1.1) * sin(12 * w + 0.3) +
    0.45 * sin(23 * u + 2.1) * sin(21 * v + 0.8) * sin(22 * w + 1.9) +
    0.3 * sin(45 * u + 0.2) * sin(43 * v + 2.6) * sin(47 * w + 1.3);
  return min(2, max(0, 2 * (s * (1 + 0.4 * lumps) - 0.42 + 0.5 * lumps * rise(s / 0.4))));
}

/** @param size voxels along an edge; density is rounded to 1/65536, which hides the last bits of sines */
export function plume(size: number): Volume {
  const h = 2 / size;
  const density = new Float32Array(size ** 3);
  for (let k = 0, n = 0; k < size; k++)
    for (let j = 0; j < size; j++)
      for (let i = 0; i < size; i++, n++)
        density[n] =
          floor(65536 * densityAt(-1 + (i + 0.5) * h, (j + 0.5) * h, -1 + (k + 0.5) * h) + 0.5) / 65536;
  return { dims: [size, size, size], density, corner: [-1, 0, -1], voxelSizeM: h };
}
