// A V-cycle as preconditioner (McAdams, Sifakis, Teran 2010) for the cut-cell pressure operator (Ng, Min,
// Gibou 2009):
//   (L p)_c = Σ_faces A_f (p_c − p_neighbour),  A_f the open fraction of a face.
//
// A whole way down a level – red, black, red, black, residual, restriction – is one pass over its planes,
// each stage a plane behind the one before, in a ring of planes that stays in the cache; so is the way up.
// What a stage needs of a neighbouring slab or tile is computed again, not waited for, so the result is the
// same however the planes are shared.
import { at, coefficientRow, half, kindOf, Level, lowerX, upperX } from './level';
import { Constant, constant, evens, odds, partial, sum4 } from './common';
import { relaxRow, residualHalf, startRow } from './relax';
import { residualPlane, ringPlane, spareRow } from './ring';

// @ts-ignore: decorator
@inline
function relaxRows(L: Level, ring: usize, k: i32, j0: i32, j1: i32, colour: i32): void {
  const e = ringPlane(L, ring, k);
  const m = ringPlane(L, ring, k - 1);
  const p = ringPlane(L, ring, k + 1);
  for (let j = j0; j < j1; j++) {
    const o = j * L.rowBytes;
    relaxRow(L, e + o, m + o, p + o, at(L.r, L, j, k), 0, j, k, colour);
  }
}

/**
 * Relaxes and keeps rows ja..jb in `into`; the other rows of j0..j1 are only relaxed. Returns Σ e r of the
 * kept.
 */
// @ts-ignore: decorator
@inline
function relaxRowsKeep(
  L: Level,
  ring: usize,
  k: i32,
  j0: i32,
  j1: i32,
  colour: i32,
  into: usize,
  ja: i32,
  jb: i32,
): f64 {
  const e = ringPlane(L, ring, k);
  const m = ringPlane(L, ring, k - 1);
  const p = ringPlane(L, ring, k + 1);
  let s: f64 = 0;
  for (let j = j0; j < j1; j++) {
    const o = j * L.rowBytes;
    const acc = relaxRow(
      L,
      e + o,
      m + o,
      p + o,
      at(L.r, L, j, k),
      j >= ja && j < jb ? at(into, L, j, k) : 0,
      j,
      k,
      colour,
    );
    s += sum4(acc);
  }

  return s;
}

/**
 * Coarse right-hand sides of rows J0..J1 of plane K from the residuals on red: weights 1 3 3 1 along each
 * axis, the transpose of the interpolation in `up`, scaled for the doubled cell (64 weights of sum 512/8;
 * times 4 for the coarse operator). The residual goes on past a wall as in a mirror; past an open side, and
 * where a coarse cell sticks out, it is 0.
 */
