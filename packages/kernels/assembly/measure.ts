// What a run reads off its fields, and the small pictures of a field that travel to a screen.
import { Constant, constant, row, max4, sum4, partial } from './common';

/**
 * Partials a plane: 0 Σ density, 1 greatest density, 2 Σ speed², 3 cells above the threshold, 4 highest such
 * j (−1 none), 5 Σ |div u| · h... as the greatest |div|, 6 Σ density in the rim cells (contact with the
 * sides), 7 non-finite cells.
 */
export function measureFrame(
  density: usize,
  u: usize,
  v: usize,
  w: usize,
  ax: usize,
  ay: usize,
  az: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  threshold: f32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const rs = (<usize>rowStride) << 2;
  const ps = (<usize>planeStride) << 2;
  const half = constant(Constant.HALF);
  const limit = f32x4.splat(threshold);
  const one = constant(Constant.ONE);
  for (let k = k0; k < k1; k++) {
    let mass: f64 = 0;
    let energy: f64 = 0;
    let cells: f64 = 0;
    let rim: f64 = 0;
    let bad: f64 = 0;
    let most = f32x4.splat(0);
    let worst = f32x4.splat(0);
    let top = -1;
    for (let j = 0; j < ny; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      let m = f32x4.splat(0);
      let e = f32x4.splat(0);
      let c = f32x4.splat(0);
      for (let o = at, end = at + ((<usize>nx) << 2); o < end; o += 16) {
        const d = v128.load(density + o);
        m = f32x4.add(m, d);
        most = f32x4.pmax(most, d);
        c = f32x4.add(c, v128.and(one, f32x4.gt(d, limit)));
        const u0 = v128.load(u + o);
        const u1 = v128.load(u + o, 4);
        const v0 = v128.load(v + o);
        const v1 = v128.load(v + o + rs);
        const w0 = v128.load(w + o);
        const w1 = v128.load(w + o + ps);
        const x = f32x4.mul(half, f32x4.add(u0, u1));
        const y = f32x4.mul(half, f32x4.add(v0, v1));
        const z = f32x4.mul(half, f32x4.add(w0, w1));
        e = f32x4.add(e, f32x4.add(f32x4.mul(x, x), f32x4.add(f32x4.mul(y, y), f32x4.mul(z, z))));
        const div = f32x4.add(
          f32x4.add(
            f32x4.sub(f32x4.mul(v128.load(ax + o, 4), u1), f32x4.mul(v128.load(ax + o), u0)),
            f32x4.sub(f32x4.mul(v128.load(ay + o + rs), v1), f32x4.mul(v128.load(ay + o), v0)),
          ),
          f32x4.sub(f32x4.mul(v128.load(az + o + ps), w1), f32x4.mul(v128.load(az + o), w0)),
        );
        worst = f32x4.pmax(worst, f32x4.abs(div));
      }

      const rowMass = sum4(m);
      const rowEnergy = sum4(e);
      const rowCells = sum4(c);
      if (!(rowMass - rowMass == 0) || !(rowEnergy - rowEnergy == 0)) bad += 1;
      mass += rowMass;
      energy += rowEnergy;
      cells += rowCells;
      if (rowCells > 0) top = max(top, j);
      if (j == 0 || j == ny - 1 || k == 0 || k == nz - 1) rim += rowMass;
      else rim += <f64>load<f32>(density + at) + <f64>load<f32>(density + at + ((<usize>(nx - 1)) << 2));
    }

    store<f64>(partial(partials, k, 0), mass);
    store<f64>(partial(partials, k, 1), <f64>max4(most));
    store<f64>(partial(partials, k, 2), energy);
    store<f64>(partial(partials, k, 3), cells);
    store<f64>(partial(partials, k, 4), <f64>top);
    store<f64>(partial(partials, k, 5), <f64>max4(worst));
    store<f64>(partial(partials, k, 6), rim);
    store<f64>(partial(partials, k, 7), bad);
  }
}

/** Σ of a field over its cells, times their air (0: 1 everywhere), into slot 0. */
export function sumCells(
  f: usize,
  rooms: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    let sum: f64 = 0;
    for (let j = 0; j < ny; j++) {
      let s = f32x4.splat(0);
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at, end = at + ((<usize>nx) << 2); o < end; o += 16) {
        const value = v128.load(f + o);
        s = f32x4.add(s, rooms ? f32x4.mul(value, v128.load(rooms + o)) : value);
      }

      sum += sum4(s);
    }

    store<f64>(partial(partials, k, 0), sum);
  }
}

/**
 * Of a field over its cells, by their places i, j, k from the window's first cell: Σ f, Σ f i, Σ f j, Σ f k,
 * Σ f i², Σ f j², Σ f k², into slots 0 to 6.
 */
