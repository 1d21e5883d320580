// What could make a look's pictures cheaper, one thing at a time, as changes of its settings.
import type { Volume } from './colouring';
import type { Look } from './look';
import { isBlurred } from './moments';
import type { PixelBox } from './rendered-frame';

/** A way to save time. */
export interface Saving {
  readonly name: string;
  /** What it is expected to cost in the picture. */
  readonly costs: string;
  /** Settings of the look and what they become. */
  readonly changes: readonly { readonly path: string; readonly value: unknown }[];
}

export interface MeasuredSaving extends Saving {
  /** Of a whole frame, as the part that was rendered tells. */
  readonly seconds: number;
  /** 0: alike; 1: as different as can be. */
  readonly difference: number;
  /** Its picture, and where it differs, as files of the folder. */
  readonly picture: string;
  readonly map: string;
}

export interface SavingsSheet {
  /** Of the look as it is, a whole frame. */
  readonly seconds: number;
  /** Of those, what does not grow with the picture: laying out the medium and its light. */
  readonly fixedSeconds: number;
  readonly picture: string;
  readonly box: PixelBox;
  readonly savings: readonly MeasuredSaving[];
}

/** The part of all mass that is clipped. */
const FAINTEST = 0.02;
/** Lights that are tried without, at the most, the last ones of the look first. */
const MOST_LIGHTS = 3;

/** @returns those that change something of the look, at the most about ten */
export function savingsFor(look: Look, volume: Volume): Saving[] {
  const { quality, medium, lights, camera } = look;
  const isTrue = quality.mode === 'true';
  const fewer = (samples: number): Saving => ({
    name: `${samples} samples, without their noise`,
    costs: 'a little of the finest light',
    changes: [
      { path: 'quality.samples', value: samples },
      { path: 'quality.denoise', value: 'always' },
    ],
  });
  const one = (name: string, costs: string, path: string, value: unknown): Saving => ({
    name,
    costs,
    changes: [{ path, value }],
  });
  const clip = faintest(volume, medium.clip);
  const found: (Saving | false)[] = [
    clip > medium.clip && one(`Clip below ${clip}`, 'the faintest wisps', 'medium.clip', clip),
    isTrue && quality.samples >= 8 && fewer(Math.round(quality.samples / 2)),
    isTrue && quality.samples >= 16 && fewer(Math.round(quality.samples / 4)),
    isTrue &&
      quality.bounces > 1 &&
      one(
        `${Math.floor(quality.bounces / 2)} bounces`,
        'light deep in the medium',
        'quality.bounces',
        Math.floor(quality.bounces / 2),
      ),
    isTrue &&
      quality.bounces > 0 &&
      one('Single scattering', 'all light that is scattered more than once', 'quality.bounces', 0),
    isTrue && one('Quick instead of true', 'exactness, and soft shadows', 'quality.mode', 'quick'),
    !isTrue && one('Twice the march step', 'smoothness of thin layers', 'quality.step', 2 * quality.step),
    !isTrue &&
      quality.octaves > 0 &&
      one('Single scattering', 'all light that is scattered more than once', 'quality.octaves', 0),
    isBlurred(look) &&
      quality.moments > 3 &&
      one(
        `${Math.round(quality.moments / 2)} moments`,
        'smoothness of what is blurred',
        'quality.moments',
        Math.round(quality.moments / 2),
      ),
    {
      name: 'Half the size',
      costs: 'sharpness',
      changes: [
        { path: 'camera.width', value: Math.max(16, Math.round(camera.width / 2)) },
        { path: 'camera.height', value: Math.max(16, Math.round(camera.height / 2)) },
      ],
    },
    ...lights
      .map(({ on, name }, n) => on && one(`Without ${name}`, 'its light', `lights.${n}.on`, false))
      .reverse()
      .slice(0, MOST_LIGHTS),
  ];
  return found.filter((saving) => saving !== false);
}

/** The density below which so little of the mass lies, in two digits. */
function faintest({ density }: Volume, least: number): number {
  const values = density.filter((d) => d > least && d < Infinity).sort();
  const all = values.reduce((sum, d) => sum + d, 0);
  let sum = 0;
  for (const d of values) {
    sum += d;
    if (sum > FAINTEST * all) return Number(d.toPrecision(2));
  }

  return least;
}
