// What a picture knows of the solids in it: how far off they stand behind the medium, how they lie and move,
// what light they get, and what part of a pixel they hold out.
import { lightFrom, litPart, meetFromEye, wayOf } from './quick-surfaces';
import { Scene } from './scene';
import { Sense, Sensing } from './sense';
import { metAt, normalX, normalY, normalZ, OFF, Surface, SurfaceSeen } from './surfaces';

/** Places along a side of a pixel that are looked at for what is held out. */
const FINE: i32 = 4;

// @ts-ignore: decorator
@inline
function addTo(pixel: usize, what: Sense, value: f32): void {
  const p = pixel + ((<usize>what) << 2);
  store<f32>(p, load<f32>(p) + value);
}

/** Adds what solids behind the medium are seen by, the rows k0..k1 of the scene's part. */
export function senseSurfaces(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  const sensing = changetype<Sensing>(s.sensing);
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
      const to = sensing.out + ((<usize>((y * s.width + x) * sensing.floats)) << 2);
      const far = metAt;
      const nx = normalX;
      const ny = normalY;
      const nz = normalZ;
      const px = s.eyeX + far * dx;
      const py = s.eyeY + far * dy;
      const pz = s.eyeZ + far * dz;
      if (sensing.shadows) {
        lightFrom(s, px + OFF * nx, py + OFF * ny, pz + OFF * nz, nx, ny, nz);
        store<f32>(to + ((<usize>Sense.LIT) << 2), litPart);
      }

      if (S.seen == SurfaceSeen.CATCHER) continue;
      const left = load<f32>(to + ((<usize>Sense.LEFT) << 2));
      const depth = far * s.metre * f32x4.extract_lane(d, 3);
      addTo(to, Sense.WEIGHT, left);
      addTo(to, Sense.MIDDLE, left * depth);
      const front = to + ((<usize>Sense.FRONT) << 2);
      if (load<f32>(front) == 0) store<f32>(front, depth);
      store<f32>(to + ((<usize>Sense.BACK) << 2), depth);
      // normals of the medium are weighed by its slope; a surface's is as steep as can be
      addTo(to, Sense.NORMAL_X, left * nx);
      addTo(to, Sense.NORMAL_Y, left * ny);
      addTo(to, Sense.NORMAL_Z, left * nz);
      if (sensing.motion) moved(sensing, S, found, px, py, pz, left, <f32>x, <f32>y, to);
    }
}

/** Where a place of a solid is seen in the next frame. */
function moved(
  sensing: Sensing,
  S: Surface,
  number: i32,
  x: f32,
  y: f32,
  z: f32,
  weight: f32,
  px: f32,
  py: f32,
  to: usize,
): void {
  const N = changetype<Surface>(sensing.nextSurfaces + <usize>number * offsetof<Surface>());
  const rx = x - S.cx;
  const ry = y - S.cy;
  const rz = z - S.cz;
  // into its own axes, and out of those that it has then
  const a = S.a00 * rx + S.a01 * ry + S.a02 * rz;
  const b = S.a10 * rx + S.a11 * ry + S.a12 * rz;
  const c = S.a20 * rx + S.a21 * ry + S.a22 * rz;
  const qx = N.cx + N.a00 * a + N.a10 * b + N.a20 * c;
  const qy = N.cy + N.a01 * a + N.a11 * b + N.a21 * c;
  const qz = N.cz + N.a02 * a + N.a12 * b + N.a22 * c;
  const w = max<f32>(1e-6, sensing.wX * qx + sensing.wY * qy + sensing.wZ * qz + sensing.wW);
  const u = (sensing.xX * qx + sensing.xY * qy + sensing.xZ * qz + sensing.xW) / w;
  const v = (sensing.yX * qx + sensing.yY * qy + sensing.yZ * qz + sensing.yW) / w;
  addTo(to, Sense.MOTION_X, weight * (u - px));
  addTo(to, Sense.MOTION_Y, weight * (v - py));
}

/** What part of each pixel solids hold out, whatever stands before them: the rows k0..k1. */
export function solidCover(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  const sensing = changetype<Sensing>(s.sensing);
  const step: f32 = <f32>1 / <f32>FINE;
  for (let y = s.fromY + k0; y < s.fromY + k1; y++)
    for (let x = s.fromX; x < s.endX; x++) {
      let held = 0;
      for (let j = 0; j < FINE; j++)
        for (let i = 0; i < FINE; i++) {
          const px = <f32>x - <f32>0.5 + (<f32>i + <f32>0.5) * step;
          const py = <f32>y - <f32>0.5 + (<f32>j + <f32>0.5) * step;
          const found = meetFromEye(s, wayOf(s, px, py));
          if (found < 0) continue;
          const S = changetype<Surface>(s.surfaces + <usize>found * offsetof<Surface>());
          if (S.seen == SurfaceSeen.HELD_OUT) held++;
        }

      const to = sensing.out + ((<usize>((y * s.width + x) * sensing.floats + <i32>Sense.MATTE)) << 2);
      store<f32>(to, <f32>held / <f32>(FINE * FINE));
    }
}
