// What slows the air everywhere, as the recipe says it.
import { choice, definePart, number } from '../settings';
import { where } from './where';

export const DRAG = definePart({
  key: 'drag',
  title: 'Drag',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['halfLife'],
  sentence:
    '[halfLife=!0:Drag halves the speed in {halfLife}, {on}; {where}.][halfLife=0:Drag: half-life of the ' +
    'speed {halfLife}.]',
  settings: [
    number(
      'halfLife',
      'half-life of the speed',
      's',
      [0, 10000],
      0,
      'Time in which drag takes half of the speed; 0 is no drag.',
      {
        word: { is: 0, text: 'endless' },
      },
    ),
    choice(
      'on',
      'slows',
      [
        ['all', 'for all air'],
        ['medium', 'as far as it carries the medium'],
      ],
      'All air alike, or as far as there is medium in it: heavy dust that brings the air with it to ' +
        'rest; full at density 1.',
    ),
    where(),
  ],
});
