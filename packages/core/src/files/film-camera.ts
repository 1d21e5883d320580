// A camera that was tracked or animated elsewhere.
import { FileError } from './bytes';
import { norm } from '../math/exact';
import type { Triple } from '../math/vector';

export interface FilmView {
  readonly eye: Triple;
  /** Unit vectors: what it looks along, and what is up in its picture. */
  readonly ahead: Triple;
  readonly up: Triple;
  readonly lens: FilmLens | null;
}

/**
 * The angle of the picture's height in radians, or the lens and its film in mm; null where the file tells
 * none.
 */
export type FilmLens = { readonly angle: number } | { readonly focal: number; readonly back: number };

export interface FilmCamera {
  readonly name: string;
  /** What its moments are counted in. */
  readonly unit: 'seconds' | 'frames';
  readonly first: number;
  readonly last: number;
  readonly at: (moment: number) => FilmView;
}

const SKEW = 0.02;

/**
 * @param ahead,up of any length
 * @throws FileError where they are no two directions square to one another
 */
export function viewOf(eye: Triple, ahead: Triple, up: Triple): Pick<FilmView, 'eye' | 'ahead' | 'up'> {
  const [a, b] = [ahead, up].map((v) => {
    const long = norm(v);
    return v.map((x) => x / long) as Triple;
  });
  const across = a.reduce((sum, v, n) => sum + v * b[n], 0);
  if (![...eye, ...a, ...b].every(Number.isFinite) || Math.abs(across) > SKEW)
    throw new FileError('Its camera is sheared or has no size, so that it looks in no direction.');
  return { eye, ahead: a, up: b };
}
