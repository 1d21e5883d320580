// Viscosity and diffusion, implicit and unconditionally stable: one direction after the other (locally
// one-dimensional splitting, Yanenko 1971), each line solved exactly by elimination (Thomas 1949). No
// iterations, a fixed cost.
import { byAxis } from './common';
import { Level } from './level';

/** What stands beside a site along a line: weight of the neighbour, or of a wall's value. */
// @ts-ignore: decorator
@inline
function openOf(L: Level, site: i32): usize {
  return byAxis(site, L.ax, L.ay, L.az);
}

// @ts-ignore: decorator
@inline
function cellOpen(L: Level, o: usize): v128 {
  const x = L.ax + o;
  const y = L.ay + o;
  const z = L.az + o;
  return f32x4.gt(
    f32x4.add(
      f32x4.add(
        f32x4.add(v128.load(x), v128.load(x, 4)),
        f32x4.add(v128.load(y), v128.load(y + L.faceRowBytes)),
      ),
      f32x4.add(v128.load(z), v128.load(z + L.facePlaneBytes)),
    ),
    f32x4.splat(0),
  );
}

/**
 * f ← (1 − a ∂²)⁻¹ f along direction `dir` (0, 1, 2), a = ν dt / h². site: 0, 1, 2 for the faces across an
 * axis (closed ones keep their value and act as walls), 3 for cell centres (nothing passes closed faces). c:
 * a field of scratch. stick: how far the domain's walls hold a velocity, at half a cell's distance.
 * Runs over planes of z, or over rows (j) where dir is z.
 */
export function diffuse(
  level: usize,
  f: usize,
  c: usize,
  site: i32,
  dir: i32,
  a: f32,
  stick: f32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const mx = L.nx + i32(site == 0);
  const my = L.ny + i32(site == 1);
  const mz = L.nz + i32(site == 2);
  const s: usize = byAxis(dir, 4, L.faceRowBytes, L.facePlaneBytes);
  const count = byAxis(dir, mx, my, mz);
  const wallLow = site != 3 && site != dir && (L.walls >> (2 * dir)) & 1 ? <f32>2 * stick : 0;
  const wallHigh = site != 3 && site != dir && (L.walls >> (2 * dir + 1)) & 1 ? <f32>2 * stick : 0;
  if (dir == 0) {
    for (let k = k0; k < k1; k++)
      for (let j = 0; j < my; j++)
        line(L, f, c, <usize>(k * L.facePlaneBytes + j * L.faceRowBytes), site, count, a, wallLow, wallHigh);
    return;
  }

  for (let n = k0; n < k1; n++) {
    const start = dir == 1 ? <usize>(n * L.facePlaneBytes) : <usize>(n * L.faceRowBytes);
    for (let i = 0; i < mx; i += 4)
      lines(L, f, c, start + ((<usize>i) << 2), s, site, dir, count, a, wallLow, wallHigh);
  }
}

/** Four lines side by side. */
function lines(
  L: Level,
  f: usize,
  c: usize,
  at: usize,
  s: usize,
  site: i32,
  dir: i32,
  count: i32,
  a: f32,
  wallLow: f32,
  wallHigh: f32,
): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const av = f32x4.splat(a);
  const open = openOf(L, site == 3 ? dir : site);
  const wall = f32x4.splat(site == dir ? 1 : 2);
  let cp = zero;
  let xp = zero;
  for (let n = 0; n < count; n++) {
    const o = at + <usize>n * s;
    const x = v128.load(f + o);
    let live: v128;
    let wl = zero;
    let wu = zero;
    let diag = one;
    let rhs = x;
    if (site == 3) {
      live = cellOpen(L, o);
      if (n > 0) wl = v128.load(open + o);
      if (n < count - 1) wu = v128.load(open + o + s);
    } else {
      live = f32x4.gt(v128.load(open + o), zero);
      let held = zero;
      if (n > 0) {
        const lives = f32x4.gt(v128.load(open + o - s), zero);
        const k = v128.andnot(wall, lives);
        wl = v128.and(one, lives);
        held = f32x4.add(held, k);
        rhs = f32x4.add(rhs, f32x4.mul(av, f32x4.mul(k, v128.load(f + o - s))));
      } else held = f32x4.add(held, f32x4.splat(wallLow));
      if (n < count - 1) {
        const lives = f32x4.gt(v128.load(open + o + s), zero);
        const k = v128.andnot(wall, lives);
        wu = v128.and(one, lives);
        held = f32x4.add(held, k);
        rhs = f32x4.add(rhs, f32x4.mul(av, f32x4.mul(k, v128.load(f + o + s))));
      } else held = f32x4.add(held, f32x4.splat(wallHigh));
      diag = f32x4.add(diag, f32x4.mul(av, held));
    }

    wl = f32x4.mul(av, wl);
    wu = f32x4.mul(av, wu);
    const m = f32x4.div(one, f32x4.sub(f32x4.add(diag, f32x4.add(wl, wu)), f32x4.mul(wl, cp)));
    cp = v128.and(f32x4.mul(wu, m), live);
    xp = v128.bitselect(f32x4.mul(m, f32x4.add(rhs, f32x4.mul(wl, xp))), x, live);
    v128.store(c + o, cp);
    v128.store(f + o, xp);
  }

  for (let n = count - 2; n >= 0; n--) {
    const o = at + <usize>n * s;
    xp = f32x4.add(v128.load(f + o), f32x4.mul(v128.load(c + o), xp));
    v128.store(f + o, xp);
  }
}

/** One line along x. */
function line(
  L: Level,
  f: usize,
  c: usize,
  at: usize,
  site: i32,
  count: i32,
  a: f32,
  wallLow: f32,
  wallHigh: f32,
): void {
  const open = openOf(L, site == 3 ? 0 : site);
  const wall: f32 = site == 0 ? 1 : 2;
  let cp: f32 = 0;
  let xp: f32 = 0;
  for (let n = 0; n < count; n++) {
    const o = at + ((<usize>n) << 2);
    const x = load<f32>(f + o);
    let live: bool;
    let wl: f32 = 0;
    let wu: f32 = 0;
    let diag: f32 = 1;
    let rhs = x;
    if (site == 3) {
      live = i32x4.extract_lane(cellOpen(L, o), 0) != 0;
      if (n > 0) wl = load<f32>(open + o);
      if (n < count - 1) wu = load<f32>(open + o + 4);
    } else {
      live = load<f32>(open + o) > 0;
      let held: f32 = 0;
      if (n == 0) held += wallLow;
      else if (load<f32>(open + o - 4) > 0) wl = 1;
      else {
        held += wall;
        rhs += a * (wall * load<f32>(f + o - 4));
      }

      if (n == count - 1) held += wallHigh;
      else if (load<f32>(open + o + 4) > 0) wu = 1;
      else {
        held += wall;
        rhs += a * (wall * load<f32>(f + o + 4));
      }

      diag += a * held;
    }

    wl *= a;
    wu *= a;
    const m: f32 = 1 / (diag + (wl + wu) - wl * cp);
    cp = live ? wu * m : 0;
    xp = live ? m * (rhs + wl * xp) : x;
    store<f32>(c + o, cp);
    store<f32>(f + o, xp);
  }

  for (let n = count - 2; n >= 0; n--) {
    const o = at + ((<usize>n) << 2);
    xp = load<f32>(f + o) + load<f32>(c + o) * xp;
    store<f32>(f + o, xp);
  }
}
