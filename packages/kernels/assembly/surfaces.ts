// What is solid in a picture: shapes met by sphere tracing (Hart 1996) of the distances that the run has too,
// and meshes met triangle by triangle (Möller & Trumbore 1997) through a tree of boxes. Places are a
// Medium's.
import { ownDistance, ownX, ownY, ownZ, Shape, ShapeKind } from './shape';

/** How the eye sees a surface; to lamps and to the medium it is there in any case. */
export const enum SurfaceSeen {
  UNSEEN = 0,
  SEEN = 1,
  /** A hole in the picture: what is behind does not show, nor does it itself. */
  HELD_OUT = 2,
  /** Only by the light that is held back from it: the picture darkens there. */
  CATCHER = 3,
}


@unmanaged
export class Surface extends Shape {
  seen: i32;
  /** Whether it holds light back. */
  shadows: i32;
  /** Part of light that is scattered evenly, and radiance of its own. */
  red: f32;
  green: f32;
  blue: f32;
  glowR: f32;
  glowG: f32;
  glowB: f32;
  /** Whether a lamp gives its glow to what is not the eye. */
  isLamp: i32;
  /** Of a mesh: nodes of its tree, and triangles in the tree's order, in own axes; 0 for a shape. */
  nodes: usize;
  triangles: usize;
}

/** A node of a tree: its box, then the first child's number, or the first triangle's and how many. */
const NODE_BYTES: usize = 32;
/** A corner of a triangle and its two sides from there. */
const TRIANGLE_BYTES: usize = 36;

/** How near counts as met, and how far beyond a surface a ray begins that leaves it, cells. */
const NEAR: f32 = 0.002;
export const OFF: f32 = 0.01;
const MOST_STEPS: i32 = 256;
const FARTHEST: f32 = 1e7;

/** The normal where a ray was met last, unit length, against the ray. */
export let normalX: f32 = 0;
export let normalY: f32 = 0;
export let normalZ: f32 = 0;
/** The triangle that was met last. */
let met: usize = 0;

/**
 * Where a ray enters and leaves a shape without dents; it does not meet it where `leaves` is before `enters`.
 */
let enters: f32 = 0;
let leaves: f32 = 0;

/** Narrows the stretch of a ray to a slab about the origin. */
// @ts-ignore: decorator
@inline
function slab(o: f32, d: f32, half: f32): void {
  const i = inverseOf(d);
  const a = (-half - o) * i;
  const b = (half - o) * i;
  enters = max<f32>(enters, min<f32>(a, b));
  leaves = min<f32>(leaves, max<f32>(a, b));
}

/** Narrows it to where a · t² + 2 b · t + c ≤ 0. */
// @ts-ignore: decorator
@inline
function round(a: f64, b: f64, c: f64): void {
  if (a < 1e-12) {
    if (c > 0) leaves = -1;
    return;
  }

  const square = b * b - a * c;
  if (square < 0) {
    leaves = -1;
    return;
  }

  const root = Math.sqrt(square);
  enters = max<f32>(enters, <f32>((-b - root) / a));
  leaves = min<f32>(leaves, <f32>((-b + root) / a));
}

/** Whether a shape is met by a formula; sets where. */
function isPlain(S: Shape, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): bool {
  enters = -FARTHEST;
  leaves = FARTHEST;
  const grow = S.grow;
  if (S.kind == ShapeKind.SPHERE) {
    const r = S.hx + grow;
    const far = <f64>x * x + <f64>y * y + <f64>z * z;
    round(
      <f64>dx * dx + <f64>dy * dy + <f64>dz * dz,
      <f64>x * dx + <f64>y * dy + <f64>z * dz,
      far - <f64>r * r,
    );
    return true;
  }

  if (S.kind == ShapeKind.GROUND) {
    const t = (grow - y) * inverseOf(dy);
    if (dy < 0) enters = t;
    else leaves = t;
    return true;
  }

  if (grow != 0) return false;
  if (S.kind == ShapeKind.BOX) {
    slab(x, dx, S.hx);
    slab(y, dy, S.hy);
    slab(z, dz, S.hz);
    return true;
  }

  if (S.kind != ShapeKind.CYLINDER) return false;
  slab(y, dy, S.hy);
  round(<f64>dx * dx + <f64>dz * dz, <f64>x * dx + <f64>z * dz, <f64>x * x + <f64>z * z - <f64>S.hx * S.hx);
  return true;
}

/**
 * How far a ray goes to a shape; `far` where it does not meet it before. From within a solid it goes nowhere.
 */
function toShape(S: Shape, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32): f32 {
  if (!isPlain(S, x, y, z, dx, dy, dz)) return traced(S, x, y, z, dx, dy, dz, far);
  if (leaves <= enters || leaves <= 0) return far;
  // a vessel is met on its inner side, which is where the ray leaves what it holds
  const t = S.facing < 0 ? leaves : max<f32>(0, enters);
  return t < FARTHEST ? min<f32>(far, t) : far;
}

