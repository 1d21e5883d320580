// Layers merged by how far away they are: surfaces, and media that reach from one depth to another. What lies
// at the same depth is mixed by how much of it a ray meets (Kainz 2013, “Interpreting OpenEXR Deep Pixels”).
import { takeRoom } from '../rooms';
import { alphaOf, leaveRoom, nothing, pixelAt, roomAt, valueAt, withAlpha } from './pixel';

/** What of a layer is merged. */
@unmanaged
export class MergedLayer {
  /** The layer, graded, where it stands. */
  picture: usize;
  /** Where it counts; 0: everywhere. */
  mask: usize;
  opacity: f32;
  /** A picture whose red is m; 0 and less: infinitely far. No picture: so is all of it. */
  depth: usize;
  /** Of a deep one the first sample of each pixel, and one past the last; 0: it is flat. */
  starts: usize;
  /** Samples as fragments, each as if nothing stood before it. */
  samples: usize;
  /** Of the deep picture. */
  width: i32;
  height: i32;
  /** Nine doubles, row by row: from a place here to one of the deep picture, in pixels from its corner. */
  back: usize;
}

/** A part of a ray: premultiplied red, green, blue and alpha, and where it begins and ends, m. */
export enum Fragment {
  NEAR = 16,
  FAR = 20,
  BYTES = 24,
}

export enum MergeRoom {
  /** Bytes before the fragments: where each layer's go on, and where they end; for sixteen layers. */
  HEAD = 128,
}

const INFINITE: f32 = 1e30;
const LITTLE: f32 = 1e-9;
const ROUNDED: f32 = 1e-5;

// @ts-ignore: decorator
@inline
function near(fragment: usize): f32 {
  return load<f32>(fragment, Fragment.NEAR);
}

// @ts-ignore: decorator
@inline
function far(fragment: usize): f32 {
  return load<f32>(fragment, Fragment.FAR);
}

// @ts-ignore: decorator
@inline
function put(fragment: usize, pixel: v128, from: f32, to: f32): void {
  v128.store(fragment, pixel);
  store<f32>(fragment, from, Fragment.NEAR);
  store<f32>(fragment, to, Fragment.FAR);
}

/** The pixel of a deep picture at a place here, or one beside it that has samples; −1: there is none. */
function deepPixel(layer: MergedLayer, x: i32, y: i32): i32 {
  const px: f64 = <f64>x + 0.5;
  const py: f64 = <f64>y + 0.5;
  const w = load<f64>(layer.back, 48) * px + load<f64>(layer.back, 56) * py + load<f64>(layer.back, 64);
  if (w <= LITTLE) return -1;
  const u = floor<f64>(
    (load<f64>(layer.back) * px + load<f64>(layer.back, 8) * py + load<f64>(layer.back, 16)) / w,
  );
  const v = floor<f64>(
    (load<f64>(layer.back, 24) * px + load<f64>(layer.back, 32) * py + load<f64>(layer.back, 40)) / w,
  );
  if (!(u >= -1 && v >= -1 && u <= <f64>layer.width && v <= <f64>layer.height)) return -1;
  // the middle of three rows of three comes first: filtering reaches a pixel further than samples do
  for (let n = 0; n < 9; n++) {
    const k = (n + 4) % 9;
    const i = <i32>u + (k % 3) - 1;
    const j = <i32>v + k / 3 - 1;
    if (i < 0 || j < 0 || i >= layer.width || j >= layer.height) continue;
    const p = j * layer.width + i;
    const at = layer.starts + ((<usize>p) << 2);
    if (load<u32>(at, 4) > load<u32>(at)) return p;
  }

  return -1;
}

/**
 * A layer's pixel, parted by depth as its samples are; how much it is altogether its own pixel says.
 * @returns how many fragments; 0: its samples hide nothing
 */
