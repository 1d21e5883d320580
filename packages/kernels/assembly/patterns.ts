// Patterns over what a source covers: animated noises and pictures, one layer after the other.
import { byAxis, row } from './common';
import { BoxedShape, ownX, ownY, ownZ } from './shape';

// @ts-ignore: decorator
@inline
function chance(x: i32, y: i32, z: i32, t: i32, seed: i32): u32 {
  let h: u32 =
    (<u32>x * 0x8da6b343) ^
    (<u32>y * 0xd8163841) ^
    (<u32>z * 0xcb1ab31f) ^
    (<u32>t * 0x6c8e9cf5) ^
    (<u32>seed * 0x9e3779b9);
  h ^= h >> 15;
  h *= 0x2c1b3c6d;
  h ^= h >> 12;
  h *= 0x297a2d39;
  return h ^ (h >> 15);
}
// @ts-ignore: decorator
@inline
function unit(h: u32): f32 {
  return <f32>(h >> 8) / <f32>16777216;
}
// @ts-ignore: decorator
@inline
function fade(t: f32): f32 {
  return t * t * t * (t * (t * 6 - 15) + 10);
}

function valuesAt(x: f32, y: f32, z: f32, t: i32, seed: i32): f32 {
  const X = <i32>Mathf.floor(x);
  const Y = <i32>Mathf.floor(y);
  const Z = <i32>Mathf.floor(z);
  const u = fade(x - <f32>X);
  const v = fade(y - <f32>Y);
  const w = fade(z - <f32>Z);
  let sum: f32 = 0;
  for (let c = 0; c < 8; c++) {
    const a = c & 1;
    const b = (c >> 1) & 1;
    const d = c >> 2;
    sum +=
      (a ? u : <f32>1 - u) *
      (b ? v : <f32>1 - v) *
      (d ? w : <f32>1 - w) *
      unit(chance(X + a, Y + b, Z + d, t, seed));
  }

  return sum;
}

/** Value noise, 0…1, that turns into another one in a unit of t. */
export function valueNoise(x: f32, y: f32, z: f32, t: f32, seed: i32): f32 {
  const T = <i32>Mathf.floor(t);
  const f = fade(t - <f32>T);
  const a = valuesAt(x, y, z, T, seed);
  return f > 0 ? a + f * (valuesAt(x, y, z, T + 1, seed) - a) : a;
}
// @ts-ignore: decorator
@inline
function fade4(t: v128): v128 {
  const inner = f32x4.add(
    f32x4.mul(t, f32x4.sub(f32x4.mul(t, f32x4.splat(6)), f32x4.splat(15))),
    f32x4.splat(10),
  );
  return f32x4.mul(f32x4.mul(f32x4.mul(t, t), t), inner);
}
// @ts-ignore: decorator
@inline
function unit4(key: v128): v128 {
  let h = v128.xor(key, i32x4.shr_u(key, 15));
  h = i32x4.mul(h, i32x4.splat(0x2c1b3c6d));
  h = v128.xor(h, i32x4.shr_u(h, 12));
  h = i32x4.mul(h, i32x4.splat(0x297a2d39));
  h = v128.xor(h, i32x4.shr_u(h, 15));
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(h, 8)), f32x4.splat(1.0 / 16777216.0));
}

