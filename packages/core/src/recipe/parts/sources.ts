// What gives off the medium, and the patterns that make it uneven.
import {
  choice,
  type ChoiceSetting,
  definePart,
  integer,
  number,
  reference,
  type When,
  position,
  direction,
  linearColour,
  nameAndSwitch,
  FAR,
} from '../settings';
import { where } from './where';
import { corners, follows, meshFile, pose, shapeChoice, sizes } from './shapes';

/** The ways to write a value, in the words of the sentence. */
const MODES = {
  none: 'left as it is',
  add: 'raised each second by',
  raise: 'brought to at least',
  replace: 'set to',
  blend: 'drawn to',
} as const;
type CombineMode = keyof typeof MODES;
const how = <const C extends string>(
  channel: C,
  word: string,
  first: CombineMode,
  doc: string,
): ChoiceSetting<`${C}.how`, CombineMode> =>
  choice(`${channel}.how`, `${word}: way`, Object.entries(MODES) as [CombineMode, string][], doc, {
    default: first,
  });
const MODES_DOC =
  'Raised each second: adds up. At least: lifts what is below it (a negative amount: lowers what is ' +
  'above). Set: replaces. Drawn: goes there in the time to blend.';
const written = (channel: string): When => ({
  path: `${channel}.how`,
  is: ['add', 'raise', 'replace', 'blend'],
});
const CLOUD: When = { path: 'shape', is: 'particles' };
const SHAPED: When = {
  path: 'shape',
  is: ['sphere', 'box', 'cylinder', 'disc', 'ring', 'plane', 'path', 'mesh'],
};
const NOT_ON_A_PATH = ['sphere', 'box', 'cylinder', 'mesh'];

