// The medium on cells half as large as the air's: what carries it is made of the air's flows, what the air
// feels of it are means, and what happens to those is handed on to its cells.
import { Constant, constant, evens, listed, max4, odds, partial, row } from './common';

/** Below this a mean says nothing of how its cells differ. */
const NO_MEAN: f32 = 1e-20;

/** A quarter of the slope across b, at most half way to a neighbour (van Leer 1977); 0 where b is: shut. */
// @ts-ignore: decorator
@inline
function slope4(a: v128, b: v128, c: v128): v128 {
  const below = f32x4.sub(b, a);
  const above = f32x4.sub(c, b);
  const half = constant(Constant.HALF);
  const mean = f32x4.mul(f32x4.splat(0.125), f32x4.add(below, above));
  const most = f32x4.mul(half, f32x4.pmin(f32x4.abs(below), f32x4.abs(above)));
  const slope = f32x4.pmin(f32x4.pmax(mean, f32x4.neg(most)), most);
  const rises = f32x4.gt(f32x4.mul(below, above), f32x4.splat(0));
  return v128.andnot(v128.and(slope, rises), f32x4.eq(b, f32x4.splat(0)));
}

/** Along rows or planes s bytes apart. first, last: there is nothing before, or behind. */
// @ts-ignore: decorator
@inline
function slopeAlong(at: usize, s: usize, first: bool, last: bool): v128 {
  const here = v128.load(at);
  return slope4(first ? here : v128.load(at - s), here, last ? here : v128.load(at + s));
}

/** Along a row of n cells, of the four from i on. */
// @ts-ignore: decorator
@inline
function slopeAcross(at: usize, i: i32, n: i32): v128 {
  const here = v128.load(at);
  let before = v128.load(at - 4);
  let behind = v128.load(at, 4);
  if (i == 0) before = f32x4.replace_lane(before, 0, f32x4.extract_lane(here, 0));
  if (i + 4 >= n) behind = f32x4.replace_lane(behind, 3, f32x4.extract_lane(here, 3));
  return slope4(before, here, behind);
}

/** Stores eight floats: even places from a, odd ones from b. */
// @ts-ignore: decorator
@inline
function storeBoth(to: usize, a: v128, b: v128): void {
  v128.store(to, v128.shuffle<f32>(a, b, 0, 4, 1, 5));
  v128.store(to, v128.shuffle<f32>(a, b, 2, 6, 3, 7), 16);
}

/** The value of a quarter of a face: v + a p + b q for a, b = ±1. */
// @ts-ignore: decorator
@inline
function quarter(v: v128, p: v128, q: v128, a: i32, b: i32): v128 {
  const along = a ? f32x4.add(v, p) : f32x4.sub(v, p);
  return b ? f32x4.add(along, q) : f32x4.sub(along, q);
}

/** The mean of two opposite faces' quarters, and what keeps the divergence of all eight parts alike. */
// @ts-ignore: decorator
@inline
function between(low: v128, high: v128, more: v128, half: v128): v128 {
  return f32x4.mul(half, f32x4.add(f32x4.add(low, high), more));
}

/**
 * Values on the faces x, y, z of a lattice onto those (tx, ty, tz) of one twice as fine, times a scale. On
 * the faces of the lattice itself they are linear about their mean; between, such that each of the eight
 * parts of a cell has the divergence of the whole (Tóth & Roe 2002; Balsara 2001).
 * sloped 0: even over each face. nx … planeStride: of the lattice; fineRow, finePlane: strides of the fine
 * one. The last plane writes the fine faces behind it too.
 */
