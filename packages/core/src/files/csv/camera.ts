// A camera as a table, a row a frame: its matrix, or where it stands and what it looks at, with its lens
// where that is known.
import Papa from 'papaparse';
import { cosine, lengthOf, norm, sine } from '../../math/exact';
import type { Triple } from '../../math/vector';
import { FileError } from '../bytes';
import { viewOf, type FilmCamera, type FilmView } from '../film-camera';

const MATRIX = Array.from({ length: 16 }, (_, n) => `m${Math.floor(n / 4)}${n % 4}`);
const PLACES = ['x', 'y', 'z', 'aimx', 'aimy', 'aimz'];
/** Width of the film where a table gives a focal length alone, mm. */
const FILM_MM = 36;

/**
 * Columns: frame, and m00 to m33 (row and column of the matrix from the camera, which looks along −z with y
 * up, to the world) or x, y, z, aimx, aimy, aimz; and where they are known roll (degrees), focal and back
 * (mm).
 * @throws FileError that names the row
 */
export function readCsvCamera(bytes: Uint8Array, name: string): FilmCamera {
  const text = new TextDecoder().decode(bytes).replace(/^\uFEFF/, '');
  const { data, errors } = Papa.parse<string[]>(text, { comments: '#', skipEmptyLines: true });
  if (errors.some((e) => e.type === 'Quotes')) throw new FileError('Its quotes do not close.');
  const head = (data[0] ?? []).map((n) => n.trim().toLowerCase());
  const has = (names: readonly string[]): boolean => names.every((n) => head.includes(n));
  if (!head.includes('frame') || (!has(MATRIX) && !has(PLACES)))
    throw new FileError(
      'Its first row must name the columns: frame, and m00 to m33 or x, y, z, aimx, aimy, aimz; roll, ' +
        'focal ' +
        'and back where they are known.',
    );
  const rows = data.slice(1).map((row, n) => {
    if (row.length !== head.length)
      throw new FileError(`Row ${n + 2} has ${row.length} values; the head names ${head.length}.`);
    return (column: string): number => {
      const value = Number(row[head.indexOf(column)].trim() || NaN);
      if (!Number.isFinite(value)) throw new FileError(`Row ${n + 2}: ${column} is no number.`);
      return value;
    };
  });
  if (rows.length === 0) throw new FileError('It names its columns, and holds no row.');
  const frames = rows.map((at) => at('frame'));
  const back = frames.findIndex((f, n) => n > 0 && f <= frames[n - 1]);
  if (back > 0) throw new FileError(`Row ${back + 2}: its frame must be later than the one before.`);
  const isMatrix = has(MATRIX);
  // a matrix for vectors that stand before it has its place in the last row
  const isTurned = isMatrix && rows.some((at) => at('m30') !== 0 || at('m31') !== 0 || at('m32') !== 0);
  const views = rows.map((at): FilmView => {
    const m = (row: number, column: number): number => at(isTurned ? `m${column}${row}` : `m${row}${column}`);
    const column = (c: number, sign: number): Triple => [0, 1, 2].map((r) => sign * m(r, c)) as Triple;
    const film = head.includes('back') ? at('back') : FILM_MM;
    const lens = head.includes('focal') ? { focal: at('focal'), back: film } : null;
    if (isMatrix) return { ...viewOf(column(3, 1), column(2, -1), column(1, 1)), lens };
    const eye: Triple = [at('x'), at('y'), at('z')];
    const aim: Triple = [at('aimx'), at('aimy'), at('aimz')];
    return { ...lookingAt(eye, aim, head.includes('roll') ? at('roll') : 0), lens };
  });
  return {
    name,
    unit: 'frames',
    first: frames[0],
    last: frames[frames.length - 1],
    // between two rows the nearer one counts
    at: (frame) => {
      let best = 0;
      frames.forEach((f, n) => {
        if (Math.abs(f - frame) < Math.abs(frames[best] - frame)) best = n;
      });
      return views[best];
    },
  };
}

function lookingAt(eye: Triple, aim: Triple, rollDegrees: number): ReturnType<typeof viewOf> {
  const ahead = aim.map((v, a) => v - eye[a]) as Triple;
  const level = lengthOf(ahead[0], ahead[2]);
  const long = norm(ahead);
  const up: Triple =
    level > 1e-6 * long
      ? [(-ahead[0] * ahead[1]) / level, level, (-ahead[2] * ahead[1]) / level]
      : [0, 0, -Math.sign(ahead[1])];
  const right: Triple = [
    ahead[1] * up[2] - ahead[2] * up[1],
    ahead[2] * up[0] - ahead[0] * up[2],
    ahead[0] * up[1] - ahead[1] * up[0],
  ];
  const [u, r] = [norm(up), norm(right)];
  const turn = (rollDegrees * Math.PI) / 180;
  return viewOf(eye, ahead, up.map((v, a) => (v / u) * cosine(turn) + (right[a] / r) * sine(turn)) as Triple);
}
