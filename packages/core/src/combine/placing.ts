// Where a layer stands in the frame: maps of places as 3 × 3 matrices, row by row, in pixels right and down.
import { trackAt, type Track, type TrackRow } from '../files/track/track';
import type { Combine, CompLayer } from './combine';

export type Matrix = readonly [number, number, number, number, number, number, number, number, number];

export const times = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 9 }, (_, n) => {
    const [r, c] = [Math.floor(n / 3), n % 3];
    return a[3 * r] * b[c] + a[3 * r + 1] * b[3 + c] + a[3 * r + 2] * b[6 + c];
  }) as unknown as Matrix;

export const moved = (x: number, y: number): Matrix => [1, 0, x, 0, 1, y, 0, 0, 1];
export const scaled = (x: number, y: number): Matrix => [x, 0, 0, 0, y, 0, 0, 0, 1];

/** @param degrees clockwise */
export function turned(degrees: number): Matrix {
  const a = (degrees * Math.PI) / 180;
  const [c, s] = [Math.cos(a), Math.sin(a)];
  return [c, -s, 0, s, c, 0, 0, 0, 1];
}

/** @returns null where the map folds everything onto a line */
export function inverted(m: Matrix): Matrix | null {
  const cofactor = (a: number, b: number, c: number, d: number): number => m[a] * m[d] - m[b] * m[c];
  const det = m[0] * cofactor(4, 5, 7, 8) - m[1] * cofactor(3, 5, 6, 8) + m[2] * cofactor(3, 4, 6, 7);
  if (Math.abs(det) < 1e-12) return null;
  return [
    cofactor(4, 5, 7, 8),
    -cofactor(1, 2, 7, 8),
    cofactor(1, 2, 4, 5),
    -cofactor(3, 5, 6, 8),
    cofactor(0, 2, 6, 8),
    -cofactor(0, 2, 3, 5),
    cofactor(3, 4, 6, 7),
    -cofactor(0, 1, 6, 7),
    cofactor(0, 1, 3, 4),
  ].map((v) => v / det) as unknown as Matrix;
}

export function mapped(m: Matrix, [x, y]: readonly [number, number]): [number, number] {
  const w = m[6] * x + m[7] * y + m[8];
  return [(m[0] * x + m[1] * y + m[2]) / w, (m[3] * x + m[4] * y + m[5]) / w];
}

/** The map that brings the corners of a unit square to four places (Heckbert 1989). */
function ontoCorners([a, b, c, d]: NonNullable<TrackRow['corners']>): Matrix {
  const [dx1, dy1] = [b[0] - c[0], b[1] - c[1]];
  const [dx2, dy2] = [d[0] - c[0], d[1] - c[1]];
  const [sx, sy] = [a[0] - b[0] + c[0] - d[0], a[1] - b[1] + c[1] - d[1]];
  const det = dx1 * dy2 - dx2 * dy1;
  const g = det === 0 ? 0 : (sx * dy2 - dx2 * sy) / det;
  const h = det === 0 ? 0 : (dx1 * sy - sx * dy1) / det;
  return [
    b[0] - a[0] + g * b[0],
    d[0] - a[0] + h * d[0],
    a[0],
    b[1] - a[1] + g * b[1],
    d[1] - a[1] + h * d[1],
    a[1],
    g,
    h,
    1,
  ];
}

const poseOf = ({ x, y, turn, scale }: TrackRow): Matrix =>
  times(moved(x, y), times(turned(turn), scaled(scale, scale)));

interface Binding {
  readonly how: 'free' | 'follows' | 'steadied' | 'pinned';
  readonly frame: number;
}

/**
 * What a track does to places of the frame: how far what was tracked has gone since the frame it is placed
 * at.
 */
export function bindingAt(comp: Combine, bind: Binding, track: Track | null, frame: number): Matrix {
  if (bind.how === 'free' || bind.how === 'pinned' || !track) return scaled(1, 1);
  const toFrame = frameOfTrack(comp, track);
  const begin = trackAt(track, bind.frame === 0 ? track.rows[0].frame : bind.frame);
  const back = inverted(times(toFrame, poseOf(begin)))!;
  const way = times(times(toFrame, poseOf(trackAt(track, frame))), back);
  return bind.how === 'follows' ? way : inverted(way)!;
}

/** A plate's pixels as those of the frame. */
const frameOfTrack = ({ frame: { width, height } }: Combine, { size }: Track): Matrix =>
  size ? scaled(width / size[0], height / size[1]) : scaled(1, 1);

/**
 * Where a layer's picture stands in the frame.
 * @param layer as it is at the frame
 * @param picture its size, and the width of its pixels over their height
 */
export function placeOf(
  comp: Combine,
  layer: CompLayer,
  picture: { readonly width: number; readonly height: number; readonly pixelAspect: number },
  track: Track | null,
  frame: number,
): Matrix {
  const { place, bind } = layer;
  const { width, height, squeeze } = comp.frame;
  const { width: w, height: h } = picture;
  if (bind.how === 'pinned' && track) {
    const { corners } = trackAt(track, frame);
    if (corners) return times(frameOfTrack(comp, track), times(ontoCorners(corners), scaled(1 / w, 1 / h)));
  }

  const aspect = picture.pixelAspect / squeeze;
  const [across, down] = [width / (w * aspect), height / h];
  const both = { fill: Math.max(across, down), fit: Math.min(across, down), own: 1, stretch: 1 }[place.fit];
  const size = place.fit === 'stretch' ? scaled(width / w, height / h) : scaled(both * aspect, both);
  const [ax, ay] = [place.anchorX, place.anchorY];
  const scale = place.scale / 100;
  // turns and sizes are those that are seen: a pixel may be wider than it is high
  const round = times(
    scaled(1 / squeeze, 1),
    times(times(turned(place.turn), scaled(scale, scale)), scaled(squeeze, 1)),
  );
  const own = times(times(moved(ax, ay), round), moved(-ax, -ay));
  const about = times(moved(width / 2 + place.x, height / 2 + place.y), own);
  const stands = times(about, times(size, moved(-w / 2, -h / 2)));
  return times(bindingAt(comp, bind, track, frame), stands);
}

/** The four corners of a layer's picture in the frame, the upper left one first, clockwise. */
export function cornersOf(
  comp: Combine,
  layer: CompLayer,
  picture: { readonly width: number; readonly height: number; readonly pixelAspect: number },
  track: Track | null,
  frame: number,
): [number, number][] {
  const place = placeOf(comp, layer, picture, track, frame);
  const { width, height } = picture;
  const corners: [number, number][] = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  return corners.map((p) => mapped(place, p));
}

/** Whether a layer's picture reaches into the frame at all. */
export function isInFrame(...of: Parameters<typeof cornersOf>): boolean {
  const { width, height } = of[0].frame;
  const corners = cornersOf(...of);
  const isOut = (a: 0 | 1, most: number): boolean =>
    corners.every((p) => p[a] <= 0) || corners.every((p) => p[a] >= most);
  return !isOut(0, width) && !isOut(1, height);
}
