// Currents: pushes of the air that are limited to a place with a soft edge. Accelerations at cell centres,
// m/s².
import { row } from './common';
import { BoxedShape, ownDistance, ownX, ownY, ownZ, sampleGrid } from './shape';

const enum CurrentKind {
  JET = 0,
  SPIN = 1,
  POINT = 2,
  STILL = 3,
  SHEAR = 4,
  PATH = 5,
  PIPE = 6,
  VOLUME = 7,
}


@unmanaged
class Current extends BoxedShape {
  fx: usize;
  fy: usize;
  fz: usize;
  u: usize;
  v: usize;
  w: usize;
  does: i32;
  /** m/s; of a spin rad/s; of a shear 1/s; of a point m/s². */
  strength: f32;
  /** Direction or axis, of length 1, in the world's axes. */
  dx: f32;
  dy: f32;
  dz: f32;
  /** Toward a path, m/s for each metre from it; about it, rad/s. */
  pull: f32;
  spin: f32;
  /** How far a pipe reaches out of its ends, cells. */
  mouth: f32;
  /** Part of the difference that is made up in this substep, a second. */
  grip: f32;
  /** Width of the soft edge outside of the shape, cells; metres a cell. */
  soft: f32;
  h: f32;
  /** How far it counts, a field; 0: all. */
  weight: usize;
  /** Velocity of a volume at the shape's nodes, m/s in own axes: x, y, z one behind the other. */
  ways: usize;
}

let toX: f32 = 0;
let toY: f32 = 0;
let toZ: f32 = 0;

/**
 * The air's speed along a path: to its nearest place, about it, and along it. The place in own axes and
 * cells, the speed too.
 */
function alongPath(C: Current, x: f32, y: f32, z: f32): void {
  let least: f32 = f32.MAX_VALUE;
  let tx: f32 = 0;
  let ty: f32 = 0;
  let tz: f32 = 0;
  let nx: f32 = 0;
  let ny: f32 = 0;
  let nz: f32 = 0;
  for (let n = 0; n + 1 < C.count; n++) {
    const p = C.points + <usize>(n * 12);
    const ax = load<f32>(p);
    const ay = load<f32>(p, 4);
    const az = load<f32>(p, 8);
    const bx = load<f32>(p, 12) - ax;
    const by = load<f32>(p, 16) - ay;
    const bz = load<f32>(p, 20) - az;
    const ex = x - ax;
    const ey = y - ay;
    const ez = z - az;
    const long = bx * bx + by * by + bz * bz;
    if (long == 0) continue;
    const t = min<f32>(1, max<f32>(0, (ex * bx + ey * by + ez * bz) / long));
    const qx = t * bx - ex;
    const qy = t * by - ey;
    const qz = t * bz - ez;
    const d = qx * qx + qy * qy + qz * qz;
    if (d >= least) continue;
    least = d;
    const one = <f32>1 / sqrt<f32>(long);
    tx = bx * one;
    ty = by * one;
    tz = bz * one;
    nx = qx;
    ny = qy;
    nz = qz;
  }

  const pull = C.pull * C.h;
  const spin = C.spin * C.h;
  toX = C.strength * tx + pull * nx - spin * (ty * nz - tz * ny);
  toY = C.strength * ty + pull * ny - spin * (tz * nx - tx * nz);
  toZ = C.strength * tz + pull * nz - spin * (tx * ny - ty * nx);
}

