// Curl noise (Bridson, Hourihan, Nordenstam 2007): a turning, divergence-free field from three gradient-noise
// potentials. The gradients turn with time (flow noise, Perlin & Neyret 2001), so the field churns in place
// instead of sliding.
//
// Two hundred and fifty-six lattice gradients for each potential stand in a table: for entry e three vectors
// of four floats, the x, y and z parts of the gradients of potentials 1, 2, 3. One load serves all three
// potentials.
import { Constant, constant, row } from './common';

// @ts-ignore: decorator
@inline
function hash(x: i32, y: i32, z: i32, seed: i32): u32 {
  let h: u32 =
    (<u32>x * 0x8da6b343) ^ (<u32>y * 0xd8163841) ^ (<u32>z * 0xcb1ab31f) ^ (<u32>seed * 0x9e3779b9);
  h ^= h >> 15;
  h *= 0x2c1b3c6d;
  h ^= h >> 12;
  h *= 0x297a2d39;
  return h ^ (h >> 15);
}

/**
 * Fills the table (256 · 3 · 16 bytes) for one moment; turns: full turns that a gradient of mean speed has
 * made.
 */
export function gradientTable(table: usize, seed: i32, turns: f64): void {
  for (let e = 0; e < 256; e++)
    for (let c = 0; c < 3; c++) {
      const a = hash(e, c, 17, seed);
      const b = hash(e, c, 91, seed);
      // an evenly spread axis, a vector across it, turned about it at its own speed
      const z = <f64>(a & 0xffff) / 32768.0 - 1.0;
      const phi = (<f64>(a >> 16) / 65536.0) * 2.0 * NativeMath.PI;
      const r = NativeMath.sqrt(max<f64>(0, 1.0 - z * z));
      const nx = r * NativeMath.cos(phi);
      const ny = r * NativeMath.sin(phi);
      const nz = z;
      const flat = abs(nz) < 0.9;
      let px = flat ? ny : 0.0;
      let py = flat ? -nx : nz;
      let pz = flat ? 0.0 : -ny;
      const len = NativeMath.sqrt(px * px + py * py + pz * pz);
      px /= len;
      py /= len;
      pz /= len;
      const qx = ny * pz - nz * py;
      const qy = nz * px - nx * pz;
      const qz = nx * py - ny * px;
      const speed = 0.5 + <f64>(b & 0xffff) / 65536.0;
      const start = <f64>(b >> 16) / 65536.0;
      const angle = 2.0 * NativeMath.PI * (start + turns * speed);
      const cs = NativeMath.cos(angle);
      const sn = NativeMath.sin(angle);
      const to = table + <usize>(e * 48 + c * 4);
      store<f32>(to, <f32>(cs * px + sn * qx));
      store<f32>(to + 16, <f32>(cs * py + sn * qy));
      store<f32>(to + 32, <f32>(cs * pz + sn * qz));
      if (c == 2) {
        store<f32>(to + 4, 0);
        store<f32>(to + 20, 0);
        store<f32>(to + 36, 0);
      }
    }
}

/** What curlAt found. */
export let curlX: f32 = 0;
export let curlY: f32 = 0;
export let curlZ: f32 = 0;

/** curl ψ at a place in noise coordinates. */
// @ts-ignore: decorator
@inline
export function curlAt(table: usize, seed: i32, x: f64, y: f64, z: f64): void {
  const xf = floor(x);
  const yf = floor(y);
  const zf = floor(z);
  const X = <i32>xf;
  const Y = <i32>yf;
  const Z = <i32>zf;
  const rx = <f32>(x - xf);
  const ry = <f32>(y - yf);
  const rz = <f32>(z - zf);
  // quintic fade and its slope, Perlin 2002
  const ux = rx * rx * rx * (rx * (rx * 6 - 15) + 10);
  const uy = ry * ry * ry * (ry * (ry * 6 - 15) + 10);
  const uz = rz * rz * rz * (rz * (rz * 6 - 15) + 10);
  const sx = <f32>30 * rx * rx * (rx * (rx - 2) + 1);
  const sy = <f32>30 * ry * ry * (ry * (ry - 2) + 1);
  const sz = <f32>30 * rz * rz * (rz * (rz - 2) + 1);
  let gx = f32x4.splat(0);
  let gy = f32x4.splat(0);
  let gz = f32x4.splat(0); // slopes of the three potentials along x, y, z
  for (let c = 0; c < 8; c++) {
    const a = c & 1;
    const b = (c >> 1) & 1;
    const d = c >> 2;
    const t = table + <usize>((hash(X + a, Y + b, Z + d, seed) & 255) * 48);
    const tx = v128.load(t);
    const ty = v128.load(t, 16);
    const tz = v128.load(t, 32);
    const dot = f32x4.add(
      f32x4.mul(tx, f32x4.splat(rx - <f32>a)),
      f32x4.add(f32x4.mul(ty, f32x4.splat(ry - <f32>b)), f32x4.mul(tz, f32x4.splat(rz - <f32>d))),
    );
    const wx: f32 = a ? ux : 1 - ux;
    const wy: f32 = b ? uy : 1 - uy;
    const wz: f32 = d ? uz : 1 - uz;
    const weight = f32x4.splat(wx * wy * wz);
    gx = f32x4.add(
      gx,
      f32x4.add(f32x4.mul(weight, tx), f32x4.mul(dot, f32x4.splat((a ? sx : -sx) * wy * wz))),
    );
    gy = f32x4.add(
      gy,
      f32x4.add(f32x4.mul(weight, ty), f32x4.mul(dot, f32x4.splat((b ? sy : -sy) * wx * wz))),
    );
    gz = f32x4.add(
      gz,
      f32x4.add(f32x4.mul(weight, tz), f32x4.mul(dot, f32x4.splat((d ? sz : -sz) * wx * wy))),
    );
  }

  curlX = f32x4.extract_lane(gy, 2) - f32x4.extract_lane(gz, 1);
  curlY = f32x4.extract_lane(gz, 0) - f32x4.extract_lane(gx, 2);
  curlZ = f32x4.extract_lane(gx, 1) - f32x4.extract_lane(gy, 0);
}

