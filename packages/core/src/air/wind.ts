// Wind as a linear drag toward a moving air mass, with gusts as a smooth random course of the speed.
import type { StepState } from '../step/state';

export interface WindNow {
  /** m/s along x, y, z. */
  readonly velocity: readonly [number, number, number];
  /** Part of the difference that is made up in this substep, 1 − exp(−dt/τ). */
  readonly grip: number;
}

const STILL: WindNow = { velocity: [0, 0, 0], grip: 0 };

export function windNow(state: StepState, dtS: number): WindNow {
  const { wind } = state.plan.recipe;
  if (wind.speed === 0 && wind.gust === 0) return STILL;
  const { team } = state;
  const sine = (degrees: number): number => team.solo('sine', (degrees * Math.PI) / 180);
  const speed = wind.speed + wind.gust * gustCourse(state.timeS / wind.gustLength, wind.seed);
  const level = sine(wind.rise + 90);
  return {
    velocity: [speed * level * sine(wind.heading + 90), speed * sine(wind.rise), speed * level * sine(wind.heading)],
    grip: 1 - team.solo('exponential', -dtS / wind.grip),
  };
}

/** −1 … 1, smooth in t with one swing a unit: cubic value noise over whole numbers. Only exact arithmetic, so equal everywhere. */
export function gustCourse(t: number, seed: number): number {
  const i = Math.floor(t),
    f = t - i;
  const a = knot(i, seed),
    b = knot(i + 1, seed);
  return a + (b - a) * f * f * (3 - 2 * f);
}

function knot(i: number, seed: number): number {
  let h = Math.imul(i ^ Math.imul(seed, 0x9e3779b1), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  h ^= h >>> 16;
  return ((h >>> 8) / 0xffffff) * 2 - 1;
}
