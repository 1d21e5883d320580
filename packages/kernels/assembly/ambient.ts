// Light from all round where solids stand, for quick pictures: what is left of the sky behind them, and what
// they give back of all light, on a coarse lattice around the medium. Few rays from each of its places find
// what stands there once; light then goes from surface to surface over what the lattice already knows
// (radiosity on an irradiance volume: Greger, Shirley, Hubbard & Greenberg 1998).
//
// A value is the mean radiance by channel, its mean weighted by direction along x, y and z, and the mean as
// if there were no medium: what the medium itself lets through, light volumes know better.
import { depthAlong, lampsMean, mediumAt, passOf, strayOf } from './lamps';
import { lightFrom } from './quick-surfaces';
import { Scene } from './scene';
import { isWithin, meet, metAt, normalX, normalY, normalZ, OFF, Surface } from './surfaces';

/** Sizes of the lattice and of what stands in memory for it, floats. */
export const enum Ambient {
  /** Places along a side. */
  SIDE = 11,
  /** Of a value. */
  VALUE = 15,
  /**
   * A ray: what it met, the light given back there directly, part given back, place, normal; what the medium
   * lets through on the way, what lamps give it there, and where that is.
   */
  RAY = 22,
  /** A direction with its weight; all weights together are one. */
  WAY = 4,
}

/** What a ray met: nothing, the inside of a solid, or a surface. */
const enum Met {
  SKY,
  INSIDE,
  SURFACE,
}
// @ts-ignore: decorator
@inline
function rayAt(s: Scene, place: i32, way: i32): usize {
  return s.ambientRays + ((<usize>((place * s.ambientWays + way) * <i32>Ambient.RAY)) << 2);
}

// @ts-ignore: decorator
@inline
function valueAt(s: Scene, place: i32): usize {
  return s.ambient + ((<usize>(place * <i32>Ambient.VALUE)) << 2);
}

// @ts-ignore: decorator
@inline
function wayAt(s: Scene, way: i32): usize {
  return s.ambientDirections + ((<usize>(way * <i32>Ambient.WAY)) << 2);
}

/** What stands around the places of the planes k0..k1, and what lamps give it. */
export function ambientRays(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < <i32>Ambient.SIDE; j++)
      for (let i = 0; i < <i32>Ambient.SIDE; i++) {
        const x = s.ambientX + <f32>i * s.ambientStepX;
        const y = s.ambientY + <f32>j * s.ambientStepY;
        const z = s.ambientZ + <f32>k * s.ambientStepZ;
        const place = (k * <i32>Ambient.SIDE + j) * <i32>Ambient.SIDE + i;
        const within = isWithin(s.surfaces, s.surfaceCount, x, y, z);
        for (let way = 0; way < s.ambientWays; way++)
          if (within) store<f32>(rayAt(s, place, way), <f32>Met.INSIDE);
          else castRay(s, rayAt(s, place, way), wayAt(s, way), x, y, z);
      }
}

function castRay(s: Scene, p: usize, w: usize, x: f32, y: f32, z: f32): void {
  const dx = load<f32>(w);
  const dy = load<f32>(w, 4);
  const dz = load<f32>(w, 8);
  const found = meet(s.surfaces, s.surfaceCount, x, y, z, dx, dy, dz, 1e9, false);
  store<f32>(p, <f32>Met.SKY);
  const nx = normalX;
  const ny = normalY;
  const nz = normalZ;
  const far = metAt;
  const depth = depthAlong(s, x, y, z, dx, dy, dz, far);
  const pass = passOf(s, depth);
  keep3(p + 52, pass);
  keep3(p + 64, f32x4.splat(0));
  if (depth > 0 && s.octaves > 0) {
    // what the medium on the way scatters here: of lamps now, of all the rest with each round
    const mx = x + mediumAt * dx;
    const my = y + mediumAt * dy;
    const mz = z + mediumAt * dz;
    keep3(p + 64, lampsMean(s, mx, my, mz));
    store<f32>(p, mx, 76);
    store<f32>(p, my, 80);
    store<f32>(p, mz, 84);
  }

  if (found < 0) return;
  const S = changetype<Surface>(s.surfaces + <usize>found * offsetof<Surface>());
  store<f32>(p, <f32>Met.SURFACE);
  const px = x + far * dx + OFF * nx;
  const py = y + far * dy + OFF * ny;
  const pz = z + far * dz + OFF * nz;
  const light = lightFrom(s, px, py, pz, nx, ny, nz);
  store<f32>(p, f32x4.extract_lane(light, 0) * S.red, 4);
  store<f32>(p, f32x4.extract_lane(light, 1) * S.green, 8);
  store<f32>(p, f32x4.extract_lane(light, 2) * S.blue, 12);
  store<f32>(p, S.red, 16);
  store<f32>(p, S.green, 20);
  store<f32>(p, S.blue, 24);
  store<f32>(p, px, 28);
  store<f32>(p, py, 32);
  store<f32>(p, pz, 36);
  store<f32>(p, nx, 40);
  store<f32>(p, ny, 44);
  store<f32>(p, nz, 48);
}

