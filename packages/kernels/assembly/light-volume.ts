// Light that reaches each voxel, by one sweep a direction. Planes across a direction's main axis are walked
// away from the light, in columns that lean with it: in a plane all columns are off the lattice by the same
// fraction, so that density is interpolated once on its way into a column and optical depth once on its way
// out, and nothing is interpolated twice (shear as of Lacroute & Levoy 1994).
import { expOfNegative4, mad4 } from './lanes';
import { takeRoom } from './rooms';

/** One direction. The main axis is y or z; for x the fields are turned over first, see turnOver. */
@unmanaged
class LightSweep {
  /** Extinction a cell, laid out as a Medium's, and where the direction's part is added. */
  extinction: usize;
  out: usize;
  /** Values along x, and along the other axis, and planes; with the ring. */
  columns: i32;
  rows: i32;
  planes: i32;
  /** Values from row to row of a plane, and from plane to plane. */
  rowStride: i32;
  planeStride: i32;
  /** Whether planes are walked from the last. */
  fromLast: i32;
  /** How far a column leans along x and along the other axis from plane to plane. */
  leanX: f32;
  leanRow: f32;
  /** Half the way from plane to plane. */
  half: f32;
  /** First column and first row of columns, how many columns a row has. */
  firstColumn: i32;
  firstRow: i32;
  wide: i32;
  lastRow: i32;
  /** What the direction counts for. */
  weight: f32;
  /** Asymmetry of scattering toward the eye; 0 leaves it out. */
  forward: f32;
  /** Direction to the light and the eye's place, in the order column, row, plane. */
  toX: f32;
  toRow: f32;
  toPlane: f32;
  eyeX: f32;
  eyeRow: f32;
  eyePlane: f32;
  /** Where light is needed at all, eight values along x a byte, and strides in values; 0: everywhere. */
  needed: usize;
  neededRow: i32;
  neededPlane: i32;
  /** Whether a row of values or one beside it holds something, a byte each, and strides; 0: any may. */
  held: usize;
  heldRow: i32;
  heldPlane: i32;
  /** Room for each worker, and floats of one. */
  rooms: usize;
  roomBytes: i32;
}

/** Rows of columns that a worker takes at a time. */
const BAND: i32 = 24;
/** Values from node to node of the phase function along a row. */
const NODES: i32 = 16;

/**
 * 4π times the phase function (Henyey & Greenstein 1941) of light from a direction toward the eye, at the
 * nodes 0, 16, 32 … of a row: a pinhole sees a place from one direction only.
 */
// @ts-ignore: decorator
@inline
function phaseNodes(s: LightSweep, rowAt: f32, planeAt: f32, out: usize): void {
  const g = s.forward;
  const gg = f32x4.splat(1 + g * g);
  const g2 = f32x4.splat(2 * g);
  const up = f32x4.splat(1 - g * g);
  const dr = rowAt - s.eyeRow;
  const dp = planeAt - s.eyePlane;
  const aside = f32x4.splat(dr * dr + dp * dp + <f32>1e-6);
  const lean = f32x4.splat(dr * s.toRow + dp * s.toPlane);
  const toX = f32x4.splat(s.toX);
  const lanes = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(<f32>NODES));
  for (let n = 0; n * NODES <= s.columns + 3 * NODES; n += 4) {
    const dx = f32x4.add(lanes, f32x4.splat(<f32>(n * NODES) - s.eyeX));
    const cosine = f32x4.div(mad4(dx, toX, lean), f32x4.sqrt(mad4(dx, dx, aside)));
    const b = f32x4.sub(gg, f32x4.mul(cosine, g2));
    v128.store(out + ((<usize>n) << 2), f32x4.div(up, f32x4.mul(b, f32x4.sqrt(b))));
  }
}

/** The phase function at four places of a row that begin at i, straight between nodes. */
// @ts-ignore: decorator
@inline
function phaseAt(nodes: usize, i: i32): v128 {
  const p = nodes + ((<usize>(i >> 4)) << 2);
  const a = load<f32>(p);
  const t = f32x4.mul(
    f32x4.add(f32x4(0, 1, 2, 3), f32x4.splat(<f32>(i & (NODES - 1)))),
    f32x4.splat(<f32>1 / <f32>NODES),
  );
  return mad4(t, f32x4.splat(load<f32>(p, 4) - a), f32x4.splat(a));
}

