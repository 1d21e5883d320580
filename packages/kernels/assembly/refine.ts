// Refining a cache (after Kim, Thürey, James, Gross 2008): density on a finer grid, carried by the coarse
// velocity and by curl noise that rides on it, then brought back to what the coarse grid holds.
//
// Coarse voxels are twelve floats each: velocity and the noise's strength; the way that the first set of
// texture coordinates has been carried, and 1 near the medium; the way of the second set, and a spare.
// Lengths are coarse voxels, times frames. All arrays are tight, x fastest; places count from the least
// corner of the coarse box.
import { lerp4 } from './common';
import { curlAt, curlX, curlY, curlZ } from './noise';

const BYTES = 48;

/**
 * Four of a coarse voxel's floats at a place, linear between the voxels' middles, level beyond the outermost.
 */
// @ts-ignore: decorator
@inline
function at(coarse: usize, nx: i32, ny: i32, nz: i32, x: f32, y: f32, z: f32, slot: usize): v128 {
  const a = min<f32>(max<f32>(x - 0.5, 0), <f32>nx - <f32>1.001);
  const b = min<f32>(max<f32>(y - 0.5, 0), <f32>ny - <f32>1.001);
  const c = min<f32>(max<f32>(z - 0.5, 0), <f32>nz - <f32>1.001);
  const i = <i32>a;
  const j = <i32>b;
  const k = <i32>c;
  const p = coarse + slot + <usize>((k * ny + j) * nx + i) * BYTES;
  const rs = <usize>nx * BYTES;
  const ps = rs * <usize>ny;
  const fx = f32x4.splat(a - <f32>i);
  const fy = f32x4.splat(b - <f32>j);
  const fz = f32x4.splat(c - <f32>k);
  return lerp4(
    lerp4(
      lerp4(v128.load(p), v128.load(p + BYTES), fx),
      lerp4(v128.load(p + rs), v128.load(p + rs + BYTES), fx),
      fy,
    ),
    lerp4(
      lerp4(v128.load(p + ps), v128.load(p + ps + BYTES), fx),
      lerp4(v128.load(p + ps + rs), v128.load(p + ps + rs + BYTES), fx),
      fy,
    ),
    fz,
  );
}

/** Catmull–Rom weights of four neighbours for a place t between the inner two. */
// @ts-ignore: decorator
@inline
function weight(n: i32, t: f32): f32 {
  if (n == 0) return t * (<f32>-0.5 + t * (<f32>1 - <f32>0.5 * t));
  if (n == 1) return <f32>1 + t * t * (<f32>-2.5 + <f32>1.5 * t);
  if (n == 2) return t * (<f32>0.5 + t * (<f32>2 - <f32>1.5 * t));
  return t * t * (<f32>-0.5 + <f32>0.5 * t);
}

/**
 * Cubic in three directions, held between the least and the greatest of the eight voxels around: sharp, and
 * without overshoot. Whole voxels and parts of one are kept apart, so that a place has the same bits in
 * whatever slab it is looked at.
 */
function cubic(f: usize, nx: i32, ny: i32, nz: i32, x: i32, y: i32, z: i32, dx: f32, dy: f32, dz: f32): f32 {
  const a = floor(dx);
  const b = floor(dy);
  const c = floor(dz);
  const u = dx - a;
  const v = dy - b;
  const w = dz - c;
  const i = min(max(x + <i32>a, 1), nx - 3);
  const j = min(max(y + <i32>b, 1), ny - 3);
  const k = min(max(z + <i32>c, 1), nz - 3);
  let sum = f32x4.splat(0);
  let low = f32x4.splat(Infinity);
  let high = f32x4.splat(-Infinity);
  for (let dk = 0; dk < 4; dk++) {
    const wz = weight(dk, w);
    for (let dj = 0; dj < 4; dj++) {
      const row = v128.load(f + ((<usize>(((k + dk - 1) * ny + j + dj - 1) * nx + i - 1)) << 2));
      sum = f32x4.add(sum, f32x4.mul(row, f32x4.splat(wz * weight(dj, v))));
      if ((dk == 1 || dk == 2) && (dj == 1 || dj == 2)) {
        low = f32x4.pmin(low, row);
        high = f32x4.pmax(high, row);
      }
    }
  }

  const value =
    f32x4.extract_lane(sum, 0) * weight(0, u) +
    f32x4.extract_lane(sum, 1) * weight(1, u) +
    f32x4.extract_lane(sum, 2) * weight(2, u) +
    f32x4.extract_lane(sum, 3) * weight(3, u);
  const least = min(f32x4.extract_lane(low, 1), f32x4.extract_lane(low, 2));
  const most = max(f32x4.extract_lane(high, 1), f32x4.extract_lane(high, 2));
  return min(max(value, least), most);
}

