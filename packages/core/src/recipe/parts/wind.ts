// Wind and gusts: what the recipe says of them, and the course of a gust.
import { definePart, type PartValues, integer, number } from '../settings';
import { where } from './where';

export const WIND = definePart({
  key: 'wind',
  title: 'Wind',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['speed', 'gust'],
  sentence:
    'Wind of {speed} toward {heading} takes hold within {grip}[gust=!0:; gusts of {gust} lasting ' +
    '{gustLength}][gust=0:; no gusts]; {where}.',
  settings: [
    number('speed', 'speed', 'm/s', [0, 100], 0, 'Speed of the steady wind; 0 is none.'),
    number(
      'heading',
      'heading',
      '°',
      [-360, 360],
      0,
      'Where it blows to, seen from above: 0° along +x (right), 90° along +z (to the front).',
    ),
    number('rise', 'rise', '°', [-90, 90], 0, 'Upward slope of the wind.'),
    number(
      'grip',
      'takes hold within',
      's',
      [0.01, 1000],
      2,
      'Time in which still air reaches 63 % of the wind.',
    ),
    number('gust', 'gust', 'm/s', [0, 100], 0, 'Greatest change of speed by gusts.'),
    number('gustLength', 'gust length', 's', [0.05, 1000], 1.5, 'Mean time from gust to gust.'),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another course of gusts.'),
    where(),
  ],
});

/** m/s, at a simulated time. */
export function gustySpeed(
  w: Pick<PartValues<typeof WIND>, 'speed' | 'gust' | 'gustLength' | 'seed'>,
  timeS: number,
): number {
  return w.speed + w.gust * gustCourse(timeS / w.gustLength, w.seed);
}

/**
 * −1 … 1, smooth in t with one swing a unit: cubic value noise over whole numbers. Only exact arithmetic, so
 * equal everywhere.
 */
export function gustCourse(t: number, seed: number): number {
  const i = Math.floor(t);
  const f = t - i;
  const a = knot(i, seed);
  const b = knot(i + 1, seed);
  return a + (b - a) * f * f * (3 - 2 * f);
}

function knot(i: number, seed: number): number {
  let h = Math.imul(i ^ Math.imul(seed, 0x9e3779b1), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  h ^= h >>> 16;
  return ((h >>> 8) / 0xffffff) * 2 - 1;
}
