// A camera from elsewhere as one of a look: its settings, and keys of what moves.
import { CoreError } from '../base/error';
import type { FilmCamera, FilmView } from '../files/film-camera';
import type { Triple } from '../math/vector';
import type { KeyedCurve } from '../recipe/keys';
import { getAt, setAt } from '../recipe/paths';
import { FAR } from '../recipe/settings';
import { frameAbout, type CameraSettings, type Look } from './look';

const PATHS = ['eye.0', 'eye.1', 'eye.2', 'target.0', 'target.1', 'target.2', 'roll', 'focal'] as const;
/** Which differences are none. */
const STILL = 1e-6;
const tidy = (v: number): number => Number(v.toFixed(6));

export interface FilmTiming {
  readonly firstFrame: number;
  readonly lastFrame: number;
  readonly frameRate: number;
}

/**
 * @param scaleM metres to one unit of the file
 * @param id of the further camera that becomes it; without, the shot's own does
 * @throws CoreError where it stands too far away to be keyed
 */
export function withFilmCamera(
  look: Look,
  film: FilmCamera,
  { firstFrame, lastFrame, frameRate }: FilmTiming,
  scaleM: number,
  id?: string,
): Look {
  const at = id === undefined ? 'camera' : `cameras.${look.cameras.findIndex((c) => c.id === id)}`;
  const head = id === undefined ? 'camera' : `cameras/${id}`;
  const before = getAt(look, at) as CameraSettings;
  const momentOf = (frame: number): number =>
    film.unit === 'frames' ? frame : film.first + (frame - firstFrame) / frameRate;
  const all = Array.from({ length: lastFrame - firstFrame + 1 }, (_, n) => firstFrame + n);
  const inside = all.filter((f) => momentOf(f) >= film.first - 1e-9 && momentOf(f) <= film.last + 1e-9);
  if (inside.length === 0 && film.last > film.first)
    throw new CoreError(
      'asset',
      `${film.name} moves over frames ${film.first} to ${film.last}; the shot has ${firstFrame} to ` +
        `${lastFrame}.`,
    );
  const frames = inside.length > 0 ? inside : [firstFrame];
  const far = Math.hypot(...before.target.map((t, a) => t - before.eye[a]));
  let roll = 0;
  const values = frames.map((frame) => {
    const view = film.at(momentOf(frame));
    roll = nearest(rollOf(view), roll);
    const eye = view.eye.map((v) => v * scaleM);
    return [...eye, ...eye.map((v, a) => v + far * view.ahead[a]), roll, focalOf(view, before)].map(tidy);
  });
  if (values.some((row) => row.slice(0, 6).some((v) => Math.abs(v) > FAR)))
    throw new CoreError(
      'asset',
      `${film.name} stands more than ${FAR} m from the middle of the world. Is its unit right?`,
    );
  let next = look;
  const curves: KeyedCurve[] = [];
  PATHS.forEach((path, n) => {
    next = setAt(next, `${at}.${path}`, values[0][n]);
    if (values.every((row) => Math.abs(row[n] - values[0][n]) < STILL)) return;
    curves.push({
      id: `film-${id ?? 'shot'}-${path}`,
      path: `${head}/${path}`,
      after: 'hold',
      keys: frames.map((frame, f) => ({ frame, value: values[f][n], ease: 'even' })),
    });
  });
  const others = look.curves.filter(({ path }) => !PATHS.some((p) => path === `${head}/${p}`));
  return { ...next, curves: [...others, ...curves] };
}

/** How far its picture is turned, degrees. */
function rollOf({ ahead, up }: FilmView): number {
  const level = frameAbout(ahead);
  const along = (v: Triple): number => v.reduce((sum, x, a) => sum + x * up[a], 0);
  return (Math.atan2(along(level.right), along(level.up)) * 180) / Math.PI;
}

/** The same turn, nearest to the one before: keys from 179° to −179° would spin the picture round. */
const nearest = (degrees: number, before: number): number =>
  degrees + 360 * Math.round((before - degrees) / 360);

function focalOf({ lens }: FilmView, { back, focal, width, height, squeeze }: CameraSettings): number {
  if (!lens) return focal;
  const across =
    'angle' in lens ? (Math.tan(lens.angle / 2) * width * squeeze) / height : lens.back / 2 / lens.focal;
  return Math.min(600, Math.max(4, back / 2 / across));
}