/**
 * One frame of fine density, and where it is wanted its velocity (three fields, coarse voxels a frame, at the
 * fine middles).
 * @param prev the frame before, its least voxel at fine place (px, py, pz), with three empty voxels around it
 * @param z0 fine plane that plane 0 of `out` is; times: fine voxels to a coarse one, along an axis
 * @param first, second weights of the two sets of coordinates; ox, oy, oz: world index of the coarse box;
 * per: noise cells to a coarse voxel
 */
export function refineCarry(
  coarse: usize,
  cx: i32,
  cy: i32,
  cz: i32,
  prev: usize,
  px: i32,
  py: i32,
  pz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  out: usize,
  flow: usize,
  z0: i32,
  planes: i32,
  times: i32,
  table: usize,
  seed1: i32,
  seed2: i32,
  first: f32,
  second: f32,
  octaves: i32,
  per: f64,
  ox: i32,
  oy: i32,
  oz: i32,
  k0: i32,
  k1: i32,
): void {
  const fx = cx * times;
  const fy = cy * times;
  const one: f32 = <f32>1 / <f32>times;
  const size = (<usize>fx * <usize>fy * <usize>planes) << 2;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < fy; j++)
      for (let i = 0; i < fx; i++) {
        const to = (<usize>((k * fy + j) * fx + i)) << 2;
        const x: f32 = (<f32>i + 0.5) * one;
        const y: f32 = (<f32>j + 0.5) * one;
        const z: f32 = (<f32>(z0 + k) + 0.5) * one;
        // most of a box is clear air
        const own = coarse + <usize>((((z0 + k) / times) * cy + j / times) * cx + i / times) * BYTES;
        if (load<f32>(own, 28) == 0) {
          store<f32>(out + to, 0);
          if (flow) {
            store<f32>(flow + to, 0);
            store<f32>(flow + size + to, 0);
            store<f32>(flow + 2 * size + to, 0);
          }

          continue;
        }

        const way1 = at(coarse, cx, cy, cz, x, y, z, 16);
        const u = at(coarse, cx, cy, cz, x, y, z, 0);
        const strength = f32x4.extract_lane(u, 3);
        let vx: f32 = 0;
        let vy: f32 = 0;
        let vz: f32 = 0;
        if (strength > 0) {
          const way2 = at(coarse, cx, cy, cz, x, y, z, 32);
          let scale = per;
          let part: f32 = 1;
          for (let o = 0; o < octaves; o++) {
            curlAt(
              table,
              seed1 + o,
              (<f64>x + <f64>ox - <f64>f32x4.extract_lane(way1, 0)) * scale,
              (<f64>y + <f64>oy - <f64>f32x4.extract_lane(way1, 1)) * scale,
              (<f64>z + <f64>oz - <f64>f32x4.extract_lane(way1, 2)) * scale,
            );
            vx += part * first * curlX;
            vy += part * first * curlY;
            vz += part * first * curlZ;
            curlAt(
              table,
              seed2 + o,
              (<f64>x + <f64>ox - <f64>f32x4.extract_lane(way2, 0)) * scale,
              (<f64>y + <f64>oy - <f64>f32x4.extract_lane(way2, 1)) * scale,
              (<f64>z + <f64>oz - <f64>f32x4.extract_lane(way2, 2)) * scale,
            );
            vx += part * second * curlX;
            vy += part * second * curlY;
            vz += part * second * curlZ;
            scale *= 2;
            part *= <f32>0.56123102; // 2 to the −5/6: speeds of whirls half the size (Kolmogorov)
          }

          vx *= strength;
          vy *= strength;
          vz *= strength;
        }

        const ux = f32x4.extract_lane(u, 0);
        const uy = f32x4.extract_lane(u, 1);
        const uz = f32x4.extract_lane(u, 2);
        if (flow) {
          store<f32>(flow + to, ux + vx);
          store<f32>(flow + size + to, uy + vy);
          store<f32>(flow + 2 * size + to, uz + vz);
        }

        if (!prev) continue;
        const m = at(coarse, cx, cy, cz, x - <f32>0.5 * ux, y - <f32>0.5 * uy, z - <f32>0.5 * uz, 0);
        const t = <f32>times;
        store<f32>(
          out + to,
          cubic(
            prev,
            nx,
            ny,
            nz,
            i - px,
            j - py,
            z0 + k - pz,
            -(f32x4.extract_lane(m, 0) + vx) * t,
            -(f32x4.extract_lane(m, 1) + vy) * t,
            -(f32x4.extract_lane(m, 2) + vz) * t,
          ),
        );
      }
}