export const SOURCES = definePart({
  key: 'sources',
  grouped: true,
  title: 'Sources',
  many: true,
  keyable: true,
  placed: [
    'density.amount',
    'temperature.amount',
    'colour.amount',
    'push.speed',
    'push.direction',
    'age.amount',
    'expansion',
  ],
  sentence:
    '{name}, a {shape}[shape=sphere|disc: of radius {radius}][shape=box: {size.0} by {size.1} by ' +
    '{size.2}][shape=plane: {size.0} by {size.2}][shape=cylinder: of radius {radius}, {size.1} ' +
    'high][shape=ring: of radius {radius}, its tube {tube}][shape=path: of radius ' +
    '{radius}][shape=mesh: from {file}, {fill}][shape=particles: , those of {particles}]. Density is ' +
    '{density.how}[density.how=add|raise|replace|blend: {density.amount}], temperature ' +
    '{temperature.how}[temperature.how=add|raise|replace|blend: ' +
    '{temperature.amount}][push.how=add|raise|replace|blend: , speed {push.how} {push.speed} ' +
    '{push.mode}]; {timing} from frame {from} to {until}.',
  settings: [
    ...nameAndSwitch('Source'),
    shapeChoice(
      ['sphere', 'box', 'cylinder', 'disc', 'ring', 'plane', 'path', 'mesh', 'particles'],
      'A simple shape; a flat patch; a path of straight pieces with a thickness; a mesh from a file; ' +
        'or particles that fly.',
    ),
    meshFile(),
    reference(
      'particles',
      'particles',
      ['particles'],
      'Each of them is a ball of the medium along its way.',
      CLOUD,
    ),
    number('swell', 'swell', '', [0.01, 100], 1, 'Times their own radius.', { when: CLOUD }),
    number(
      'endAmount',
      'left at the end',
      '%',
      [0, 100],
      100,
      'What a particle gives off at the end of its life, of what it gave off at first.',
      {
        when: CLOUD,
      },
    ),
    ...pose([0, 0.4, 0], SHAPED),
    follows(),
    ...sizes(0.25, 0.5),
    corners(),
    choice(
      'fill',
      'fill',
      [
        ['filled', 'filled'],
        ['surface', 'a layer along its surface'],
      ],
      'All of its inside, or a layer along its surface.',
      { when: { path: 'shape', is: NOT_ON_A_PATH } },
    ),
    number(
      'layer',
      'layer',
      'm',
      [0.001, FAR],
      0.05,
      'Thickness of the layer along the surface, and of a patch.',
      {
        when: { path: 'fill', is: 'surface' },
      },
    ),
    choice(
      'mask',
      'mask',
      [
        ['none', 'the whole surface'],
        ['painted', 'where it is painted'],
        ['red', 'where vertices are red'],
        ['green', 'where vertices are green'],
        ['blue', 'where vertices are blue'],
        ['light', 'where vertices are light'],
      ],
      'Limits a mesh to a part of it, by what is painted on it or by the colours of its vertices.',
      { when: { path: 'shape', is: 'mesh' } },
    ),
    {
      kind: 'dabs',
      path: 'paint',
      label: 'paint',
      default: [],
      doc: 'Dabs of a soft brush on the mesh. Paint in the window.',
      when: { path: 'mask', is: 'painted' },
    },
    number(
      'threshold',
      'mask threshold',
      '',
      [0, 1],
      0.5,
      'Where the mask starts to count; of a volume the density where it does.',
      {
        when: { path: 'shape', is: 'mesh' },
      },
    ),
    number(
      'softness',
      'mask softness',
      '',
      [0, 1],
      0.1,
      'Over how much of the mask it fades in; of a volume the density more at which it gives off the ' +
        'whole amount.',
      { when: { path: 'shape', is: 'mesh' } },
    ),
    how('density', 'density', 'add', MODES_DOC),
    number(
      'density.amount',
      'density',
      '',
      [-1000, 1000],
      2,
      'How much, at the inside of the shape; each second where it is raised.',
      {
        when: written('density'),
      },
    ),
    how('temperature', 'temperature', 'replace', MODES_DOC),
    number(
      'temperature.amount',
      'temperature',
      'K',
      [-300, 3000],
      20,
      'Kelvin above the air (below 0: colder).',
      {
        when: written('temperature'),
      },
    ),
    choice(
      'colour.how',
      'colour: way',
      [
        ['add', 'goes along with what it gives off'],
        ['replace', 'paints all that is there'],
        ['blend', 'draws what is there to it'],
        ['none', 'left as it is'],
      ],
      'What happens to the colour, where colour is kept. Painting works without giving off anything.',
    ),
    ...linearColour('colour.amount', 1, [1, 1, 1], 'Colour, linear.', {
      path: 'colour.how',
      is: ['add', 'replace', 'blend'],
    }),
    how('push', 'speed', 'none', MODES_DOC),
    choice(
      'push.mode',
      'direction',
      [
        ['along', 'in a direction'],
        ['normal', 'out of the surface'],
        ['motion', 'times its own motion'],
        ['point', 'away from a point'],
      ],
      'Where the air is sent. Its own motion: that of the shape, of a mesh that changes, of the particles.',
      { when: written('push') },
    ),
    number(
      'push.speed',
      'speed',
      'm/s',
      [-1000, 1000],
      1,
      'How fast; below 0 the other way. With its own motion: times that.',
      {
        when: written('push'),
      },
    ),
    ...direction('push.direction', 'direction', [0, 1, 0], 'Where to; only its direction counts.', {
      path: 'push.mode',
      is: 'along',
    }),
    ...position('push.point', 'point', [0, 0, 0], 'The point in the world that it blows away from.', {
      path: 'push.mode',
      is: 'point',
    }),
    number('push.spread', 'spread', '°', [0, 80], 0, 'Half angle by which it is turned aside at random.', {
      when: written('push'),
    }),
    number('push.vary', 'variation', '%', [0, 100], 0, 'How much the speed varies from place to place.', {
      when: written('push'),
    }),
    number(
      'push.lump',
      'lump',
      'm',
      [0.001, FAR],
      0.1,
      'Size of the lumps by which direction and speed vary.',
      {
        when: written('push'),
      },
    ),
    choice(
      'age.how',
      'age: way',
      Object.entries(MODES) as [CombineMode, string][],
      'What happens to the age of the medium, where age is kept; what is new has age 0 anyway.',
    ),
    number('age.amount', 'age', 's', [0, 100000], 0, 'Age.', { when: written('age') }),
    number(
      'expansion',
      'expansion',
      '1/s',
      [-100, 100],
      0,
      'Air given off: part of its own volume each second; pushes everything outward, below 0 inward.',
    ),
    number(
      'within',
      'time to blend',
      's',
      [0.001, 1000],
      0.2,
      'Time in which what is drawn goes 63 % of the way.',
    ),
    choice(
      'timing',
      'timing',
      [
        ['steady', 'steadily'],
        ['bursts', 'in bursts'],
      ],
      'Steadily, or in bursts of the same length.',
    ),
    number(
      'burstEvery',
      'burst every',
      's',
      [0.01, 1000],
      1,
      'Time from the start of a burst to that of the next one.',
      {
        when: { path: 'timing', is: 'bursts' },
      },
    ),
    number('burstLength', 'burst length', 's', [0.001, 1000], 0.2, 'How long a burst lasts.', {
      when: { path: 'timing', is: 'bursts' },
    }),
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'First frame in which it gives off anything.'),
    integer(
      'until',
      'until frame',
      'frames',
      [0, 100000],
      100000,
      'Last frame in which it gives off anything.',
      {
        word: { is: 100000, text: 'the end' },
      },
    ),
    where(),
  ],
});

