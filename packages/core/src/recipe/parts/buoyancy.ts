// How warm and heavy medium moves the air, as the recipe says it.
import { definePart, number } from '../settings';
import { where } from './where';

export const BUOYANCY = definePart({
  key: 'buoyancy',
  title: 'Buoyancy',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['lift', 'weight'],
  sentence: 'Warm rises and cold sinks by {lift}; full density weighs {weight}, {where}.',
  settings: [
    number(
      'lift',
      'lift',
      'm/s² per K',
      [-1, 1],
      0.033,
      'Upward acceleration of air one kelvin warmer: gravity over the air temperature, 9.81 / 295. ' +
        'Under another gravity it goes along.',
    ),
    number(
      'weight',
      'weight',
      'm/s²',
      [-100, 100],
      0.2,
      'Downward acceleration at density 1; negative makes the medium light.',
    ),
    where(),
  ],
});