function restrictPlane(L: Level, C: Level, ring: usize, J0: i32, J1: i32, K: i32): void {
  const end = <usize>L.half;
  const odd = <usize>L.odd;
  const rowStride = <usize>L.rowBytes;
  const even = spareRow(L, ring, 0);
  const uneven = spareRow(L, ring, 1);
  const mixed = spareRow(L, ring, 2);
  const n9 = constant(Constant.RESTRICT9);
  const n3 = constant(Constant.RESTRICT3);
  const n1 = constant(Constant.RESTRICT1);
  const three = constant(Constant.THREE);
  for (let J = J0; J < J1; J++) {
    if (J > 0 && K > 0 && 2 * J + 2 < L.ny && 2 * K + 2 < L.nz) {
      const q0 = residualPlane(L, ring, 2 * K - 1) + (2 * J - 1) * rowStride;
      const q1 = residualPlane(L, ring, 2 * K) + (2 * J - 1) * rowStride;
      const q2 = residualPlane(L, ring, 2 * K + 1) + (2 * J - 1) * rowStride;
      const q3 = residualPlane(L, ring, 2 * K + 2) + (2 * J - 1) * rowStride;
      for (let m: usize = 0; m < end; m += 16) {
        const a0 = q0 + m;
        const a1 = q1 + m;
        const a2 = q2 + m;
        const a3 = q3 + m;
        const nine = f32x4.add(v128.load(a1 + rowStride), v128.load(a2 + 2 * rowStride));
        const thrice = f32x4.add(
          f32x4.add(v128.load(a0 + 2 * rowStride), v128.load(a2)),
          f32x4.add(v128.load(a1 + 3 * rowStride), v128.load(a3 + rowStride)),
        );
        const once = f32x4.add(v128.load(a0), v128.load(a3 + 3 * rowStride));
        v128.store(
          even + m,
          f32x4.add(f32x4.mul(n9, nine), f32x4.add(f32x4.mul(n3, thrice), f32x4.mul(n1, once))),
        );
        const b0 = a0 + odd;
        const b1 = a1 + odd;
        const b2 = a2 + odd;
        const b3 = a3 + odd;
        const nine2 = f32x4.add(v128.load(b1 + 2 * rowStride), v128.load(b2 + rowStride));
        const thrice2 = f32x4.add(
          f32x4.add(v128.load(b0 + rowStride), v128.load(b1)),
          f32x4.add(v128.load(b2 + 3 * rowStride), v128.load(b3 + 2 * rowStride)),
        );
        const once2 = f32x4.add(v128.load(b0 + 3 * rowStride), v128.load(b3));
        v128.store(
          uneven + m,
          f32x4.add(f32x4.mul(n9, nine2), f32x4.add(f32x4.mul(n3, thrice2), f32x4.mul(n1, once2))),
        );
      }
    } else {
      memory.fill(even, 0, end);
      memory.fill(uneven, 0, end);
      for (let a = 0; a < 4; a++) {
        let k = 2 * K - 1 + a;
        if (k < 0) {
          if (!(L.walls & 16)) continue;
          k = 0;
        } else if (k >= L.nz) {
          if (!(L.walls & 32) || L.nz & 1) continue;
          k = L.nz - 1;
        }

        for (let c = 0; c < 4; c++) {
          let j = 2 * J - 1 + c;
          if (j < 0) {
            if (!(L.walls & 4)) continue;
            j = 0;
          } else if (j >= L.ny) {
            if (!(L.walls & 8) || L.ny & 1) continue;
            j = L.ny - 1;
          }

          const weight = f32x4.splat(
            (a == 1 || a == 2 ? <f32>3 : 1) * (c == 1 || c == 2 ? <f32>3 : 1) * <f32>(4.0 / 512.0),
          );
          const isOdd = (j + k) & 1;
          const d = residualPlane(L, ring, k) + <usize>(j * L.rowBytes) + (isOdd ? odd : 0);
          const t = isOdd ? uneven : even;
          for (let m: usize = 0; m < end; m += 16)
            v128.store(t + m, f32x4.add(v128.load(t + m), f32x4.mul(weight, v128.load(d + m))));
        }
      }
    }

    store<f32>(uneven - 4, L.walls & 1 ? load<f32>(even) : <f32>0);
    store<f32>(
      even + <usize>(((L.nx + 1) >> 1) << 2),
      L.walls & 2 && !(L.nx & 1) ? load<f32>(uneven + <usize>(((L.nx >> 1) - 1) << 2)) : <f32>0,
    );
    for (let m: usize = 0; m < end; m += 16) {
      const outer = f32x4.add(v128.load(uneven + m - 4), v128.load(even + m, 4));
      const inner = f32x4.add(v128.load(even + m), v128.load(uneven + m));
      v128.store(mixed + m, f32x4.add(outer, f32x4.mul(three, inner)));
    }

    // the vector behind the last one of `even` was written as its halo: only cells that exist may be passed
    // on
    const b = at(C.r, C, J, K);
    const mask = coefficientRow(C, J, K) + 2 * <usize>C.rowBytes;
    v128.store(mixed + end, f32x4.splat(0));
    for (let m: usize = 0; m < <usize>C.half; m += 16) {
      const s = v128.load(mixed + 2 * m);
      const t = v128.load(mixed + 2 * m, 16);
      v128.store(b + m, v128.and(evens(s, t), v128.load(mask + m)));
      v128.store(b + m + C.odd, v128.and(odds(s, t), v128.load(mask + m + C.odd)));
    }
  }
}

