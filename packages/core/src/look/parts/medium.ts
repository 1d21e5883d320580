// Settings of a look: how the medium is lit and seen.
import {
  choice,
  definePart,
  flag,
  integer,
  linearColour,
  nameAndSwitch,
  number,
  position,
  reference,
  type ProfileSetting,
  type When,
} from '../../recipe/settings';

const DRAWN: When = { path: 'remap', is: 'drawn' };
const COLOURED: When = { path: 'colour', is: ['carried', 'ramp', 'picture'] };
const LOOKED: When = { path: 'colour', is: ['ramp', 'picture'] };
const IMAGE: When = { path: 'colour', is: 'picture' };
const RAMP: When = { path: 'colour', is: 'ramp' };

const CURVE: ProfileSetting<'curve'> = {
  kind: 'profile',
  path: 'curve',
  label: 'curve',
  default: [
    [0, 0],
    [0.5, 0.5],
    [1, 1],
  ],
  doc: 'Density as it is shown, over density as it was simulated; both as parts of the full one.',
  when: DRAWN,
};

const LOOKED_UP = [
  ['density', 'density'],
  ['temperature', 'temperature'],
  ['age', 'age'],
  ['speed', 'speed'],
  ['height', 'height'],
  ['x', 'place along x'],
  ['z', 'place along z'],
] as const;

const MEDIUM_SETTINGS = [
  number(
    'density',
    'density scale',
    '1/m',
    [0, 1000],
    2.2,
    'Extinction at density 1, per metre: how thick the medium looks.',
  ),
  ...linearColour(
    'scatter',
    1,
    [0.92, 0.94, 0.97],
    'Part of the light at full density that is scattered on.',
  ),
  ...linearColour(
    'absorb',
    1,
    [0.08, 0.06, 0.03],
    'Part of the light at full density that is absorbed. Unequal parts colour what shines through.',
  ),
  number(
    'forward',
    'phase',
    '',
    [-0.9, 0.9],
    0.35,
    'Asymmetry of scattering (Henyey–Greenstein g): above 0 it glows against the light.',
  ),
  number('backPart', 'second lobe', '', [0, 1], 0, 'Part of the light that scatters by a second lobe.'),
  number(
    'backward',
    'second phase',
    '',
    [-0.9, 0.9],
    -0.2,
    'Asymmetry of the second lobe: below 0 it leans back.',
  ),
  choice(
    'colour',
    'colour',
    [
      ['even', 'the same everywhere'],
      ['carried', 'what it carries'],
      ['ramp', 'a ramp'],
      ['picture', 'looked up in a picture'],
    ],
    'Where its colour at a place comes from.',
  ),
  choice(
    'colours',
    'colour acts on',
    [
      ['scatter', 'what it scatters'],
      ['absorb', 'what it lets through'],
    ],
    'Scatters: a coloured veil. Lets through: an ink, which colours the light behind it.',
    { when: COLOURED },
  ),
  choice('channel', 'looked up by', LOOKED_UP, 'What the ramp runs over, or what goes across the picture.', {
    when: LOOKED,
  }),
  number('low', 'from', '', [-1e4, 1e4], 0, 'Value at the ramp’s or the picture’s left end, in SI units.', {
    when: LOOKED,
  }),
  number('high', 'to', '', [-1e4, 1e4], 1, 'Value at the ramp’s or the picture’s right end, in SI units.', {
    when: LOOKED,
  }),
  {
    ...reference('picture', 'picture', ['files'], 'The picture that its colours are taken from.', IMAGE),
    none: 'no picture yet',
  },
  choice('upward', 'and upward by', LOOKED_UP, 'What goes from the picture’s bottom to its top.', {
    when: IMAGE,
    default: 'height',
  }),
  number('bottom', 'bottom', '', [-1e4, 1e4], 0, 'Value at the picture’s bottom, in SI units.', {
    when: IMAGE,
  }),
  number('top', 'top', '', [-1e4, 1e4], 1, 'Value at the picture’s top, in SI units.', { when: IMAGE }),
  number('exposure', 'exposure', '', [-10, 10], 0, 'Of the picture, in stops.', { when: IMAGE }),
  number('saturation', 'saturation', '', [0, 4], 1, 'Of the picture: 0 is grey, 1 as it is.', {
    when: IMAGE,
  }),
  ...linearColour('first', 1, [0.2, 0.32, 0.6], 'First colour of the ramp.', RAMP),
  ...linearColour('last', 1, [0.98, 0.85, 0.7], 'Last colour of the ramp.', RAMP),
  choice(
    'remap',
    'density is shown',
    [
      ['plain', 'as it was simulated'],
      ['drawn', 'by a curve'],
    ],
    'A curve brings out what is faint, or leaves it away.',
  ),
  number(
    'full',
    'full density',
    '',
    [0.001, 1000],
    1,
    'Density at the curve’s right end; above it goes on level.',
    { when: DRAWN },
  ),
  CURVE,
  number(
    'clip',
    'clip below',
    '',
    [0, 100],
    0,
    'Density below this is left out: the faintest costs the most light for the least picture.',
  ),
  flag(
    'deposit',
    'deposit',
    true,
    'What has settled is seen where it lies, as thick as it was in the air. Without, only what floats is.',
  ),
] as const;

const MEDIUM_SENTENCE =
  'extinction at full density is {density}; scattering {scatter}, absorption {absorb}, phase {forward}. ' +
  'Its colour is {colour}[colour=carried|ramp|picture: and acts on {colours}]' +
  '[colour=ramp:, from {first} to {last} over {channel}][colour=picture:, {picture} by {channel} and ' +
  '{upward}].';

export const MEDIUM = definePart({
  key: 'medium',
  title: 'Medium',
  many: false,
  keyable: true,
  sentence: `E${MEDIUM_SENTENCE.slice(1)}`,
  settings: [
    ...MEDIUM_SETTINGS,
    number(
      'shadow',
      'shadow strength',
      '',
      [0, 2],
      1,
      'Extinction toward the light against that toward the camera: 1 is what nature does.',
    ),
  ],
});

export const MEDIA = definePart({
  key: 'media',
  title: 'Further media',
  many: true,
  keyable: true,
  sentence: `{name}: bake {bake}, its ${MEDIUM_SENTENCE}`,
  settings: [
    ...nameAndSwitch('Medium', 'What it is called.', 'Off: kept in the look, and not seen.'),
    integer('bake', 'bake', '', [0, 1e9], 0, 'Number of the bake whose volumes it has.', {
      word: { is: 0, text: 'none yet' },
    }),
    ...position('position', 'moved', [0, 0, 0], 'How far it is moved from where it was baked.'),
    integer(
      'shift',
      'shifted by',
      'frames',
      [-100000, 100000],
      0,
      'Frames that it is behind the shot; below 0 it is ahead.',
    ),
    ...MEDIUM_SETTINGS,
  ],
});
