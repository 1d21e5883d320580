// What a force is: which settings it reads, and how it adds to the accelerations.
import type { Recipe } from '../../recipe/types';
import type { SimulationState } from '../state';

/** The substep, or the part of it, in which a force acts. */
export interface Now {
  readonly state: SimulationState;
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
