// Blur as the mean of moments: of the shutter, and in quick pictures of places on the lens.
import type { Look } from './look';

export interface Moment {
  /** Frames after the frame's own moment. */
  readonly frames: number;
  /** Place on the lens, parts of its radius. */
  readonly lens: readonly [number, number];
  /** Place in the pixels, from their middles. */
  readonly pixel: readonly [number, number];
}

export const SHARP: Moment = { frames: 0, lens: [0, 0], pixel: [0, 0] };
/** Places in a pixel, none beside another along either axis. */
const WITHIN = [
  [-0.125, -0.375],
  [0.375, -0.125],
  [0.125, 0.375],
  [-0.375, 0.125],
] as const;
/** The golden angle, radians: discs are filled evenly by it (Vogel 1979). */
const GOLDEN = Math.PI * (3 - Math.sqrt(5));

/** The base-2 radical inverse (van der Corput 1935): any run of numbers spreads evenly over 0…1. */
export function radicalInverse(n: number): number {
  let inverse = 0;
  for (let bit = 0.5, rest = n; rest > 0; bit /= 2, rest = Math.floor(rest / 2)) inverse += bit * (rest % 2);
  return inverse;
}

/** Whether what moves is blurred at all. */
export const isShutterOpen = ({ camera }: Look): boolean => camera.moving === 'blurred' && camera.shutter > 0;

/** When a moment of the shutter is, frames after the frame's own. */
const timeOf = (part: number, { camera }: Look): number => ((part - 0.5) * camera.shutter) / 360;

/** How many moments of the shutter a true picture has, and which one a sample is of. */
export function momentsOf(look: Look): {
  readonly count: number;
  readonly of: (sample: number) => number;
  readonly time: (moment: number) => number;
} {
  const count = isShutterOpen(look) ? look.quality.moments : 1;
  return {
    count,
    of: (sample) => Math.floor(radicalInverse(sample) * count),
    time: (moment) => (count > 1 ? timeOf((moment + 0.5) / count, look) : 0),
  };
}

/**
 * The moments that a quick picture is the mean of: one where all is sharp.
 * @param isFine spread over each pixel too, as the samples of true pictures are
 */
export function quickMoments(look: Look, isFine = false): Moment[] {
  const moves = isShutterOpen(look);
  const isThin = look.camera.lens === 'thin';
  const count = moves || isThin ? look.quality.moments : 1;
  if (count === 1) return isFine ? WITHIN.map((pixel) => ({ ...SHARP, pixel })) : [SHARP];
  return Array.from({ length: count }, (_, n) => {
    const radius = isThin ? Math.sqrt((n + 0.5) / count) : 0;
    // in another order than places on the lens, lest both go together
    return {
      frames: moves ? timeOf((Math.floor(radicalInverse(n) * count) + 0.5) / count, look) : 0,
      lens: [radius * Math.cos(n * GOLDEN), radius * Math.sin(n * GOLDEN)],
      pixel: isFine ? WITHIN[n % WITHIN.length] : [0, 0],
    };
  });
}

/** Whether a picture is blurred by its shutter or its lens. */
export const isBlurred = (look: Look): boolean => isShutterOpen(look) || look.camera.lens === 'thin';