export function sumMoments(
  f: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const four = constant(Constant.FOUR);
  for (let k = k0; k < k1; k++) {
    let mass: f64 = 0;
    let x: f64 = 0;
    let xx: f64 = 0;
    let y: f64 = 0;
    let yy: f64 = 0;
    for (let j = 0; j < ny; j++) {
      let own = f32x4.splat(0);
      let first = own;
      let second = own;
      let place = f32x4(0, 1, 2, 3);
      const at = row(f, j, k, rowStride, planeStride);
      for (let o = at, end = at + ((<usize>nx) << 2); o < end; o += 16) {
        const value = v128.load(o);
        const along = f32x4.mul(value, place);
        own = f32x4.add(own, value);
        first = f32x4.add(first, along);
        second = f32x4.add(second, f32x4.mul(along, place));
        place = f32x4.add(place, four);
      }

      const sum = sum4(own);
      mass += sum;
      x += sum4(first);
      xx += sum4(second);
      y += sum * j;
      yy += sum * j * j;
    }

    store<f64>(partial(partials, k, 0), mass);
    store<f64>(partial(partials, k, 1), x);
    store<f64>(partial(partials, k, 2), y);
    store<f64>(partial(partials, k, 3), mass * k);
    store<f64>(partial(partials, k, 4), xx);
    store<f64>(partial(partials, k, 5), yy);
    store<f64>(partial(partials, k, 6), mass * k * k);
  }
}

/** Σ of a field in the outermost cells at each side, a slot a side: −x +x −y +y −z +z. */
export function boundarySums(
  f: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    let left: f64 = 0;
    let right: f64 = 0;
    let low: f64 = 0;
    let high: f64 = 0;
    let all: f64 = 0;
    const end = k == 0 || k == nz - 1;
    for (let j = 0; j < ny; j++) {
      const at = row(f, j, k, rowStride, planeStride);
      left += <f64>load<f32>(at);
      right += <f64>load<f32>(at + ((<usize>(nx - 1)) << 2));
      if (!end && j != 0 && j != ny - 1) continue;
      let s: f64 = 0;
      for (let i = 0; i < nx; i++) s += <f64>load<f32>(at + ((<usize>i) << 2));
      if (j == 0) low = s;
      if (j == ny - 1) high = s;
      all += s;
    }

    store<f64>(partial(partials, k, 0), left);
    store<f64>(partial(partials, k, 1), right);
    store<f64>(partial(partials, k, 2), low);
    store<f64>(partial(partials, k, 3), high);
    store<f64>(partial(partials, k, 4), k == 0 ? all : 0);
    store<f64>(partial(partials, k, 5), k == nz - 1 ? all : 0);
  }
}

/**
 * Floats for a screen: the mean over step³ cells of a component's two faces, `next` bytes apart (0: of
 * cells), tightly packed.
 */
export function packMeans(
  f: usize,
  next: usize,
  out: usize,
  step: i32,
  mx: i32,
  my: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const norm: f32 = <f32>0.5 / <f32>(step * step * step);
  for (let K = k0; K < k1; K++)
    for (let J = 0; J < my; J++)
      for (let I = 0; I < mx; I++) {
        let s: f32 = 0;
        for (let c = 0; c < step; c++)
          for (let b = 0; b < step; b++) {
            const at =
              row(f, J * step + b, K * step + c, rowStride, planeStride) + ((<usize>(I * step)) << 2);
            for (let o = at, e = at + ((<usize>step) << 2); o < e; o += 4)
              s += load<f32>(o) + load<f32>(o + next);
          }

        store<f32>(out + ((<usize>((K * my + J) * mx + I)) << 2), s * norm);
      }
}

/** Whether a row of density is anywhere above 0. */
function hasMedium(density: usize, nx: i32): bool {
  let any = f32x4.splat(0);
  for (let o = density, e = density + ((<usize>nx) << 2); o < e; o += 16) any = f32x4.pmax(any, v128.load(o));
  return v128.any_true(f32x4.gt(any, f32x4.splat(0)));
}

/**
 * What one force adds: Σ density · |f − p|² into slot 0 and Σ density into slot 1, f the sum of accelerations
 * now and p before it, over every second row of every second plane; p ← f there, in rows that hold medium.
 * first: p counts as 0.
 */
export function forceShare(
  fx: usize,
  fy: usize,
  fz: usize,
  px: usize,
  py: usize,
  pz: usize,
  density: usize,
  first: i32,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const zero = f32x4.splat(0);
  for (let k = k0; k < k1; k++) {
    let sum: f64 = 0;
    let mass: f64 = 0;
    if ((k & 1) == 0)
      for (let j = 0; j < ny; j += 2) {
        const at = row(0, j, k, rowStride, planeStride);
        if (!hasMedium(density + at, nx)) continue;
        let s = zero;
        let m = zero;
        for (let o = at, e = at + ((<usize>nx) << 2); o < e; o += 16) {
          const x = v128.load(fx + o);
          const y = v128.load(fy + o);
          const z = v128.load(fz + o);
          const d = f32x4.pmax(zero, v128.load(density + o));
          const dx = first ? x : f32x4.sub(x, v128.load(px + o));
          const dy = first ? y : f32x4.sub(y, v128.load(py + o));
          const dz = first ? z : f32x4.sub(z, v128.load(pz + o));
          s = f32x4.add(
            s,
            f32x4.mul(d, f32x4.add(f32x4.mul(dx, dx), f32x4.add(f32x4.mul(dy, dy), f32x4.mul(dz, dz)))),
          );
          m = f32x4.add(m, d);
          v128.store(px + o, x);
          v128.store(py + o, y);
          v128.store(pz + o, z);
        }

        sum += sum4(s);
        mass += sum4(m);
      }

    store<f64>(partial(partials, k, 0), sum);
    store<f64>(partial(partials, k, 1), mass);
  }
}

