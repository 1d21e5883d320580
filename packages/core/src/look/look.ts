// A look: how a volume is lit and seen. Plain, validated data like a recipe.
import { DocumentKind, type Fault } from '../recipe/document';
import type { Triple } from '../math/vector';
import type { DocumentOf } from '../recipe/settings';
import { blackBody } from './kelvin';
import { LOOK_PARTS } from './parts';

export type Look = { version: 2; name: string } & DocumentOf<typeof LOOK_PARTS>;
export type LightPart = Look['lights'][number];

/** Rules that concern two settings at once. */
function crossChecks({ camera, lights }: Look): Fault[] {
  const faults: Fault[] = [];
  if (camera.eye.every((v, a) => v === camera.target[a]))
    faults.push({ path: 'camera.target', message: 'must differ from where the camera stands' });
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

/** The first sun that is on: what quick views without a render are lit by. Dark where there is none. */
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
  const ahead = unit(target.map((t, a) => t - eye[a]));
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
