// How a layer meets what is below it, premultiplied (Porter & Duff 1984; the compositing modes of W3C's
// “Compositing and Blending”).
import { alphaOf, nothing, pixelAt, valueAt, withAlpha } from './pixel';

/** What becomes of a layer and what is below it. */
export enum MeetMode {
  OVER = 0,
  UNDER = 1,
  SCREEN = 2,
  ADD = 3,
  MULTIPLY = 4,
  LIGHTEN = 5,
  DIFFERENCE = 6,
  /** The layer only where something is below it. */
  ATOP = 7,
  /** What is below only where the layer is. */
  KEEP = 8,
  /** What is below only where the layer is not. */
  CUT = 9,
}

// @ts-ignore: decorator
@inline
function met(mode: i32, layer: v128, below: v128): v128 {
  const a = f32x4.splat(alphaOf(layer));
  const b = f32x4.splat(alphaOf(below));
  const one = f32x4.splat(1);
  const overBelow = f32x4.mul(below, f32x4.sub(one, a));
  const overLayer = f32x4.mul(layer, f32x4.sub(one, b));
  if (mode == MeetMode.OVER) return f32x4.add(layer, overBelow);
  if (mode == MeetMode.UNDER) return f32x4.add(below, overLayer);
  if (mode == MeetMode.ATOP) return f32x4.add(f32x4.mul(layer, b), overBelow);
  if (mode == MeetMode.KEEP) return f32x4.mul(below, a);
  if (mode == MeetMode.CUT) return overBelow;
  const covered = alphaOf(f32x4.add(layer, overBelow));
  if (mode == MeetMode.ADD) {
    const sum = f32x4.add(layer, below);
    return withAlpha(sum, min<f32>(1, alphaOf(sum)));
  }

  // above 1 a screen would darken, so that factor ends at 0
  const held = f32x4.pmin(f32x4.pmax(layer, nothing()), one);
  let out = f32x4.add(layer, f32x4.mul(below, f32x4.sub(one, held)));
  if (mode == MeetMode.MULTIPLY) out = f32x4.add(f32x4.mul(layer, below), f32x4.add(overLayer, overBelow));
  else if (mode == MeetMode.LIGHTEN)
    out = f32x4.add(f32x4.max(f32x4.mul(layer, b), f32x4.mul(below, a)), f32x4.add(overLayer, overBelow));
  else if (mode == MeetMode.DIFFERENCE)
    out = f32x4.sub(
      f32x4.add(layer, below),
      f32x4.mul(f32x4.splat(2), f32x4.min(f32x4.mul(layer, b), f32x4.mul(below, a))),
    );
  return withAlpha(out, covered);
}

/** The layer at its part, and a mode's pixel between what was below and what becomes of it all. */
// @ts-ignore: decorator
@inline
function blended(mode: i32, layer: v128, below: v128, part: f32): v128 {
  // a matte acts by its part; all else is as if less of the layer were there
  if (mode < MeetMode.ATOP) return met(mode, f32x4.mul(layer, f32x4.splat(part)), below);
  const whole = met(mode, layer, below);
  return f32x4.add(below, f32x4.mul(f32x4.splat(part), f32x4.sub(whole, below)));
}

/** Pixels first..end of a layer by a mode that is known when this is compiled. */
// @ts-ignore: decorator
@inline
function meetAll(
  mode: i32,
  below: usize,
  layer: usize,
  mask: usize,
  opacity: f32,
  first: i32,
  end: i32,
): void {
  for (let n = first; n < end; n++) {
    const own = v128.load(pixelAt(layer, n));
    // only a matte acts where nothing of it is
    if (mode < MeetMode.ATOP && !v128.any_true(own)) continue;
    const at = pixelAt(below, n);
    const part = mask ? opacity * load<f32>(valueAt(mask, n)) : opacity;
    v128.store(at, blended(mode, own, v128.load(at), part));
  }
}

/** Rows k0..k1 of a layer meet what is below them, which becomes both. */
export function meetPixels(
  below: usize,
  layer: usize,
  mask: usize,
  opacity: f32,
  mode: i32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const first = k0 * width;
  const end = k1 * width;
  if (mode == MeetMode.OVER) meetAll(MeetMode.OVER, below, layer, mask, opacity, first, end);
  else if (mode == MeetMode.SCREEN) meetAll(MeetMode.SCREEN, below, layer, mask, opacity, first, end);
  else if (mode == MeetMode.ADD) meetAll(MeetMode.ADD, below, layer, mask, opacity, first, end);
  else meetAll(mode, below, layer, mask, opacity, first, end);
}
