// Where something in a plate is, frame by frame, as it was tracked elsewhere: a CSV table or JSON. Pixels go
// right and down from the upper left corner of the plate.
import Papa from 'papaparse';
import { FileError } from '../bytes';

type Pair = readonly [number, number];

/** What was tracked at a frame: a place with size and turn, or four corners. */
export interface TrackRow {
  readonly frame: number;
  readonly x: number;
  readonly y: number;
  /** Size, 1 where it is not told; and turn, degrees clockwise. */
  readonly scale: number;
  readonly turn: number;
  /** Upper left, upper right, lower right, lower left; null for a track of a point. */
  readonly corners: readonly [Pair, Pair, Pair, Pair] | null;
}

export interface Track {
  /** Of the plate that it is of; null where the file does not tell. */
  readonly size: Pair | null;
  /** Rising by frame. */
  readonly rows: readonly TrackRow[];
}

const CORNERS = ['x1', 'y1', 'x2', 'y2', 'x3', 'y3', 'x4', 'y4'] as const;
const MOST_ROWS = 100_000;
const FAR_PX = 1e6;

/** The names that columns may have for a value. */
const NAMES: Readonly<Record<string, readonly string[]>> = {
  scale: ['scale', 'size'],
  turn: ['rotation', 'turn', 'angle'],
  width: ['width'],
  height: ['height'],
};

/** Whether a table's columns are those of a track, and not of particles or of a camera. */
export function isTrackHead(names: readonly string[]): boolean {
  const lower = names.map((n) => n.trim().toLowerCase());
  const has = (list: readonly string[]): boolean => list.every((n) => lower.includes(n));
  return has(['frame']) && !lower.includes('z') && (has(['x', 'y']) || has(CORNERS));
}

