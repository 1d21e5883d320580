// Lamps: what falls from one at a place, and how much of it the medium lets through, on a coarser lattice for
// quick pictures or asked for place by place.
import { lerp4, pairs } from './common';
import { expOfNegative4, minusLog4 } from './lanes';
import { BLOCK, blockPlane, blockRow, Medium } from './medium';
import { Lamp, LampKind, Scene } from './scene';
import { isHeldBack } from './surfaces';

/**
 * Values of a lamp's transmittance along the axes: every second one of the medium's, and one behind the last.
 */
// @ts-ignore: decorator
@inline
function coarse(n: i32): i32 {
  return (n + 3) / 2 + 1;
}

/**
 * Transmittance toward a lamp at one place, by interpolated optical depth: it varies less than what it lets
 * through.
 */
// @ts-ignore: decorator
@inline
export function litAt(m: Medium, lit: usize, x: f32, y: f32, z: f32): f32 {
  const row = coarse(m.nx);
  const plane = row * coarse(m.ny);
  const hx = max<f32>(0, x * 0.5);
  const hy = max<f32>(0, y * 0.5);
  const hz = max<f32>(0, z * 0.5);
  const i = <i32>hx;
  const j = <i32>hy;
  const k = <i32>hz;
  const p = lit + ((<usize>(k * plane + j * row + i)) << 2);
  const f = lerp4(
    pairs(p, 0, row << 2),
    pairs(p + ((<usize>plane) << 2), 0, row << 2),
    f32x4.splat(hz - <f32>k),
  );
  const a = f32x4.extract_lane(f, 0) + (hx - <f32>i) * (f32x4.extract_lane(f, 1) - f32x4.extract_lane(f, 0));
  const b = f32x4.extract_lane(f, 2) + (hx - <f32>i) * (f32x4.extract_lane(f, 3) - f32x4.extract_lane(f, 2));
  return f32x4.extract_lane(expOfNegative4(f32x4.splat(-(a + (hy - <f32>j) * (b - a)))), 0);
}

/** Irradiance factor of a lamp at a place, apart from its colour and what stands between. */
// @ts-ignore: decorator
@inline
export function lampFalls(l: Lamp, towardX: f32, towardY: f32, towardZ: f32, square: f32): f32 {
  if (l.kind == LampKind.SUN) return 1;
  // toward: unit vector from the place to the lamp
  const along = -(towardX * l.aimX + towardY * l.aimY + towardZ * l.aimZ);
  let part: f32 = 1;
  if (l.kind == LampKind.SPOT) {
    const t = min<f32>(1, max<f32>(0, (along - l.cosineEnd) / max<f32>(1e-6, l.cosineFull - l.cosineEnd)));
    part = t * t * (3 - 2 * t);
  } else if (l.kind == LampKind.RECTANGLE || l.kind == LampKind.DISC) part = max<f32>(0, along);
  return part / max<f32>(square, 0.25);
}

/** An optical depth that lets nothing through. */
const DARK: f32 = 40;
/** Cells from sample to sample toward a lamp. */
const LAMP_STEP: f32 = 1.5;

/**
 * Transmittance toward a lamp's middle from every second value of the medium, planes k0..k1 of that coarser
 * lattice.
 */
export function marchLamp(scene: usize, lamp: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  const l = changetype<Lamp>(lamp);
  const m = changetype<Medium>(s.medium);
  const cx = coarse(m.nx);
  const cy = coarse(m.ny);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < cy; j++)
      for (let i = 0; i < cx; i++) {
        const x: f32 = min<f32>(<f32>(i << 1), <f32>(m.nx + 1));
        const y: f32 = min<f32>(<f32>(j << 1), <f32>(m.ny + 1));
        const z: f32 = min<f32>(<f32>(k << 1), <f32>(m.nz + 1));
        store<f32>(l.lit + ((<usize>((k * cy + j) * cx + i)) << 2), depthToward(s, l, x, y, z));
      }
}

// @ts-ignore: decorator
@inline
export function isFace(l: Lamp): bool {
  return l.kind == LampKind.RECTANGLE || l.kind == LampKind.DISC;
}

/**
 * Places across a lamp's face that stand for all of it (Gauss, two along each side), parts of its half
 * extents.
 */
// @ts-ignore: decorator
@inline
function faceReach(l: Lamp): f32 {
  return l.kind == LampKind.RECTANGLE ? 0.5773502691896258 : 0.5;
}

/** The same as lampFalls, over a face. */
export function faceFalls(l: Lamp, x: f32, y: f32, z: f32): f32 {
  let sum: f32 = 0;
  for (let n = 0; n < 4; n++) {
    const a = n & 1 ? faceReach(l) : -faceReach(l);
    const b = n & 2 ? faceReach(l) : -faceReach(l);
    const tx = l.x + a * l.uX + b * l.vX - x;
    const ty = l.y + a * l.uY + b * l.vY - y;
    const tz = l.z + a * l.uZ + b * l.vZ - z;
    const square = tx * tx + ty * ty + tz * tz;
    const one: f32 = 1 / sqrt<f32>(max<f32>(square, 1e-12));
    sum += lampFalls(l, tx * one, ty * one, tz * one, square);
  }

  return sum * 0.25;
}