function traced(S: Shape, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32): f32 {
  let t: f32 = 0;
  const most = min(far, FARTHEST);
  // from outside a vessel its inner side is met only behind where the ray enters it
  if (S.facing < 0)
    for (let n = 0; n < MOST_STEPS && t < most; n++) {
      const d = ownDistance(S, x + t * dx, y + t * dy, z + t * dz);
      if (d > NEAR) break;
      t += max<f32>(NEAR, -d);
    }

  for (let n = 0; n < MOST_STEPS && t < most; n++) {
    const d = ownDistance(S, x + t * dx, y + t * dy, z + t * dz);
    if (d < NEAR) return t;
    t += d;
  }

  return far;
}

/** How far a ray goes to a triangle; `far` where it does not meet it before. */
// @ts-ignore: decorator
@inline
function toTriangle(p: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32): f32 {
  const ax = load<f32>(p, 12);
  const ay = load<f32>(p, 16);
  const az = load<f32>(p, 20);
  const bx = load<f32>(p, 24);
  const by = load<f32>(p, 28);
  const bz = load<f32>(p, 32);
  const px = dy * bz - dz * by;
  const py = dz * bx - dx * bz;
  const pz = dx * by - dy * bx;
  const det = ax * px + ay * py + az * pz;
  if (det == 0) return far;
  const inverse: f32 = 1 / det;
  const sx = x - load<f32>(p);
  const sy = y - load<f32>(p, 4);
  const sz = z - load<f32>(p, 8);
  const u = (sx * px + sy * py + sz * pz) * inverse;
  if (u < 0 || u > 1) return far;
  const qx = sy * az - sz * ay;
  const qy = sz * ax - sx * az;
  const qz = sx * ay - sy * ax;
  const v = (dx * qx + dy * qy + dz * qz) * inverse;
  if (v < 0 || u + v > 1) return far;
  const t = (bx * qx + by * qy + bz * qz) * inverse;
  return t > 0 && t < far ? t : far;
}

/** Where a ray enters a node's box; beyond `far` where it does not. */
// @ts-ignore: decorator
@inline
function toBox(p: usize, x: f32, y: f32, z: f32, ix: f32, iy: f32, iz: f32, far: f32): f32 {
  const ax = (load<f32>(p) - x) * ix;
  const bx = (load<f32>(p, 12) - x) * ix;
  const ay = (load<f32>(p, 4) - y) * iy;
  const by = (load<f32>(p, 16) - y) * iy;
  const az = (load<f32>(p, 8) - z) * iz;
  const bz = (load<f32>(p, 20) - z) * iz;
  const enter = max<f32>(max<f32>(min<f32>(ax, bx), min<f32>(ay, by)), max<f32>(min<f32>(az, bz), 0));
  const leave = min<f32>(min<f32>(max<f32>(ax, bx), max<f32>(ay, by)), max<f32>(az, bz));
  return enter <= leave ? enter : far;
}

// @ts-ignore: decorator
@inline
function inverseOf(d: f32): f32 {
  return 1 / (abs<f32>(d) > 1e-12 ? d : <f32>1e-12);
}

/** Numbers of nodes that are still to be looked into. */
const STACK: i32 = 64;

function toMesh(S: Surface, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32, any: bool): f32 {
  const ix = inverseOf(dx);
  const iy = inverseOf(dy);
  const iz = inverseOf(dz);
  // a path down a balanced tree: the other child of each node on it waits as a bit of its level
  let node = S.nodes;
  if (toBox(node, x, y, z, ix, iy, iz, far) >= far) return far;
  let waiting: u64 = 0;
  let level = 0;
  let at: i32 = 0;
  while (level >= 0) {
    const count = load<i32>(node, 28);
    if (count > 0) {
      const first = S.triangles + <usize>load<i32>(node, 24) * TRIANGLE_BYTES;
      for (let n = 0; n < count; n++) {
        const t = toTriangle(first + <usize>n * TRIANGLE_BYTES, x, y, z, dx, dy, dz, far);
        if (t < far) {
          far = t;
          met = first + <usize>n * TRIANGLE_BYTES;
          if (any) return far;
        }
      }
    } else {
      // children stand at 2n + 1 and 2n + 2
      const left = S.nodes + <usize>(2 * at + 1) * NODE_BYTES;
      const right = left + NODE_BYTES;
      const a = toBox(left, x, y, z, ix, iy, iz, far);
      const b = toBox(right, x, y, z, ix, iy, iz, far);
      if (a < far || b < far) {
        const both = a < far && b < far;
        level++;
        waiting = both ? waiting | ((<u64>1) << level) : waiting & ~((<u64>1) << level);
        at = 2 * at + (a <= b ? 1 : 2);
        node = S.nodes + <usize>at * NODE_BYTES;
        if (level < STACK) continue;
      }
    }

    // back up to the nearest level where the other child waits
    for (;;) {
      if (level == 0) return far;
      if (waiting & ((<u64>1) << level)) {
        waiting &= ~((<u64>1) << level);
        at = at & 1 ? at + 1 : at - 1;
        node = S.nodes + <usize>at * NODE_BYTES;
        if (toBox(node, x, y, z, ix, iy, iz, far) < far) break;
      } else {
        at = (at - 1) / 2;
        level--;
      }
    }
  }

  return far;
}