export function refineFaces(
  x: usize,
  y: usize,
  z: usize,
  tx: usize,
  ty: usize,
  tz: usize,
  scale: f32,
  sloped: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  fineRow: i32,
  finePlane: i32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const factor = f32x4.splat(scale);
  const half = constant(Constant.HALF);
  const none = f32x4.splat(0);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = 0; i < nx; i += 4) {
        const o = at + ((<usize>i) << 2);
        let xy0 = none;
        let xz0 = none;
        let xy1 = none;
        let xz1 = none;
        let yx0 = none;
        let yz0 = none;
        let yx1 = none;
        let yz1 = none;
        let zx0 = none;
        let zy0 = none;
        let zx1 = none;
        let zy1 = none;
        if (sloped) {
          xy0 = f32x4.mul(factor, slopeAlong(x + o, rs, j == 0, j == ny - 1));
          xz0 = f32x4.mul(factor, slopeAlong(x + o, ps, k == 0, k == nz - 1));
          xy1 = f32x4.mul(factor, slopeAlong(x + o + 4, rs, j == 0, j == ny - 1));
          xz1 = f32x4.mul(factor, slopeAlong(x + o + 4, ps, k == 0, k == nz - 1));
          yx0 = f32x4.mul(factor, slopeAcross(y + o, i, nx));
          yz0 = f32x4.mul(factor, slopeAlong(y + o, ps, k == 0, k == nz - 1));
          yx1 = f32x4.mul(factor, slopeAcross(y + o + rs, i, nx));
          yz1 = f32x4.mul(factor, slopeAlong(y + o + rs, ps, k == 0, k == nz - 1));
          zx0 = f32x4.mul(factor, slopeAcross(z + o, i, nx));
          zy0 = f32x4.mul(factor, slopeAlong(z + o, rs, j == 0, j == ny - 1));
          zx1 = f32x4.mul(factor, slopeAcross(z + o + ps, i, nx));
          zy1 = f32x4.mul(factor, slopeAlong(z + o + ps, rs, j == 0, j == ny - 1));
        }

        const x0 = f32x4.mul(factor, v128.load(x + o));
        const x1 = f32x4.mul(factor, v128.load(x + o, 4));
        const y0 = f32x4.mul(factor, v128.load(y + o));
        const y1 = f32x4.mul(factor, v128.load(y + o + rs));
        const z0 = f32x4.mul(factor, v128.load(z + o));
        const z1 = f32x4.mul(factor, v128.load(z + o + ps));
        const moreX = f32x4.add(f32x4.sub(yx1, yx0), f32x4.sub(zx1, zx0));
        const moreY = f32x4.add(f32x4.sub(xy1, xy0), f32x4.sub(zy1, zy0));
        const moreZ = f32x4.add(f32x4.sub(xz1, xz0), f32x4.sub(yz1, yz0));
        for (let b = 0; b < 2; b++) {
          const plane = 2 * k + b;
          for (let a = 0; a < 2; a++) {
            const to = row(0, 2 * j + a, plane, fineRow, finePlane) + ((<usize>i) << 3);
            const low = quarter(x0, xy0, xz0, a, b);
            const high = quarter(x1, xy1, xz1, a, b);
            storeBoth(tx + to, low, between(low, high, moreX, half));
            if (i + 4 >= nx) store<f32>(tx + to + 32, f32x4.extract_lane(high, 3));
          }

          const below = row(ty, 2 * j, plane, fineRow, finePlane) + ((<usize>i) << 3);
          const fs = (<usize>fineRow) << 2;
          const left = quarter(y0, yx0, yz0, 0, b);
          const right = quarter(y0, yx0, yz0, 1, b);
          const leftOn = quarter(y1, yx1, yz1, 0, b);
          const rightOn = quarter(y1, yx1, yz1, 1, b);
          storeBoth(below, left, right);
          storeBoth(below + fs, between(left, leftOn, moreY, half), between(right, rightOn, moreY, half));
          if (j == ny - 1) storeBoth(below + 2 * fs, leftOn, rightOn);
        }

        for (let a = 0; a < 2; a++) {
          const to = row(tz, 2 * j + a, 2 * k, fineRow, finePlane) + ((<usize>i) << 3);
          const fs = (<usize>finePlane) << 2;
          const left = quarter(z0, zx0, zy0, 0, a);
          const right = quarter(z0, zx0, zy0, 1, a);
          const leftOn = quarter(z1, zx1, zy1, 0, a);
          const rightOn = quarter(z1, zx1, zy1, 1, a);
          storeBoth(to, left, right);
          storeBoth(to + fs, between(left, leftOn, moreZ, half), between(right, rightOn, moreZ, half));
          if (k == nz - 1) storeBoth(to + 2 * fs, leftOn, rightOn);
        }
      }
    }
}