/**
 * The way down a level over planes k0..k1: smooths from zero (red, black, red, black), takes the residual and
 * restricts it to the level below. Only the second red is kept, in q, for the way up. slab: planes a worker
 * takes, even.
 */
export function multigridDown(level: usize, below: usize, slab: i32, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const C = changetype<Level>(below);
  const n = L.nz;
  const ny = L.ny;
  const ring = L.ring + <usize>(k0 / slab) * <usize>L.ringBytes;
  for (let ja = 0; ja < ny; ja += L.tile) {
    const jb = min(ja + L.tile, ny);
    for (let k = max(k0 - 5, 0); k < min(k1 + 5, n + 5); k++) {
      if (k < min(k1 + 5, n)) {
        const e = ringPlane(L, ring, k);
        for (let j = max(ja - 5, 0); j < min(jb + 5, ny); j++)
          startRow(L, e + j * L.rowBytes, at(L.r, L, j, k), j, k);
      }

      let s = k - 1;
      if (s >= max(k0 - 4, 0) && s < min(k1 + 4, n))
        relaxRows(L, ring, s, max(ja - 4, 0), min(jb + 4, ny), 1);
      s = k - 2;
      if (s >= max(k0 - 3, 0) && s < min(k1 + 3, n)) {
        if (s >= k0 && s < k1) relaxRowsKeep(L, ring, s, max(ja - 3, 0), min(jb + 3, ny), 0, L.q, ja, jb);
        else relaxRows(L, ring, s, max(ja - 3, 0), min(jb + 3, ny), 0);
      }

      s = k - 3;
      if (s >= max(k0 - 2, 0) && s < min(k1 + 2, n))
        relaxRows(L, ring, s, max(ja - 2, 0), min(jb + 2, ny), 1);
      s = k - 4;
      if (s < max(k0 - 1, 0) || s >= min(k1 + 1, n)) continue;
      const d = residualPlane(L, ring, s);
      const e = ringPlane(L, ring, s);
      const zm = ringPlane(L, ring, s - 1);
      const zp = ringPlane(L, ring, s + 1);
      for (let j = max(ja - 1, 0); j < min(jb + 1, ny); j++) {
        const o = j * L.rowBytes;
        // on black it is 0 after they were relaxed
        residualHalf(L, d + o, e + o, zm + o, zp + o, at(L.r, L, j, s), j, s, ((j + s) & 1) != 0);
      }

      const J1 = jb == ny ? C.ny : jb >> 1;
      if ((s & 1) == 0 && s >= k0 + 2) restrictPlane(L, C, ring, ja >> 1, J1, (s >> 1) - 1);
      if (s == n - 1) restrictPlane(L, C, ring, ja >> 1, J1, C.nz - 1);
    }
  }
}

