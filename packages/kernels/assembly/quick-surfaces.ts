// Surfaces in quick pictures: where they stand before the medium, the sun that they hold back from it, and
// how they are lit themselves.
import { ambientOn } from './ambient';
import { environmentAt, skyB, skyG, skyR } from './environment';
import { mad4 } from './lanes';
import { lampFalls, passToward } from './lamps';
import { Medium } from './medium';
import { Lamp, LampKind, PIXEL_FLOATS, Scene } from './scene';
import { isHeldBack, meet, metAt, normalX, normalY, normalZ, OFF, Surface, SurfaceSeen } from './surfaces';

/**
 * Takes the sun's part away from where solids hold it back, for the planes k0..k1 of values with the ring.
 */
export function holdBackSun(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  const m = changetype<Medium>(s.medium);
  const eights = m.row >> 3;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < m.ny + 2; j++)
      for (let i = 0; i < m.nx + 2; i++) {
        if (!load<u8>(m.needed + <usize>((k * (m.ny + 2) + j) * eights + (i >> 3)))) continue;
        if (
          !isHeldBack(s.surfaces, s.surfaceCount, <f32>i, <f32>j, <f32>k, s.toSunX, s.toSunY, s.toSunZ, 1e9)
        )
          continue;
        const p = m.light + ((<usize>(k * m.plane + j * m.row + i)) << 2);
        store<u32>(p, load<u32>(p) & 0xffff0000);
      }
}

/** Where solids stand before the medium: the rows k0..k1 of the scene's part. */
export function surfaceLimits(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  for (let y = s.fromY + k0; y < s.fromY + k1; y++)
    for (let x = s.fromX; x < s.endX; x++) {
      const d = wayOf(s, <f32>x, <f32>y);
      if (meetFromEye(s, d) >= 0) store<f32>(s.limits + ((<usize>(y * s.width + x)) << 2), metAt);
    }
}

/** Of a pixel: its ray, and the cosine of that to the camera's axis. */
// @ts-ignore: decorator
@inline
export function wayOf(s: Scene, x: f32, y: f32): v128 {
  const dx = s.cornerX + x * s.acrossX + y * s.downX;
  const dy = s.cornerY + x * s.acrossY + y * s.downY;
  const dz = s.cornerZ + x * s.acrossZ + y * s.downZ;
  const scale: f32 = 1 / sqrt<f32>(dx * dx + dy * dy + dz * dz);
  return f32x4(dx * scale, dy * scale, dz * scale, scale);
}

/** The surface that the eye meets first along a ray; below 0: none. Sets where and its normal, see meet. */
// @ts-ignore: decorator
@inline
export function meetFromEye(s: Scene, way: v128): i32 {
  return meet(
    s.surfaces,
    s.surfaceCount,
    s.eyeX,
    s.eyeY,
    s.eyeZ,
    f32x4.extract_lane(way, 0),
    f32x4.extract_lane(way, 1),
    f32x4.extract_lane(way, 2),
    1e9,
    true,
  );
}

/**
 * Adds surfaces that are seen behind the medium, the rows k0..k1: what lamps and the environment give them.
 */
export function shadeSurfaces(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  for (let y = s.fromY + k0; y < s.fromY + k1; y++)
    for (let x = s.fromX; x < s.endX; x++) {
      if (load<f32>(s.limits + ((<usize>(y * s.width + x)) << 2)) >= 1e9) continue;
      const d = wayOf(s, <f32>x, <f32>y);
      const dx = f32x4.extract_lane(d, 0);
      const dy = f32x4.extract_lane(d, 1);
      const dz = f32x4.extract_lane(d, 2);
      const found = meetFromEye(s, d);
      if (found < 0) continue;
      const S = changetype<Surface>(s.surfaces + <usize>found * offsetof<Surface>());
      if (S.seen == SurfaceSeen.HELD_OUT) continue;
      const px = s.eyeX + metAt * dx + OFF * normalX;
      const py = s.eyeY + metAt * dy + OFF * normalY;
      const pz = s.eyeZ + metAt * dz + OFF * normalZ;
      const nx = normalX;
      const ny = normalY;
      const nz = normalZ;
      const around = s.ambient ? ambientOn(s, px, py, pz, nx, ny, nz) : f32x4(s.skyR, s.skyG, s.skyB, 0);
      const direct = lightFrom(s, px, py, pz, nx, ny, nz);
      const light = f32x4.add(direct, around);
      const to = s.image + ((<usize>((y * s.width + x) * PIXEL_FLOATS)) << 2);
      if (S.seen == SurfaceSeen.CATCHER) {
        store<f32>(to, max<f32>(0, 1 - (<f32>1 - load<f32>(to, 12)) * litPart), 12);
        continue;
      }

      const glow: f32 = s.glows ? 1 : 0;
      const passR = load<f32>(to, 16);
      const passG = load<f32>(to, 20);
      const passB = <f32>3 - <f32>3 * load<f32>(to, 12) - passR - passG;
      store<f32>(to, load<f32>(to) + passR * (glow * S.glowR + S.red * f32x4.extract_lane(light, 0)));
      store<f32>(to, load<f32>(to, 4) + passG * (glow * S.glowG + S.green * f32x4.extract_lane(light, 1)), 4);
      store<f32>(to, load<f32>(to, 8) + passB * (glow * S.glowB + S.blue * f32x4.extract_lane(light, 2)), 8);
      store<f32>(to, 1, 12);
    }
}

