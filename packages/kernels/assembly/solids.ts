// Obstacles by signed distance: open fractions of the faces they cut (Batty, Bertails, Bridson 2007; Ng, Min,
// Gibou 2009), the air that their motion leaves to cells and drives out of them, and their own speed on the
// faces they close.
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
function faces(L: Level, axis: i32): usize {
  return byAxis(axis, L.ax, L.ay, L.az);
}
// @ts-ignore: decorator
@inline
function offset(L: Level, i: i32, j: i32, k: i32): usize {
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

/** Air that a cell which is not shut has at least, in cells, for the widest opening of its faces. */
const LEAST_ROOM: f32 = 0.06;
/** How fast the air of a cell settles to its shape, in cells a substep for each whole opening. */
const SETTLES: f32 = 0.04;
/** A cell with less air beside a moving obstacle counts as one with its neighbour. */
const SLIVER_ROOM: f32 = 0.3;
/** What counts for the air of a cell that is shut. */
const SHUT_ROOM: f32 = 0.02;

/** Part of a cell inside the obstacle, by the distances at the middles of its eighths. */
function coveredPart(S: Solid, i: i32, j: i32, k: i32): f32 {
  const x = <f32>i + <f32>0.5;
  const y = <f32>j + <f32>0.5;
  const z = <f32>k + <f32>0.5;
  const middle = distance(S, x, y, z);
  if (middle > 1) return 0;
  if (middle < -1) return 1;
  let sum: f32 = 0;
  for (let q = 0; q < 8; q++) {
    const d = distance(
      S,
      x + (q & 1 ? <f32>0.25 : <f32>-0.25),
      y + (q & 2 ? <f32>0.25 : <f32>-0.25),
      z + (q & 4 ? <f32>0.25 : <f32>-0.25),
    );
    sum += min<f32>(1, max<f32>(0, <f32>0.5 - 2 * d));
  }

  return <f32>0.125 * sum;
}

/** Takes what an obstacle covers of the cells from their air. */
export function coverRooms(level: usize, solid: usize, rooms: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const S = changetype<Solid>(solid);
  for (let k = max(k0, S.k0); k < min(k1, min(S.k1, L.nz)); k++)
    for (let j = S.j0; j < min(S.j1, L.ny); j++)
      for (let i = S.i0; i < min(S.i1, L.nx); i++) {
        const o = rooms + offset(L, i, j, k);
        store<f32>(o, load<f32>(o) - coveredPart(S, i, j, k));
      }
}

/** The air of cells by their shape: hardly any where a cell is shut, not too little where it is not. */
export function boundRooms(level: usize, rooms: usize, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < L.ny; j++)
      for (let i = 0; i < L.nx; i++) {
        const o = offset(L, i, j, k);
        const room = load<f32>(rooms + o);
        if (room == 1 && openness(L, o) == 6) continue;
        const least = LEAST_ROOM * widest(L, o);
        store<f32>(rooms + o, least == 0 ? SHUT_ROOM : max<f32>(least, room));
      }
}

/** The widest opening of a cell's faces. */
// @ts-ignore: decorator
@inline
function widest(L: Level, o: usize): f32 {
  const x = L.ax + o;
  const y = L.ay + o;
  const z = L.az + o;
  return max<f32>(
    max<f32>(max<f32>(load<f32>(x), load<f32>(x + 4)), max<f32>(load<f32>(y), load<f32>(y + L.faceRowBytes))),
    max<f32>(load<f32>(z), load<f32>(z + L.facePlaneBytes)),
  );
}

/** A list of fields: how many, then their addresses. */
// @ts-ignore: decorator
@inline
function listed(list: usize, n: i32): usize {
  return <usize>load<u32>(list + ((<usize>(n + 1)) << 2));
}

/** Adds a part of what cell `from` holds, and of its air, to cell `to`; offsets in bytes. */
function giveTo(list: usize, rooms: usize, from: usize, to: usize, air: f32, part: f32): void {
  const own = load<f32>(rooms + to);
  const more = part * air;
  for (let n = 0, many = load<i32>(list); n < many; n++) {
    const f = listed(list, n);
    const mass = load<f32>(f + to) * own + part * (load<f32>(f + from) * load<f32>(rooms + from));
    store<f32>(f + to, mass / (own + more));
  }

  store<f32>(rooms + to, own + more);
}

/**
 * Cells of a box that are shut now hand what they hold, and their air, to the nearest that are open: to those
 * behind their faces, or else to all that are equally many cells away. The projection then drives that air
 * on. list: the fields that are carried by mass; rooms: the cells' air before, roomsTo: after the obstacles
 * moved.
 */
