// Settings of a look: lamps.
import {
  choice,
  definePart,
  flag,
  FAR,
  linearColour,
  nameAndSwitch,
  number,
  position,
  type When,
} from '../../recipe/settings';

const SUN: When = { path: 'kind', is: 'sun' };
const PLACED: When = { path: 'kind', is: ['point', 'spot', 'rectangle', 'disc'] };
const AIMED: When = { path: 'kind', is: ['spot', 'rectangle', 'disc'] };
const ROUND: When = { path: 'kind', is: ['point', 'spot', 'disc'] };
const SPOT: When = { path: 'kind', is: 'spot' };
const RECTANGLE: When = { path: 'kind', is: 'rectangle' };
const KELVIN: When = { path: 'tone', is: 'kelvin' };
const COLOUR: When = { path: 'tone', is: 'colour' };

export const LIGHTS = definePart({
  key: 'lights',
  title: 'Lights',
  many: true,
  keyable: true,
  begins: [{ id: 'sun', name: 'Sun' }],
  sentence:
    '{name}: a {kind}[kind=sun: from {heading} at {height}, {angle} wide][kind=point: of radius ' +
    '{radius}][kind=spot: {cone} wide][kind=rectangle: {width} × {length}][kind=disc: of radius {radius}]' +
    '[tone=colour:, {colour}][tone=kelvin:, {kelvin}], {stops} stops[shadows=false:, without shadows].',
  settings: [
    ...nameAndSwitch('Light', 'What it is called.', 'Off: kept in the look, without effect.'),
    choice(
      'kind',
      'kind',
      [
        ['sun', 'sun'],
        ['point', 'point light'],
        ['spot', 'spot'],
        ['rectangle', 'rectangle'],
        ['disc', 'disc'],
      ],
      'A sun shines along one direction; a point all round; a spot in a cone; rectangles and discs ' +
        'from a face.',
    ),
    number(
      'heading',
      'heading',
      '°',
      [-360, 360],
      -130,
      'Where it stands, seen from above: 0° on the right, 90° in front.',
      { when: SUN },
    ),
    number('height', 'height', '°', [-90, 90], 28, 'Angle over the horizon.', { when: SUN }),
    number('angle', 'size', '°', [0, 60], 0.5, 'Its angle across: the wider, the softer its shadows.', {
      when: SUN,
    }),
    ...position('position', 'place', [1, 1.5, 1], 'Where it stands.', PLACED),
    ...position('aim', 'aim', [0, 0.5, 0], 'What it points at.', AIMED),
    number('radius', 'radius', 'm', [0, FAR], 0.05, 'The wider, the softer its shadows.', { when: ROUND }),
    number('width', 'width', 'm', [0.001, FAR], 0.6, 'Across.', { when: RECTANGLE }),
    number('length', 'length', 'm', [0.001, FAR], 0.9, 'Upward.', { when: RECTANGLE }),
    number('cone', 'cone', '°', [1, 170], 40, 'Its whole angle, from edge to edge.', { when: SPOT }),
    number('soft', 'soft edge', '', [0, 1], 0.3, 'Part of the cone over which it fades.', { when: SPOT }),
    choice(
      'tone',
      'colour by',
      [
        ['colour', 'red, green, blue'],
        ['kelvin', 'temperature'],
      ],
      'How its colour is told.',
    ),
    ...linearColour('colour', 4, [1, 0.86, 0.7], 'Linear colour.', COLOUR),
    number(
      'kelvin',
      'temperature',
      'K',
      [1000, 20000],
      5600,
      'Of a black body: candles 1900, bulbs 2900, daylight 5600.',
      { when: KELVIN },
    ),
    number(
      'stops',
      'intensity',
      '',
      [-20, 20],
      -1.3,
      'In stops; each doubles. Other lights are as bright at one metre as a sun of the same stops.',
    ),
    flag('shadows', 'shadows', true, 'Off: solids do not hold it back.'),
  ],
});
