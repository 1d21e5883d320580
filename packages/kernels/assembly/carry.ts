// Transport by mass: finite volumes, axis after axis. What leaves a cell through a face enters its neighbour
// to the last digit. In a cell the medium lies as a parabola (Colella & Woodward 1984) whose edge values are
// of sixth order. A face is passed by what fills the volume upstream of it that flows through in the time,
// cells behind one another where that is more than one (Leonard, Lock, MacVean 1996), so that no time is too
// long as long as the cells between the faces do not turn inside out. The volume of a cell is carried along
// through the axes (Easter 1993), so that air free of divergence leaves an even field even.
//
// What rides on the medium (colour, age) goes through the same sweeps as a value for each bit of it, with the
// medium's mass in the place of volume: no bit becomes older, or of another colour, than those around it.
import { byAxis, Constant, constant, max4, partial, row } from './common';
import { Level } from './level';

/** One sweep along an axis, written by the step. */
@unmanaged
export class Sweep {
  /** Medium in a cell's air, before and after. */
  from: usize;
  to: usize;
  /** Volume that flows through the faces across the axis, in cells. */
  flow: usize;
  /** Volume of the cells' air before and after, in cells; 0: 1 everywhere. */
  before: usize;
  after: usize;
  axis: i32;
  nx: i32;
  ny: i32;
  nz: i32;
  rowStride: i32;
  planeStride: i32;
  /** Sides past which there is nothing (see halo.ts). */
  emptySides: i32;
  /** 1: parabolas; 0: even cells, first order. */
  parabolas: i32;
  /** 1: what is carried rides on the mass that `before` is; where there is none it says nothing. */
  rides: i32;
  /** Cells that flows reach at most, and three on. */
  reach: i32;
  /** A byte a row: whether anything is in it, before and after. */
  marks: usize;
  marksTo: usize;
  gain: f32;
  /** A field that is given what passes the faces across the axis; 0: nobody asks. */
  passed: usize;
  /** Rows to work in: as many sets as slabs, and the bytes of a row. */
  rows: usize;
  rowBytes: i32;
  /** What leaves through the two sides goes to slots 2 · axis and the next; 0: nobody asks. */
  partials: usize;
}

/** The rows of a set; each begins sixteen floats after its start. */
const enum Row {
  NOTHING = 0,
  ONES = 1,
  EDGES = 2,
  FLUXES = 5,
  LINE = 7,
  VOLUMES = 8,
  MANY = 9,
}
const PAD: usize = 64;
/** Of a cell's air between two sweeps, where flows that were cut short would turn it inside out. */
const LEAST_VOLUME: f32 = 0.001;