/** Optical depth toward a lamp; of a face that of its mean transmittance. */
function depthToward(s: Scene, l: Lamp, x: f32, y: f32, z: f32): f32 {
  if (!isFace(l)) return depthTo(s, l, 0, 0, x, y, z);
  let sum: f32 = 0;
  for (let n = 0; n < 4; n++) {
    const a = n & 1 ? faceReach(l) : -faceReach(l);
    const b = n & 2 ? faceReach(l) : -faceReach(l);
    const depth = depthTo(s, l, a, b, x, y, z);
    sum += f32x4.extract_lane(expOfNegative4(f32x4.splat(-depth)), 0);
  }

  return f32x4.extract_lane(minusLog4(f32x4.splat(min<f32>(0.9999999, max<f32>(1e-12, sum * 0.25)))), 0);
}

/** What of a lamp's light comes to a surface, by channel. */
export function passToward(s: Scene, l: Lamp, x: f32, y: f32, z: f32): v128 {
  return passOf(s, depthToward(s, l, x, y, z));
}

/** Part of all scattering that counts as going straight on (Joseph, Wiscombe & Weinman 1976). */
// @ts-ignore: decorator
@inline
function straight(s: Scene): f32 {
  const lean = s.forward + s.backPart * (s.backward - s.forward);
  return s.octaves > 0 ? lean * lean : 0;
}

/** What the medium takes and scatters of its extinction in the mean, by channel. */
function meanScatters(s: Scene): v128 {
  return f32x4(
    s.scatters0R + s.meanR * s.scatters1R,
    s.scatters0G + s.meanG * s.scatters1G,
    s.scatters0B + s.meanB * s.scatters1B,
    0,
  );
}

function meanTakes(s: Scene): v128 {
  return f32x4(
    s.takes0R + s.meanTakesR * s.takes1R,
    s.takes0G + s.meanTakesG * s.takes1G,
    s.takes0B + s.meanTakesB * s.takes1B,
    0,
  );
}

/** What comes through an optical depth to a surface, by channel; with what is scattered straight on. */
export function passOf(s: Scene, depth: f32): v128 {
  const on = f32x4.mul(meanScatters(s), f32x4.splat(straight(s)));
  const held = f32x4.max(f32x4.splat(0), f32x4.sub(meanTakes(s), on));
  return expOfNegative4(f32x4.mul(held, f32x4.splat(-depth)));
}

/** Of what does not come through, the part that is scattered another way, by channel. */
export function strayOf(s: Scene): v128 {
  const f = straight(s);
  const scatters = meanScatters(s);
  const held = f32x4.sub(meanTakes(s), f32x4.mul(scatters, f32x4.splat(f)));
  return f32x4.div(f32x4.mul(scatters, f32x4.splat(1 - f)), f32x4.max(held, f32x4.splat(<f32>1e-6)));
}

/** Mean radiance that the lamps give the medium at a place, by channel; without what surfaces give back. */
export function lampsMean(s: Scene, x: f32, y: f32, z: f32): v128 {
  const m = changetype<Medium>(s.medium);
  let sum = f32x4.splat(0);
  for (let n = 0; n < s.allLamps; n++) {
    const l = changetype<Lamp>(s.lamps + <usize>n * offsetof<Lamp>());
    let tx = l.aimX;
    let ty = l.aimY;
    let tz = l.aimZ;
    let square: f32 = 1;
    if (l.kind != LampKind.SUN) {
      tx = l.x - x;
      ty = l.y - y;
      tz = l.z - z;
      square = max<f32>(tx * tx + ty * ty + tz * tz, 1e-8);
      const one: f32 = 1 / sqrt<f32>(square);
      tx *= one;
      ty *= one;
      tz *= one;
    }

    // the key sun's is in the light volume
    const through = l.lit ? litAt(m, l.lit, x, y, z) : sunAt(m, x, y, z);
    const falls = isFace(l) ? faceFalls(l, x, y, z) : lampFalls(l, tx, ty, tz, square);
    const given = falls * through * <f32>0.0795774715459477;
    sum = f32x4.add(sum, f32x4.mul(f32x4(l.red, l.green, l.blue, 0), f32x4.splat(given)));
  }

  return sum;
}

/** The key sun's part at the value nearest to a place. */
function sunAt(m: Medium, x: f32, y: f32, z: f32): f32 {
  const i = min(m.nx + 1, max(0, <i32>(x + <f32>0.5)));
  const j = min(m.ny + 1, max(0, <i32>(y + <f32>0.5)));
  const k = min(m.nz + 1, max(0, <i32>(z + <f32>0.5)));
  const word = load<u32>(m.light + ((<usize>(k * m.plane + j * m.row + i)) << 2));
  return <f32>(word & 0xffff) * <f32>(1.0 / 65535.0);
}