/**
 * Light from surface to surface, so often, and from there as it would go on without end; by one worker, since
 * each place builds on those before.
 */
export function ambientBounces(scene: usize, rounds: i32): void {
  const s = changetype<Scene>(scene);
  const bytes = (<usize>(PLACES * <i32>Ambient.VALUE)) << 2;
  const before = s.ambient + bytes;
  memory.fill(s.ambient, 0, bytes);
  let first = f32x4.splat(0);
  for (let round = 0; round < rounds; round++) {
    memory.copy(before, s.ambient, bytes);
    gatherAll(s);
    const more = addedSince(s, before);
    if (round == rounds - 1) goOnForEver(s, before, first, more);
    first = more;
  }

  gatherAll(s);
}

const PLACES: i32 = <i32>Ambient.SIDE * <i32>Ambient.SIDE * <i32>Ambient.SIDE;

function gatherAll(s: Scene): void {
  for (let place = 0; place < PLACES; place++) gatherAt(s, place);
  fillSolid(s);
}

/** What a round has added in all, by channel. */
function addedSince(s: Scene, before: usize): v128 {
  let sum = f32x4.splat(0);
  for (let place = 0; place < PLACES; place++) {
    const at = (<usize>(place * <i32>Ambient.VALUE)) << 2;
    sum = f32x4.add(sum, f32x4.sub(v128.load(s.ambient + at), v128.load(before + at)));
  }

  return sum;
}

/** Each round adds the same part of the one before: what is still to come is a geometric series. */
function goOnForEver(s: Scene, before: usize, first: v128, last: v128): void {
  const small = f32x4.splat(<f32>1e-20);
  const part = f32x4.pmax(
    f32x4.splat(0),
    f32x4.pmin(f32x4.splat(MOST_LEFT), f32x4.div(last, f32x4.pmax(first, small))),
  );
  const scale = f32x4.div(part, f32x4.sub(f32x4.splat(1), part));
  for (let place = 0; place < PLACES; place++)
    for (let group = 0; group < 4; group++) {
      const at = (<usize>(place * <i32>Ambient.VALUE + 3 * group)) << 2;
      const now = v128.load(s.ambient + at);
      const more = f32x4.mul(f32x4.sub(now, v128.load(before + at)), scale);
      keep3(s.ambient + at, f32x4.add(now, more));
    }
}

/** Of a round's light what the next one may have at the most. */
const MOST_LEFT: f32 = 0.97;

function gatherAt(s: Scene, place: i32): void {
  const to = valueAt(s, place);
  if (isSolid(s, place)) return;
  const stray = strayOf(s);
  let mean = f32x4.splat(0);
  let free = f32x4.splat(0);
  let meanX = f32x4.splat(0);
  let meanY = f32x4.splat(0);
  let meanZ = f32x4.splat(0);
  for (let way = 0; way < s.ambientWays; way++) {
    const w = wayAt(s, way);
    const weight = load<f32>(w, 12);
    const p = rayAt(s, place, way);
    const met = <i32>load<f32>(p);
    let light = f32x4(s.skyR, s.skyG, s.skyB, 0);
    if (met == Met.SURFACE) {
      const on = ambientOn(
        s,
        load<f32>(p, 28),
        load<f32>(p, 32),
        load<f32>(p, 36),
        load<f32>(p, 40),
        load<f32>(p, 44),
        load<f32>(p, 48),
      );
      // the record stands so that its fourth number is another one, which nobody reads
      light = f32x4.add(v128.load(p, 4), f32x4.mul(v128.load(p, 16), on));
    }

    light = f32x4.mul(light, f32x4.splat(weight));
    free = f32x4.add(free, light);
    const pass = f32x4(load<f32>(p, 52), load<f32>(p, 56), load<f32>(p, 60), 1);
    light = f32x4.mul(light, pass);
    if (load<f32>(p, 52) < 1 && s.octaves > 0) {
      const there = partAt(s, load<f32>(p, 76), load<f32>(p, 80), load<f32>(p, 84), 0);
      const lit = f32x4.add(there, f32x4(load<f32>(p, 64), load<f32>(p, 68), load<f32>(p, 72), 0));
      const taken = f32x4.mul(f32x4.sub(f32x4.splat(1), pass), f32x4.splat(weight));
      light = f32x4.add(light, f32x4.mul(lit, f32x4.mul(taken, stray)));
    }

    mean = f32x4.add(mean, light);
    meanX = f32x4.add(meanX, f32x4.mul(light, f32x4.splat(load<f32>(w))));
    meanY = f32x4.add(meanY, f32x4.mul(light, f32x4.splat(load<f32>(w, 4))));
    meanZ = f32x4.add(meanZ, f32x4.mul(light, f32x4.splat(load<f32>(w, 8))));
  }

  keep3(to, mean);
  keep3(to + 12, meanX);
  keep3(to + 24, meanY);
  keep3(to + 36, meanZ);
  keep3(to + 48, free);
}

