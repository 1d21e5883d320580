// A look: how a volume is lit and seen. Plain, validated data like a recipe.
import { DocumentKind, type Fault } from '../recipe/document';
import { curveFaults, documentAt } from '../recipe/keys';
import type { Triple } from '../math/vector';
import type { DocumentOf } from '../recipe/settings';
import type { FilePart } from '../recipe/types';
import { blackBody } from './kelvin';
import { LOOK_PARTS } from './parts';

export type Look = { version: 2; name: string } & DocumentOf<typeof LOOK_PARTS>;
export type LightPart = Look['lights'][number];
export type SurfacePart = Look['surfaces'][number];
export type CameraSettings = Look['camera'];
export type MediumSettings = Omit<Look['medium'], 'shadow'>;
export type FurtherMedium = Look['media'][number];

/** Rules that concern two settings at once. */
function crossChecks(look: Look): Fault[] {
  const { camera, cameras, lights, surfaces } = look;
  const faults: Fault[] = curveFaults(LOOK_PARTS, look);
  const own = (one: CameraSettings, path: string): void => {
    if (one.eye.every((v, a) => v === one.target[a]))
      faults.push({ path: `${path}.target`, message: 'must differ from where the camera stands' });
    const { left, right, top, bottom } = one.crop;
    if (left + right >= 100 || top + bottom >= 100)
      faults.push({ path: `${path}.crop`, message: 'must leave some of the frame' });
  };

  own(camera, 'camera');
  cameras.forEach((one, n) => own(one, `cameras[${n}]`));
  surfaces.forEach(({ on, of }, n) => {
    if (on && of !== '' && surfaces.findIndex((s) => s.on && s.of === of) !== n)
      faults.push({ path: `surfaces[${n}].of`, message: 'two entries speak of the same obstacle' });
  });
  lights.forEach(({ id, kind, position, aim }, n) => {
    if (lights.findIndex((l) => l.id === id) !== n)
      faults.push({ path: `lights[${n}].id`, message: `two lights share the id ${id}` });
    const aimed = kind !== 'sun' && kind !== 'point';
    if (aimed && position.every((v, a) => v === aim[a]))
      faults.push({ path: `lights[${n}].aim`, message: 'must differ from where the light stands' });
  });
  return faults;
}

interface LookOne {
  readonly medium?: { readonly albedo?: readonly number[] };
  readonly sun?: object;
  readonly camera?: { readonly step?: number };
}

/** Version 1 had one sun, one albedo and its march step with the camera; pictures were marched. */
function fromOne({
  medium,
  sun,
  camera,
  ...rest
}: Record<string, unknown> & LookOne): Record<string, unknown> {
  const { albedo, ...thick } = medium ?? {};
  const { step, ...stands } = camera ?? {};
  return {
    ...rest,
    medium: { ...thick, ...(albedo ? { scatter: albedo, absorb: albedo.map((v) => 1 - v) } : {}) },
    lights: [{ id: 'sun', name: 'Sun', kind: 'sun', angle: 0, ...sun }],
    camera: stands,
    quality: { octaves: 0, ...(step === undefined ? {} : { step }) },
  };
}

export const LOOK = new DocumentKind<Look>('look', 2, LOOK_PARTS, crossChecks, [fromOne]);

/** A camera's settings without its name in a list. */
export function cameraAlone(camera: CameraSettings): CameraSettings {
  const { eye, target, roll, focal, back, squeeze, width, height, overscan, crop } = camera;
  const { moving, shutter, lens, fNumber, focus } = camera;
  const blur = { moving, shutter, lens, fNumber, focus };
  return { eye, target, roll, focal, back, squeeze, width, height, ...blur, overscan, crop };
}

/**
 * A look as it is at a frame: every keyed number at its value there.
 * @param camera id of the further camera that it is seen by; without, or where there is none, the shot's
 */
export function lookAt(look: Look, frame: number, camera?: string): Look {
  const now = documentAt(LOOK_PARTS, look, frame);
  const other = camera === undefined ? undefined : now.cameras.find(({ id }) => id === camera);
  if (!other) return now;
  return { ...now, camera: cameraAlone(other) };
}

/** The files of a look that its pictures are made with. */
export function filesOf({ sky, medium, media, files }: Look): readonly FilePart[] {
  const wanted = new Set<string>();
  if (sky.kind === 'picture') wanted.add(sky.picture);
  for (const one of [medium, ...media.filter(({ on }) => on)])
    if (one.colour === 'picture') wanted.add(one.picture);
  return files.filter(({ id }) => wanted.has(id));
}

/** What of a camera's frame is rendered. */
export interface Framing {
  /** With a frame that holds the overscan. */
  readonly look: Look;
  /** Pixels of that frame that are rendered: all of it but what is cropped. */
  readonly box: {
    readonly from: readonly [number, number];
    readonly end: readonly [number, number];
  };
  /** Where the frame's first pixel stands in that one. */
  readonly margin: readonly [number, number];
}

