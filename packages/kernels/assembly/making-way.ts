// Obstacles that move and the medium: the air that they leave to cells, and what becomes of what they cover,
// so that none of it is lost and none of it is squeezed.
import { byAxis, listed } from './common';
import { Level, openness } from './level';
import { distance } from './shape';
import { faces, offset, Solid } from './solids';

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
 * Cells that owe density, as those may that turn inside out between two sweeps in a slit beside a fast
 * obstacle, are paid by what stands behind their open faces, in proportion to its mass; what rides goes along
 * with it. list: density and what rides on it; rooms: the cells' air.
 */
export function settleDebts(level: usize, list: usize, rooms: usize): void {
  const L = changetype<Level>(level);
  const density = listed(list, 0);
  const none = f32x4.splat(0);
  for (let k = 0; k < L.nz; k++)
    for (let j = 0; j < L.ny; j++) {
      const at = offset(L, 0, j, k);
      for (let i = 0; i < L.nx; i += 4)
        if (v128.any_true(f32x4.lt(v128.load(density + at + ((<usize>i) << 2)), none)))
          for (let q = 0; q < 4; q++) settleDebt(L, list, rooms, i + q, j, k);
    }
}

/**
 * Offset of the cell behind a face, 0 … 5, of cell (i, j, k) at o; that cell's own where the face lets
 * nothing by.
 */
function behindFace(L: Level, o: usize, face: i32, i: i32, j: i32, k: i32): usize {
  const axis = face >> 1;
  const side = face & 1;
  const n = byAxis(axis, i, j, k) + 2 * side - 1;
  if (n < 0 || n >= byAxis(axis, L.nx, L.ny, L.nz)) return o;
  const s = byAxis(axis, 4, L.faceRowBytes, L.facePlaneBytes);
  return load<f32>(faces(L, axis) + o + side * s) > 0 ? o + (2 * side - 1) * s : o;
}

function settleDebt(L: Level, list: usize, rooms: usize, i: i32, j: i32, k: i32): void {
  const o = offset(L, i, j, k);
  const density = listed(list, 0);
  const debt = -load<f32>(density + o) * load<f32>(rooms + o);
  if (!(debt > 0)) return;
  let held: f32 = 0;
  for (let face = 0; face < 6; face++) {
    const t = behindFace(L, o, face, i, j, k);
    if (t != o) held += max<f32>(0, load<f32>(density + t)) * load<f32>(rooms + t);
  }

  if (held < debt) return;
  const left: f32 = 1 - debt / held;
  for (let n = 0, fields = load<i32>(list); n < fields; n++) store<f32>(listed(list, n) + o, 0);
  for (let face = 0; face < 6; face++) {
    const t = behindFace(L, o, face, i, j, k);
    if (t == o || !(load<f32>(density + t) > 0)) continue;
    for (let n = 0, fields = load<i32>(list); n < fields; n++) {
      const f = listed(list, n) + t;
      store<f32>(f, load<f32>(f) * left);
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
