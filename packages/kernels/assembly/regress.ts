// Planes of values by windows: means, and a plane over two guides in each window (He, Sun & Tang 2010).
// Values are doubles, row after row: what is left between nearly equal products needs the digits.

// @ts-ignore: decorator
@inline
function at(plane: usize, n: i32): usize {
  return plane + ((<usize>n) << 3);
}

/**
 * Means of `from`, or of its products with `by` (0: none), over windows along the rows k0..k1: `radius`
 * values to each side, fewer at the ends.
 */
export function meanOfRows(
  from: usize,
  by: usize,
  to: usize,
  width: i32,
  radius: i32,
  k0: i32,
  k1: i32,
): void {
  const other = by ? by : from;
  for (let y = k0; y < k1; y++) {
    const row = y * width;
    let sum: f64 = 0;
    for (let x = 0; x < min(radius, width); x++) sum += valueOf(from, other, by, row + x);
    for (let x = 0; x < width; x++) {
      const enters = x + radius;
      const leaves = x - radius - 1;
      if (enters < width) sum += valueOf(from, other, by, row + enters);
      if (leaves >= 0) sum -= valueOf(from, other, by, row + leaves);
      const count = min(width - 1, enters) - max(0, leaves + 1) + 1;
      store<f64>(at(to, row + x), sum / <f64>count);
    }
  }
}

// @ts-ignore: decorator
@inline
function valueOf(from: usize, other: usize, by: usize, n: i32): f64 {
  const v = load<f64>(at(from, n));
  return by ? v * load<f64>(at(other, n)) : v;
}

/** Pairs of columns that are summed together. */
const PAIRS: i32 = 8;

/**
 * The same of plain values along columns, sixteen at a time: the sixteens k0..k1. Rows hold an even number.
 */
export function meanOfColumns(
  from: usize,
  to: usize,
  width: i32,
  height: i32,
  radius: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = k0; k < k1; k++) {
    const first = k * 2 * PAIRS;
    const pairs = min(PAIRS, (width - first) >> 1);
    for (let pair = 0; pair < pairs; pair++) {
      const x = first + 2 * pair;
      let sum = f64x2.splat(0);
      for (let y = 0; y < min(radius, height); y++) sum = f64x2.add(sum, v128.load(at(from, y * width + x)));
      for (let y = 0; y < height; y++) {
        const enters = y + radius;
        const leaves = y - radius - 1;
        if (enters < height) sum = f64x2.add(sum, v128.load(at(from, enters * width + x)));
        if (leaves >= 0) sum = f64x2.sub(sum, v128.load(at(from, leaves * width + x)));
        const count = min(height - 1, enters) - max(0, leaves + 1) + 1;
        v128.store(at(to, y * width + x), f64x2.mul(sum, f64x2.splat(<f64>1 / <f64>count)));
      }
    }
  }
}

/** How little guides may differ, and what is not divided by. */
const ALIKE: f64 = 1e-4;
const LEAST: f64 = 1e-10;

/**
 * Slopes along two guides in each window, the rows k0..k1. @param p means of what is fitted; it becomes what
 * is left of it; g, h those of the guides; gg, gh, hh of their products; gp, hp of theirs with what is
 * fitted: they become the slopes
 */
export function slopesOfWindows(
  p: usize,
  g: usize,
  h: usize,
  gg: usize,
  gh: usize,
  hh: usize,
  gp: usize,
  hp: usize,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const meanP = load<f64>(at(p, n));
    const meanG = load<f64>(at(g, n));
    const meanH = load<f64>(at(h, n));
    const together = load<f64>(at(gh, n)) - meanG * meanH;
    const withG = load<f64>(at(gp, n)) - meanG * meanP;
    const withH = load<f64>(at(hp, n)) - meanH * meanP;
    // where both guides say the same, one slope serves
    const a = max<f64>(0, load<f64>(at(gg, n)) - meanG * meanG) * (1 + ALIKE) + LEAST;
    const b = max<f64>(0, load<f64>(at(hh, n)) - meanH * meanH) * (1 + ALIKE) + LEAST;
    const inverse = 1 / (a * b - together * together);
    const along = (withG * b - withH * together) * inverse;
    const across = (withH * a - withG * together) * inverse;
    store<f64>(at(gp, n), along);
    store<f64>(at(hp, n), across);
    store<f64>(at(p, n), meanP - along * meanG - across * meanH);
  }
}

/** rest += along · first + across · second, the rows k0..k1. */
export function addPlanes(
  rest: usize,
  along: usize,
  across: usize,
  first: usize,
  second: usize,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const v =
      load<f64>(at(rest, n)) +
      load<f64>(at(along, n)) * load<f64>(at(first, n)) +
      load<f64>(at(across, n)) * load<f64>(at(second, n));
    store<f64>(at(rest, n), v);
  }
}

/** change = fit − now, the rows k0..k1. */
export function takeDifference(fit: usize, now: usize, change: usize, width: i32, k0: i32, k1: i32): void {
  for (let n = k0 * width; n < k1 * width; n++)
    store<f64>(at(change, n), load<f64>(at(fit, n)) - load<f64>(at(now, n)));
}

/**
 * now += the part of the change that stands out from the noise (Wiener), the rows k0..k1. @param off mean
 * square of the change around, `noise` what it would be by noise alone for each `scale` of it
 */
export function keepDifference(
  now: usize,
  change: usize,
  off: usize,
  noise: usize,
  scale: f64,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const whole = load<f64>(at(off, n));
    const keep = whole > 0 ? 1 - (scale * load<f64>(at(noise, n))) / whole : 0;
    if (keep > 0) store<f64>(at(now, n), load<f64>(at(now, n)) + keep * load<f64>(at(change, n)));
  }
}