/**
 * Adds amplitude · curl ψ at cell centres of a coarse lattice to fx, fy, fz. x0, y0, z0: noise coordinates of
 * the centre of cell (0,0,0); dx: noise coordinates a cell.
 */
export function curlNoise(
  fx: usize,
  fy: usize,
  fz: usize,
  table: usize,
  seed: i32,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  x0: f64,
  y0: f64,
  z0: f64,
  dx: f64,
  amplitude: f32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        curlAt(table, seed, x0 + <f64>i * dx, y0 + <f64>j * dx, z0 + <f64>k * dx);
        const o = row(0, j, k, rowStride, planeStride) + ((<usize>i) << 2);
        store<f32>(fx + o, load<f32>(fx + o) + amplitude * curlX);
        store<f32>(fy + o, load<f32>(fy + o) + amplitude * curlY);
        store<f32>(fz + o, load<f32>(fz + o) + amplitude * curlZ);
      }
}

/**
 * fine += trilinear coarse (two cells of fine to one), coarse's halo filled. line: a scratch row for each
 * plane, P + 8 floats.
 */
export function addUpsampled(
  coarse: usize,
  fine: usize,
  weight: usize,
  line: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  cx: i32,
  coarseRowStride: i32,
  coarsePlaneStride: i32,
  k0: i32,
  k1: i32,
): void {
  const far = constant(Constant.QUARTER);
  const near = constant(Constant.THREE_QUARTERS);
  for (let k = k0; k < k1; k++) {
    const K = k >> 1;
    const K2 = k & 1 ? K + 1 : K - 1;
    const t = line + <usize>k * ((<usize>rowStride + 8) << 2) + 16;
    for (let j = 0; j < ny; j++) {
      const J = j >> 1;
      const J2 = j & 1 ? J + 1 : J - 1;
      const c00 = row(coarse, J, K, coarseRowStride, coarsePlaneStride);
      const c10 = row(coarse, J2, K, coarseRowStride, coarsePlaneStride);
      const c01 = row(coarse, J, K2, coarseRowStride, coarsePlaneStride);
      const c11 = row(coarse, J2, K2, coarseRowStride, coarsePlaneStride);
      for (let i = -4; i < cx + 1; i += 4) {
        const o = (<isize>i) << 2;
        const a = f32x4.add(f32x4.mul(near, v128.load(c00 + o)), f32x4.mul(far, v128.load(c10 + o)));
        const b = f32x4.add(f32x4.mul(near, v128.load(c01 + o)), f32x4.mul(far, v128.load(c11 + o)));
        v128.store(t + o, f32x4.add(f32x4.mul(near, a), f32x4.mul(far, b)));
      }

      const at = row(0, j, k, rowStride, planeStride);
      for (let i = 0; i < nx; i += 4) {
        const s = t + ((<usize>(i >> 1)) << 2);
        const o = at + ((<usize>i) << 2);
        const m = v128.load(s);
        const l = v128.load(s - 4); // c0 c1 . . and c-1 c0 c1 c2
        const own = v128.shuffle<f32>(m, m, 0, 0, 1, 1);
        const next = v128.shuffle<f32>(l, l, 0, 2, 1, 3);
        let by = f32x4.add(f32x4.mul(near, own), f32x4.mul(far, next));
        if (weight) by = f32x4.mul(by, v128.load(weight + o));
        v128.store(fine + o, f32x4.add(v128.load(fine + o), by));
      }
    }
  }
}