// @ts-ignore: decorator
@inline
function place(S: Sweep, set: usize, n: i32): usize {
  return set + <usize>(n * S.rowBytes) + PAD;
}

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
      for (let o = at; o < end; o += 16) {
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

/** Values on the face between c and d, of sixth order, no further out than they are. */
// @ts-ignore: decorator
@inline
function edge4(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128): v128 {
  const near = f32x4.mul(f32x4.splat(<f32>(37.0 / 60.0)), f32x4.add(c, d));
  const next = f32x4.mul(f32x4.splat(<f32>(8.0 / 60.0)), f32x4.add(b, e));
  const far = f32x4.mul(f32x4.splat(<f32>(1.0 / 60.0)), f32x4.add(a, f));
  const value = f32x4.add(f32x4.sub(near, next), far);
  return f32x4.pmin(f32x4.pmax(value, f32x4.pmin(c, d)), f32x4.pmax(c, d));
}

/** A value, or the other one where there is no mass. */
// @ts-ignore: decorator
@inline
function where4(value: v128, mass: v128, other: v128): v128 {
  return v128.bitselect(value, other, f32x4.gt(f32x4.abs(mass), constant(Constant.NOTHING)));
}

/** edge4 of what rides on masses ma … mf: cells without any stand as their neighbours do. */
// @ts-ignore: decorator
@inline
function ridingEdge4(
  a: v128,
  b: v128,
  c: v128,
  d: v128,
  e: v128,
  f: v128,
  ma: v128,
  mb: v128,
  mc: v128,
  md: v128,
  me: v128,
  mf: v128,
): v128 {
  const near = where4(c, mc, d);
  const next = where4(d, md, c);
  const below = where4(b, mb, near);
  const above = where4(e, me, next);
  return edge4(where4(a, ma, below), below, near, next, above, where4(f, mf, above));
}

/**
 * Mean over the part a of a cell next to the face that it is left through, where it holds c: x up to the edge
 * value there, y down to the one behind. The parabola has no turning point in the cell.
 */
// @ts-ignore: decorator
@inline
function mean4(c: v128, x: v128, y: v128, a: v128, one: v128): v128 {
  const rises = f32x4.gt(f32x4.mul(x, y), f32x4.splat(0));
  const xx = f32x4.add(x, x);
  const yy = f32x4.add(y, y);
  const steep = v128.bitselect(yy, x, f32x4.gt(f32x4.abs(x), f32x4.abs(yy)));
  const behind = v128.bitselect(xx, y, f32x4.gt(f32x4.abs(y), f32x4.abs(xx)));
  const rest = f32x4.sub(one, a);
  const more = f32x4.mul(rest, f32x4.add(f32x4.mul(rest, steep), f32x4.mul(a, behind)));
  return f32x4.add(c, v128.and(more, rises));
}

/** A cell of a line, or what is beyond its ends. */
function cellOf(S: Sweep, line: usize, s: isize, n: i32, cells: i32): f32 {
  const side = 1 << (2 * S.axis);
  if (n < 0) return S.emptySides & side ? 0 : load<f32>(line);
  if (n >= cells) return S.emptySides & (side << 1) ? 0 : load<f32>(line + (cells - 1) * s);
  return load<f32>(line + n * s);
}

/** A cell of a line; where nothing is in it to ride on, another value. */
function ridden(S: Sweep, line: usize, masses: usize, s: isize, n: i32, cells: i32, other: f32): f32 {
  if (S.rides && (n < 0 || n >= cells || !(abs<f32>(load<f32>(masses + n * s)) > <f32>1e-15))) return other;
  return cellOf(S, line, s, n, cells);
}

function edge1(S: Sweep, line: usize, volumes: usize, s: isize, n: i32, cells: i32): f32 {
  const c = ridden(S, line, volumes, s, n - 1, cells, cellOf(S, line, s, n, cells));
  const d = ridden(S, line, volumes, s, n, cells, cellOf(S, line, s, n - 1, cells));
  const b = ridden(S, line, volumes, s, n - 2, cells, c);
  const a = ridden(S, line, volumes, s, n - 3, cells, b);
  const e = ridden(S, line, volumes, s, n + 1, cells, d);
  const f = ridden(S, line, volumes, s, n + 2, cells, e);
  const value = <f32>(37.0 / 60.0) * (c + d) - <f32>(8.0 / 60.0) * (b + e) + <f32>(1.0 / 60.0) * (a + f);
  return min(max(value, min(c, d)), max(c, d));
}

/**
 * What passes face n of a line of cells where a volume flows through it that may be more than a cell's.
 * line, volumes: addresses of cell 0 (volumes 0: 1 everywhere); s: bytes from cell to cell.
 */
function passes(S: Sweep, line: usize, volumes: usize, s: isize, n: i32, cells: i32, flow: f32): f32 {
  const ahead = flow > 0;
  let rest = abs<f32>(flow);
  let m = ahead ? n - 1 : n;
  let sum: f32 = 0;
  while (rest > 0) {
    const inside = m >= 0 && m < cells;
    const volume: f32 = inside && volumes ? load<f32>(volumes + m * s) : 1;
    const c = cellOf(S, line, s, m, cells);
    if (rest < volume) {
      const a = rest / volume;
      let mean = c;
      if (S.parabolas) {
        let x = edge1(S, line, volumes, s, ahead ? m + 1 : m, cells) - c;
        let y = c - edge1(S, line, volumes, s, ahead ? m : m + 1, cells);
        if (x * y > 0) {
          const most: f32 = y + y;
          if (abs<f32>(y) > abs<f32>(x + x)) y = x + x;
          if (abs<f32>(x) > abs<f32>(most)) x = most;
          mean += (1 - a) * ((1 - a) * x + a * y);
        }
      }

      sum += rest * mean;
      break;
    }

    if (!inside) {
      sum += rest * c; // all beyond is alike
      break;
    }

    sum += volume * c;
    rest -= volume;
    m += ahead ? -1 : 1;
  }

  return ahead ? sum : -sum;
}

/**
 * What passes the faces between two rows of cells, c below and d above them; e, f, g: edge values behind c,
 * between, and behind d. step: faces from lane to lane.
 */
// @ts-ignore: decorator
@inline
function fluxRow(
  S: Sweep,
  to: usize,
  flow: usize,
  c: usize,
  d: usize,
  volumeC: usize,
  volumeD: usize,
  e: usize,
  f: usize,
  g: usize,
  line: usize,
  volumes: usize,
  s: isize,
  n: i32,
  step: i32,
  cells: i32,
): void {
  const one = constant(Constant.ONE);
  const lane: isize = step ? 0 : 4;
  for (let o: usize = 0, end = (<usize>S.nx) << 2; o < end; o += 16) {
    const through = v128.load(flow + o);
    const size = f32x4.abs(through);
    const ahead = f32x4.gt(through, f32x4.splat(0));
    const donor = v128.bitselect(v128.load(c + o), v128.load(d + o), ahead);
    let mean = donor;
    const volume = v128.bitselect(v128.load(volumeC + o), v128.load(volumeD + o), ahead);
    if (S.parabolas) {
      const here = v128.load(f + o);
      const behind = v128.bitselect(v128.load(e + o), v128.load(g + o), ahead);
      const a = S.before
        ? f32x4.div(size, v128.bitselect(one, volume, f32x4.eq(volume, f32x4.splat(0))))
        : size;
      mean = mean4(donor, f32x4.sub(here, donor), f32x4.sub(donor, behind), a, one);
    }

    v128.store(to + o, f32x4.mul(through, mean));
    if (v128.any_true(f32x4.gt(size, volume)))
      for (let q = 0; q < 4; q++) {
        const i = <i32>(o >> 2) + q;
        const at = o + ((<usize>q) << 2);
        const along = <usize>lane * i;
        store<f32>(
          to + at,
          passes(
            S,
            line + along,
            volumes ? volumes + along : 0,
            s,
            n + step * i,
            cells,
            load<f32>(flow + at),
          ),
        );
      }
  }
}

/** to ← gain (c · before + in − out) / after; returns whether anything is left. */
function changeRow(
  S: Sweep,
  to: usize,
  c: usize,
  before: usize,
  after: usize,
  lower: usize,
  upper: usize,
): bool {
  const gain = f32x4.splat(S.gain);
  const nothing = constant(Constant.NOTHING);
  const one = constant(Constant.ONE);
  let any = f32x4.splat(0);
  for (let o: usize = 0, end = (<usize>S.nx) << 2; o < end; o += 16) {
    const mass = f32x4.add(
      f32x4.mul(v128.load(c + o), v128.load(before + o)),
      f32x4.sub(v128.load(lower + o), v128.load(upper + o)),
    );
    let value = f32x4.mul(gain, mass);
    if (S.after) {
      // where there is no mass, nothing rides on it
      const size = v128.load(after + o);
      value = f32x4.div(value, v128.bitselect(one, size, f32x4.eq(size, f32x4.splat(0))));
    }

    // what has thinned to nothing becomes nothing: denormal numbers cost a hundred times as much to compute
    // with
    value = v128.andnot(value, f32x4.lt(f32x4.abs(value), nothing));
    any = v128.or(any, value);
    v128.store(to + o, value);
  }

  return v128.any_true(any);
}

function sumRow(values: usize, many: i32): f64 {
  let sum: f64 = 0;
  for (let i = 0; i < many; i++) sum += <f64>load<f32>(values + ((<usize>i) << 2));
  return sum;
}

/** Cell n of a line of rows, or the row that stands for what is beyond. */
// @ts-ignore: decorator
@inline
function rowAt(S: Sweep, set: usize, line: usize, s: isize, n: i32, cells: i32): usize {
  const side = 1 << (2 * S.axis);
  if (n < 0) return S.emptySides & side ? place(S, set, Row.NOTHING) : line;
  if (n >= cells) return S.emptySides & (side << 1) ? place(S, set, Row.NOTHING) : line + (cells - 1) * s;
  return line + n * s;
}

// @ts-ignore: decorator
@inline
function volumeAt(S: Sweep, set: usize, volumes: usize, s: isize, n: i32, cells: i32): usize {
  return volumes && n >= 0 && n < cells ? volumes + n * s : place(S, set, Row.ONES);
}

/** The mass of a cell of a line of rows; beyond its ends there is none. */
// @ts-ignore: decorator
@inline
function massAt(S: Sweep, set: usize, masses: usize, s: isize, n: i32, cells: i32): usize {
  return n >= 0 && n < cells ? masses + n * s : place(S, set, Row.NOTHING);
}

// @ts-ignore: decorator
@inline
function edgeRowOf(S: Sweep, set: usize, n: i32): usize {
  return place(S, set, Row.EDGES + ((n + 3) % 3));
}

function edgeRow(S: Sweep, set: usize, line: usize, masses: usize, s: isize, n: i32, cells: i32): void {
  const to = edgeRowOf(S, set, n);
  const a = rowAt(S, set, line, s, n - 3, cells);
  const b = rowAt(S, set, line, s, n - 2, cells);
  const c = rowAt(S, set, line, s, n - 1, cells);
  const d = rowAt(S, set, line, s, n, cells);
  const e = rowAt(S, set, line, s, n + 1, cells);
  const f = rowAt(S, set, line, s, n + 2, cells);
  const end = (<usize>S.nx) << 2;
  if (!S.rides) {
    for (let o: usize = 0; o < end; o += 16)
      v128.store(
        to + o,
        edge4(
          v128.load(a + o),
          v128.load(b + o),
          v128.load(c + o),
          v128.load(d + o),
          v128.load(e + o),
          v128.load(f + o),
        ),
      );
    return;
  }

  const ma = massAt(S, set, masses, s, n - 3, cells);
  const mb = massAt(S, set, masses, s, n - 2, cells);
  const mc = massAt(S, set, masses, s, n - 1, cells);
  const md = massAt(S, set, masses, s, n, cells);
  const me = massAt(S, set, masses, s, n + 1, cells);
  const mf = massAt(S, set, masses, s, n + 2, cells);
  for (let o: usize = 0; o < end; o += 16)
    v128.store(
      to + o,
      ridingEdge4(
        v128.load(a + o),
        v128.load(b + o),
        v128.load(c + o),
        v128.load(d + o),
        v128.load(e + o),
        v128.load(f + o),
        v128.load(ma + o),
        v128.load(mb + o),
        v128.load(mc + o),
        v128.load(md + o),
        v128.load(me + o),
        v128.load(mf + o),
      ),
    );
}

/**
 * Rows n0..n1 of a line of rows, which lie s bytes apart; offset: bytes from the fields' cells (0, 0, 0) to
 * the line's first.
 */
function sweepLine(
  S: Sweep,
  set: usize,
  offset: usize,
  s: isize,
  n0: i32,
  n1: i32,
  cells: i32,
  mark: usize,
  markStep: i32,
  plane: i32,
): void {
  const line = S.from + offset;
  const volumes = S.before ? S.before + offset : 0;
  if (S.parabolas) {
    edgeRow(S, set, line, volumes, s, n0 - 1, cells);
    edgeRow(S, set, line, volumes, s, n0, cells);
  }

  for (let n = n0; n <= n1; n++) {
    const flux = place(S, set, Row.FLUXES + (n & 1));
    const flow = S.flow + offset + n * s;
    if (S.parabolas) edgeRow(S, set, line, volumes, s, n + 1, cells);
    fluxRow(
      S,
      flux,
      flow,
      rowAt(S, set, line, s, n - 1, cells),
      rowAt(S, set, line, s, n, cells),
      volumeAt(S, set, volumes, s, n - 1, cells),
      volumeAt(S, set, volumes, s, n, cells),
      edgeRowOf(S, set, n - 1),
      edgeRowOf(S, set, n),
      edgeRowOf(S, set, n + 1),
      line,
      volumes,
      s,
      n,
      0,
      cells,
    );
    if (S.passed) memory.copy(S.passed + offset + n * s, flux, (<usize>S.nx) << 2);
    if (S.partials && (n == 0 || n == cells)) {
      const slot = partial(
        S.partials,
        plane + (S.axis == 2 ? min(n, cells - 1) : 0),
        2 * S.axis + i32(n > 0),
      );
      const out = sumRow(flux, S.nx);
      store<f64>(slot, load<f64>(slot) + (n > 0 ? out : -out));
    }

    if (n == n0) continue;
    const m = n - 1;
    const any = changeRow(
      S,
      S.to + offset + m * s,
      line + m * s,
      volumeAt(S, set, volumes, s, m, cells),
      S.after + offset + m * s,
      place(S, set, Row.FLUXES + (m & 1)),
      flux,
    );
    store<u8>(mark + <usize>(m * markStep), u8(any));
  }
}

/** Whether nothing is in the rows that flows reach from row n of a line. */
function isClear(S: Sweep, mark: usize, step: i32, n: i32, cells: i32): bool {
  for (let m = max(0, n - S.reach), end = min(cells, n + S.reach + 1); m < end; m++)
    if (load<u8>(mark + <usize>(m * step))) return false;
  return true;
}

/** Rows n0..n1 of a line of rows; those with nothing in reach are not looked at. */
function sweepRows(
  S: Sweep,
  set: usize,
  offset: usize,
  s: isize,
  n0: i32,
  n1: i32,
  cells: i32,
  marks: usize,
  markStep: i32,
  plane: i32,
): void {
  const mark = S.marks + marks;
  const markTo = S.marksTo + marks;
  let n = n0;
  while (n < n1) {
    if (isClear(S, mark, markStep, n, cells)) {
      memory.fill(S.to + offset + n * s, 0, (<usize>S.nx) << 2);
      if (S.passed) {
        memory.fill(S.passed + offset + n * s, 0, (<usize>S.nx) << 2);
        if (n == cells - 1) memory.fill(S.passed + offset + cells * s, 0, (<usize>S.nx) << 2);
      }

      store<u8>(markTo + <usize>(n * markStep), 0);
      n++;
      continue;
    }

    const first = n;
    while (n < n1 && !isClear(S, mark, markStep, n, cells)) n++;
    sweepLine(S, set, offset, s, first, n, cells, markTo, markStep, plane);
  }
}

/** A row along x: the cells of a line lie beside one another. */
function sweepAcross(S: Sweep, set: usize, j: i32, k: i32): void {
  const offset = row(0, j, k, S.rowStride, S.planeStride);
  const mark = <usize>(k * S.ny + j);
  const bytes = (<usize>S.nx) << 2;
  if (!load<u8>(S.marks + mark)) {
    memory.fill(S.to + offset, 0, bytes);
    if (S.passed) memory.fill(S.passed + offset, 0, bytes + 4);
    store<u8>(S.marksTo + mark, 0);
    return;
  }

  const line = place(S, set, Row.LINE);
  const edges = place(S, set, Row.EDGES);
  const fluxes = place(S, set, Row.FLUXES);
  const ones = place(S, set, Row.ONES);
  memory.copy(line, S.from + offset, bytes);
  for (let n: usize = 1; n <= 4; n++) {
    store<f32>(line - 4 * n, cellOf(S, line, 4, -1, S.nx));
    store<f32>(line + bytes + 4 * (n - 1), cellOf(S, line, 4, S.nx, S.nx));
  }

  let volumes = ones;
  if (S.before) {
    volumes = place(S, set, Row.VOLUMES);
    memory.copy(volumes, S.before + offset, bytes);
    const beyond: f32 = S.rides ? 0 : 1;
    for (let n: usize = 1; n <= 4; n++) {
      store<f32>(volumes - 4 * n, beyond);
      store<f32>(volumes + bytes + 4 * (n - 1), beyond);
    }
  }

  // one edge before the first face and one behind the last
  if (S.parabolas)
    for (let o: usize = 0, end = bytes + 8; o < end; o += 16) {
      const c = line + o - 4;
      const m = volumes + o - 4;
      const a = v128.load(c - 12);
      const b = v128.load(c - 8);
      const near = v128.load(c - 4);
      const next = v128.load(c);
      const e = v128.load(c, 4);
      const f = v128.load(c, 8);
      v128.store(
        edges + o - 4,
        S.rides
          ? ridingEdge4(
              a,
              b,
              near,
              next,
              e,
              f,
              v128.load(m - 12),
              v128.load(m - 8),
              v128.load(m - 4),
              v128.load(m),
              v128.load(m, 4),
              v128.load(m, 8),
            )
          : edge4(a, b, near, next, e, f),
      );
    }

  const flow = S.flow + offset;
  const given = S.before ? volumes : 0;
  fluxRow(
    S,
    fluxes,
    flow,
    line - 4,
    line,
    volumes - 4,
    volumes,
    edges - 4,
    edges,
    edges + 4,
    line,
    given,
    4,
    0,
    1,
    S.nx,
  );
  const last = passes(S, line, given, 4, S.nx, S.nx, load<f32>(flow + bytes));
  store<f32>(fluxes + bytes, last);
  if (S.passed) memory.copy(S.passed + offset, fluxes, bytes + 4);
  if (S.partials) {
    const low = partial(S.partials, k, 0);
    store<f64>(low, load<f64>(low) - <f64>load<f32>(fluxes));
    store<f64>(low + 8, load<f64>(low + 8) + <f64>last);
  }

  const any = changeRow(S, S.to + offset, line, volumes, S.after + offset, fluxes, fluxes + 4);
  store<u8>(S.marksTo + mark, u8(any));
}

/** One sweep over the planes k0..k1; slab: planes of a worker's share, which says whose rows it works in. */
export function sweepCells(sweep: usize, slab: i32, k0: i32, k1: i32): void {
  const S = changetype<Sweep>(sweep);
  const set = S.rows + <usize>((k0 / slab) * Row.MANY * S.rowBytes);
  const ones = place(S, set, Row.ONES) - PAD;
  for (let o: usize = 0; o < <usize>S.rowBytes; o += 4) {
    store<f32>(ones + o, 1);
    store<f32>(ones + <usize>((Row.VOLUMES - Row.ONES) * S.rowBytes) + o, 1);
  }

  if (S.partials) memory.fill(partial(S.partials, k0, 0), 0, (<usize>(k1 - k0)) << 6);
  const rs = <isize>(S.rowStride << 2);
  const ps = <isize>(S.planeStride << 2);
  if (S.axis == 2) {
    for (let j = 0; j < S.ny; j++) sweepRows(S, set, <usize>(j * rs), ps, k0, k1, S.nz, <usize>j, S.ny, 0);
    return;
  }

  for (let k = k0; k < k1; k++) {
    if (S.axis == 1) sweepRows(S, set, <usize>(k * ps), rs, 0, S.ny, S.ny, <usize>(k * S.ny), 1, k);
    else for (let j = 0; j < S.ny; j++) sweepAcross(S, set, j, k);
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
        const some = f32x4.gt(f32x4.abs(by), nothing);
        v128.store(out + o, v128.and(f32x4.div(v128.load(f + o), by), some));
      }
    }
}