function partByDepth(layer: MergedLayer, pixel: v128, p: i32, to: usize, most: i32): i32 {
  const at = layer.starts + ((<usize>p) << 2);
  const first = layer.samples + <usize>load<u32>(at) * Fragment.BYTES;
  const end = layer.samples + <usize>load<u32>(at, 4) * Fragment.BYTES;
  let all = nothing();
  let left: f32 = 1;
  for (let f = first; f < end; f += Fragment.BYTES) {
    const own = v128.load(f);
    all = f32x4.add(all, f32x4.mul(own, f32x4.splat(left)));
    left *= 1 - alphaOf(own);
  }

  const covered = alphaOf(all);
  if (covered <= LITTLE) return 0;
  const isSome = f32x4.gt(f32x4.abs(all), f32x4.splat(LITTLE));
  let scale = v128.and(f32x4.div(pixel, all), isSome);
  let covers: f32 = alphaOf(scale);
  // as much as numbers are rounded is no grading
  if (abs<f32>(covers - 1) < ROUNDED) covers = <f32>1;
  scale = withAlpha(scale, covers);
  // a colour that the samples do not have lies where they hide
  const spread = v128.andnot(f32x4.mul(pixel, f32x4.splat(1 / covered)), isSome);
  left = 1;
  let count = 0;
  for (let f = first; f < end; f += Fragment.BYTES) {
    const own = v128.load(f);
    const part = f32x4.mul(own, f32x4.splat(left));
    const gives = f32x4.add(f32x4.mul(part, scale), f32x4.mul(spread, f32x4.splat(alphaOf(part))));
    const free: f32 = 1 - covers + covers * left;
    if (free <= LITTLE) break;
    left *= 1 - alphaOf(own);
    // the last one that has room stands for all behind it
    const fragment = to + <usize>min(count, most - 1) * Fragment.BYTES;
    const fragmentPixel = f32x4.div(gives, f32x4.splat(free));
    if (count < most) put(fragment, fragmentPixel, near(f), max<f32>(near(f), far(f)));
    else {
      const over = v128.load(fragment);
      const behind = f32x4.mul(fragmentPixel, f32x4.splat(1 - alphaOf(over)));
      v128.store(fragment, f32x4.add(over, behind));
    }

    count++;
  }

  return min(count, most);
}

/** Puts the fragments of a layer's pixel in their place. @returns how many there are */
function fragmentsOf(layer: MergedLayer, n: i32, x: i32, y: i32, to: usize, most: i32): i32 {
  const part = layer.mask ? layer.opacity * load<f32>(valueAt(layer.mask, n)) : layer.opacity;
  const pixel = f32x4.mul(v128.load(pixelAt(layer.picture, n)), f32x4.splat(part));
  if (!v128.any_true(pixel)) return 0;
  if (layer.samples) {
    const p = deepPixel(layer, x, y);
    const count = p < 0 ? 0 : partByDepth(layer, pixel, p, to, most);
    if (count > 0) return count;
  }

  const own = layer.depth ? load<f32>(pixelAt(layer.depth, n)) : 0;
  const depth = own > 0 ? own : INFINITE;
  put(to, pixel, depth, depth);
  return 1;
}

/** What has been met of a ray, from its near end. */
let met: v128 = f32x4.splat(0);
let through: f32 = 1;

// @ts-ignore: decorator
@inline
function goesOn(room: usize, s: i32): usize {
  return <usize>load<u32>(room + ((<usize>s) << 3));
}

// @ts-ignore: decorator
@inline
function goOn(room: usize, s: i32, at: usize): void {
  store<u32>(room + ((<usize>s) << 3), <u32>at);
}

// @ts-ignore: decorator
@inline
function endOf(room: usize, s: i32): usize {
  return <usize>load<u32>(room + ((<usize>s) << 3), 4);
}

/** Surfaces at a depth, the topmost layer's first. @returns whether there was one */
function meetSurfaces(room: usize, count: i32, depth: f32): boolean {
  let isMet = false;
  for (let s = 0; s < count; s++) {
    const f = goesOn(room, s);
    if (f >= endOf(room, s) || near(f) > depth || far(f) > depth) continue;
    const own = v128.load(f);
    met = f32x4.add(met, f32x4.mul(own, f32x4.splat(through)));
    through *= 1 - alphaOf(own);
    goOn(room, s, f + Fragment.BYTES);
    isMet = true;
  }

  return isMet;
}

