// Obstacles by signed distance: open fractions of the faces they cut (Batty, Bertails, Bridson 2007; Ng, Min,
// Gibou 2009), what their motion drives out of cells, and their own speed on the faces they close.
import { byAxis } from './common';
import { Level, openness } from './level';
import { BoxedShape, distance, flowAt } from './shape';

/** An obstacle at one moment, written by the step. Lengths in cells of the window unless said otherwise. */
@unmanaged
export class Solid extends BoxedShape {
  /**
   * Speed of the middle, m/s, and turning about it, rad/s times metres a cell, so that ω × (cells) is m/s.
   */
  vx: f32;
  vy: f32;
  vz: f32;
  wx: f32;
  wy: f32;
  wz: f32;
  stick: f32;
}

/**
 * Faces less open than this are closed: slivers would spoil the solver's condition for nothing that can be
 * seen.
 */
const SLIVER: f32 = 0.05;

/**
 * Part of a unit square outside, from the distances at its corners, by sampling the bilinear surface between
 * them.
 */
function openPart(a: f32, b: f32, c: f32, d: f32): f32 {
  // closed first: a face that lies in the surface itself must not let anything through
  if (a <= 0 && b <= 0 && c <= 0 && d <= 0) return 0;
  if (a >= 0 && b >= 0 && c >= 0 && d >= 0) return 1;
  let sum: f32 = 0;
  for (let q = 0; q < 4; q++)
    for (let p = 0; p < 4; p++) {
      const s = (<f32>p + <f32>0.5) * <f32>0.25;
      const t = (<f32>q + <f32>0.5) * <f32>0.25;
      const phi = (a * (1 - s) + b * s) * (1 - t) + (c * (1 - s) + d * s) * t;
      sum += min<f32>(1, max<f32>(0, phi * 4 + <f32>0.5));
    }

  const part = sum / 16;
  if (part < SLIVER) return 0;
  return part > <f32>0.9999 ? 1 : part;
}

/** Open part of the face with lowest corner (i, j, k) across an axis, as this obstacle alone leaves it. */
function openFace(S: Solid, axis: i32, i: i32, j: i32, k: i32): f32 {
  const x = <f32>i;
  const y = <f32>j;
  const z = <f32>k;
  const middle = distance(
    S,
    x + (axis == 0 ? <f32>0 : <f32>0.5),
    y + (axis == 1 ? <f32>0 : <f32>0.5),
    z + (axis == 2 ? <f32>0 : <f32>0.5),
  );
  if (middle > 0.75) return 1;
  if (middle < -0.75) return 0;
  if (axis == 0)
    return openPart(
      distance(S, x, y, z),
      distance(S, x, y + 1, z),
      distance(S, x, y, z + 1),
      distance(S, x, y + 1, z + 1),
    );
  if (axis == 1)
    return openPart(
      distance(S, x, y, z),
      distance(S, x + 1, y, z),
      distance(S, x, y, z + 1),
      distance(S, x + 1, y, z + 1),
    );
  return openPart(
    distance(S, x, y, z),
    distance(S, x + 1, y, z),
    distance(S, x, y + 1, z),
    distance(S, x + 1, y + 1, z),
  );
}

// @ts-ignore: decorator
@inline
export function faces(L: Level, axis: i32): usize {
  return byAxis(axis, L.ax, L.ay, L.az);
}
// @ts-ignore: decorator
@inline
export function offset(L: Level, i: i32, j: i32, k: i32): usize {
  return <usize>(k * L.facePlaneBytes + j * L.faceRowBytes + (i << 2));
}

/**
 * The faces of the cells i0..i1, j0..j1 as they are without obstacles, over the planes k0..k1 of the faces.
 */
export function resetFaces(level: usize, i0: i32, i1: i32, j0: i32, j1: i32, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  for (let axis = 0; axis < 3; axis++)
    for (let k = k0; k < min(k1, L.nz + i32(axis == 2)); k++)
      for (let j = j0; j < min(j1 + 1, L.ny + i32(axis == 1)); j++)
        for (let i = i0; i < min(i1 + 1, L.nx + i32(axis == 0)); i++) {
          const n = byAxis(axis, i, j, k);
          const last = byAxis(axis, L.nx, L.ny, L.nz);
          const closed =
            (n == 0 && (L.walls >> (2 * axis)) & 1) || (n == last && (L.walls >> (2 * axis + 1)) & 1);
          store<f32>(faces(L, axis) + offset(L, i, j, k), closed ? 0 : 1);
        }
}

/** Takes what an obstacle covers from the faces. */
export function cutFaces(level: usize, solid: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const S = changetype<Solid>(solid);
  for (let axis = 0; axis < 3; axis++)
    for (let k = max(k0, S.k0); k < min(min(k1, S.k1 + 1), L.nz + i32(axis == 2)); k++)
      for (let j = S.j0; j < min(S.j1 + 1, L.ny + i32(axis == 1)); j++)
        for (let i = S.i0; i < min(S.i1 + 1, L.nx + i32(axis == 0)); i++) {
          const o = faces(L, axis) + offset(L, i, j, k);
          store<f32>(o, min<f32>(load<f32>(o), openFace(S, axis, i, j, k)));
        }
}