/** Red cells of a row: what the way down left there plus the interpolated coarse correction. */
function correctRow(L: Level, C: Level, e: usize, line: usize, j: i32, k: i32): void {
  const K = k >> 1;
  const J = j >> 1;
  let K2 = k & 1 ? K + 1 : K - 1;
  let J2 = j & 1 ? J + 1 : J - 1;
  let y1: f32 = 0.25;
  let z1: f32 = 0.25;
  if (J2 < 0 || J2 >= C.ny) {
    y1 = L.walls & (J2 < 0 ? 4 : 8) ? <f32>0.25 : 0;
    J2 = J;
  }

  if (K2 < 0 || K2 >= C.nz) {
    z1 = L.walls & (K2 < 0 ? 16 : 32) ? <f32>0.25 : 0;
    K2 = K;
  }

  const c00 = at(C.e, C, J, K);
  const c10 = at(C.e, C, J2, K);
  const c01 = at(C.e, C, J, K2);
  const c11 = at(C.e, C, J2, K2);
  const near = constant(Constant.THREE_QUARTERS);
  const farY = f32x4.splat(y1);
  const farZ = f32x4.splat(z1);
  const far = constant(Constant.QUARTER);
  for (let m: usize = 0; m < <usize>C.half; m += 16) {
    const p = m + C.odd;
    const a = f32x4.add(
      f32x4.mul(near, f32x4.add(f32x4.mul(near, v128.load(c00 + m)), f32x4.mul(farY, v128.load(c10 + m)))),
      f32x4.mul(farZ, f32x4.add(f32x4.mul(near, v128.load(c01 + m)), f32x4.mul(farY, v128.load(c11 + m)))),
    );
    const b = f32x4.add(
      f32x4.mul(near, f32x4.add(f32x4.mul(near, v128.load(c00 + p)), f32x4.mul(farY, v128.load(c10 + p)))),
      f32x4.mul(farZ, f32x4.add(f32x4.mul(near, v128.load(c01 + p)), f32x4.mul(farY, v128.load(c11 + p)))),
    );
    v128.store(line + 2 * m, v128.shuffle<f32>(a, b, 0, 4, 1, 5));
    v128.store(line + 2 * m, v128.shuffle<f32>(a, b, 2, 6, 3, 7), 16);
  }

  const last = line + ((<usize>(C.nx - 1)) << 2);
  store<f32>(line - 4, L.walls & 1 ? load<f32>(line) : <f32>0);
  store<f32>(last + 4, L.walls & 2 ? load<f32>(last) : <f32>0);
  const isOdd = ((j + k) & 1) != 0;
  const o = isOdd ? L.odd : 0;
  const side: isize = isOdd ? 4 : -4;
  const q = at(L.q, L, j, k) + o;
  const mask = coefficientRow(L, j, k) + 2 * <usize>L.rowBytes + o;
  const kind = kindOf(L, j, k);
  e += o;
  for (let m: usize = 0; m < <usize>L.half; m += 16) {
    const add = f32x4.add(f32x4.mul(near, v128.load(line + m)), f32x4.mul(far, v128.load(line + m + side)));
    v128.store(e + m, f32x4.add(v128.load(q + m), v128.and(add, v128.load(mask + m))));
  }

  if (kind) {
    const a = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes);
    const ax = L.ax + a;
    const ay = L.ay + a;
    const az = L.az + a;
    for (let m = (<usize>(kind & 255)) << 4; m < (<usize>(kind >> 8)) << 4; m += 16) {
      const d = f32x4.add(
        f32x4.add(lowerX(ax, m, isOdd), upperX(ax, m, isOdd)),
        f32x4.add(
          f32x4.add(half(ay + 2 * m, isOdd), half(ay + 2 * m + L.faceRowBytes, isOdd)),
          f32x4.add(half(az + 2 * m, isOdd), half(az + 2 * m + L.facePlaneBytes, isOdd)),
        ),
      );
      v128.store(e + m, v128.and(v128.load(e + m), f32x4.gt(d, constant(Constant.TINY))));
    }
  }
}

/**
 * The way up: red plus the coarse correction, then black, red, black, red (the adjoint of the way down; what
 * black held before does not matter). Σ e r, a partial sum a plane, into slot 0 of parts.
 */
