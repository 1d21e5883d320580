// Formulas as a part of the recipe.
import { where } from './where';
import { choice, definePart, formula, integer, nameAndSwitch } from '../settings';

export const FORMULAS = definePart({
  key: 'formulas',
  title: 'Formulas',
  many: true,
  keyable: false,
  live: true,
  sentence: '{name}, {when}, {where}: {text}',
  settings: [
    ...nameAndSwitch('Formula'),
    choice(
      'when',
      'when',
      [
        ['end', 'at the end of each step'],
        ['pushed', 'with the forces'],
        ['given', 'after the sources'],
      ],
      'After the sources have given off, before anything is carried; with the forces, where it may ' +
        'write push and velocity; or at the end.',
    ),
    formula(
      'text',
      'formula',
      'channels',
      'density = clamp(density, 0, 1)',
      'What it writes, a line each: channel = arithmetic.',
    ),
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'First frame in which it is worked out.'),
    integer('until', 'until frame', 'frames', [0, 100000], 100000, 'Last frame in which it is worked out.', {
      word: { is: 100000, text: 'the end' },
    }),
    where(),
  ],
});
