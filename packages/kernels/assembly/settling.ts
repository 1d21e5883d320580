// Medium that falls through the air: how much passes each face on its way down, what lands on floors and on
// obstacles, and what is loose again where its floor has gone away.
import { byAxis, constant, Constant, listed, partial, row, sum4 } from './common';
import { Level } from './level';
import { faces } from './solids';

/** Part of a cell's air that may fall out of it in one go. */
const MOST_FALLEN: f32 = 0.95;

/** Bytes from a face of an axis to the next one. */
// @ts-ignore: decorator
@inline
function strideOf(L: Level, axis: i32): usize {
  return byAxis<usize>(axis, 4, <usize>L.faceRowBytes, <usize>L.facePlaneBytes);
}

/** The air of four cells; rooms 0: 1 everywhere. */
// @ts-ignore: decorator
@inline
function room4(rooms: usize, o: usize): v128 {
  return rooms ? v128.load(rooms + o) : constant(Constant.ONE);
}

/**
 * Volumes that fall through the faces across an axis into `flow`: the open part of a face times `fall` cells,
 * no more than what the cell holds that they fall out of; and the cells' air into `volume`.
 * rooms: the air of the cells, 0: 1 everywhere.
 */
export function fallFlows(
  level: usize,
  axis: i32,
  fall: f32,
  rooms: usize,
  flow: usize,
  volume: usize,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const open = faces(L, axis);
  const by = f32x4.splat(fall);
  const most = f32x4.splat(MOST_FALLEN);
  const above: usize = fall > 0 ? strideOf(L, axis) : 0;
  for (let k = k0; k < k1; k++)
    for (let j = 0, rows = L.ny + i32(axis == 1); j < rows; j++) {
      const at = row(0, j, k, L.faceRowBytes >> 2, L.facePlaneBytes >> 2);
      const end = at + ((<usize>L.nx) << 2);
      // one face more than cells along x
      for (let o = at, last = end + (axis == 0 ? 4 : 0); o < last; o += 16) {
        const bound = f32x4.mul(most, room4(rooms, o - above));
        const through = f32x4.mul(v128.load(open + o), by);
        v128.store(flow + o, f32x4.pmax(f32x4.pmin(through, bound), f32x4.neg(bound)));
      }

      if (j < L.ny && k < L.nz) for (let o = at; o < end; o += 16) v128.store(volume + o, room4(rooms, o));
    }
}

/**
 * What falls by `fall` cells along an axis onto the closed part of faces goes from the medium to `deposit`,
 * in densities times cells; its sum into slot 0. list: density, and what rides on it, as amounts; rooms: the
 * air of the cells, 0: 1 everywhere.
 */
export function land(
  level: usize,
  axis: i32,
  fall: f32,
  rooms: usize,
  list: usize,
  deposit: usize,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const ahead = faces(L, axis) + (fall > 0 ? strideOf(L, axis) : 0);
  const size = f32x4.splat(abs(fall));
  const one = constant(Constant.ONE);
  const none = f32x4.splat(0);
  const density = listed(list, 0);
  for (let k = k0; k < k1; k++) {
    let sum: f64 = 0;
    for (let j = 0; j < L.ny; j++) {
      const at = row(0, j, k, L.faceRowBytes >> 2, L.facePlaneBytes >> 2);
      for (let o = at, end = at + ((<usize>L.nx) << 2); o < end; o += 16) {
        const closed = f32x4.sub(one, v128.load(ahead + o));
        const there = f32x4.gt(v128.load(density + o), none);
        const lands = v128.and(f32x4.gt(closed, none), there);
        if (!v128.any_true(lands)) continue;
        const room = room4(rooms, o);
        const part = v128.and(f32x4.pmin(one, f32x4.div(f32x4.mul(closed, size), room)), lands);
        const landed = f32x4.mul(f32x4.mul(v128.load(density + o), part), room);
        v128.store(deposit + o, f32x4.add(v128.load(deposit + o), landed));
        sum += sum4(landed);
        const stays = f32x4.sub(one, part);
        for (let n = 0, many = load<i32>(list); n < many; n++) {
          const f = listed(list, n) + o;
          v128.store(f, f32x4.mul(v128.load(f), stays));
        }
      }
    }

    store<f64>(partial(partials, k, 0), sum);
  }
}

/**
 * What lies in cells under which nothing is closed any longer becomes medium again; its sum into slot 0. Down
 * is where `x`, `y`, `z` point. list: density, and what rides on it, as amounts; means: what a density of 1
 * has of each, behind one another; rooms: the air of the cells, 0: 1 everywhere.
 */
export function loosen(
  level: usize,
  x: f32,
  y: f32,
  z: f32,
  rooms: usize,
  list: usize,
  means: usize,
  deposit: usize,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  for (let k = k0; k < k1; k++) {
    let sum: f64 = 0;
    for (let j = 0; j < L.ny; j++) {
      const at = row(0, j, k, L.faceRowBytes >> 2, L.facePlaneBytes >> 2);
      for (let o = at, end = at + ((<usize>L.nx) << 2); o < end; o += 16) {
        if (!v128.any_true(v128.load(deposit + o))) continue;
        for (let c = o; c < o + 16; c += 4) {
          const lies = load<f32>(deposit + c);
          if (lies <= 0) continue;
          let floor: f32 = 0;
          for (let axis = 0; axis < 3; axis++) {
            const down = byAxis(axis, x, y, z);
            if (down == 0) continue;
            const ahead = faces(L, axis) + (down > 0 ? strideOf(L, axis) : 0);
            floor = max(floor, 1 - load<f32>(ahead + c));
          }

          if (floor > 0) continue;
          const more = lies / (rooms ? load<f32>(rooms + c) : 1);
          for (let n = 0, many = load<i32>(list); n < many; n++) {
            const f = listed(list, n) + c;
            store<f32>(f, load<f32>(f) + more * load<f32>(means + ((<usize>n) << 2)));
          }

          store<f32>(deposit + c, 0);
          sum += <f64>lies;
        }
      }
    }

    store<f64>(partial(partials, k, 0), sum);
  }
}