function valuesAt4(x: v128, y: v128, z: v128, t: v128, seed: i32): v128 {
  const fx = f32x4.floor(x);
  const fy = f32x4.floor(y);
  const fz = f32x4.floor(z);
  const one = f32x4.splat(1);
  const u = fade4(f32x4.sub(x, fx));
  const v = fade4(f32x4.sub(y, fy));
  const w = fade4(f32x4.sub(z, fz));
  const kx = i32x4.splat(<i32>0x8da6b343);
  const ky = i32x4.splat(<i32>0xd8163841);
  const kz = i32x4.splat(<i32>0xcb1ab31f);
  const X0 = i32x4.mul(i32x4.trunc_sat_f32x4_s(fx), kx);
  const Y0 = i32x4.mul(i32x4.trunc_sat_f32x4_s(fy), ky);
  // what time and seed add stands with z, which is met last
  const rest = v128.xor(i32x4.mul(t, i32x4.splat(0x6c8e9cf5)), i32x4.splat(seed * <i32>0x9e3779b9));
  const Z = i32x4.mul(i32x4.trunc_sat_f32x4_s(fz), kz);
  const Z0 = v128.xor(Z, rest);
  const Z1 = v128.xor(i32x4.add(Z, kz), rest);
  const X1 = i32x4.add(X0, kx);
  const Y1 = i32x4.add(Y0, ky);
  const u0 = f32x4.sub(one, u);
  const v0 = f32x4.sub(one, v);
  const w0 = f32x4.sub(one, w);
  const p00 = f32x4.mul(u0, v0);
  const p10 = f32x4.mul(u, v0);
  const p01 = f32x4.mul(u0, v);
  const p11 = f32x4.mul(u, v);
  const k00 = v128.xor(X0, Y0);
  const k10 = v128.xor(X1, Y0);
  const k01 = v128.xor(X0, Y1);
  const k11 = v128.xor(X1, Y1);
  let sum = f32x4.mul(f32x4.mul(p00, w0), unit4(v128.xor(k00, Z0)));
  sum = f32x4.add(sum, f32x4.mul(f32x4.mul(p10, w0), unit4(v128.xor(k10, Z0))));
  sum = f32x4.add(sum, f32x4.mul(f32x4.mul(p01, w0), unit4(v128.xor(k01, Z0))));
  sum = f32x4.add(sum, f32x4.mul(f32x4.mul(p11, w0), unit4(v128.xor(k11, Z0))));
  sum = f32x4.add(sum, f32x4.mul(f32x4.mul(p00, w), unit4(v128.xor(k00, Z1))));
  sum = f32x4.add(sum, f32x4.mul(f32x4.mul(p10, w), unit4(v128.xor(k10, Z1))));
  sum = f32x4.add(sum, f32x4.mul(f32x4.mul(p01, w), unit4(v128.xor(k01, Z1))));
  return f32x4.add(sum, f32x4.mul(f32x4.mul(p11, w), unit4(v128.xor(k11, Z1))));
}

/** valueNoise of four places at once, with the same bits. */
export function valueNoise4(x: v128, y: v128, z: v128, t: v128, seed: i32): v128 {
  const ft = f32x4.floor(t);
  const f = fade4(f32x4.sub(t, ft));
  const T = i32x4.trunc_sat_f32x4_s(ft);
  const a = valuesAt4(x, y, z, T, seed);
  if (!v128.any_true(f32x4.gt(f, f32x4.splat(0)))) return a;
  const b = valuesAt4(x, y, z, i32x4.add(T, i32x4.splat(1)), seed);
  return f32x4.add(a, f32x4.mul(f, f32x4.sub(b, a)));
}

/**
 * Nearest of one point in each unit cell (Worley 1996): 1 at a point, falling to 0 a cell away. The points
 * wander with t.
 */
function cellular(x: f32, y: f32, z: f32, t: f32, seed: i32): f32 {
  const X = <i32>Mathf.floor(x);
  const Y = <i32>Mathf.floor(y);
  const Z = <i32>Mathf.floor(z);
  const T = <i32>Mathf.floor(t);
  const f = fade(t - <f32>T);
  let least: f32 = 9;
  for (let c = Z - 1; c <= Z + 1; c++)
    for (let b = Y - 1; b <= Y + 1; b++)
      for (let a = X - 1; a <= X + 1; a++) {
        let d2: f32 = 0;
        for (let axis = 0; axis < 3; axis++) {
          const p = unit(chance(a, b, c, T, seed + axis));
          const q = unit(chance(a, b, c, T + 1, seed + axis));
          const at = p + f * (q - p) + <f32>byAxis(axis, a, b, c);
          const d = at - byAxis(axis, x, y, z);
          d2 += d * d;
        }

        least = min<f32>(least, d2);
      }

  return max<f32>(0, <f32>1 - sqrt<f32>(least));
}

/** Folded value noise in octaves: rounded lumps with creases between them, 0…1. */
function billow(x: f32, y: f32, z: f32, t: f32, seed: i32): f32 {
  let sum: f32 = 0;
  let weight: f32 = 0.5;
  let all: f32 = 0;
  let scale: f32 = 1;
  for (let o = 0; o < 4; o++) {
    sum += weight * abs<f32>(2 * valueNoise(x * scale, y * scale, z * scale, t, seed + 31 * o) - 1);
    all += weight;
    weight *= 0.5;
    scale *= 2;
  }

  return sum / all;
}

const enum NoiseKind {
  VALUE = 0,
  CELLULAR = 1,
  BILLOW = 2,
  PICTURE = 3,
}

