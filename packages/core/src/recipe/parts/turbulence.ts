// Turbulence, as the recipe says it.
import { definePart, type PartValues, integer, number, FAR } from '../settings';

import { where } from './where';

export const TURBULENCE = definePart({
  key: 'turbulence',
  title: 'Turbulence',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['strength'],
  sentence:
    'Turbulence pushes with {strength}[strength=!0: in whirls of {size}, octaves: {octaves}, each ' +
    '{roughness} of the one before, changing every {period}; {where}].',
  settings: [
    number('strength', 'strength', 'm/s²', [0, 1000], 0, 'Typical acceleration; 0 is none.'),
    number(
      'size',
      'size',
      'm',
      [0.005, FAR],
      0.5,
      'Width of the largest whirls, in the world: it does not depend on voxels.',
    ),
    integer(
      'octaves',
      'octaves',
      '',
      [1, 6],
      2,
      'Finer layers, each half the size of the one before. Layers finer than four voxels are left out.',
    ),
    number('roughness', 'roughness', '', [0, 1], 0.5, 'Strength of a layer against the one before.'),
    number('period', 'period', 's', [0.05, 1000], 2, 'Time in which the pattern has turned once.'),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another pattern.'),
    where(),
  ],
});

/** What whirls are like, as the turbulence and the break-up of edges describe them. */
export type Whirls = PartValues<typeof TURBULENCE>;