// @ts-ignore: decorator
@inline
function isSolid(s: Scene, place: i32): bool {
  return <i32>load<f32>(rayAt(s, place, 0)) == Met.INSIDE;
}

// @ts-ignore: decorator
@inline
function keep3(p: usize, v: v128): void {
  store<f32>(p, f32x4.extract_lane(v, 0));
  store<f32>(p, f32x4.extract_lane(v, 1), 4);
  store<f32>(p, f32x4.extract_lane(v, 2), 8);
}

/**
 * Places within solids get the mean of their neighbours outside, so that surfaces are not darkened by them.
 */
function fillSolid(s: Scene): void {
  const n = <i32>Ambient.SIDE;
  for (let k = 0; k < n; k++)
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++) {
        const to = valueAt(s, (k * n + j) * n + i);
        if (!isSolid(s, (k * n + j) * n + i)) continue;
        let count: f32 = 0;
        for (let c = 0; c < <i32>Ambient.VALUE; c++) store<f32>(to + ((<usize>c) << 2), 0);
        for (let q = 0; q < 27; q++) {
          const a = i + (q % 3) - 1;
          const b = j + ((q / 3) % 3) - 1;
          const d = k + q / 9 - 1;
          if (a < 0 || b < 0 || d < 0 || a >= n || b >= n || d >= n) continue;
          if (isSolid(s, (d * n + b) * n + a)) continue;
          const from = valueAt(s, (d * n + b) * n + a);
          count += 1;
          for (let c = 0; c < <i32>Ambient.VALUE; c++) {
            const at = (<usize>c) << 2;
            store<f32>(to + at, load<f32>(to + at) + load<f32>(from + at));
          }
        }

        if (count > 0)
          for (let c = 0; c < <i32>Ambient.VALUE; c++) {
            const at = (<usize>c) << 2;
            store<f32>(to + at, load<f32>(to + at) / count);
          }
      }
}

/** Where a place lies on the lattice, held within it. */
// @ts-ignore: decorator
@inline
function along(v: f32, from: f32, step: f32): f32 {
  return max<f32>(0, min<f32>(<f32>(<i32>Ambient.SIDE - 1) - <f32>1e-3, (v - from) / step));
}

/** One of a value's five parts at a place, by channel. */
function partAt(s: Scene, x: f32, y: f32, z: f32, part: usize): v128 {
  const fi = along(x, s.ambientX, s.ambientStepX);
  const fj = along(y, s.ambientY, s.ambientStepY);
  const fk = along(z, s.ambientZ, s.ambientStepZ);
  const i = <i32>fi;
  const j = <i32>fj;
  const k = <i32>fk;
  let sum = f32x4.splat(0);
  for (let q = 0; q < 8; q++) {
    const a = q & 1;
    const b = (q >> 1) & 1;
    const c = q >> 2;
    const weight =
      (a ? fi - <f32>i : <f32>1 - fi + <f32>i) *
      (b ? fj - <f32>j : <f32>1 - fj + <f32>j) *
      (c ? fk - <f32>k : <f32>1 - fk + <f32>k);
    const p = valueAt(s, ((k + c) * <i32>Ambient.SIDE + j + b) * <i32>Ambient.SIDE + i + a) + 12 * part;
    sum = f32x4.add(sum, f32x4.mul(v128.load(p), f32x4.splat(weight)));
  }

  return sum;
}

/** Mean radiance at a place by channel, as if there were no medium. */
export function ambientAt(s: Scene, x: f32, y: f32, z: f32): v128 {
  return partAt(s, x, y, z, 4);
}

/** What an even scatterer at a place gives back of the light from all round. */
export function ambientOn(s: Scene, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32): v128 {
  const lean = f32x4.add(
    f32x4.mul(partAt(s, x, y, z, 1), f32x4.splat(2 * nx)),
    f32x4.add(
      f32x4.mul(partAt(s, x, y, z, 2), f32x4.splat(2 * ny)),
      f32x4.mul(partAt(s, x, y, z, 3), f32x4.splat(2 * nz)),
    ),
  );
  return f32x4.max(f32x4.splat(0), f32x4.add(partAt(s, x, y, z, 0), lean));
}
