// Masks of a comp: outlines as they are at a frame, and what is taken from layers.
import { MaskJoin, MaskSource } from '@bramblemist/kernels/seam';
import type { OutlineShape } from '../recipe/settings';
import type { CompMask } from './combine';
import { mapped, moved, scaled, times, turned, type Matrix } from './placing';

type Place = readonly [number, number];

/** An outline at a frame: between two shapes corner by corner, beyond them as the nearer one. */
export function shapeAt(shapes: readonly OutlineShape[], frame: number): readonly Place[] {
  const after = shapes.findIndex((s) => s.frame >= frame);
  if (after === 0) return shapes[0].points;
  if (after < 0) return shapes[shapes.length - 1].points;
  const [a, b] = [shapes[after - 1], shapes[after]];
  const t = (frame - a.frame) / (b.frame - a.frame);
  return a.points.map(([x, y], n): Place => [x + t * (b.points[n][0] - x), y + t * (b.points[n][1] - y)]);
}

/** Straight pieces that a smooth line between two corners is made of. */
const PIECES = 12;

/** A closed line through all corners, smooth in each of them (Catmull & Rom 1974). */
export function smoothed(points: readonly Place[]): Place[] {
  const count = points.length;
  return points.flatMap((b, n) => {
    const [a, c, d] = [points[(n + count - 1) % count], points[(n + 1) % count], points[(n + 2) % count]];
    return Array.from({ length: PIECES }, (_, m): Place => {
      const t = m / PIECES;
      const one = (p: number, q: number, r: number, s: number): number =>
        0.5 * (2 * q + (r - p) * t + (2 * p - 5 * q + 4 * r - s) * t * t + (3 * q - p - 3 * r + s) * t ** 3);
      return [one(a[0], b[0], c[0], d[0]), one(a[1], b[1], c[1], d[1])];
    });
  });
}

/**
 * A drawn mask's line in the frame's pixels.
 * @param mask as it is at the frame
 * @param binding what its track does
 */
export function lineOf(
  { outline, smooth, place }: CompMask,
  frame: { readonly width: number; readonly height: number },
  at: number,
  binding: Matrix,
): Place[] {
  const shape = shapeAt(outline, at);
  const line = smooth === 'smooth' ? smoothed(shape) : shape;
  const scale = place.scale / 100;
  const stands = times(
    times(binding, moved(frame.width / 2 + place.x, frame.height / 2 + place.y)),
    times(turned(place.turn), scaled(scale, scale)),
  );
  return line.map((p) => mapped(stands, p));
}

export const MASK_SOURCES: Readonly<Record<CompMask['channel'], number>> = {
  alpha: MaskSource.ALPHA,
  luminance: MaskSource.LUMINANCE,
  red: MaskSource.RED,
  green: MaskSource.GREEN,
  blue: MaskSource.BLUE,
};

export const MASK_JOINS: Readonly<Record<CompMask['join'], number>> = {
  both: MaskJoin.BOTH,
  either: MaskJoin.EITHER,
  without: MaskJoin.WITHOUT,
};