// @ts-ignore: decorator
@inline
function isHeld(s: LightSweep, level: i32, j: i32): bool {
  if (j < 0 || j >= s.rows) return false;
  return load<u8>(s.held + <usize>(level * s.heldPlane + j * s.heldRow)) != 0;
}

/**
 * Adds a direction's part to a field: weight · transmittance, times the phase function where it is asked for.
 * k0..k1 are bands of rows of columns; each is walked whole by one worker, so the sum does not depend on how
 * many work.
 */
export function sweepLight(sweep: usize, k0: i32, k1: i32): void {
  const s = changetype<LightSweep>(sweep);
  const wide = (<usize>s.wide) << 2;
  const room = takeRoom(s.rooms);
  // of each column: depth so far, and half of the last plane's part of it; a row of zeros; the phase's nodes
  const depth = s.rooms + 256 + <usize>room * <usize>s.roomBytes;
  const own = depth + wide * <usize>(BAND + 1) + 64;
  const nothing = own + wide * <usize>(BAND + 1) + 128;
  const nodes = nothing + ((<usize>s.columns) << 2) + 256;
  memory.fill(nothing - 64, 0, ((<usize>s.columns) << 2) + 192);
  for (let band = k0; band < k1; band++) {
    const low = s.firstRow + band * BAND;
    const high = min(s.lastRow, low + BAND);
    memory.fill(depth, 0, wide * <usize>(BAND + 1));
    memory.fill(own, 0, wide * <usize>(BAND + 1));
    // a bit a row of columns: whether the last plane left anything in them
    let open: u64 = 0;
    for (let n = 0; n < s.planes; n++) {
      const level = s.fromLast ? s.planes - 1 - n : n;
      const at = s.extinction + ((<isize>(s.planeStride * level)) << 2);
      const x = <f64>n * <f64>s.leanX;
      const y = <f64>n * <f64>s.leanRow;
      const I = <i32>Math.floor(x);
      const J = <i32>Math.floor(y);
      const fx = <f32>(x - Math.floor(x));
      const fy = <f32>(y - Math.floor(y));
      const gx: f32 = 1 - fx;
      const gy: f32 = 1 - fy;
      const w00 = gx * gy;
      const w10 = fx * gy;
      const w01 = gx * fy;
      const w11 = fx * fy;
      const shift = (<isize>(I + s.firstColumn)) << 2;
      const h00 = f32x4.splat(w00 * s.half);
      const h10 = f32x4.splat(w10 * s.half);
      const h01 = f32x4.splat(w01 * s.half);
      const h11 = f32x4.splat(w11 * s.half);
      const first = max(low, -1 - J);
      const last = min(high, s.rows - 1 - J);
      for (let b = first; b <= last; b++) {
        const j = b + J;
        const bit = (<u64>1) << (b - low);
        const has = !s.held || isHeld(s, level, j) || isHeld(s, level, j + 1);
        if (!has && !(open & bit)) continue;
        open = has ? open | bit : open & ~bit;
        let p = j >= 0 ? at + ((<isize>(s.rowStride * j)) << 2) : nothing;
        let q = j + 1 < s.rows ? at + ((<isize>(s.rowStride * (j + 1))) << 2) : nothing;
        const end = p + ((<usize>(s.columns - 1)) << 2);
        let d = depth + wide * <usize>(b - low) - shift - 4;
        let o = own + wide * <usize>(b - low) - shift - 4;
        p -= 4;
        q -= 4;
        while (p < end) {
          const m = f32x4.add(
            f32x4.add(f32x4.mul(v128.load(p), h00), f32x4.mul(v128.load(p, 4), h10)),
            f32x4.add(f32x4.mul(v128.load(q), h01), f32x4.mul(v128.load(q, 4), h11)),
          );
          v128.store(d, f32x4.add(v128.load(d), f32x4.add(v128.load(o), m)));
          v128.store(o, m);
          p += 16;
          q += 16;
          d += 16;
          o += 16;
        }
      }

      const v00 = f32x4.splat(-w00);
      const v10 = f32x4.splat(-w10);
      const v01 = f32x4.splat(-w01);
      const v11 = f32x4.splat(-w11);
      const weight = f32x4.splat(s.weight);
      for (let b = first; b < last; b++) {
        const j = b + J + 1;
        const d = depth + wide * <usize>(b - low) - shift - 4;
        const e = d + wide;
        const t = s.out + ((<isize>(s.planeStride * level + s.rowStride * j)) << 2);
        if (s.forward != 0) phaseNodes(s, <f32>j, <f32>level, nodes);
        const needed = s.needed ? s.needed + <usize>((level * s.neededPlane + j * s.neededRow) >> 3) : 0;
        for (let i = 0; i < s.columns; i += 4) {
          if (needed && !load<u8>(needed + <usize>(i >> 3))) {
            i |= 4;
            continue;
          }

          const o = (<usize>i) << 2;
          const tau = f32x4.add(
            f32x4.add(f32x4.mul(v128.load(d + o), v11), f32x4.mul(v128.load(d + o, 4), v01)),
            f32x4.add(f32x4.mul(v128.load(e + o), v10), f32x4.mul(v128.load(e + o, 4), v00)),
          );
          const part = s.forward != 0 ? f32x4.mul(weight, phaseAt(nodes, i)) : weight;
          v128.store(t + o, mad4(expOfNegative4(tau), part, v128.load(t + o)));
        }
      }
    }
  }

  atomic.store<i32>(s.rooms + ((<usize>room) << 2), 0);
}