/** One layer of a pattern over a source's cover. */
@unmanaged
class Pattern extends BoxedShape {
  mean: usize;
  most: usize;
  /** 0: value, 1: cellular, 2: billow, 3: picture. */
  noise: i32;
  /** Lumps a cell, moment, seed. */
  lumps: f32;
  moment: f32;
  seed: i32;
  /**
   * What is dark and what is light before contrast: low → 0, high → 1; contrast about the middle; how much of
   * it counts.
   */
  low: f32;
  high: f32;
  contrast: f32;
  strength: f32;
  /**
   * A picture's brightness, or its red, green, blue one behind the other, bottom row first; pixels; its size
   * in cells.
   */
  picture: usize;
  width: i32;
  height: i32;
  across: f32;
  up: f32;
  /** Where a picture's colour goes, three fields; 0: its brightness multiplies the cover. */
  cr: usize;
  cg: usize;
  cb: usize;
}

/** Bilinear look-up of one of a picture's planes; beyond its edges the edge's. */
function pixel(T: Pattern, plane: i32, u: f32, v: f32): f32 {
  const x = min<f32>(max<f32>(u * <f32>T.width - <f32>0.5, 0), <f32>(T.width - 1));
  const y = min<f32>(max<f32>(v * <f32>T.height - <f32>0.5, 0), <f32>(T.height - 1));
  const i = min(<i32>x, max(0, T.width - 2));
  const j = min(<i32>y, max(0, T.height - 2));
  const i2 = min(i + 1, T.width - 1);
  const j2 = min(j + 1, T.height - 1);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const p = T.picture + ((<usize>plane * T.width * T.height) << 2);
  const p00 = load<f32>(p + ((<usize>(j * T.width + i)) << 2));
  const p10 = load<f32>(p + ((<usize>(j * T.width + i2)) << 2));
  const p01 = load<f32>(p + ((<usize>(j2 * T.width + i)) << 2));
  const p11 = load<f32>(p + ((<usize>(j2 * T.width + i2)) << 2));
  const low = p00 + a * (p10 - p00);
  const high = p01 + a * (p11 - p01);
  return low + b * (high - low);
}

/**
 * Multiplies a cover by a pattern that goes along with the shape; of a picture laid on its own x and z (from
 * above).
 */
export function applyPattern(layer: usize, rowStride: i32, planeStride: i32, k0: i32, k1: i32): void {
  const T = changetype<Pattern>(layer);
  const span = T.high - T.low;
  for (let k = max(k0, T.k0); k < min(k1, T.k1); k++)
    for (let j = T.j0; j < T.j1; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = T.i0; i < T.i1; i++) {
        const o = at + ((<usize>i) << 2);
        const mean = load<f32>(T.mean + o);
        if (mean <= 0) continue;
        const px = <f32>i + <f32>0.5 - T.cx;
        const py = <f32>j + <f32>0.5 - T.cy;
        const pz = <f32>k + <f32>0.5 - T.cz;
        const x = ownX(T, px, py, pz);
        const y = ownY(T, px, py, pz);
        const z = ownZ(T, px, py, pz);
        let value: f32;
        if (T.noise == NoiseKind.PICTURE) {
          const u = x / T.across + <f32>0.5;
          const v = <f32>0.5 - z / T.up;
          if (T.cr) {
            for (let c = 0; c < 3; c++) {
              const own = byAxis(c, T.cr, T.cg, T.cb) + o;
              const now = load<f32>(own);
              store<f32>(own, now + T.strength * (pixel(T, c, u, v) - now));
            }

            continue;
          }

          value = pixel(T, 3, u, v);
        } else {
          const a = x * T.lumps;
          const b = y * T.lumps;
          const c = z * T.lumps;
          if (T.noise == NoiseKind.VALUE) value = valueNoise(a, b, c, T.moment, T.seed);
          else if (T.noise == NoiseKind.CELLULAR) value = cellular(a, b, c, T.moment, T.seed);
          else value = billow(a, b, c, T.moment, T.seed);
        }

        value = span != 0 ? (value - T.low) / span : f32(value >= T.low);
        value = min<f32>(1, max<f32>(0, (value - <f32>0.5) * T.contrast + <f32>0.5));
        const by: f32 = <f32>1 + T.strength * (value - 1);
        store<f32>(T.mean + o, mean * by);
        store<f32>(T.most + o, load<f32>(T.most + o) * by);
      }
    }
}