/** One component of the velocity of the obstacle as a whole at a point, m/s. */
function rigidSpeed(S: Solid, axis: i32, px: f32, py: f32, pz: f32): f32 {
  if (axis == 0) return S.vx + S.wy * pz - S.wz * py;
  if (axis == 1) return S.vy + S.wz * px - S.wx * pz;
  return S.vz + S.wx * py - S.wy * px;
}

/** The same with the change of its shape. */
export function speedAt(S: Solid, axis: i32, x: f32, y: f32, z: f32): f32 {
  const px = x - S.cx;
  const py = y - S.cy;
  const pz = z - S.cz;
  return rigidSpeed(S, axis, px, py, pz) + (S.flow ? flowAt(S, axis, px, py, pz) : 0);
}
// @ts-ignore: decorator
@inline
function speedOnFace(S: Solid, axis: i32, i: i32, j: i32, k: i32): f32 {
  return speedAt(
    S,
    axis,
    <f32>i + (axis == 0 ? <f32>0 : <f32>0.5),
    <f32>j + (axis == 1 ? <f32>0 : <f32>0.5),
    <f32>k + (axis == 2 ? <f32>0 : <f32>0.5),
  );
}

/**
 * What the obstacle's surface drives into the air of the cells it cuts, into `outflow` (m/s over a voxel):
 * the closed part of each face counts as passed through with the obstacle's speed.
 */
export function solidFlow(level: usize, solid: usize, outflow: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const S = changetype<Solid>(solid);
  for (let k = max(k0, S.k0); k < min(k1, min(S.k1, L.nz)); k++)
    for (let j = S.j0; j < min(S.j1, L.ny); j++)
      for (let i = S.i0; i < min(S.i1, L.nx); i++) {
        const middle = distance(S, <f32>i + <f32>0.5, <f32>j + <f32>0.5, <f32>k + <f32>0.5);
        if (middle > 1.5 || middle < -1.5 || openness(L, offset(L, i, j, k)) == 0) continue;
        let out: f32 = 0;
        for (let axis = 0; axis < 3; axis++) {
          const px = <f32>i + <f32>0.5 - S.cx;
          const py = <f32>j + <f32>0.5 - S.cy;
          const pz = <f32>k + <f32>0.5 - S.cz;
          // of a shape that changes the surface's speed counts, which inside it is not free of divergence:
          // one for the cell
          const own: f32 = S.flow ? flowAt(S, axis, px, py, pz) : 0;
          for (let side = 0; side < 2; side++) {
            const a = i + i32(axis == 0 && side == 1);
            const b = j + i32(axis == 1 && side == 1);
            const c = k + i32(axis == 2 && side == 1);
            const n = byAxis(axis, a, b, c);
            const last = byAxis(axis, L.nx, L.ny, L.nz);
            if ((n == 0 && (L.walls >> (2 * axis)) & 1) || (n == last && (L.walls >> (2 * axis + 1)) & 1))
              continue;
            const closed: f32 = <f32>1 - openFace(S, axis, a, b, c);
            if (closed > 0) {
              const speed =
                own +
                rigidSpeed(
                  S,
                  axis,
                  px + (axis == 0 ? <f32>side - <f32>0.5 : 0),
                  py + (axis == 1 ? <f32>side - <f32>0.5 : 0),
                  pz + (axis == 2 ? <f32>side - <f32>0.5 : 0),
                );
              out += (side == 1 ? closed : -closed) * speed;
            }
          }
        }

        const o = outflow + offset(L, i, j, k);
        store<f32>(o, load<f32>(o) - out);
      }
}

/**
 * Closed faces on the obstacle's surface take its speed; those behind them, which look-ups beside the surface
 * read, go from the air's (slip) to the obstacle's (stick).
 */
export function coverFaces(level: usize, solid: usize, u: usize, v: usize, w: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const S = changetype<Solid>(solid);
  for (let axis = 0; axis < 3; axis++) {
    const vel = byAxis(axis, u, v, w);
    for (let k = max(k0, max(S.k0, i32(axis == 2))); k < min(k1, min(S.k1, L.nz)); k++)
      for (let j = max(S.j0, i32(axis == 1)); j < min(S.j1, L.ny); j++)
        for (let i = max(S.i0, i32(axis == 0)); i < min(S.i1, L.nx); i++) {
          const o = offset(L, i, j, k);
          if (load<f32>(faces(L, axis) + o) > 0 || openFace(S, axis, i, j, k) > 0) continue;
          const now = load<f32>(vel + o);
          const own = speedOnFace(S, axis, i, j, k);
          const surface =
            openness(L, offset(L, i, j, k)) > 0 ||
            openness(L, offset(L, i - i32(axis == 0), j - i32(axis == 1), k - i32(axis == 2))) > 0;
          store<f32>(vel + o, surface ? own : now + S.stick * (own - now));
        }
  }
}