/**
 * Adds 4π · weight · phase function of a direction to a field that is laid out as its planes are: what would
 * arrive through nothing. k0..k1 are planes.
 */
export function sweepNothing(sweep: usize, k0: i32, k1: i32): void {
  const s = changetype<LightSweep>(sweep);
  const room = takeRoom(s.rooms);
  const nodes = s.rooms + 256 + <usize>room * <usize>s.roomBytes;
  const weight = f32x4.splat(s.weight);
  for (let level = k0; level < k1; level++)
    for (let j = 0; j < s.rows; j++) {
      const t = s.out + ((<isize>(s.planeStride * level + s.rowStride * j)) << 2);
      phaseNodes(s, <f32>j, <f32>level, nodes);
      for (let i = 0; i < s.columns; i += 4)
        v128.store(t + ((<usize>i) << 2), mad4(weight, phaseAt(nodes, i), v128.load(t + ((<usize>i) << 2))));
    }

  atomic.store<i32>(s.rooms + ((<usize>room) << 2), 0);
}

/** Copies a field with x and z changing places, or adds it; k0..k1 are its rows' places along y. */
export function turnOver(
  from: usize,
  to: usize,
  nx: i32,
  nz: i32,
  fromRow: i32,
  fromPlane: i32,
  toRow: i32,
  toPlane: i32,
  add: i32,
  k0: i32,
  k1: i32,
): void {
  for (let j = k0; j < k1; j++)
    for (let K = 0; K < nz; K += 16)
      for (let i = 0; i < nx; i++) {
        const last = min(K + 16, nz);
        for (let k = K; k < last; k++) {
          const p = from + ((<usize>(k * fromPlane + j * fromRow + i)) << 2);
          const q = to + ((<usize>(i * toPlane + j * toRow + k)) << 2);
          store<f32>(q, add ? load<f32>(q) + load<f32>(p) : load<f32>(p));
        }
      }
}

/**
 * Packs a field of parts, each divided by another field or by 1, into the low or the high half of a field of
 * words, for the planes k0..k1. `full`: 0 for 1.
 */
export function packLight(
  part: usize,
  full: usize,
  words: usize,
  plane: i32,
  high: i32,
  k0: i32,
  k1: i32,
): void {
  const from = (<usize>(k0 * plane)) << 2;
  const end = (<usize>(k1 * plane)) << 2;
  const one = f32x4.splat(1);
  for (let o = from; o < end; o += 16) {
    let v = v128.load(part + o);
    if (full) v = f32x4.div(v, f32x4.pmax(v128.load(full + o), f32x4.splat(<f32>1e-20)));
    v = f32x4.mul(f32x4.pmin(f32x4.pmax(v, f32x4.splat(0)), one), f32x4.splat(65535));
    const word = i32x4.trunc_sat_f32x4_s(f32x4.add(v, f32x4.splat(0.5)));
    const old = v128.load(words + o);
    v128.store(
      words + o,
      high
        ? v128.or(v128.and(old, i32x4.splat(0xffff)), i32x4.shl(word, 16))
        : v128.or(v128.and(old, i32x4.splat(0xffff0000)), word),
    );
  }
}
