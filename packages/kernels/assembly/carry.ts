// Transport by mass: finite volumes, axis after axis. What leaves a cell through a face enters its neighbour
// to the last digit. In a cell the medium lies as a parabola (Colella & Woodward 1984) whose edge values are
// of sixth order. A face is passed by what fills the volume upstream of it that flows through in the time,
// cells behind one another where that is more than one (Leonard, Lock, MacVean 1996), so that no time is too
// long as long as the cells between the faces do not turn inside out. The volume of a cell is carried along
// through the axes (Easter 1993), so that air free of divergence leaves an even field even.
//
// What rides on the medium (colour, age) goes through the same sweeps as a value for each bit of it, with the
// medium's mass in the place of volume: no bit becomes older, or of another colour, than those around it.
import { Constant, constant, partial, row } from './common';
import { cellOf, edge4, mean4, passes, ridingEdge4 } from './parabola';
import { massAt, PAD, place, Row, rowAt, Sweep, volumeAt } from './sweep';

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

/**
 * to ← gain (c · before + in − out) / after; returns whether anything is left. What rides where next to
 * nothing is left of what was there or came through (flows below and above) keeps its value: the difference
 * of what comes and goes is rounding there. Beside moving obstacles, where cells may turn inside out between
 * two sweeps, the range of what rode before holds it.
 */
function changeRow(
  S: Sweep,
  to: usize,
  c: usize,
  before: usize,
  after: usize,
  lower: usize,
  upper: usize,
  below: usize,
  above: usize,
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
      if (S.rides) {
        const through = f32x4.add(f32x4.abs(v128.load(below + o)), f32x4.abs(v128.load(above + o)));
        const there = f32x4.add(f32x4.abs(v128.load(before + o)), through);
        const enough = f32x4.gt(f32x4.abs(size), f32x4.mul(f32x4.splat(<f32>1e-4), there));
        value = v128.bitselect(value, v128.load(c + o), enough);
        value = f32x4.pmin(f32x4.pmax(value, f32x4.splat(S.least)), f32x4.splat(S.most));
      }
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
      flow - s,
      flow,
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

  const any = changeRow(
    S,
    S.to + offset,
    line,
    volumes,
    S.after + offset,
    fluxes,
    fluxes + 4,
    flow,
    flow + 4,
  );
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
