// How what is carried lies in a cell: a parabola with edge values of sixth order and no turning point
// (Colella & Woodward 1984); and what of it passes a face.
import { Constant, constant } from './common';
import { Sweep } from './sweep';

/** Values on the face between c and d, of sixth order, no further out than they are. */
// @ts-ignore: decorator
@inline
export function edge4(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128): v128 {
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
export function ridingEdge4(
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
export function mean4(c: v128, x: v128, y: v128, a: v128, one: v128): v128 {
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
export function cellOf(S: Sweep, line: usize, s: isize, n: i32, cells: i32): f32 {
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
export function passes(S: Sweep, line: usize, volumes: usize, s: isize, n: i32, cells: i32, flow: f32): f32 {
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