export function handOver(
  level: usize,
  list: usize,
  rooms: usize,
  roomsTo: usize,
  i0: i32,
  i1: i32,
  j0: i32,
  j1: i32,
  from: i32,
  to: i32,
): void {
  const L = changetype<Level>(level);
  const farthest = max(L.nx, max(L.ny, L.nz));
  for (let k = from; k < to; k++)
    for (let j = j0; j < j1; j++)
      for (let i = i0; i < i1; i++) {
        const o = offset(L, i, j, k);
        const air = load<f32>(rooms + o) - SHUT_ROOM;
        if (load<f32>(roomsTo + o) != SHUT_ROOM || air <= 0) continue;
        for (let away = 0; away < farthest; away++) {
          // first the neighbours behind the six faces, then shell after shell
          const r = max(1, away);
          let many = 0;
          for (let pass = 0; pass < 2; pass++) {
            if (pass == 1 && many == 0) break;
            for (let c = max(0, k - r); c <= min(L.nz - 1, k + r); c++)
              for (let b = max(0, j - r); b <= min(L.ny - 1, j + r); b++)
                for (let a = max(0, i - r); a <= min(L.nx - 1, i + r); a++) {
                  const x = abs(a - i);
                  const y = abs(b - j);
                  const z = abs(c - k);
                  if (away == 0 ? x + y + z != 1 : max(x, max(y, z)) != r) continue;
                  const t = offset(L, a, b, c);
                  if (load<f32>(roomsTo + t) == SHUT_ROOM) continue;
                  if (pass == 0) many++;
                  else giveTo(list, rooms, o, t, air, 1 / <f32>many);
                }
          }

          if (many == 0) continue;
          for (let n = 0, fields = load<i32>(list); n < fields; n++) store<f32>(listed(list, n) + o, 0);
          store<f32>(rooms + o, SHUT_ROOM);
          break;
        }
      }
}

/**
 * Slivers of air in a box of cells share what is in them with the neighbour behind their widest opening, as
 * if they were one cell with it (flux redistribution, Colella et al. 2006, in its plainest form): what little
 * they hold would otherwise stand for all kinds of concentrations.
 * list: the fields that are carried by mass; rooms: the cells' air.
 */
export function shareSlivers(
  level: usize,
  list: usize,
  rooms: usize,
  i0: i32,
  i1: i32,
  j0: i32,
  j1: i32,
  from: i32,
  to: i32,
): void {
  const L = changetype<Level>(level);
  for (let k = from; k < to; k++)
    for (let j = j0; j < j1; j++)
      for (let i = i0; i < i1; i++) {
        const o = offset(L, i, j, k);
        const air = load<f32>(rooms + o);
        if (air >= SLIVER_ROOM || air == SHUT_ROOM) continue;
        let widest: f32 = 0;
        let beside = o;
        for (let axis = 0; axis < 3; axis++)
          for (let side = 0; side < 2; side++) {
            const n = byAxis(axis, i, j, k) + 2 * side - 1;
            if (n < 0 || n >= byAxis(axis, L.nx, L.ny, L.nz)) continue;
            const s = byAxis(axis, 4, L.faceRowBytes, L.facePlaneBytes);
            const opening = load<f32>(faces(L, axis) + o + side * s);
            const t = o + (2 * side - 1) * s;
            if (opening <= widest || load<f32>(rooms + t) < air) continue;
            widest = opening;
            beside = t;
          }

        if (beside == o) continue;
        const other = load<f32>(rooms + beside);
        for (let n = 0, fields = load<i32>(list); n < fields; n++) {
          const f = listed(list, n);
          const mean = (load<f32>(f + o) * air + load<f32>(f + beside) * other) / (air + other);
          store<f32>(f + o, mean);
          store<f32>(f + beside, mean);
        }
      }
}

/**
 * The air of the cells after the obstacles moved, and what its change drives out of them, into `outflow`.
 * What `outflow` holds of the surfaces' motion lets the air move along with them: by so much the air changes,
 * and by a little toward the cells' shape (roomsTo, in and out), no more than their openings let through
 * without a jet. kappa = dt / h.
 */
export function settleRooms(
  level: usize,
  rooms: usize,
  roomsTo: usize,
  outflow: usize,
  kappa: f32,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  for (let k = k0; k < k1; k++) {
    for (let j = 0; j < L.ny; j++)
      for (let i = 0; i < L.nx; i++) {
        const o = offset(L, i, j, k);
        const before = load<f32>(rooms + o);
        const shape = load<f32>(roomsTo + o);
        if (before == shape && load<f32>(outflow + o) == 0) continue;
        const open = openness(L, o);
        if (open == 0) {
          store<f32>(outflow + o, 0);
          continue;
        }

        const moved = kappa * load<f32>(outflow + o);
        const slack = SETTLES * open;
        const out = min(max(before - shape, moved - slack), moved + slack);
        const after = max(before - out, LEAST_ROOM * widest(L, o));
        store<f32>(roomsTo + o, after);
        store<f32>(outflow + o, (before - after) / kappa);
      }
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