/** Means of fine density over the coarse voxels. */
export function refineMeans(fine: usize, means: usize, cx: i32, cy: i32, times: i32, k0: i32, k1: i32): void {
  const fx = cx * times;
  const fy = cy * times;
  const per: f64 = 1.0 / <f64>(times * times * times);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < cy; j++)
      for (let i = 0; i < cx; i++) {
        let sum: f64 = 0;
        for (let c = 0; c < times; c++)
          for (let b = 0; b < times; b++) {
            const row = fine + ((<usize>(((k * times + c) * fy + j * times + b) * fx + i * times)) << 2);
            for (let a = 0; a < times; a++) sum += <f64>load<f32>(row + ((<usize>a) << 2));
          }

        store<f32>(means + ((<usize>((k * cy + j) * cx + i)) << 2), <f32>(sum * per));
      }
}

/**
 * Brings fine density toward what the coarse voxels hold: by a factor that is smooth from voxel to voxel, so
 * that detail stays and no edge of a voxel shows; what a factor cannot bring is added. @param hold part of
 * what is missing that is brought, 0…1
 */
export function refineHold(
  fine: usize,
  means: usize,
  wanted: usize,
  cx: i32,
  cy: i32,
  layers: i32,
  times: i32,
  hold: f32,
  k0: i32,
  k1: i32,
): void {
  const fx = cx * times;
  const fy = cy * times;
  const rs = (<usize>cx) << 2;
  const ps = (<usize>(cx * cy)) << 2;
  for (let k = k0; k < k1; k++) {
    const K = below(k, times, layers);
    const w = beyond(k, times, K);
    for (let j = 0; j < fy; j++) {
      const J = below(j, times, cy);
      const v = beyond(j, times, J);
      for (let i = 0; i < fx; i++) {
        const I = below(i, times, cx);
        const u = beyond(i, times, I);
        const o = (<usize>((K * cy + J) * cx + I)) << 2;
        const m = mix(means + o, rs, ps, u, v, w);
        const e = (mix(wanted + o, rs, ps, u, v, w) - m) * hold;
        const at = fine + ((<usize>((k * fy + j) * fx + i)) << 2);
        const d = load<f32>(at);
        const factor = min<f32>(max<f32>(e / max<f32>(m, 1e-12), -1), 3);
        store<f32>(at, max<f32>(0, d * (1 + factor) + max<f32>(0, e - 3 * m)));
      }
    }
  }
}

/** The coarse voxel whose middle lies below a fine one's, such that the next one is there too. */
// @ts-ignore: decorator
@inline
function below(fine: i32, times: i32, count: i32): i32 {
  return min(max((2 * fine + 1 + times) / (2 * times) - 1, 0), count - 2);
}
/** How far on from that middle to the next. */
// @ts-ignore: decorator
@inline
function beyond(fine: i32, times: i32, from: i32): f32 {
  const part: i32 = 2 * fine + 1 - times - 2 * times * from;
  const whole: i32 = 2 * times;
  return min<f32>(max<f32>(<f32>part / <f32>whole, 0), 1);
}

// @ts-ignore: decorator
@inline
function mix(p: usize, rs: usize, ps: usize, u: f32, v: f32, w: f32): f32 {
  const a = load<f32>(p) * (1 - u) + load<f32>(p + 4) * u;
  const b = load<f32>(p + rs) * (1 - u) + load<f32>(p + rs + 4) * u;
  const c = load<f32>(p + ps) * (1 - u) + load<f32>(p + ps + 4) * u;
  const d = load<f32>(p + ps + rs) * (1 - u) + load<f32>(p + ps + rs + 4) * u;
  return (a * (1 - v) + b * v) * (1 - w) + (c * (1 - v) + d * v) * w;
}