/** Overscan and crop; an edge that is cropped has no overscan. */
export function framingOf(look: Look): Framing {
  const { width, height, back, overscan, crop } = look.camera;
  const margin = [width, height].map((n) => Math.round((n * overscan) / 100));
  const [wide, high] = [width + 2 * margin[0], height + 2 * margin[1]];
  const cut = (part: number, n: number, over: number): number =>
    part > 0 ? over + Math.min(n - 1, Math.round((n * part) / 100)) : 0;
  return {
    look: {
      ...look,
      camera: { ...look.camera, width: wide, height: high, back: (back * wide) / width, overscan: 0 },
    },
    box: {
      from: [cut(crop.left, width, margin[0]), cut(crop.top, height, margin[1])],
      end: [wide - cut(crop.right, width, margin[0]), high - cut(crop.bottom, height, margin[1])],
    },
    margin: [margin[0], margin[1]],
  };
}

/** Unit vector from a heading and a height over the horizon, degrees. */
export function directionOf({ heading, height }: { heading: number; height: number }): Triple {
  const h = (heading * Math.PI) / 180;
  const e = (height * Math.PI) / 180;
  return [Math.cos(e) * Math.cos(h), Math.sin(e), Math.cos(e) * Math.sin(h)];
}

/**
 * What a light gives by channel: radiance of an even scatterer in the sun, or at a metre from another light.
 */
export function powerOf(light: Pick<LightPart, 'tone' | 'kelvin' | 'colour' | 'stops'>): Triple {
  const colour = light.tone === 'kelvin' ? blackBody(light.kelvin) : light.colour;
  return colour.map((c) => c * 2 ** light.stops) as Triple;
}

/** The first sun that is on; dark where there is none. */
export function keySun(look: Look): { toSun: Triple; power: Triple } {
  const sun = look.lights.find((l) => l.on && l.kind === 'sun');
  if (!sun) return { toSun: [0, 1, 0], power: [0, 0, 0] };
  return { toSun: directionOf(sun), power: powerOf(sun) };
}

/** Radiance of the environment by channel. */
export const skyOf = ({ sky }: Look): Triple => sky.colour.map((c) => c * 2 ** sky.stops) as Triple;

const unit = (v: readonly number[]): number[] => v.map((x) => x / Math.hypot(...v));
const cross = (a: readonly number[], b: readonly number[]): number[] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** Two unit vectors across a direction, the first level where that can be. */
export function frameAbout(ahead: readonly number[]): { right: Triple; up: Triple } {
  const right = unit(cross(ahead, Math.abs(ahead[1]) > 0.999 ? [0, 0, 1] : [0, 1, 0]));
  return { right: right as Triple, up: cross(right, ahead) as Triple };
}

/**
 * The camera's frame: pixel (x, y) looks along corner + x · across + y · down (not normalised), y downward.
 */
export function cameraRays(look: Pick<Look, 'camera'>): {
  eye: Triple;
  corner: Triple;
  across: Triple;
  down: Triple;
} {
  const { eye, target, focal, back, squeeze, roll, width, height } = look.camera;
  // keys may bring both together for a moment
  const away = target.map((t, a) => t - eye[a]);
  const ahead = unit(away.some((v) => v !== 0) ? away : [0, 0, -1]);
  const level = frameAbout(ahead);
  const turn = (roll * Math.PI) / 180;
  const right = level.right.map((v, a) => v * Math.cos(turn) - level.up[a] * Math.sin(turn));
  const up = level.right.map((v, a) => v * Math.sin(turn) + level.up[a] * Math.cos(turn));
  const pixel = back / focal / width;
  const across = right.map((v) => v * pixel) as Triple;
  const down = up.map((v) => (-v * pixel) / squeeze) as Triple;
  const corner = ahead.map(
    (v, a) => v - ((width - 1) / 2) * across[a] - ((height - 1) / 2) * down[a],
  ) as Triple;
  return { eye, corner, across, down };
}

/**
 * Rows that bring a place to a camera's pixels: x and y times how far ahead it lies, and that; each three
 * parts of a place and a constant.
 * @param units metres of a place's unit, and the world's place of its origin
 */
export function pixelsOf(
  look: Pick<Look, 'camera'>,
  units: { readonly metre: number; readonly origin: Triple },
): number[] {
  const { eye, corner, across, down } = cameraRays(look);
  const det = across.reduce((sum, v, a) => sum + v * cross(down, corner)[a], 0);
  // the inverse of the matrix whose columns are those three
  const rows = [cross(down, corner), cross(corner, across), cross(across, down)];
  return rows.flatMap((row) => {
    const own = row.map((v) => v / det);
    const constant = own.reduce((sum, v, a) => sum + v * (units.origin[a] - eye[a]), 0);
    return [...own.map((v) => v * units.metre), constant];
  });
}

/** Half the width of a thin lens to the right and upward, m; nothing where all is in focus. */
export function lensOf(camera: CameraSettings): { readonly right: Triple; readonly up: Triple } {
  const radius = camera.lens === 'thin' ? camera.focal / 2000 / camera.fNumber : 0;
  const { across, down } = cameraRays({ camera });
  const along = (v: Triple, sign: number): Triple => unit(v).map((x) => sign * radius * x) as Triple;
  return { right: along(across, 1), up: along(down, -1) };
}
