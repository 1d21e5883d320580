// Gravity: what the lift of warmth and the weight of the medium are measured against. On its own it moves no
// air, since it pulls all of it alike and the pressure holds it up.
import { definePart, number, direction } from '../settings';

/** Standard gravity, m/s²: that for which lift and weight are said. */
export const STANDARD = 9.81;

export const GRAVITY = definePart({
  key: 'gravity',
  title: 'Gravity',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  sentence: 'Gravity is {strength} toward {direction.0}, {direction.1}, {direction.2}.',
  settings: [
    number(
      'strength',
      'gravity',
      'm/s²',
      [-1000, 1000],
      STANDARD,
      'Lift and weight go along with it; below 0 it is turned round, 0 is a place without weight. ' +
        'Particles have their own.',
    ),
    ...direction('direction', 'gravity', [0, -1, 0], 'Where it pulls to. Only its direction counts.'),
  ],
});
