// What kernels of pictures share. A picture is width × height pixels, top row first, each of four floats:
// red, green and blue in linear light, premultiplied, and alpha. A mask is one float a pixel. Kernels work on
// the rows k0 ≤ k < k1; a mask at address 0 lets everything through.

/** Address of the nth pixel. */
// @ts-ignore: decorator
@inline
export function pixelAt(picture: usize, n: i32): usize {
  return picture + ((<usize>n) << 4);
}

/** Address of the nth value of a mask. */
// @ts-ignore: decorator
@inline
export function valueAt(mask: usize, n: i32): usize {
  return mask + ((<usize>n) << 2);
}

/** A pixel as it was, and as it becomes where the mask lets it. */
// @ts-ignore: decorator
@inline
export function masked(was: v128, becomes: v128, mask: usize, n: i32): v128 {
  if (!mask) return becomes;
  const part = v128.load_splat<f32>(valueAt(mask, n));
  return f32x4.add(was, f32x4.mul(part, f32x4.sub(becomes, was)));
}

// @ts-ignore: decorator
@inline
export function alphaOf(pixel: v128): f32 {
  return f32x4.extract_lane(pixel, 3);
}

/** The same colour with another alpha, which the colour is not multiplied by. */
// @ts-ignore: decorator
@inline
export function withAlpha(pixel: v128, alpha: f32): v128 {
  return f32x4.replace_lane(pixel, 3, alpha);
}

/** How bright a colour is (Rec. 709). */
// @ts-ignore: decorator
@inline
export function luminanceOf(pixel: v128): f32 {
  return (
    <f32>0.2126 * f32x4.extract_lane(pixel, 0) +
    <f32>0.7152 * f32x4.extract_lane(pixel, 1) +
    <f32>0.0722 * f32x4.extract_lane(pixel, 2)
  );
}

// @ts-ignore: decorator
@inline
export function nothing(): v128 {
  return f32x4.splat(0);
}

/** Words that say which rooms are taken, before the first of them. */
export enum PixelRooms {
  HEAD = 256,
}

// @ts-ignore: decorator
@inline
export function roomAt(rooms: usize, bytes: i32, n: i32): usize {
  return rooms + PixelRooms.HEAD + <usize>n * <usize>bytes;
}

// @ts-ignore: decorator
@inline
export function leaveRoom(rooms: usize, n: i32): void {
  atomic.store<i32>(rooms + ((<usize>n) << 2), 0);
}