/** Smooth from 0 at `from` to 1 at `to`. */
// @ts-ignore: decorator
@inline
function smooth(from: f32, to: f32, x: f32): f32 {
  const t = min<f32>(1, max<f32>(0, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
}

/**
 * The air's speed at a pipe, in own axes, and how far it counts: along inside; before its first corner toward
 * it, as a sink of the same flow draws (speed · R² / 4 d²); behind its last one a jet that opens by one in
 * five and slows as its width grows.
 */
function atPipe(C: Current, x: f32, y: f32, z: f32, inside: f32): f32 {
  if (inside > 0) {
    alongPath(C, x, y, z);
    return inside;
  }

  const R = C.hx;
  const end = C.points + <usize>((C.count - 1) * 12);
  const ax = load<f32>(C.points) - x;
  const ay = load<f32>(C.points, 4) - y;
  const az = load<f32>(C.points, 8) - z;
  const away = sqrt<f32>(ax * ax + ay * ay + az * az);
  if (away < C.mouth) {
    const speed = (C.strength * min<f32>(1, (R * R) / (4 * away * away))) / max<f32>(away, 1e-3);
    toX = speed * ax;
    toY = speed * ay;
    toZ = speed * az;
    return smooth(C.mouth, 0.5 * C.mouth, away);
  }

  const ex = load<f32>(end);
  const ey = load<f32>(end, 4);
  const ez = load<f32>(end, 8);
  let tx = ex - load<f32>(end - 12);
  let ty = ey - load<f32>(end - 8);
  let tz = ez - load<f32>(end - 4);
  const long = sqrt<f32>(tx * tx + ty * ty + tz * tz);
  if (long == 0) return 0;
  tx /= long;
  ty /= long;
  tz /= long;
  const bx = x - ex;
  const by = y - ey;
  const bz = z - ez;
  const ahead = bx * tx + by * ty + bz * tz;
  if (ahead <= 0 || ahead >= C.mouth) return 0;
  const beside = sqrt<f32>(max<f32>(0, bx * bx + by * by + bz * bz - ahead * ahead));
  const wide = R + <f32>0.2 * ahead;
  const speed = (C.strength * R) / wide;
  toX = speed * tx;
  toY = speed * ty;
  toZ = speed * tz;
  return smooth(wide, 0.5 * wide, beside) * smooth(C.mouth, 0.5 * C.mouth, ahead);
}

/** Adds a current to the accelerations. */
export function applyCurrent(block: usize, rowStride: i32, planeStride: i32, k0: i32, k1: i32): void {
  const C = changetype<Current>(block);
  const line = (<usize>rowStride) << 2;
  const sheet = (<usize>planeStride) << 2;
  for (let k = max(k0, C.k0); k < min(k1, C.k1); k++)
    for (let j = C.j0; j < C.j1; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = C.i0; i < C.i1; i++) {
        const px = <f32>i + <f32>0.5 - C.cx;
        const py = <f32>j + <f32>0.5 - C.cy;
        const pz = <f32>k + <f32>0.5 - C.cz;
        const x = ownX(C, px, py, pz);
        const y = ownY(C, px, py, pz);
        const z = ownZ(C, px, py, pz);
        const d = ownDistance(C, x, y, z);
        // whole inside, fading smoothly over the soft edge; at least over one cell, so that it does not step
        // with the voxels
        const t = min<f32>(1, max<f32>(0, <f32>1 - d / max<f32>(C.soft, 1)));
        const o = at + ((<usize>i) << 2);
        let weight = t * t * (3 - 2 * t);
        if (C.does == CurrentKind.PIPE) weight = atPipe(C, x, y, z, weight);
        if (C.weight) weight *= load<f32>(C.weight + o);
        if (weight <= 0) continue;
        let ax: f32;
        let ay: f32;
        let az: f32;
        if (C.does == CurrentKind.POINT) {
          const long = sqrt<f32>(px * px + py * py + pz * pz);
          const one = long > 1e-3 ? C.strength / long : 0;
          ax = -px * one;
          ay = -py * one;
          az = -pz * one;
        } else {
          if (C.does == CurrentKind.SPIN) {
            const s = C.strength * C.h;
            toX = s * (C.dy * pz - C.dz * py);
            toY = s * (C.dz * px - C.dx * pz);
            toZ = s * (C.dx * py - C.dy * px);
          } else if (C.does == CurrentKind.STILL) {
            toX = 0;
            toY = 0;
            toZ = 0;
          } else if (
            C.does == CurrentKind.PATH ||
            C.does == CurrentKind.PIPE ||
            C.does == CurrentKind.VOLUME
          ) {
            if (C.does == CurrentKind.PATH) alongPath(C, x, y, z);
            else if (C.does == CurrentKind.VOLUME) {
              const one = (<usize>(C.gnx * C.gny * C.gnz)) << 2;
              toX = C.strength * sampleGrid(C, C.ways, x, y, z);
              toY = C.strength * sampleGrid(C, C.ways + one, x, y, z);
              toZ = C.strength * sampleGrid(C, C.ways + 2 * one, x, y, z);
            }

            const ox = toX;
            const oy = toY;
            const oz = toZ;
            toX = C.a00 * ox + C.a10 * oy + C.a20 * oz;
            toY = C.a01 * ox + C.a11 * oy + C.a21 * oz;
            toZ = C.a02 * ox + C.a12 * oy + C.a22 * oz;
          } else {
            // a shear goes faster with the height over its middle, in own axes
            const s = C.does == CurrentKind.SHEAR ? C.strength * y * C.h : C.strength;
            toX = s * C.dx;
            toY = s * C.dy;
            toZ = s * C.dz;
          }

          ax = C.grip * (toX - <f32>0.5 * (load<f32>(C.u + o) + load<f32>(C.u + o + 4)));
          ay = C.grip * (toY - <f32>0.5 * (load<f32>(C.v + o) + load<f32>(C.v + o + line)));
          az = C.grip * (toZ - <f32>0.5 * (load<f32>(C.w + o) + load<f32>(C.w + o + sheet)));
        }

        store<f32>(C.fx + o, load<f32>(C.fx + o) + weight * ax);
        store<f32>(C.fy + o, load<f32>(C.fy + o) + weight * ay);
        store<f32>(C.fz + o, load<f32>(C.fz + o) + weight * az);
      }
    }
}
