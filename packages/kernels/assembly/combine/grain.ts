// Grain, and taking it out.
import { named, unit } from '../lanes';
import { alphaOf, luminanceOf, masked, pixelAt, valueAt, withAlpha } from './pixel';

/** A number about 0 with a deviation of 1, near to a bell: four even ones. */
// @ts-ignore: decorator
@inline
function bell(x: i32, y: i32, which: u32): f32 {
  const word = named(<u32>x, <u32>y, which);
  const other = named(<u32>x, <u32>y, which ^ 0x5bd1e995);
  const sum = unit(word << 16) + unit(word & 0xffff0000) + unit(other << 16) + unit(other & 0xffff0000);
  return (sum - 2) * <f32>1.7320508;
}

/** Even bells of three colours for each pixel, the same for the same seed. */
export function grainPixels(to: usize, seed: i32, width: i32, k0: i32, k1: i32): void {
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < width; x++) {
      const at = pixelAt(to, y * width + x);
      for (let c = 0; c < 3; c++) store<f32>(at + ((<usize>c) << 2), bell(x, y, <u32>(seed * 4 + c)));
      store<f32>(at, 0, 12);
    }
}

/**
 * Grain onto a picture: as much of it in the dark as `dark` says, all of it at a light of 1 and more, by the
 * square root of light between; only where something is.
 * @param grain what grainPixels gives, softened or not
 */
export function addGrain(
  picture: usize,
  grain: usize,
  mask: usize,
  red: f32,
  green: f32,
  blue: f32,
  dark: f32,
  width: i32,
  k0: i32,
  k1: i32,
): void {
  const amounts = withAlpha(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(red), 1, green), 2, blue), 0);
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    const was = v128.load(at);
    const light = max<f32>(0, min<f32>(1, luminanceOf(was)));
    const part = (dark + (1 - dark) * sqrt<f32>(light)) * alphaOf(was);
    const own = f32x4.mul(f32x4.mul(v128.load(pixelAt(grain, n)), amounts), f32x4.splat(part));
    v128.store(at, masked(was, f32x4.add(was, own), mask, n));
  }
}

/**
 * Noise taken out where pixels are alike: the mean of those about each pixel, each counted by how little it
 * differs (Tomasi & Manduchi 1998; weights after Tukey, as in Black et al. 1998).
 * @param alike difference of colour from which on a pixel does not count
 */
export function quietPixels(
  from: usize,
  to: usize,
  mask: usize,
  alike: f32,
  radius: i32,
  width: i32,
  height: i32,
  k0: i32,
  k1: i32,
): void {
  const inverse: f32 = 1 / (alike * alike);
  for (let y = k0; y < k1; y++)
    for (let x = 0; x < width; x++) {
      const n = y * width + x;
      const own = v128.load(pixelAt(from, n));
      let sum = f32x4.splat(0);
      let weights: f32 = 0;
      for (let j = max(0, y - radius); j <= min(height - 1, y + radius); j++)
        for (let i = max(0, x - radius); i <= min(width - 1, x + radius); i++) {
          const other = v128.load(pixelAt(from, j * width + i));
          const off = f32x4.sub(other, own);
          const square = f32x4.mul(off, off);
          const far =
            f32x4.extract_lane(square, 0) + f32x4.extract_lane(square, 1) + f32x4.extract_lane(square, 2);
          const part = max<f32>(0, 1 - far * inverse);
          const weight = part * part;
          sum = f32x4.add(sum, f32x4.mul(other, f32x4.splat(weight)));
          weights += weight;
        }

      v128.store(pixelAt(to, n), masked(own, f32x4.div(sum, f32x4.splat(weights)), mask, n));
    }
}

/** What a mask lets through of a picture that was made anew: the one that was, and the one that becomes. */
export function mixPixels(picture: usize, becomes: usize, mask: usize, width: i32, k0: i32, k1: i32): void {
  for (let n = k0 * width; n < k1 * width; n++) {
    const at = pixelAt(picture, n);
    const part = f32x4.splat(load<f32>(valueAt(mask, n)));
    const was = v128.load(at);
    v128.store(at, f32x4.add(was, f32x4.mul(part, f32x4.sub(v128.load(pixelAt(becomes, n)), was))));
  }
}