const NOISES = ['value', 'cellular', 'billow'];
export const PATTERNS = definePart({
  key: 'patterns',
  title: 'Patterns',
  many: true,
  keyable: true,
  sentence:
    '{name} on {source}: {noise}[noise=value|cellular|billow: with lumps of {size}, changing every ' +
    '{period}][noise=picture: from {file}, {across} wide, {use}][use=amount: , contrast {contrast}], ' +
    'counts {strength}.',
  settings: [
    ...nameAndSwitch('Pattern'),
    reference(
      'source',
      'source',
      ['sources'],
      'The source that it makes uneven. Layers on one source multiply, in their order.',
    ),
    choice(
      'noise',
      'kind',
      [
        ['value', 'soft noise'],
        ['cellular', 'cells'],
        ['billow', 'billows'],
        ['picture', 'a picture'],
      ],
      'Soft noise; round cells; billows with creases between them; or a picture laid on from above, ' +
        'along the source’s own axes.',
    ),
    number('size', 'lumps', 'm', [0.001, FAR], 0.15, 'Size of the lumps in the world.', {
      when: { path: 'noise', is: NOISES },
    }),
    number('period', 'period', 's', [0.01, 1000], 1, 'Time in which the noise becomes another one.', {
      when: { path: 'noise', is: NOISES },
    }),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another noise.', {
      when: { path: 'noise', is: NOISES },
    }),
    reference('file', 'file', ['files'], 'The picture; bring it in on the shelf of files.', {
      path: 'noise',
      is: 'picture',
    }),
    number(
      'across',
      'width',
      'm',
      [0.001, FAR],
      1,
      'Width of the picture in the world; its height follows.',
      {
        when: { path: 'noise', is: 'picture' },
      },
    ),
    choice(
      'use',
      'use',
      [
        ['amount', 'as the amount'],
        ['colour', 'as the colour'],
      ],
      'Its brightness times the amount, or its colour for the source’s.',
      { when: { path: 'noise', is: 'picture' } },
    ),
    number('low', 'dark end', '', [0, 1], 0, 'What of the pattern becomes 0.', {
      when: { path: 'use', is: 'amount' },
    }),
    number('high', 'light end', '', [0, 1], 1, 'What of the pattern becomes 1.', {
      when: { path: 'use', is: 'amount' },
    }),
    number('contrast', 'contrast', '', [0, 100], 2, 'Steepness about the middle; 1 leaves it.', {
      when: { path: 'use', is: 'amount' },
    }),
    number(
      'strength',
      'strength',
      '%',
      [0, 100],
      100,
      'How much the layer counts; 0 leaves the source even.',
    ),
  ],
});