export function multigridUp(level: usize, below: usize, partials: usize, slab: i32, k0: i32, k1: i32): void {
  const L = changetype<Level>(level);
  const C = changetype<Level>(below);
  const n = L.nz;
  const ny = L.ny;
  const ring = L.ring + <usize>(k0 / slab) * <usize>L.ringBytes;
  const line = spareRow(L, ring, 0);
  for (let k = k0; k < k1; k++) store<f64>(partial(partials, k, 0), 0);
  for (let ja = 0; ja < ny; ja += L.tile) {
    const jb = min(ja + L.tile, ny);
    for (let k = max(k0 - 4, 0); k < min(k1 + 4, n + 4); k++) {
      if (k < min(k1 + 4, n)) {
        const e = ringPlane(L, ring, k);
        for (let j = max(ja - 4, 0); j < min(jb + 4, ny); j++)
          correctRow(L, C, e + j * L.rowBytes, line, j, k);
      }

      let s = k - 1;
      if (s >= max(k0 - 3, 0) && s < min(k1 + 3, n))
        relaxRows(L, ring, s, max(ja - 3, 0), min(jb + 3, ny), 1);
      s = k - 2;
      if (s >= max(k0 - 2, 0) && s < min(k1 + 2, n))
        relaxRows(L, ring, s, max(ja - 2, 0), min(jb + 2, ny), 0);
      s = k - 3;
      if (s >= max(k0 - 1, 0) && s < min(k1 + 1, n)) {
        if (s >= k0 && s < k1) {
          const to = partial(partials, s, 0);
          store<f64>(
            to,
            load<f64>(to) + relaxRowsKeep(L, ring, s, max(ja - 1, 0), min(jb + 1, ny), 1, L.e, ja, jb),
          );
        } else relaxRows(L, ring, s, max(ja - 1, 0), min(jb + 1, ny), 1);
      }

      s = k - 4;
      if (s >= k0 && s < k1) {
        const to = partial(partials, s, 0);
        store<f64>(to, load<f64>(to) + relaxRowsKeep(L, ring, s, ja, jb, 0, L.e, ja, jb));
      }
    }
  }
}

/** Takes the mean over open cells off a field: between walls all round only differences mean anything. */
function takeMeanOff(L: Level, f: usize): void {
  let sum: f64 = 0;
  let count: f64 = 0;
  for (let pass = 0; pass < 2; pass++) {
    const mean = <f32>(sum / max<f64>(1, count));
    for (let k = 0; k < L.nz; k++)
      for (let j = 0; j < L.ny; j++)
        for (let i = 0; i < L.nx; i++) {
          const x = <usize>(k * L.facePlaneBytes + j * L.faceRowBytes + (i << 2));
          const open =
            load<f32>(L.ax + x) +
            load<f32>(L.ax + x + 4) +
            load<f32>(L.ay + x) +
            load<f32>(L.ay + x + L.faceRowBytes) +
            load<f32>(L.az + x) +
            load<f32>(L.az + x + L.facePlaneBytes);
          if (!(open > 1e-6)) continue;
          const o = at(f, L, j, k) + (i & 1 ? <usize>L.odd : 0) + <usize>((i >> 1) << 2);
          if (pass) store<f32>(o, load<f32>(o) - mean);
          else {
            sum += <f64>load<f32>(o);
            count += 1;
          }
        }
  }
}

/** The coarsest level: e from zero by a symmetric run of sweeps. */
export function relaxCoarsest(level: usize, sweeps: i32): void {
  const L = changetype<Level>(level);
  for (let k = 0; k < L.nz; k++) memory.fill(at(L.e, L, 0, k), 0, <usize>(L.ny * L.rowBytes));
  const closed = L.walls == 63;
  if (closed) takeMeanOff(L, L.r);
  for (let s = 0; s < 2 * sweeps; s++) {
    const colour = s < sweeps ? s & 1 : ~s & 1;
    for (let k = 0; k < L.nz; k++)
      for (let j = 0; j < L.ny; j++) {
        const e = at(L.e, L, j, k);
        relaxRow(L, e, e - L.planeBytes, e + L.planeBytes, at(L.r, L, j, k), 0, j, k, colour);
      }
  }

  if (closed) takeMeanOff(L, L.e);
}
