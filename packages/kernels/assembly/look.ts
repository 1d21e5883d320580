// Light through the medium: how much reaches each voxel, and what a camera ray gathers on its way.
import { byAxis, row } from './common';

// @ts-ignore: decorator
@inline
function sample(
  f: usize,
  x: f32,
  y: f32,
  z: f32,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
): f32 {
  // cell-centre coordinates; the halo holds the outside
  x = min<f32>(<f32>nx, max<f32>(-1, x));
  y = min<f32>(<f32>ny, max<f32>(-1, y));
  z = min<f32>(<f32>nz, max<f32>(-1, z));
  const xf = floor<f32>(x);
  const yf = floor<f32>(y);
  const zf = floor<f32>(z);
  const fx = x - xf;
  const fy = y - yf;
  const fz = z - zf;
  const p = row(f, <i32>yf, <i32>zf, rowStride, planeStride) + ((<isize>xf) << 2);
  const rs = (<usize>rowStride) << 2;
  const q = p + ((<usize>planeStride) << 2);
  const a = load<f32>(p) + fx * (load<f32>(p, 4) - load<f32>(p));
  const b = load<f32>(p + rs) + fx * (load<f32>(p + rs, 4) - load<f32>(p + rs));
  const c = load<f32>(q) + fx * (load<f32>(q, 4) - load<f32>(q));
  const d = load<f32>(q + rs) + fx * (load<f32>(q + rs, 4) - load<f32>(q + rs));
  const e = a + fy * (b - a);
  const g = c + fy * (d - c);
  return e + fz * (g - e);
}

/**
 * out = transmittance exp(−∫ σ density) from each cell along (lx, ly, lz), a unit vector in cells. sigma: per
 * cell length.
 */
export function sunTransmittance(
  density: usize,
  out: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  lx: f32,
  ly: f32,
  lz: f32,
  sigma: f32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        let x = <f32>i;
        let y = <f32>j;
        let z = <f32>k;
        let tau: f32 = 0;
        // half a cell of its own, then on in whole steps until out or dark
        let weight: f32 = 0.5;
        while (x > -1 && y > -1 && z > -1 && x < <f32>nx && y < <f32>ny && z < <f32>nz && tau < 12) {
          tau += weight * sigma * sample(density, x, y, z, nx, ny, nz, rowStride, planeStride);
          weight = 1;
          x += lx;
          y += ly;
          z += lz;
        }

        store<f32>(row(out, j, k, rowStride, planeStride) + ((<usize>i) << 2), Mathf.exp(-tau));
      }
}

/**
 * Adds weight · transmittance along one axis direction to out, by a running sum. k0..k1 runs over planes, or
 * over rows for the z axis, so that each line is walked whole by one worker.
 */
export function axisTransmittance(
  density: usize,
  out: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  axis: i32,
  forward: i32,
  sigma: f32,
  weight: f32,
  k0: i32,
  k1: i32,
): void {
  const nb = axis == 0 ? ny : nx;
  const nl = byAxis(axis, nx, ny, nz);
  for (let a = k0; a < k1; a++)
    for (let b = 0; b < nb; b++) {
      let tau: f32 = 0;
      for (let l = 0; l < nl; l++) {
        const s = forward ? l : nl - 1 - l;
        const i = axis == 0 ? s : b;
        const j = byAxis(axis, b, s, a);
        const k = axis == 2 ? s : a;
        const o = row(0, j, k, rowStride, planeStride) + ((<usize>i) << 2);
        const own = <f32>0.5 * sigma * load<f32>(density + o);
        tau += own;
        store<f32>(out + o, load<f32>(out + o) + weight * Mathf.exp(-tau));
        tau += own;
      }
    }
}

/** What camera rays are marched with. Places and directions in cells of the window. */
@unmanaged
class RayMarch {
  eyeX: f32;
  eyeY: f32;
  eyeZ: f32;
  /** Direction of pixel (0, 0), and its change along x and y; not normalised. */
  cornerX: f32;
  cornerY: f32;
  cornerZ: f32;
  acrossX: f32;
  acrossY: f32;
  acrossZ: f32;
  downX: f32;
  downY: f32;
  downZ: f32;
  /** Cells from sample to sample. */
  step: f32;
  /** Extinction a cell at density 1. */
  sigma: f32;
  /** Part of the stopped light that is scattered on. */
  albedoR: f32;
  albedoG: f32;
  albedoB: f32;
  /** Radiance of the sun and of the environment. */
  sunR: f32;
  sunG: f32;
  sunB: f32;
  skyR: f32;
  skyG: f32;
  skyB: f32;
  /** Asymmetry g of the phase function. */
  forward: f32;
  toSunX: f32;
  toSunY: f32;
  toSunZ: f32;
  /** Pixels across. */
  width: i32;
  /** Metres of a cell. */
  metre: f32;
  seed: i32;
}

