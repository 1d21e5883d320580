// Vorticity confinement, as the recipe says it.
import { definePart, number, FAR } from '../settings';

import { where } from './where';

export const VORTICITY = definePart({
  key: 'vorticity',
  title: 'Vorticity',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['strength', 'large'],
  sentence:
    'Vorticity confinement is {strength}[large=!0:; rolls {largeSize} wide are strengthened by {large}]' +
    '[large=0:, without wide rolls]; {where}.',
  settings: [
    number(
      'strength',
      'confinement',
      '',
      [0, 20],
      0,
      'Vorticity confinement: gives back the curl that the grid loses, so it weakens as voxels get ' +
        'finer. High values fizz.',
    ),
    number(
      'large',
      'large-scale confinement',
      '',
      [0, 20],
      0,
      'The same on the smoothed air: strengthens rolls of a size in the world, whatever the voxels.',
    ),
    number(
      'largeSize',
      'size of the rolls',
      'm',
      [0.01, FAR],
      0.5,
      'Width of the rolls that large-scale confinement strengthens; at least four voxels.',
    ),
    where(),
  ],
});
