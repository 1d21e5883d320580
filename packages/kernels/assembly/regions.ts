// Regions: how far each voxel lies in one, 0…1. A region is a shape with a soft edge, or the values of a
// field between two bounds; a table says how the weight goes over the edge.
import { max4, partial, row } from './common';
import { distance, Shape } from './shape';

/** Entries of the table, from the outer end of the edge (0) to where the region is whole (last). */
const LAST = 64;

// @ts-ignore: decorator
@inline
function looked(table: usize, share: f32): f32 {
  const t = min<f32>(1, max<f32>(0, share)) * <f32>LAST;
  const n = min(<i32>t, LAST - 1);
  const a = load<f32>(table + ((<usize>n) << 2));
  return a + (t - <f32>n) * (load<f32>(table + ((<usize>n) << 2), 4) - a);
}


@unmanaged
class Region extends Shape {
  out: usize;
  table: usize;
  /** Width of the soft edge outside of the shape, cells. */
  soft: f32;
}

/**
 * Weight of a shape at every voxel; its edge is one voxel soft at the least, so that it does not step with
 * them.
 */
export function weightByShape(
  block: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const R = changetype<Region>(block);
  const per = <f32>1 / max<f32>(R.soft, 1);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const to = row(R.out, j, k, rowStride, planeStride);
      for (let i = 0; i < nx; i++) {
        const d = distance(R, <f32>i + <f32>0.5, <f32>j + <f32>0.5, <f32>k + <f32>0.5);
        store<f32>(to + ((<usize>i) << 2), looked(R.table, <f32>1 - d * per));
      }
    }
}

/**
 * Weight by a value that stands in the field: 0 at `low` and before, 1 at `high` and behind. What is no
 * number weighs nothing.
 */
export function weightByValue(
  f: usize,
  table: usize,
  low: f32,
  high: f32,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const per: f32 = high != low ? <f32>1 / (high - low) : 1e30;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(f, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 4) {
        const x = load<f32>(o);
        const share = (x - low) * per;
        store<f32>(o, share == share ? looked(table, share) : 0);
      }
    }
}

/** How a region is joined with another one. */
const enum Join {
  ALONE = 0,
  BOTH = 1,
  EITHER = 2,
  WITHOUT = 3,
}

/** out ← out turned round, then with another weight: 0 alone, 1 both, 2 either, 3 this without that. */
export function combineWeights(
  out: usize,
  other: usize,
  inverted: i32,
  how: i32,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const one = f32x4.splat(1);
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        let w = v128.load(out + o);
        if (inverted) w = f32x4.sub(one, w);
        if (how != 0) {
          const b = v128.load(other + o);
          if (how == Join.BOTH) w = f32x4.mul(w, b);
          else if (how == Join.EITHER) w = f32x4.pmax(w, b);
          else w = f32x4.mul(w, f32x4.sub(one, b));
        }

        v128.store(out + o, w);
      }
    }
}

/**
 * out ← the product of `count` weights, addresses in `list`; an odd address (+1) counts as 1 − w. The
 * greatest of a plane into slot 0.
 */
export function multiplyWeights(
  out: usize,
  list: usize,
  count: i32,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const one = f32x4.splat(1);
  for (let k = k0; k < k1; k++) {
    let most = f32x4.splat(0);
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
        let w = one;
        for (let n = 0; n < count; n++) {
          const f = load<u32>(list + ((<usize>n) << 2));
          const v = v128.load(<usize>(f & ~1) + o);
          w = f32x4.mul(w, f & 1 ? f32x4.sub(one, v) : v);
        }

        v128.store(out + o, w);
        most = f32x4.pmax(most, w);
      }
    }

    store<f64>(partial(partials, k, 0), <f64>max4(most));
  }
}

/**
 * f ← f + weight · (g − f) at the sites of a lattice (0 1 2: faces, 3: cells); the weight lies at cells, its
 * halo filled.
 */
export function blendByWeight(
  f: usize,
  g: usize,
  weight: usize,
  mx: i32,
  my: i32,
  rowStride: i32,
  planeStride: i32,
  back: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < my; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = 0; i < mx; i++) {
        const o = at + ((<usize>i) << 2);
        const x = load<f32>(f + o);
        const w = <f32>0.5 * (load<f32>(weight + o) + load<f32>(weight + o - <usize>back));
        store<f32>(f + o, x + w * (load<f32>(g + o) - x));
      }
    }
}

/** What a source covers, in a box, times a weight. */
export function weightCoverage(
  mean: usize,
  most: usize,
  weight: usize,
  toMean: usize,
  toMost: usize,
  i0: i32,
  i1: i32,
  j0: i32,
  j1: i32,
  from: i32,
  to: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = max(k0, from); k < min(k1, to); k++)
    for (let j = j0; j < j1; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = i0; i < i1; i++) {
        const o = at + ((<usize>i) << 2);
        const w = load<f32>(weight + o);
        store<f32>(toMean + o, w * load<f32>(mean + o));
        store<f32>(toMost + o, w * load<f32>(most + o));
      }
    }
}
