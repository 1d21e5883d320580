// Shapes as distances: what obstacles and sources share. A shape stands in the window's cells; it is asked in
// its own axes.

/** A shape at one moment, as the step writes it (core/geometry/shape.ts). Lengths in cells of the window. */
@unmanaged
export class Shape {
  kind: i32;
  cx: f32;
  cy: f32;
  cz: f32;
  /**
   * Half sizes; of a sphere the radius; of a cylinder radius, half height; of a ring its radius, that of its
   * tube.
   */
  hx: f32;
  hy: f32;
  hz: f32;
  /** From the window's axes to the shape's own, a row after the other. */
  a00: f32;
  a01: f32;
  a02: f32;
  a10: f32;
  a11: f32;
  a12: f32;
  a20: f32;
  a21: f32;
  a22: f32;
  /** How far the surface is pushed outward, and −1 where inside and outside change places. */
  grow: f32;
  facing: f32;
  /** Distances at the nodes of a grid in own axes: node (0,0,0) and nodes a cell. */
  grid: usize;
  gnx: i32;
  gny: i32;
  gnz: i32;
  gx: f32;
  gy: f32;
  gz: f32;
  perCell: f32;
  /** Corners of a path, three floats each, in own axes. */
  points: usize;
  count: i32;
  /**
   * How fast the surface changes its shape, m/s in own axes, at the grid's nodes: x, y, z one behind the
   * other; 0: rigid.
   */
  flow: usize;
}
/** A shape with the cells that it may touch, from and behind the last. */
// @ts-ignore: decorator
@unmanaged
export class BoxedShape extends Shape {
  i0: i32;
  i1: i32;
  j0: i32;
  j1: i32;
  k0: i32;
  k1: i32;
}
export const enum ShapeKind {
  SPHERE = 0,
  BOX = 1,
  CYLINDER = 2,
  RING = 3,
  GROUND = 4,
  PATH = 5,
  GRID = 6,
}

/** Trilinear look-up in values at a shape's nodes; outside the grid that of the nearest place on it. */
export function sampleGrid(S: Shape, from: usize, x: f32, y: f32, z: f32): f32 {
  const u = min<f32>(max<f32>((x - S.gx) * S.perCell, 0), <f32>(S.gnx - 1));
  const v = min<f32>(max<f32>((y - S.gy) * S.perCell, 0), <f32>(S.gny - 1));
  const w = min<f32>(max<f32>((z - S.gz) * S.perCell, 0), <f32>(S.gnz - 1));
  const i = min(<i32>u, S.gnx - 2);
  const j = min(<i32>v, S.gny - 2);
  const k = min(<i32>w, S.gnz - 2);
  const a = u - <f32>i;
  const b = v - <f32>j;
  const c = w - <f32>k;
  const step: usize = 4;
  const line = step * S.gnx;
  const sheet = line * S.gny;
  const p = from + step * i + line * j + sheet * k;
  const x00 = load<f32>(p) + a * (load<f32>(p + step) - load<f32>(p));
  const x10 = load<f32>(p + line) + a * (load<f32>(p + line + step) - load<f32>(p + line));
  const q = p + sheet;
  const x01 = load<f32>(q) + a * (load<f32>(q + step) - load<f32>(q));
  const x11 = load<f32>(q + line) + a * (load<f32>(q + line + step) - load<f32>(q + line));
  const y0 = x00 + b * (x10 - x00);
  const y1 = x01 + b * (x11 - x01);
  return y0 + c * (y1 - y0);
}

/** How far a place lies outside the box of the grid. */
function beyond(S: Shape, x: f32, y: f32, z: f32): f32 {
  const per = <f32>1 / S.perCell;
  const dx = max<f32>(0, max<f32>(S.gx - x, x - S.gx - <f32>(S.gnx - 1) * per));
  const dy = max<f32>(0, max<f32>(S.gy - y, y - S.gy - <f32>(S.gny - 1) * per));
  const dz = max<f32>(0, max<f32>(S.gz - z, z - S.gz - <f32>(S.gnz - 1) * per));
  return sqrt<f32>(dx * dx + dy * dy + dz * dz);
}

