// What sources write, by signed distance, so that the amount does not depend on where the shape falls between voxels.
import { row } from './common';
import { kindOf, Level } from './level';

/** Part of a voxel inside a shape whose surface is sd voxels away (negative inside). */
// @ts-ignore: decorator
@inline
function coverage(sd: f32): f32 {
  return min<f32>(1, max<f32>(0, <f32>0.5 - sd));
}

/** Part of the unit length around x that lies within −half … half, exact for slabs thinner than a voxel too. */
// @ts-ignore: decorator
@inline
function overlap(x: f32, half: f32): f32 {
  return max<f32>(0, min<f32>(x + <f32>0.5, half) - max<f32>(x - <f32>0.5, -half));
}

/** Part of the voxel around (x, y, z) inside a sphere: by distance where that is plain, by 5³ points at the surface. */
function sphereCoverage(x: f32, y: f32, z: f32, radius: f32): f32 {
  const sd = sqrt<f32>(x * x + y * y + z * z) - radius;
  if (sd <= -0.87) return 1;
  if (sd >= 0.87) return 0;
  let sum: f32 = 0;
  for (let c = -2; c <= 2; c++)
    for (let b = -2; b <= 2; b++)
      for (let a = -2; a <= 2; a++) {
        const p = x + <f32>0.2 * <f32>a, q = y + <f32>0.2 * <f32>b, r = z + <f32>0.2 * <f32>c;
        sum += coverage((sqrt<f32>(p * p + q * q + r * r) - radius) * 5);
      }
  return sum / 125;
}

/** What a source writes, as the step fills it in. An address of 0: there is no such channel. */
@unmanaged
class Emission {
  density: usize; temperature: usize; red: usize; green: usize; blue: usize; outflow: usize;
  /** 0: sphere of radius sx; 1: box with half sizes sx, sy, sz. Cells of the window. */
  shape: i32;
  cx: f32; cy: f32; cz: f32; sx: f32; sy: f32; sz: f32;
  /** Density added in this substep; kelvin above the air that it draws to; colour of what it adds; m/s over a voxel that it pushes out. */
  amount: f32; kelvin: f32; r: f32; g: f32; b: f32; push: f32;
}

/** Density is added, temperature is drawn to the source's where it covers, colour goes along with the density. */
export function emit(emission: usize, nx: i32, ny: i32, P: i32, PP: i32, k0: i32, k1: i32): void {
  const E = changetype<Emission>(emission), cx = E.cx, cy = E.cy, cz = E.cz, sx = E.sx, isBox = E.shape == 1;
  const sy = isBox ? E.sy : sx, sz = isBox ? E.sz : sx, density = E.density, temperature = E.temperature;
  const i0 = max(0, <i32>Mathf.floor(cx - sx - 1)), i1 = min(nx, <i32>Mathf.ceil(cx + sx + 1));
  const j0 = max(0, <i32>Mathf.floor(cy - sy - 1)), j1 = min(ny, <i32>Mathf.ceil(cy + sy + 1));
  const ka = max(k0, <i32>Mathf.floor(cz - sz - 1)), kb = min(k1, <i32>Mathf.ceil(cz + sz + 1));
  for (let k = ka; k < kb; k++)
    for (let j = j0; j < j1; j++) {
      const at = row(0, j, k, P, PP);
      for (let i = i0; i < i1; i++) {
        const x = <f32>i + <f32>0.5 - cx, y = <f32>j + <f32>0.5 - cy, z = <f32>k + <f32>0.5 - cz;
        const part = isBox ? overlap(x, sx) * overlap(y, sy) * overlap(z, sz) : sphereCoverage(x, y, z, sx);
        if (part <= 0) continue;
        const o = at + (<usize>i << 2), add = part * E.amount;
        store<f32>(density + o, load<f32>(density + o) + add);
        const now = load<f32>(temperature + o);
        store<f32>(temperature + o, now + part * (E.kelvin - now));
        if (E.red) {
          store<f32>(E.red + o, load<f32>(E.red + o) + add * E.r);
          store<f32>(E.green + o, load<f32>(E.green + o) + add * E.g);
          store<f32>(E.blue + o, load<f32>(E.blue + o) + add * E.b);
        }
        if (E.outflow) store<f32>(E.outflow + o, load<f32>(E.outflow + o) + part * E.push);
      }
    }
}

/** f += gain · g: the age of a medium grows by what there is of it. */
export function addScaled(f: usize, g: usize, nx: i32, ny: i32, P: i32, PP: i32, gain: f32, k0: i32, k1: i32): void {
  const s = f32x4.splat(gain);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, P, PP);
      for (let o = at, e = at + (<usize>nx << 2); o < e; o += 16) v128.store(f + o, f32x4.add(v128.load(f + o), f32x4.mul(s, v128.load(g + o))));
    }
}

/** Nothing stays inside an obstacle: cells whose six faces are closed become 0. */
export function clearSolid(level: usize, f: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level), rs = <usize>L.aP, ps = <usize>L.aPP, zero = f32x4.splat(0);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < L.ny; j++) {
      const kind = kindOf(L, j, k), at = <usize>(k * L.aPP + j * L.aP);
      const x = L.ax + at, y = L.ay + at, z = L.az + at;
      for (let o = <usize>(kind & 255) << 5, to = min<usize>(<usize>(kind >> 8) << 5, <usize>L.nx << 2); o < to; o += 16) {
        const open = f32x4.add(
          f32x4.add(f32x4.add(v128.load(x + o), v128.load(x + o, 4)), f32x4.add(v128.load(y + o), v128.load(y + o + rs))),
          f32x4.add(v128.load(z + o), v128.load(z + o + ps)));
        v128.store(f + at + o, v128.and(v128.load(f + at + o), f32x4.gt(open, zero)));
      }
    }
}