/** How far a ray goes to one surface; `far` where it does not meet it before. */
function toSurface(S: Surface, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32, any: bool): f32 {
  const px = x - S.cx;
  const py = y - S.cy;
  const pz = z - S.cz;
  const ox = ownX(S, px, py, pz);
  const oy = ownY(S, px, py, pz);
  const oz = ownZ(S, px, py, pz);
  const wx = ownX(S, dx, dy, dz);
  const wy = ownY(S, dx, dy, dz);
  const wz = ownZ(S, dx, dy, dz);
  return S.nodes ? toMesh(S, ox, oy, oz, wx, wy, wz, far, any) : toShape(S, ox, oy, oz, wx, wy, wz, far);
}

/** Sets the normal where a ray meets a surface. */
function turnNormal(S: Surface, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): void {
  let nx: f32;
  let ny: f32;
  let nz: f32;
  if (S.nodes) {
    const ax = load<f32>(met, 12);
    const ay = load<f32>(met, 16);
    const az = load<f32>(met, 20);
    const bx = load<f32>(met, 24);
    const by = load<f32>(met, 28);
    const bz = load<f32>(met, 32);
    nx = ay * bz - az * by;
    ny = az * bx - ax * bz;
    nz = ax * by - ay * bx;
  } else {
    const px = x - S.cx;
    const py = y - S.cy;
    const pz = z - S.cz;
    const ox = ownX(S, px, py, pz);
    const oy = ownY(S, px, py, pz);
    const oz = ownZ(S, px, py, pz);
    const e: f32 = 0.02;
    nx = ownDistance(S, ox + e, oy, oz) - ownDistance(S, ox - e, oy, oz);
    ny = ownDistance(S, ox, oy + e, oz) - ownDistance(S, ox, oy - e, oz);
    nz = ownDistance(S, ox, oy, oz + e) - ownDistance(S, ox, oy, oz - e);
  }

  // back from the shape's own axes
  const ax = S.a00 * nx + S.a10 * ny + S.a20 * nz;
  const ay = S.a01 * nx + S.a11 * ny + S.a21 * nz;
  const az = S.a02 * nx + S.a12 * ny + S.a22 * nz;
  const long = sqrt<f32>(ax * ax + ay * ay + az * az);
  const side: f32 = ax * dx + ay * dy + az * dz > 0 ? -1 : 1;
  const scale: f32 = long > 0 ? side / long : 0;
  normalX = ax * scale;
  normalY = ay * scale;
  normalZ = az * scale;
}

/** How far the last ray of `meet` went. */
export let metAt: f32 = 0;

/**
 * The first surface that a ray meets before `far`, or −1; sets how far away it is and its normal there.
 * @param camera whether surfaces that the eye does not see count
 */
export function meet(
  surfaces: usize,
  count: i32,
  x: f32,
  y: f32,
  z: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  far: f32,
  camera: bool,
): i32 {
  let found = -1;
  for (let n = 0; n < count; n++) {
    const S = changetype<Surface>(surfaces + <usize>n * offsetof<Surface>());
    if (camera && S.seen == SurfaceSeen.UNSEEN) continue;
    const t = toSurface(S, x, y, z, dx, dy, dz, far, false);
    if (t >= far) continue;
    far = t;
    found = n;
    turnNormal(S, x + t * dx, y + t * dy, z + t * dz, dx, dy, dz);
  }

  metAt = far;
  return found;
}

/** Whether a place lies within what is solid; around a vessel all is. */
export function isWithin(surfaces: usize, count: i32, x: f32, y: f32, z: f32): bool {
  for (let n = 0; n < count; n++) {
    const S = changetype<Surface>(surfaces + <usize>n * offsetof<Surface>());
    const px = x - S.cx;
    const py = y - S.cy;
    const pz = z - S.cz;
    if (ownDistance(S, ownX(S, px, py, pz), ownY(S, px, py, pz), ownZ(S, px, py, pz)) < 0) return true;
  }

  return false;
}

/** Whether anything that casts a shadow stands on a ray before `far`. */
export function isHeldBack(
  surfaces: usize,
  count: i32,
  x: f32,
  y: f32,
  z: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  far: f32,
): bool {
  for (let n = 0; n < count; n++) {
    const S = changetype<Surface>(surfaces + <usize>n * offsetof<Surface>());
    if (S.shadows && toSurface(S, x, y, z, dx, dy, dz, far, true) < far) return true;
  }

  return false;
}