/**
 * Bytes for a screen: the mean over step³ cells · scale, at most 255, x fastest, tightly packed. mx, my:
 * bytes along x, y.
 */
export function packBytes(
  f: usize,
  out: usize,
  step: i32,
  scale: f32,
  mx: i32,
  my: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const norm = scale / <f32>(step * step * step);
  for (let K = k0; K < k1; K++)
    for (let J = 0; J < my; J++)
      for (let I = 0; I < mx; I++) {
        let s: f32 = 0;
        for (let c = 0; c < step; c++)
          for (let b = 0; b < step; b++) {
            const r = row(f, J * step + b, K * step + c, rowStride, planeStride) + ((<usize>(I * step)) << 2);
            for (let a = 0; a < step; a++) s += load<f32>(r + ((<usize>a) << 2));
          }

        store<u8>(out + <usize>((K * my + J) * mx + I), <u8>min<f32>(255, max<f32>(0, s * norm + <f32>0.5)));
      }
}

/**
 * A 64-bit sum over the bits of a field's cells (FNV-1a over words), a plane's value in slot 0 and 1 as two
 * 32-bit halves.
 */
export function checksum(
  f: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    let h: u64 = 0xcbf29ce484222325;
    for (let j = 0; j < ny; j++) {
      const r = row(f, j, k, rowStride, planeStride);
      for (let o: usize = 0, e = (<usize>nx) << 2; o < e; o += 4)
        h = (h ^ (<u64>load<u32>(r + o))) * 0x100000001b3;
    }

    store<f64>(partial(partials, k, 0), <f64>(<u32>h));
    store<f64>(partial(partials, k, 1), <f64>(<u32>(h >> 32)));
  }
}

/**
 * Of each plane: the first site (row · mx + i) whose value is not finite, or −1, into slot 0; the greatest
 * |value| is not looked at.
 */
export function findNonFinite(
  f: usize,
  mx: i32,
  my: i32,
  rowStride: i32,
  planeStride: i32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    let found = -1;
    for (let j = 0; j < my && found < 0; j++) {
      const r = row(f, j, k, rowStride, planeStride);
      // x − x is 0 for all numbers, and not a number for those that are infinite or none
      let acc = f32x4.splat(0);
      let i = 0;
      for (; i + 4 <= mx; i += 4) {
        const x = v128.load(r + ((<usize>i) << 2));
        acc = f32x4.add(acc, f32x4.sub(x, x));
      }

      let rest: f32 = 0;
      for (; i < mx; i++) {
        const x = load<f32>(r + ((<usize>i) << 2));
        rest += x - x;
      }

      if (rest == 0 && sum4(acc) == 0) continue;
      for (i = 0; i < mx; i++) {
        const x = load<f32>(r + ((<usize>i) << 2));
        if (!(x - x == 0)) {
          found = j * mx + i;
          break;
        }
      }
    }

    store<f64>(partial(partials, k, 0), <f64>found);
  }
}

/**
 * The cells of each plane above a threshold: how many, and the least and greatest i and j, into slots 0 to 4.
 */
export function findBounds(
  f: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  threshold: f32,
  partials: usize,
  k0: i32,
  k1: i32,
): void {
  const limit = f32x4.splat(threshold);
  for (let k = k0; k < k1; k++) {
    let count = 0;
    let i0 = nx;
    let i1 = -1;
    let j0 = ny;
    let j1 = -1;
    for (let j = 0; j < ny; j++) {
      const r = row(f, j, k, rowStride, planeStride);
      for (let i = 0; i < nx; i += 4) {
        const hit = i32x4.bitmask(f32x4.gt(v128.load(r + ((<usize>i) << 2)), limit));
        if (!hit) continue;
        count += popcnt(hit);
        i0 = min(i0, i + ctz(hit));
        i1 = max(i1, i + 31 - clz(hit));
        j0 = min(j0, j);
        j1 = j;
      }
    }

    store<f64>(partial(partials, k, 0), <f64>count);
    store<f64>(partial(partials, k, 1), <f64>i0);
    store<f64>(partial(partials, k, 2), <f64>i1);
    store<f64>(partial(partials, k, 3), <f64>j0);
    store<f64>(partial(partials, k, 4), <f64>j1);
  }
}
