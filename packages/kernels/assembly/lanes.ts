// Four lanes at once, and one: the few functions that light needs, as polynomials of least greatest error,
// and random numbers that are named, not drawn in an order.

// Constants are read from memory, see common.ts.
const TABLE = memory.data<f32>([
  // 2^f on [-1/2, 1/2], relative error 8e-8
  1.0000001192092896, 0.6931469440460205, 0.24022120237350464, 0.05550713464617729, 0.009675540961325169,
  0.0013276460813358426,
  // log(1 + f) / f on [√½ - 1, √2 - 1], relative error 1.1e-6
  1.0000009536743164, -0.500011146068573, 0.3331450819969177, -0.24909758567810059, 0.20496372878551483,
  -0.18667730689048767, 0.11895771324634552,
  // log2 e, log 2, what rounds to a whole number, the least exponent
  1.4426950408889634, 0.6931471805599453, 12582912, -87,
  // 2^-23 and 2^-24
  1.1920928955078125e-7, 5.960464477539063e-8,
  // 1, 1/2, what is not divided by
  1, 0.5, 1e-9, 1e-30, 2, 4, 0.1, -1, 127,
]);

const enum Slot {
  EXP = 0,
  LOG = 24,
  LOG2E = 52,
  LN2 = 56,
  ROUND = 60,
  LEAST = 64,
  ULP = 68,
  HALF_ULP = 72,
  ONE = 76,
  HALF = 80,
  SMALL = 84,
  NOTHING = 88,
  TWO = 92,
  FOUR = 96,
  TENTH = 100,
  MINUS = 104,
  BIAS = 108,
}

// @ts-ignore: decorator
@inline
function slot(which: i32): v128 {
  return v128.load_splat<f32>(TABLE + <usize>which);
}

// @ts-ignore: decorator
@inline
export function one4(): v128 {
  return slot(Slot.ONE);
}

// @ts-ignore: decorator
@inline
export function half4(): v128 {
  return slot(Slot.HALF);
}

// @ts-ignore: decorator
@inline
export function nothing4(): v128 {
  return slot(Slot.NOTHING);
}

// @ts-ignore: decorator
@inline
export function tenth4(): v128 {
  return slot(Slot.TENTH);
}

/** a · b + c, rounded twice. */
// @ts-ignore: decorator
@inline
export function mad4(a: v128, b: v128, c: v128): v128 {
  return f32x4.add(f32x4.mul(a, b), c);
}

/** a where the mask is set, else b. */
// @ts-ignore: decorator
@inline
export function pick4(mask: v128, a: v128, b: v128): v128 {
  return v128.bitselect(a, b, mask);
}

/** One lane in all of them. */
// @ts-ignore: decorator
@inline
export function spread4(a: v128, lane: u8): v128 {
  if (lane == 0) return v128.shuffle<f32>(a, a, 0, 0, 0, 0);
  if (lane == 1) return v128.shuffle<f32>(a, a, 1, 1, 1, 1);
  if (lane == 2) return v128.shuffle<f32>(a, a, 2, 2, 2, 2);
  return v128.shuffle<f32>(a, a, 3, 3, 3, 3);
}

/** exp(x) for x ≤ 0. */
// @ts-ignore: decorator
@inline
export function expOfNegative4(x: v128): v128 {
  const y = f32x4.mul(f32x4.pmax(x, slot(Slot.LEAST)), slot(Slot.LOG2E));
  const whole = f32x4.add(y, slot(Slot.ROUND));
  const f = f32x4.sub(y, f32x4.sub(whole, slot(Slot.ROUND)));
  let p = slot(Slot.EXP + 20);
  p = mad4(p, f, slot(Slot.EXP + 16));
  p = mad4(p, f, slot(Slot.EXP + 12));
  p = mad4(p, f, slot(Slot.EXP + 8));
  p = mad4(p, f, slot(Slot.EXP + 4));
  p = mad4(p, f, slot(Slot.EXP));
  return i32x4.add(p, i32x4.shl(whole, 23));
}