/**
 * By how much at most the flows along x or z change the volume of a cell, as a part of it, into slot 0 of
 * each plane; as volumeFlows tells of the air's cells. rooms, roomsTo: as there.
 */
export function mostTurned(
  x: usize,
  z: usize,
  rooms: usize,
  roomsTo: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const ps = (<usize>planeStride) << 2;
  const least = constant(Constant.HALF);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0);
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        const along = f32x4.abs(f32x4.sub(v128.load(x + o, 4), v128.load(x + o)));
        let turned = f32x4.pmax(along, f32x4.abs(f32x4.sub(v128.load(z + o + ps), v128.load(z + o))));
        if (rooms)
          turned = f32x4.div(
            turned,
            f32x4.pmax(f32x4.pmin(v128.load(rooms + o), v128.load(roomsTo + o)), least),
          );
        most = f32x4.pmax(most, turned);
      }
    }

    store<f64>(partial(partials, k, 0), <f64>max4(most));
  }
}

/** The mean of eight fine cells for each of four cells; at: the first of the fine ones. */
// @ts-ignore: decorator
@inline
function means4(at: usize, rs: usize, ps: usize): v128 {
  let a = f32x4.add(v128.load(at), v128.load(at + rs));
  let b = f32x4.add(v128.load(at, 16), v128.load(at + rs, 16));
  a = f32x4.add(a, f32x4.add(v128.load(at + ps), v128.load(at + ps + rs)));
  b = f32x4.add(b, f32x4.add(v128.load(at + ps, 16), v128.load(at + ps + rs, 16)));
  return f32x4.mul(f32x4.splat(0.125), f32x4.add(evens(a, b), odds(a, b)));
}

/** list: fields in pairs, of the fine lattice and of this one, which becomes the mean of the first. */
export function gatherCells(
  list: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  fineRow: i32,
  finePlane: i32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>fineRow) << 2;
  const ps = (<usize>finePlane) << 2;
  for (let n = 0, many = load<i32>(list); n < many; n += 2) {
    const fine = listed(list, n);
    const f = listed(list, n + 1);
    for (let k = k0; k < k1; k++)
      for (let j = 0; j < ny; j++) {
        const to = row(f, j, k, rowStride, planeStride);
        const at = row(fine, 2 * j, 2 * k, fineRow, finePlane);
        for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 16)
          v128.store(to + o, means4(at + 2 * o, rs, ps));
      }
  }
}

/** Address of the n-th of the eight fine cells of a cell. */
// @ts-ignore: decorator
@inline
function part(at: usize, rs: usize, ps: usize, n: i32): usize {
  return at + ((<usize>(n & 1)) << 2) + <usize>((n >> 1) & 1) * rs + <usize>(n >> 2) * ps;
}

function isNegative(at: usize, rs: usize, ps: usize): bool {
  let least: f32 = 0;
  for (let n = 0; n < 8; n++) least = min<f32>(least, load<f32>(part(at, rs, ps, n)));
  return least < 0;
}

function follow(at: usize, f: usize, mean: f32, even: bool, rs: usize, ps: usize): void {
  const now = load<f32>(f);
  if (!even && mean == now) return;
  const scaled = !even && mean > NO_MEAN && now >= 0;
  const gain = now / mean;
  for (let n = 0; n < 8; n++) {
    const one = part(at, rs, ps, n);
    store<f32>(one, scaled ? load<f32>(one) * gain : now);
  }

  store<f32>(f, meanOf(at, rs, ps));
}

/**
 * The reverse of gatherCells, where fields of this lattice were changed since: fine cells are scaled with
 * their mean, or filled where it was nothing. Where some of the first field, the density, owe what others
 * have, as beside moving obstacles, they all become alike.
 */
