// Fine break-up of the medium's edges, as the recipe says it.
import { definePart, integer, number, FAR } from '../settings';

import { where } from './where';

export const EDGES = definePart({
  key: 'edges',
  title: 'Edges',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['strength'],
  sentence:
    'Edges are broken up by {strength}[strength=!0: in wisps of {size}, another every {period}; {where}].',
  settings: [
    number(
      'strength',
      'break-up',
      'm/s²',
      [0, 1000],
      0,
      'Typical acceleration where the medium ends; 0 is none.',
    ),
    number(
      'size',
      'size',
      'm',
      [0.002, FAR],
      0.12,
      'Width of the wisps, in the world; at least four voxels.',
    ),
    number('period', 'period', 's', [0.02, 1000], 0.5, 'Time in which the pattern has turned once.'),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another pattern.'),
    where(),
  ],
});