/** @throws FileError naming the row */
export function readTrack(bytes: Uint8Array): Track {
  const text = new TextDecoder().decode(bytes).replace(/^\uFEFF/, '');
  return checked(/^\s*[[{]/.test(text) ? fromJson(text) : fromCsv(text));
}

/** A row's values by name; undefined where it has none of that name. */
type Values = (name: string) => number | undefined;

function rowOf(at: Values, what: string): TrackRow {
  const need = (name: string): number => {
    const v = at(name);
    if (v === undefined) throw new FileError(`${what}: ${name} is missing.`);
    return v;
  };

  const frame = need('frame');
  const scale = at('scale') ?? 1;
  const turn = at('turn') ?? 0;
  if (scale <= 0) throw new FileError(`${what}: its scale must be above 0.`);
  if (at('x1') === undefined) return { frame, x: need('x'), y: need('y'), scale, turn, corners: null };
  const values = CORNERS.map(need);
  const corners = [0, 1, 2, 3].map((n): Pair => [values[2 * n], values[2 * n + 1]]);
  const middle = (a: 0 | 1): number => corners.reduce((sum, p) => sum + p[a], 0) / 4;
  return {
    frame,
    x: middle(0),
    y: middle(1),
    scale,
    turn,
    corners: corners as unknown as TrackRow['corners'],
  };
}

function fromCsv(text: string): Track {
  const { data, errors } = Papa.parse<string[]>(text, { comments: '#', skipEmptyLines: true });
  if (errors.some((e) => e.type === 'Quotes')) throw new FileError('Its quotes do not close.');
  const head = (data[0] ?? []).map((n) => n.trim().toLowerCase());
  if (!isTrackHead(head))
    throw new FileError(
      'Its first row must name the columns: frame, x, y, and where they are known scale and rotation; or ' +
        'frame, x1, y1 to x4, y4.',
    );
  if (data.length - 1 > MOST_ROWS) throw new FileError(`It has more than ${MOST_ROWS} rows.`);
  const columnOf = (name: string): number =>
    (NAMES[name] ?? [name]).map((n) => head.indexOf(n)).find((c) => c >= 0) ?? -1;
  const valuesOf = (row: readonly string[], n: number): Values => {
    if (row.length !== head.length)
      throw new FileError(`Row ${n + 2} has ${row.length} values; the head names ${head.length}.`);
    return (name) => {
      const c = columnOf(name);
      if (c < 0) return undefined;
      const value = row[c].trim() === '' ? NaN : Number(row[c]);
      if (!Number.isFinite(value)) throw new FileError(`Row ${n + 2}: ${head[c]} is no number.`);
      return value;
    };
  };

  const all = data.slice(1).map(valuesOf);
  const size = all[0] && [all[0]('width'), all[0]('height')];
  return {
    size: size && size[0] !== undefined && size[1] !== undefined ? [size[0], size[1]] : null,
    rows: all.map((at, n) => rowOf(at, `Row ${n + 2}`)),
  };
}

function fromJson(text: string): Track {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    throw new FileError(`It is no JSON that can be read: ${(error as Error).message}.`);
  }

  const bag = (Array.isArray(data) ? { frames: data } : data) as Record<string, unknown>;
  const list = bag.frames;
  if (!Array.isArray(list)) throw new FileError('It must hold a list called frames.');
  if (list.length > MOST_ROWS) throw new FileError(`It has more than ${MOST_ROWS} frames.`);
  const number = (v: unknown, what: string): number | undefined => {
    if (v === undefined || v === null) return undefined;
    if (typeof v !== 'number' || !Number.isFinite(v)) throw new FileError(`${what} is no number.`);
    return v;
  };

  const width = number(bag.width, 'width');
  const height = number(bag.height, 'height');
  return {
    size: width !== undefined && height !== undefined ? [width, height] : null,
    rows: list.map((one: unknown, n) => {
      if (one === null || typeof one !== 'object')
        throw new FileError(`Frame ${n + 1} of its list is no object.`);
      const own = one as Record<string, unknown>;
      const corners = own.corners as unknown[] | undefined;
      const isFour =
        Array.isArray(corners) &&
        corners.length === 4 &&
        corners.every((p) => Array.isArray(p) && p.length === 2);
      if (corners !== undefined && !isFour)
        throw new FileError(`Frame ${n + 1} of its list: corners must be four pairs.`);
      return rowOf(
        (name) => {
          const corner = CORNERS.indexOf(name as (typeof CORNERS)[number]);
          const value =
            isFour && corner >= 0
              ? (corners as unknown[][])[Math.floor(corner / 2)][corner % 2]
              : (NAMES[name] ?? [name]).map((key) => own[key]).find((v) => v !== undefined);
          return number(value, `Frame ${n + 1} of its list: ${name}`);
        },
        `Frame ${n + 1} of its list`,
      );
    }),
  };
}

function checked(track: Track): Track {
  const { rows } = track;
  if (rows.length === 0) throw new FileError('It holds no frame.');
  rows.forEach((row, n) => {
    if (n > 0 && row.frame <= rows[n - 1].frame)
      throw new FileError(`Frame ${row.frame} comes after ${rows[n - 1].frame}: frames must rise.`);
    const far = [row.x, row.y, row.scale, row.turn, ...(row.corners?.flat() ?? [])];
    if (far.some((v) => Math.abs(v) > FAR_PX))
      throw new FileError(`Frame ${row.frame} is absurdly far away.`);
    if ((row.corners === null) !== (rows[0].corners === null))
      throw new FileError(`Frame ${row.frame} is of another kind than the first one.`);
  });
  return track;
}

/** Frames between its first and last for which a track has no row. */
export function gapsOf({ rows }: Track): number {
  const span = rows[rows.length - 1].frame - rows[0].frame + 1;
  return Math.max(0, Math.round(span) - rows.length);
}

/** A track at a frame: between two rows straight on, beyond its ends as it is there. */
export function trackAt({ rows }: Track, frame: number): TrackRow {
  const after = rows.findIndex((r) => r.frame >= frame);
  if (after === 0) return rows[0];
  if (after < 0) return rows[rows.length - 1];
  const [a, b] = [rows[after - 1], rows[after]];
  const t = (frame - a.frame) / (b.frame - a.frame);
  const mix = (p: number, q: number): number => p + t * (q - p);
  return {
    frame,
    x: mix(a.x, b.x),
    y: mix(a.y, b.y),
    scale: mix(a.scale, b.scale),
    turn: mix(a.turn, b.turn),
    corners:
      a.corners && b.corners
        ? (a.corners.map((p, n): Pair => [
            mix(p[0], b.corners![n][0]),
            mix(p[1], b.corners![n][1]),
          ]) as unknown as TrackRow['corners'])
        : null,
  };
}
