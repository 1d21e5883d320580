// What a force is: which settings it reads, and how it adds to the accelerations.
import type { Recipe, Triple } from '../recipe/recipe';
import type { StepState } from '../step/state';

/** The substep, or the part of it, in which a force acts. */
export interface Now {
  readonly state: StepState;
  readonly dtS: number;
}
export interface Force {
  /**
   * The parts of the recipe that it reads, its own first: a change of any of them in a region makes it
   * another force there.
   */
  readonly keys: readonly (keyof Recipe)[];
  readonly isOn: (recipe: Recipe) => boolean;
  /**
   * Adds to layout.acceleration, m/s² at cell centres.
   * @param recipe as it is at this time, with the changes of the region that is looked at
   * @param weight address of a field, 0…1: how far the force counts; 0 where it counts everywhere
   */
  readonly add: (now: Now, recipe: Recipe, weight: number) => void;
}

/** A direction at length 1; one without a length stays none. Only exact arithmetic, so equal everywhere. */
export function directionOf(v: Triple): Triple {
  const long = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  return long > 0 ? [v[0] / long, v[1] / long, v[2] / long] : [0, 0, 0];
}