/**
 * Adds the environment behind everything, the rows k0..k1.
 */
export function shadeBackground(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  for (let y = s.fromY + k0; y < s.fromY + k1; y++)
    for (let x = s.fromX; x < s.endX; x++) {
      if (s.limits && load<f32>(s.limits + ((<usize>(y * s.width + x)) << 2)) < 1e9) continue;
      const d = wayOf(s, <f32>x, <f32>y);
      let red = s.skyR;
      let green = s.skyG;
      let blue = s.skyB;
      if (s.sky) {
        environmentAt(s, f32x4.extract_lane(d, 0), f32x4.extract_lane(d, 1), f32x4.extract_lane(d, 2));
        red = skyR;
        green = skyG;
        blue = skyB;
      }

      const to = s.image + ((<usize>((y * s.width + x) * PIXEL_FLOATS)) << 2);
      const passR = load<f32>(to, 16);
      const passG = load<f32>(to, 20);
      const passB = <f32>3 - <f32>3 * load<f32>(to, 12) - passR - passG;
      store<f32>(to, load<f32>(to) + passR * red);
      store<f32>(to, load<f32>(to, 4) + passG * green, 4);
      store<f32>(to, load<f32>(to, 8) + passB * blue, 8);
      store<f32>(to, 1, 12);
    }
}

/** Part of all light on a place that nothing held back, after lightFrom; the sky counts as free. */
export let litPart: f32 = 1;

// @ts-ignore: decorator
@inline
function luminance(r: f32, g: f32, b: f32): f32 {
  return <f32>0.2126 * r + <f32>0.7152 * g + <f32>0.0722 * b;
}

/** What an even scatterer at a place gives back of all lamps; sets litPart. */
export function lightFrom(s: Scene, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32): v128 {
  let sum = f32x4.splat(0);
  let all = luminance(s.skyR, s.skyG, s.skyB);
  let lit = all;
  for (let n = 0; n < s.allLamps; n++) {
    const l = changetype<Lamp>(s.lamps + <usize>n * offsetof<Lamp>());
    let tx = l.aimX;
    let ty = l.aimY;
    let tz = l.aimZ;
    let square: f32 = 1;
    let far: f32 = 1e9;
    if (l.kind != LampKind.SUN) {
      tx = l.x - x;
      ty = l.y - y;
      tz = l.z - z;
      square = tx * tx + ty * ty + tz * tz;
      far = sqrt<f32>(max<f32>(square, 1e-8));
      tx /= far;
      ty /= far;
      tz /= far;
    }

    const cosine = nx * tx + ny * ty + nz * tz;
    if (cosine <= 0) continue;
    const falls = cosine * lampFalls(l, tx, ty, tz, square) * <f32>0.3183098861837907;
    const pass = passToward(s, l, x, y, z);
    const bright = luminance(l.red, l.green, l.blue);
    all += falls * bright;
    lit +=
      falls *
      luminance(
        l.red * f32x4.extract_lane(pass, 0),
        l.green * f32x4.extract_lane(pass, 1),
        l.blue * f32x4.extract_lane(pass, 2),
      );
    sum = mad4(f32x4(l.red, l.green, l.blue, 0), f32x4.mul(pass, f32x4.splat(falls)), sum);
  }

  litPart = all > 0 ? lit / all : 1;
  return sum;
}
