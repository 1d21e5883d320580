// Wind as a linear drag toward a moving air mass, with gusts as a smooth random course of the speed.
import { SLAB } from '../grid/sweep';
import { where } from '../recipe/parts/where';
import { integer, number, type Part } from '../recipe/settings';
import type { Recipe, Triple } from '../recipe/recipe';
import type { Force, Now } from './force';

export const WIND: Part = {
  key: 'wind',
  title: 'Wind',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  sentence:
    'Wind of {speed} toward {heading} takes hold within {grip}; gusts of {gust} lasting {gustLength}; ' +
    '{where}.',
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
};

export const wind: Force = {
  keys: ['wind'],
  isOn: ({ wind: w }) => w.speed !== 0 || w.gust !== 0,
  add: (now, recipe, weight) => {
    const { team } = now.state;
    drawAir(
      now,
      windAt(recipe.wind, now.state.timeS + now.dtS / 2, (x) => team.solo('sine', x)),
      recipe.wind.grip,
      weight,
    );
  },
};

/** Speed of the air mass at a simulated time, m/s along x, y, z. */
export function windAt(w: Recipe['wind'], timeS: number, sine: (x: number) => number): Triple {
  const speed = gustySpeed(w, timeS);
  const at = (degrees: number): number => sine((degrees * Math.PI) / 180);
  const level = at(w.rise + 90);
  return [speed * level * at(w.heading + 90), speed * at(w.rise), speed * level * at(w.heading)];
}

/** m/s, at a simulated time. */
export function gustySpeed(
  w: Pick<Recipe['wind'], 'speed' | 'gust' | 'gustLength' | 'seed'>,
  timeS: number,
): number {
  return w.speed + w.gust * gustCourse(timeS / w.gustLength, w.seed);
}

/**
 * Draws the air to a speed as a linear drag does, exactly over any substep: 63 % of the way in `within`
 * seconds.
 */
export function drawAir(
  { state: { team, layout, window }, dtS }: Now,
  goal: Triple,
  within: number,
  weight: number,
): void {
  const l = window.lattice;
  const grip = (1 - team.solo('exponential', -dtS / within)) / dtS;
  layout.acceleration.forEach((f, axis) => {
    const next = [4, l.rowStride * 4, l.planeStride * 4][axis];
    team.run(
      'draw',
      l.nz,
      SLAB,
      f.address,
      layout.velocity[axis].address,
      weight,
      l.nx,
      l.ny,
      l.rowStride,
      l.planeStride,
      next,
      goal[axis],
      grip,
    );
  });
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