/**
 * Camera rays for the image rows k0..k1: emission-free single scattering, front to back (Max 1995).
 * rays: a RayMarch. limit: a float a pixel, the distance (cells) at which something solid stands. image: 7
 * floats a pixel: premultiplied r g b, alpha, optical depth, first and last depth in metres (0 where nothing
 * is met).
 */
export function marchRays(
  density: usize,
  sun: usize,
  sky: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  rays: usize,
  limit: usize,
  image: usize,
  k0: i32,
  k1: i32,
): void {
  const M = changetype<RayMarch>(rays);
  const ex = M.eyeX;
  const ey = M.eyeY;
  const ez = M.eyeZ;
  const step = M.step;
  const sigma = M.sigma;
  const ar = M.albedoR;
  const ag = M.albedoG;
  const ab = M.albedoB;
  const g = M.forward;
  const width = M.width;
  const metre = M.metre;
  const seed = M.seed;
  for (let py = k0; py < k1; py++)
    for (let px = 0; px < width; px++) {
      const fx = <f32>px;
      const fy = <f32>py;
      let dx = M.cornerX + fx * M.acrossX + fy * M.downX;
      let dy = M.cornerY + fx * M.acrossY + fy * M.downY;
      let dz = M.cornerZ + fx * M.acrossZ + fy * M.downZ;
      const len = sqrt<f32>(dx * dx + dy * dy + dz * dz);
      dx /= len;
      dy /= len;
      dz /= len;
      // the slab of the ray inside the window
      let t0: f32 = 0;
      let t1: f32 = load<f32>(limit + ((<usize>(py * width + px)) << 2));
      for (let a = 0; a < 3; a++) {
        // half a cell further than the window: there the interpolation fades to the empty outside
        const o = byAxis(a, ex, ey, ez) + <f32>0.5;
        const d = byAxis(a, dx, dy, dz);
        const n = <f32>byAxis(a, nx, ny, nz) + 1;
        if (abs(d) < 1e-7) {
          if (o < 0 || o > n) t1 = -1;
          continue;
        }

        const p: f32 = -o / d;
        const q: f32 = (n - o) / d;
        t0 = max(t0, min(p, q));
        t1 = min(t1, max(p, q));
      }

      const to = image + <usize>(py * width + px) * 28;
      let r: f32 = 0;
      let gr: f32 = 0;
      let b: f32 = 0;
      let through: f32 = 1;
      let tau: f32 = 0;
      let front: f32 = 0;
      let last: f32 = 0;
      if (t1 > t0) {
        const cosine = dx * M.toSunX + dy * M.toSunY + dz * M.toSunZ;
        const base: f32 = 1 + g * g - 2 * g * cosine;
        const phase: f32 = (1 - g * g) / (base * sqrt<f32>(base)); // Henyey & Greenstein 1941 × 4π
        const sr = M.sunR * phase;
        const sg = M.sunG * phase;
        const sb = M.sunB * phase;
        const kr = M.skyR;
        const kg = M.skyG;
        const kb = M.skyB;
        let h = (<u32>(px * 73856093)) ^ (<u32>(py * 19349663)) ^ (<u32>(seed * 83492791));
        h = (h ^ (h >> 13)) * 0x5bd1e995;
        // equal steps over the slab, all sampled at the same jittered place inside a step: no bands, no bias
        // at the ends
        const steps = max(1, <i32>ceil<f32>((t1 - t0) / step));
        const ds = (t1 - t0) / <f32>steps;
        let t = t0 + ds * (<f32>((h ^ (h >> 15)) & 0xffff) / 65536);
        for (let s = 0; s < steps && through > 0.001; s++, t += ds) {
          const x = ex + t * dx - 0.5;
          const y = ey + t * dy - 0.5;
          const z = ez + t * dz - 0.5;
          const d = sample(density, x, y, z, nx, ny, nz, rowStride, planeStride);
          if (d <= 0) continue;
          const own = sigma * d * ds;
          tau += own;
          const pass = Mathf.exp(-own);
          const take = through * (1 - pass);
          const lit = sample(sun, x, y, z, nx, ny, nz, rowStride, planeStride);
          const air = sample(sky, x, y, z, nx, ny, nz, rowStride, planeStride);
          r += take * ar * (sr * lit + kr * air);
          gr += take * ag * (sg * lit + kg * air);
          b += take * ab * (sb * lit + kb * air);
          through *= pass;
          if (front == 0 && 1 - through > 0.01) front = t;
          if (own > 1e-5) last = t;
        }
      }

      store<f32>(to, r);
      store<f32>(to, gr, 4);
      store<f32>(to, b, 8);
      store<f32>(to, 1 - through, 12);
      store<f32>(to, tau, 16);
      store<f32>(to, front * metre, 20);
      store<f32>(to, (front > 0 ? last : 0) * metre, 24);
    }
}