/** Optical depth toward a place across a lamp. */
function depthTo(s: Scene, l: Lamp, a: f32, b: f32, x: f32, y: f32, z: f32): f32 {
  let tx = l.aimX;
  let ty = l.aimY;
  let tz = l.aimZ;
  let far: f32 = 1e9;
  if (l.kind != LampKind.SUN) {
    tx = l.x + a * l.uX + b * l.vX - x;
    ty = l.y + a * l.uY + b * l.vY - y;
    tz = l.z + a * l.uZ + b * l.vZ - z;
    far = sqrt<f32>(tx * tx + ty * ty + tz * tz);
    const one: f32 = 1 / max<f32>(far, 1e-6);
    tx *= one;
    ty *= one;
    tz *= one;
  }

  if (l.within > 0) far = max<f32>(0, far - l.within);
  if (l.shadows && s.surfaceCount > 0 && isHeldBack(s.surfaces, s.surfaceCount, x, y, z, tx, ty, tz, far))
    return DARK;
  return depthAlong(s, x, y, z, tx, ty, tz, far);
}

/** How far along the last ray of depthAlong the medium lies, in the mean. */
export let mediumAt: f32 = 0;

/** Optical depth along a ray up to `far`. */
export function depthAlong(s: Scene, x: f32, y: f32, z: f32, tx: f32, ty: f32, tz: f32, far: f32): f32 {
  const m = changetype<Medium>(s.medium);
  // a surface may stand outside of the medium's box
  const before = max<f32>(
    0,
    max<f32>(enters(x, tx, m.nx), max<f32>(enters(y, ty, m.ny), enters(z, tz, m.nz))),
  );
  far = min(far, min(leaves(x, tx, m.nx), min(leaves(y, ty, m.ny), leaves(z, tz, m.nz))));
  if (before >= far) return 0;
  let depth: f32 = 0;
  let reach: f32 = 0;
  let t: f32 = before + LAMP_STEP * 0.5;
  while (t < far && depth < 12) {
    const ax = x + t * tx;
    const ay = y + t * ty;
    const az = z + t * tz;
    const block =
      1 + <i32>ax / BLOCK + (1 + <i32>ay / BLOCK) * blockRow(m) + (1 + <i32>az / BLOCK) * blockPlane(m);
    if (load<u32>(m.blocks + ((<usize>block) << 2)) < 256) {
      // on through the empty block
      const out = min(blockLeaves(ax, tx), min(blockLeaves(ay, ty), blockLeaves(az, tz)));
      t += LAMP_STEP * max<f32>(1, floor<f32>(out / LAMP_STEP));
      continue;
    }

    const own = LAMP_STEP * extinctionAt(m, ax, ay, az);
    depth += own;
    reach += own * t;
    t += LAMP_STEP;
  }

  mediumAt = depth > 0 ? reach / depth : 0;
  return depth * s.shadow;
}

// @ts-ignore: decorator
@inline
function leaves(o: f32, d: f32, n: i32): f32 {
  if (abs(d) < 1e-9) return 1e9;
  return max<f32>(0, ((d > 0 ? <f32>(n + 1) : 0) - o) / d);
}

// @ts-ignore: decorator
@inline
function enters(o: f32, d: f32, n: i32): f32 {
  if (o >= 0 && o <= <f32>(n + 1)) return 0;
  if (abs(d) < 1e-9) return 1e9;
  return ((d > 0 ? 0 : <f32>(n + 1)) - o) / d >= 0 ? ((d > 0 ? 0 : <f32>(n + 1)) - o) / d : 1e9;
}

// @ts-ignore: decorator
@inline
function blockLeaves(o: f32, d: f32): f32 {
  if (abs(d) < 1e-9) return 1e9;
  const b = <f32>((<i32>o / BLOCK) * BLOCK);
  return ((d > 0 ? b + <f32>BLOCK : b) - o) / d;
}

/** Extinction at one place. */
export function extinctionAt(m: Medium, x: f32, y: f32, z: f32): f32 {
  const i = <i32>x;
  const j = <i32>y;
  const k = <i32>z;
  const p = m.extinction + ((<usize>(k * m.plane + j * m.row + i)) << 2);
  const row = m.row << 2;
  const f = lerp4(pairs(p, 0, row), pairs(p + ((<usize>m.plane) << 2), 0, row), f32x4.splat(z - <f32>k));
  const a = f32x4.extract_lane(f, 0) + (x - <f32>i) * (f32x4.extract_lane(f, 1) - f32x4.extract_lane(f, 0));
  const b = f32x4.extract_lane(f, 2) + (x - <f32>i) * (f32x4.extract_lane(f, 3) - f32x4.extract_lane(f, 2));
  return a + (y - <f32>j) * (b - a);
}
