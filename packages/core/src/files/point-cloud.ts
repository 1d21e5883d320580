// Particles of a file at one frame, by the names of their columns.
import { FileError } from './bytes';

export interface PointCloud {
  readonly count: number;
  /** Three floats a particle, in the file's units. */
  readonly positions: Float32Array;
  /** Units a second; null where the file has none. */
  readonly velocities: Float32Array | null;
  readonly radii: Float32Array | null;
  /** Seconds. */
  readonly ages: Float32Array | null;
  /** Whole numbers that stay with a particle from frame to frame. */
  readonly ids: Float64Array | null;
}

/** The columns that are looked for; all others are passed over. */
export const COLUMNS: readonly string[] = ['x', 'y', 'z', 'vx', 'vy', 'vz', 'radius', 'age', 'id'];

/** @throws FileError where there is no place, or one that is no number */
export function madeCloud(
  names: readonly string[],
  columns: readonly ArrayLike<number>[],
  count: number,
): PointCloud {
  const column = (name: string): ArrayLike<number> | undefined =>
    columns[names.findIndex((n) => n.trim().toLowerCase() === name)];
  const three = (...wanted: string[]): Float32Array | null => {
    const from = wanted.map(column);
    if (from.some((c) => !c)) return null;
    const out = new Float32Array(3 * count);
    for (let n = 0; n < count; n++) for (let a = 0; a < 3; a++) out[3 * n + a] = from[a]![n];
    return out;
  };

  const positions = three('x', 'y', 'z');
  if (!positions) throw new FileError(`It has no columns x, y and z; it has ${names.join(', ') || 'none'}.`);
  const bad = positions.findIndex((v) => !Number.isFinite(v));
  if (bad >= 0)
    throw new FileError(`Particle ${Math.floor(bad / 3) + 1} is at no place (not a finite number).`);
  for (const name of ['vx', 'vy', 'vz', 'radius', 'age']) {
    const wrong = Array.prototype.findIndex.call(column(name) ?? [], (v: number) => !Number.isFinite(v));
    if (wrong >= 0) throw new FileError(`The ${name} of particle ${wrong + 1} is no finite number.`);
  }

  const radius = column('radius');
  const age = column('age');
  const id = column('id');
  return {
    count,
    positions,
    velocities: three('vx', 'vy', 'vz'),
    radii: radius ? singles(radius) : null,
    ages: age ? singles(age) : null,
    ids: id ? Float64Array.from(id) : null,
  };
}

const singles = (values: ArrayLike<number>): Float32Array =>
  values instanceof Float32Array ? values : Float32Array.from(values);
