// Settings of a look: ground, vessels and obstacles as they are seen.
import {
  choice,
  definePart,
  flag,
  FAR,
  linearColour,
  nameAndSwitch,
  number,
  reference,
  type When,
} from '../../recipe/settings';

const GROUND: When = { path: 'ground', is: ['seen', 'catcher', 'held-out'] };
const WALLS: When = { path: 'vessels', is: 'seen' };

export const SOLIDS = definePart({
  key: 'solids',
  title: 'Surfaces',
  many: false,
  keyable: true,
  sentence:
    'Obstacles are {seen}, of {colour}; vessels {vessels}[vessels=seen:, of {walls}]; the ground is ' +
    '{ground}[ground=seen:, of {floor}].',
  settings: [
    choice(
      'seen',
      'obstacles',
      [
        ['held-out', 'held out'],
        ['seen', 'seen'],
        ['catcher', 'seen by their shadows only'],
        ['unseen', 'not there'],
      ],
      'Held out: what they hide is missing, for laying over a plate. Seen: they are in the picture, lit. ' +
        'By their shadows only: the picture darkens where light is held back from them.',
    ),
    ...linearColour('colour', 1, [0.32, 0.3, 0.28], 'Part of light that obstacles scatter.'),
    choice(
      'vessels',
      'vessels',
      [
        ['unseen', 'not there'],
        ['seen', 'seen from within'],
      ],
      'What holds the medium from outside never hides it; its inner side may be seen behind.',
    ),
    ...linearColour('walls', 1, [0.8, 0.8, 0.8], 'Part of light that a vessel’s inner side scatters.', WALLS),
    choice(
      'ground',
      'ground',
      [
        ['none', 'not there'],
        ['seen', 'seen'],
        ['catcher', 'seen by its shadows only'],
        ['held-out', 'held out'],
      ],
      'A level ground without an end: shadows and light fall on it.',
    ),
    number('level', 'ground level', 'm', [-FAR, FAR], 0, 'Height of the ground.', { when: GROUND }),
    ...linearColour('floor', 1, [0.2, 0.19, 0.18], 'Part of light that the ground scatters.', {
      path: 'ground',
      is: ['seen', 'catcher'],
    }),
    flag('shadows', 'shadows', true, 'Off: obstacles and ground do not hold light back.'),
  ],
});

const GLOWS: When = { path: 'glows', is: 'true' };

export const SURFACES = definePart({
  key: 'surfaces',
  title: 'Surfaces, one by one',
  many: true,
  keyable: true,
  sentence:
    '{name}: {of} is {seen}[seen=seen|catcher|unseen:, of {colour}][glows=true:, glows {stops} stops of ' +
    '{glow}][shadows=false:, without shadows].',
  settings: [
    ...nameAndSwitch('Surface', 'What it is called.', 'Off: the obstacle is as all others are.'),
    {
      ...reference('of', 'obstacle', ['obstacles'], 'The obstacle that is other than the rest.'),
      none: 'no obstacle yet',
    },
    choice(
      'seen',
      'how it is seen',
      [
        ['seen', 'seen'],
        ['held-out', 'held out'],
        ['catcher', 'seen by its shadows only'],
        ['unseen', 'not seen, but lit'],
      ],
      'By its shadows only: the picture darkens where light is held back from it, for a plate that shows it.',
    ),
    ...linearColour('colour', 1, [0.32, 0.3, 0.28], 'Part of light that it scatters.'),
    flag('glows', 'glows', false, 'It gives light of its own, on to the medium too.'),
    number('stops', 'glow', '', [-20, 20], 0, 'Radiance of its own, in stops; each doubles.', {
      when: GLOWS,
    }),
    ...linearColour('glow', 4, [1, 0.72, 0.42], 'Linear colour of its glow.', GLOWS),
    flag('shadows', 'shadows', true, 'Off: it does not hold light back.'),
  ],
});