/** Distance to a path of straight pieces. */
function toPath(S: Shape, x: f32, y: f32, z: f32): f32 {
  let least: f32 = f32.MAX_VALUE;
  for (let n = 0; n + 1 < S.count || n == 0; n++) {
    const p = S.points + <usize>(n * 12);
    const q = n + 1 < S.count ? p + 12 : p;
    const ax = load<f32>(p);
    const ay = load<f32>(p, 4);
    const az = load<f32>(p, 8);
    const dx = load<f32>(q) - ax;
    const dy = load<f32>(q, 4) - ay;
    const dz = load<f32>(q, 8) - az;
    const ex = x - ax;
    const ey = y - ay;
    const ez = z - az;
    const long = dx * dx + dy * dy + dz * dz;
    const t = long > 0 ? min<f32>(1, max<f32>(0, (ex * dx + ey * dy + ez * dz) / long)) : 0;
    const fx = ex - t * dx;
    const fy = ey - t * dy;
    const fz = ez - t * dz;
    least = min<f32>(least, fx * fx + fy * fy + fz * fz);
  }

  return sqrt<f32>(least);
}

/** Distance to the surface in cells, negative inside; the place in own axes. */
export function ownDistance(S: Shape, x: f32, y: f32, z: f32): f32 {
  let d: f32 = 0;
  switch (S.kind) {
    case ShapeKind.SPHERE:
      d = sqrt<f32>(x * x + y * y + z * z) - S.hx;
      break;
    case ShapeKind.BOX: {
      const qx = abs<f32>(x) - S.hx;
      const qy = abs<f32>(y) - S.hy;
      const qz = abs<f32>(z) - S.hz;
      const ox = max<f32>(qx, 0);
      const oy = max<f32>(qy, 0);
      const oz = max<f32>(qz, 0);
      d = sqrt<f32>(ox * ox + oy * oy + oz * oz) + min<f32>(max<f32>(qx, max<f32>(qy, qz)), 0);
      break;
    }
    case ShapeKind.CYLINDER: {
      const qr = sqrt<f32>(x * x + z * z) - S.hx;
      const qy = abs<f32>(y) - S.hy;
      const or = max<f32>(qr, 0);
      const oy = max<f32>(qy, 0);
      d = sqrt<f32>(or * or + oy * oy) + min<f32>(max<f32>(qr, qy), 0);
      break;
    }
    case ShapeKind.RING: {
      const q = sqrt<f32>(x * x + z * z) - S.hx;
      d = sqrt<f32>(q * q + y * y) - S.hy;
      break;
    }
    case ShapeKind.GROUND:
      d = y;
      break;
    case ShapeKind.PATH:
      d = toPath(S, x, y, z) - S.hx;
      break;
    case ShapeKind.GRID:
      d = sampleGrid(S, S.grid, x, y, z) + beyond(S, x, y, z);
      break;
  }

  return S.facing * (d - S.grow);
}

// @ts-ignore: decorator
@inline
export function ownX(S: Shape, x: f32, y: f32, z: f32): f32 {
  return S.a00 * x + S.a01 * y + S.a02 * z;
}
// @ts-ignore: decorator
@inline
export function ownY(S: Shape, x: f32, y: f32, z: f32): f32 {
  return S.a10 * x + S.a11 * y + S.a12 * z;
}
// @ts-ignore: decorator
@inline
export function ownZ(S: Shape, x: f32, y: f32, z: f32): f32 {
  return S.a20 * x + S.a21 * y + S.a22 * z;
}

/** Distance to the surface in cells, negative inside; the place in the window. */
export function distance(S: Shape, x: f32, y: f32, z: f32): f32 {
  const px = x - S.cx;
  const py = y - S.cy;
  const pz = z - S.cz;
  return ownDistance(S, ownX(S, px, py, pz), ownY(S, px, py, pz), ownZ(S, px, py, pz));
}

/**
 * Speed along one of the window's axes by which a surface changes its shape, m/s; the place from the middle,
 * in the window's axes.
 */
export function flowAt(S: Shape, axis: i32, px: f32, py: f32, pz: f32): f32 {
  const x = ownX(S, px, py, pz);
  const y = ownY(S, px, py, pz);
  const z = ownZ(S, px, py, pz);
  const sheet = (<usize>(S.gnx * S.gny * S.gnz)) << 2;
  const u = sampleGrid(S, S.flow, x, y, z);
  const v = sampleGrid(S, S.flow + sheet, x, y, z);
  const w = sampleGrid(S, S.flow + 2 * sheet, x, y, z);
  if (axis == 0) return S.a00 * u + S.a10 * v + S.a20 * w;
  if (axis == 1) return S.a01 * u + S.a11 * v + S.a21 * w;
  return S.a02 * u + S.a12 * v + S.a22 * w;
}