/** What reaches over a depth, up to where something begins or ends. */
function meetMedia(room: usize, count: i32, depth: f32): void {
  let until = INFINITE;
  for (let s = 0; s < count; s++) {
    const f = goesOn(room, s);
    if (f < endOf(room, s)) until = min<f32>(until, near(f) <= depth ? far(f) : near(f));
  }

  let sum = nothing();
  let thickness: f32 = 0;
  // what is opaque hides all from where it begins
  let opaque = nothing();
  let opaques: i32 = 0;
  for (let s = 0; s < count; s++) {
    const f = goesOn(room, s);
    if (f >= endOf(room, s) || near(f) > depth) continue;
    const own = v128.load(f);
    const alpha = alphaOf(own);
    if (alpha >= 1) {
      opaque = f32x4.add(opaque, own);
      opaques++;
      continue;
    }

    const isLast = far(f) <= until;
    const share = isLast ? <f32>1 : (until - depth) / (far(f) - depth);
    const whole: f32 = -Mathf.log1p(-alpha);
    // colour for each part of the thickness
    sum = f32x4.add(sum, f32x4.mul(own, f32x4.splat(alpha > LITTLE ? (whole * share) / alpha : share)));
    thickness += whole * share;
    if (isLast) {
      goOn(room, s, f + Fragment.BYTES);
      continue;
    }

    const rest: f32 = -Mathf.expm1(-whole * (1 - share));
    const scale: f32 = alpha > LITTLE ? rest / alpha : 1 - share;
    put(f, f32x4.mul(own, f32x4.splat(scale)), until, far(f));
  }

  if (opaques > 0) {
    met = f32x4.add(met, f32x4.mul(opaque, f32x4.splat(through / <f32>opaques)));
    through = 0;
    return;
  }

  const hides: f32 = -Mathf.expm1(-thickness);
  const gives: f32 = thickness > LITTLE ? hides / thickness : 1;
  met = f32x4.add(met, withAlpha(f32x4.mul(sum, f32x4.splat(gives * through)), hides * through));
  through *= 1 - hides;
}

/**
 * Rows k0..k1 of layers merged by depth.
 * @param layers as MergedLayer, the topmost first, `count` of them, sixteen at most
 * @param to,toDepth what becomes of them, and how far away its first surface is (red, m; 0: infinitely far);
 * they may be those of a layer
 * @param roomBytes of memory that a worker has for itself
 */
export function mergeByDepth(
  layers: usize,
  count: i32,
  to: usize,
  toDepth: usize,
  rooms: usize,
  roomBytes: i32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const taken = takeRoom(rooms);
  const room = roomAt(rooms, roomBytes, taken);
  const most = (roomBytes - MergeRoom.HEAD) / (Fragment.BYTES * count);
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < width; x++) {
      const n = y * width + x;
      for (let s = 0; s < count; s++) {
        const layer = changetype<MergedLayer>(layers + <usize>s * offsetof<MergedLayer>());
        const from = room + MergeRoom.HEAD + <usize>(s * most) * Fragment.BYTES;
        const own = fragmentsOf(layer, n, x, y, from, most);
        goOn(room, s, from);
        store<u32>(room + ((<usize>s) << 3), <u32>(from + <usize>own * Fragment.BYTES), 4);
      }

      met = nothing();
      through = 1;
      let first: f32 = 0;
      for (;;) {
        let depth = INFINITE * 2;
        for (let s = 0; s < count; s++) {
          const f = goesOn(room, s);
          if (f < endOf(room, s)) depth = min<f32>(depth, near(f));
        }

        if (depth > INFINITE) break;
        if (!meetSurfaces(room, count, depth)) meetMedia(room, count, depth);
        if (first <= 0 && through < 1 && depth < INFINITE) first = depth;
        if (through <= 0) break;
      }

      v128.store(pixelAt(to, n), met);
      store<f32>(pixelAt(toDepth, n), first);
    }

  leaveRoom(rooms, taken);
}

/** How far away what lies over all is: its own depth, where something of it is. */
export function coverDepth(
  layer: usize,
  mask: usize,
  opacity: f32,
  depth: usize,
  toDepth: usize,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const part = mask ? opacity * load<f32>(valueAt(mask, n)) : opacity;
    const own = load<f32>(pixelAt(depth, n));
    if (own > 0 && part * alphaOf(v128.load(pixelAt(layer, n))) > 0) store<f32>(pixelAt(toDepth, n), own);
  }
}
