// What the sweeps of carry.ts go by: the volumes that flow through the faces, and those of the cells' air
// between two sweeps; the mass of cells for what rides on it; and where anything is at all.
import { byAxis, Constant, constant, max4, partial, row } from './common';
import { kindOf, Level } from './level';

/** Of a cell's air between two sweeps, where flows that were cut short would turn it inside out. */
const LEAST_VOLUME: f32 = 0.001;

/** Marks each row of a cell field with 1 where anything is in it, a byte a row. */
export function markRows(
  f: usize,
  marks: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      let any = i32x4.splat(0);
      for (let o = row(f, j, k, rowStride, planeStride), e = o + ((<usize>nx) << 2); o < e; o += 16)
        any = v128.or(any, v128.load(o));
      store<u8>(marks + <usize>(k * ny + j), v128.any_true(any) ? 1 : 0);
    }
}

/**
 * Volumes that flow through the faces in a time, κ A u with κ = dt / h, into x, y, z; and in slot 0 of each
 * plane by how much at most the flows along one axis change the volume of a cell, as a part of it.
 * rooms, roomsTo: volumes of the cells' air before and after, 0: 1 everywhere.
 */
export function volumeFlows(
  level: usize,
  u: usize,
  v: usize,
  w: usize,
  x: usize,
  y: usize,
  z: usize,
  rooms: usize,
  roomsTo: usize,
  kappa: f32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const L = changetype<Level>(level);
  const rs = <usize>L.faceRowBytes;
  const ps = <usize>L.facePlaneBytes;
  const kap = f32x4.splat(kappa);
  const one = constant(Constant.ONE);
  const least = constant(Constant.HALF);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0);
    for (let j = 0; j < L.ny; j++) {
      const at = row(0, j, k, L.faceRowBytes >> 2, L.facePlaneBytes >> 2);
      const end = at + ((<usize>L.nx) << 2);
      // all faces of such a row are open, but for those at its two ends
      const isPlain = !rooms && j > 0 && k > 0 && j < L.ny - 1 && k < L.nz - 1 && kindOf(L, j, k) == 0;
      const inner = isPlain ? end - 16 : at;
      for (let o = at + 16; o < inner; o += 16) {
        const x0 = f32x4.mul(kap, v128.load(u + o));
        const z0 = f32x4.mul(kap, v128.load(w + o));
        v128.store(x + o, x0);
        v128.store(y + o, f32x4.mul(kap, v128.load(v + o)));
        v128.store(z + o, z0);
        const alongX = f32x4.sub(f32x4.mul(kap, v128.load(u + o, 4)), x0);
        const alongZ = f32x4.sub(f32x4.mul(kap, v128.load(w + o + ps)), z0);
        most = f32x4.pmax(most, f32x4.pmax(f32x4.abs(alongX), f32x4.abs(alongZ)));
      }

      for (let o = at; o < end; o = o == at ? max(at + 16, inner) : o + 16) {
        const x0 = f32x4.mul(kap, f32x4.mul(v128.load(L.ax + o), v128.load(u + o)));
        const y0 = f32x4.mul(kap, f32x4.mul(v128.load(L.ay + o), v128.load(v + o)));
        const z0 = f32x4.mul(kap, f32x4.mul(v128.load(L.az + o), v128.load(w + o)));
        const x1 = f32x4.mul(kap, f32x4.mul(v128.load(L.ax + o, 4), v128.load(u + o, 4)));
        const z1 = f32x4.mul(kap, f32x4.mul(v128.load(L.az + o + ps), v128.load(w + o + ps)));
        v128.store(x + o, x0);
        v128.store(y + o, y0);
        v128.store(z + o, z0);
        const turned = f32x4.pmax(f32x4.abs(f32x4.sub(x1, x0)), f32x4.abs(f32x4.sub(z1, z0)));
        let room = one;
        if (rooms) room = f32x4.pmax(f32x4.pmin(v128.load(rooms + o), v128.load(roomsTo + o)), least);
        most = f32x4.pmax(most, f32x4.div(turned, room));
        if (j == L.ny - 1)
          v128.store(y + o + rs, f32x4.mul(kap, f32x4.mul(v128.load(L.ay + o + rs), v128.load(v + o + rs))));
        if (k == L.nz - 1) v128.store(z + o + ps, z1);
      }

      store<f32>(x + end, kappa * load<f32>(L.ax + end) * load<f32>(u + end));
    }

    store<f64>(partial(partials, k, 0), <f64>max4(most));
  }
}

/**
 * Volumes of the cells' air after the flows along the first axis, and after those along the second too; and
 * where they change, at the end of a part of the time, its bounds as parts of it.
 * rooms, roomsTo: at both ends of the whole time, 0: 1 everywhere.
 */
export function cellVolumes(
  x: usize,
  y: usize,
  z: usize,
  first: i32,
  rooms: usize,
  roomsTo: usize,
  began: f32,
  ends: f32,
  afterFirst: usize,
  afterSecond: usize,
  atStart: usize,
  atEnd: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const a = byAxis(first, x, y, z);
  const s: usize = byAxis<usize>(first, 4, rs, ps);
  const from = f32x4.splat(began);
  const to = f32x4.splat(ends);
  const one = constant(Constant.ONE);
  const least = f32x4.splat(LEAST_VOLUME);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        let room = one;
        if (rooms) {
          const old = v128.load(rooms + o);
          const change = f32x4.sub(v128.load(roomsTo + o), old);
          room = f32x4.add(old, f32x4.mul(from, change));
          v128.store(atStart + o, room);
          v128.store(atEnd + o, f32x4.add(old, f32x4.mul(to, change)));
        }

        room = f32x4.sub(room, f32x4.sub(v128.load(a + o + s), v128.load(a + o)));
        v128.store(afterFirst + o, v128.bitselect(least, room, f32x4.lt(f32x4.abs(room), least)));
        room = f32x4.sub(room, f32x4.sub(v128.load(y + o + rs), v128.load(y + o)));
        v128.store(afterSecond + o, v128.bitselect(least, room, f32x4.lt(f32x4.abs(room), least)));
      }
    }
}

/** out ← f · g over cells; g 0: 1 everywhere. */
export function multiplyCells(
  f: usize,
  g: usize,
  out: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const value = v128.load(f + o);
        v128.store(out + o, g ? f32x4.mul(value, v128.load(g + o)) : value);
      }
    }
}

/** out ← f / g over cells, 0 where there is hardly any g. */
export function divideCells(
  f: usize,
  g: usize,
  out: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const nothing = constant(Constant.NOTHING);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const by = v128.load(g + o);
        const some = f32x4.gt(by, nothing);
        v128.store(out + o, v128.and(f32x4.div(v128.load(f + o), by), some));
      }
    }
}

/**
 * The least and the greatest value of f where there is at least so much of g, into slots 0 and 1; 0 counts as
 * there.
 */
export function valueRange(
  f: usize,
  g: usize,
  enough: f32,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    let least = f32x4.splat(0);
    let most = f32x4.splat(0);
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const there = f32x4.ge(v128.load(g + o), f32x4.splat(enough));
        const value = v128.and(v128.load(f + o), there);
        least = f32x4.pmin(least, value);
        most = f32x4.pmax(most, value);
      }
    }

    store<f64>(partial(partials, k, 0), -(<f64>max4(f32x4.neg(least))));
    store<f64>(partial(partials, k, 1), <f64>max4(most));
  }
}