export function followCells(
  list: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  fineRow: i32,
  finePlane: i32,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>fineRow) << 2;
  const ps = (<usize>finePlane) << 2;
  const many = load<i32>(list);
  const none = f32x4.splat(0);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const to = row(0, j, k, rowStride, planeStride);
      const at = row(0, 2 * j, 2 * k, fineRow, finePlane);
      for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 16) {
        const fine = listed(list, 0) + at + 2 * o;
        let least = none;
        for (let n = 0; n < 8; n++) {
          const one = fine + ((<usize>(n & 1)) << 4) + <usize>((n >> 1) & 1) * rs + <usize>(n >> 2) * ps;
          least = f32x4.pmin(least, v128.load(one));
        }

        let changed = f32x4.lt(least, none);
        for (let n = 0; n < many; n += 2)
          changed = v128.or(
            changed,
            f32x4.ne(means4(listed(list, n) + at + 2 * o, rs, ps), v128.load(listed(list, n + 1) + to + o)),
          );
        if (!v128.any_true(changed)) continue;
        for (let i: usize = 0; i < 16; i += 4) {
          const even = isNegative(fine + 2 * i, rs, ps);
          for (let n = 0; n < many; n += 2) {
            const from = listed(list, n) + at + 2 * (o + i);
            follow(from, listed(list, n + 1) + to + o + i, meanOf(from, rs, ps), even, rs, ps);
          }
        }
      }
    }
}

/** As means4 has it, to the last bit. */
function meanOf(at: usize, rs: usize, ps: usize): f32 {
  const low = load<f32>(at) + load<f32>(at + rs) + (load<f32>(at + ps) + load<f32>(at + ps + rs));
  const high =
    load<f32>(at, 4) + load<f32>(at + rs, 4) + (load<f32>(at + ps, 4) + load<f32>(at + ps + rs, 4));
  return <f32>0.125 * (low + high);
}

/** A blend of a row with that beside it, that above it, and that between these: 9, 3, 3 and 1 sixteenths. */
// @ts-ignore: decorator
@inline
function blend4(at: usize, beside: isize, above: isize): v128 {
  const near = f32x4.add(v128.load(at + beside), v128.load(at + above));
  return f32x4.add(
    f32x4.mul(f32x4.splat(0.5625), v128.load(at)),
    f32x4.add(
      f32x4.mul(f32x4.splat(0.1875), near),
      f32x4.mul(f32x4.splat(0.0625), v128.load(at + beside + above)),
    ),
  );
}

/**
 * Values at cells onto the cells of a lattice twice as fine. linear 0: each as the cell that it lies in; 1:
 * linear between the cells' middles, even beyond the outermost.
 */
export function refineCells(
  f: usize,
  to: usize,
  linear: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  fineRow: i32,
  finePlane: i32,
  k0: i32,
  k1: i32,
): void {
  const rs = rowStride << 2;
  const ps = planeStride << 2;
  const near = constant(Constant.THREE_QUARTERS);
  const far = constant(Constant.QUARTER);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++)
      for (let n = 0; n < 4; n++) {
        const a = n & 1;
        const b = n >> 1;
        const at = row(f, j, k, rowStride, planeStride);
        const out = row(to, 2 * j + a, 2 * k + b, fineRow, finePlane);
        let beside: isize = a ? rs : -rs;
        let above: isize = b ? ps : -ps;
        if (a ? j == ny - 1 : j == 0) beside = 0;
        if (b ? k == nz - 1 : k == 0) above = 0;
        for (let i = 0; i < nx; i += 4) {
          const o = at + ((<usize>i) << 2);
          if (!linear) {
            storeBoth(out + ((<usize>i) << 3), v128.load(o), v128.load(o));
            continue;
          }

          const here = blend4(o, beside, above);
          let before = blend4(o - 4, beside, above);
          let behind = blend4(o + 4, beside, above);
          if (i == 0) before = f32x4.replace_lane(before, 0, f32x4.extract_lane(here, 0));
          if (i + 4 >= nx) behind = f32x4.replace_lane(behind, 3, f32x4.extract_lane(here, 3));
          const middle = f32x4.mul(near, here);
          storeBoth(
            out + ((<usize>i) << 3),
            f32x4.add(middle, f32x4.mul(far, before)),
            f32x4.add(middle, f32x4.mul(far, behind)),
          );
        }
      }
}
