// The parts of a combine and their settings: how the element lies over the plate.
import { definePart, choice, flag, number, vector } from '../recipe/settings';

const ELEMENT = definePart({
  key: 'element',
  title: 'Element',
  many: false,
  keyable: false,
  sentence:
    'The element goes {mode} the plate at {opacity}, tinted {tint.0} {tint.1} {tint.2}, {stops} stops.',
  settings: [
    choice(
      'mode',
      'operator',
      [
        ['over', 'over'],
        ['screen', 'screen over'],
      ],
      'Over hides the plate by the element’s alpha; screen only brightens, like light.',
    ),
    number('opacity', 'opacity', '', [0, 1], 1, 'Part of the element that is used.'),
    ...vector('tint', ['red', 'green', 'blue'], '', [0, 4], [1, 1, 1], 'Multiplies the element’s colour.'),
    number('stops', 'exposure', '', [-8, 8], 0, 'Brightness of the element in stops.'),
  ],
});

const PLATE = definePart({
  key: 'plate',
  title: 'Plate',
  many: false,
  keyable: false,
  sentence: 'The plate is shown {on}, {stops} stops.',
  settings: [
    flag('on', 'plate', true, 'Without the plate the element stands on transparency.'),
    number('stops', 'exposure', '', [-8, 8], 0, 'Brightness of the plate in stops.'),
  ],
});

export const COMBINE_PARTS = [ELEMENT, PLATE] as const;