/** −log(u) for u in (0, 1). */
// @ts-ignore: decorator
@inline
export function minusLog4(u: v128): v128 {
  const x = i32x4.add(u, i32x4.splat(0x3f800000 - 0x3f3504f3));
  const e = f32x4.sub(slot(Slot.BIAS), f32x4.convert_i32x4_s(i32x4.shr_u(x, 23)));
  const m = i32x4.add(v128.and(x, i32x4.splat(0x7fffff)), i32x4.splat(0x3f3504f3));
  const f = f32x4.sub(m, slot(Slot.ONE));
  let p = slot(Slot.LOG + 24);
  p = mad4(p, f, slot(Slot.LOG + 20));
  p = mad4(p, f, slot(Slot.LOG + 16));
  p = mad4(p, f, slot(Slot.LOG + 12));
  p = mad4(p, f, slot(Slot.LOG + 8));
  p = mad4(p, f, slot(Slot.LOG + 4));
  p = mad4(p, f, slot(Slot.LOG));
  return f32x4.sub(f32x4.mul(e, slot(Slot.LN2)), f32x4.mul(f, p));
}

/** Words as numbers in (0, 1), the ends left out. */
// @ts-ignore: decorator
@inline
export function unit4(words: v128): v128 {
  return mad4(f32x4.convert_i32x4_s(i32x4.shr_u(words, 9)), slot(Slot.ULP), slot(Slot.HALF_ULP));
}

// @ts-ignore: decorator
@inline
export function unit(word: u32): f32 {
  return <f32>(word >> 9) * <f32>1.1920928955078125e-7 + <f32>5.960464477539063e-8;
}

/**
 * A word from a word, each bit of it on every bit (multipliers of a low-bias search by C. Wellons 2018).
 */
// @ts-ignore: decorator
@inline
export function mix(x: u32): u32 {
  x ^= x >> 16;
  x *= 0x7feb352d;
  x ^= x >> 15;
  x *= 0x846ca68b;
  return x ^ (x >> 16);
}

// @ts-ignore: decorator
@inline
export function mix4(x: v128): v128 {
  x = v128.xor(x, i32x4.shr_u(x, 16));
  x = i32x4.mul(x, i32x4.splat(0x7feb352d));
  x = v128.xor(x, i32x4.shr_u(x, 15));
  x = i32x4.mul(x, i32x4.splat(0x846ca68b));
  return v128.xor(x, i32x4.shr_u(x, 16));
}

/** A word by its name: what is drawn does not depend on what else was drawn before. */
// @ts-ignore: decorator
@inline
export function named(a: u32, b: u32, c: u32): u32 {
  return mix(a ^ mix(b + 0x9e3779b9 + mix(c * 0x85ebca6b + 0xc2b2ae35)));
}

/** Cosine of an angle that is even on the circle for u even in (0, 1); u + ¾ gives its sine. */
// @ts-ignore: decorator
@inline
export function turnCosine(u: f32): f32 {
  const a = (u - floor<f32>(u)) * 4;
  const q = <i32>a;
  const f = a - <f32>q - 0.5;
  const g = f * f;
  const sn =
    (((<f32>-0.00460165785625577 * g + <f32>0.07968003302812576) * g - <f32>0.6459634900093079) * g +
      <f32>1.5707963705062866) *
    f;
  const cs =
    ((<f32>-0.02039858140051365 * g + <f32>0.25359493494033813) * g - <f32>1.233696699142456) * g +
    <f32>0.9999999403953552;
  // the middle of a quarter lies at 45° of it
  const c = (cs - sn) * <f32>0.7071067811865476;
  const s = (cs + sn) * <f32>0.7071067811865476;
  if (q == 0) return c;
  if (q == 1) return -s;
  return q == 2 ? -c : s;
}

/** One lane of four; which one is known where it is written. */
// @ts-ignore: decorator
@inline
export function laneOf(v: v128, lane: i32): f32 {
  if (lane == 0) return f32x4.extract_lane(v, 0);
  if (lane == 1) return f32x4.extract_lane(v, 1);
  return lane == 2 ? f32x4.extract_lane(v, 2) : f32x4.extract_lane(v, 3);
}

/** The same of words. */
// @ts-ignore: decorator
@inline
export function wordOf(v: v128, lane: i32): i32 {
  if (lane == 0) return i32x4.extract_lane(v, 0);
  if (lane == 1) return i32x4.extract_lane(v, 1);
  return lane == 2 ? i32x4.extract_lane(v, 2) : i32x4.extract_lane(v, 3);
}
