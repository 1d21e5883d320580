// Particles that fly through the air in the run: grains, droplets, carriers of a source.
import {
  choice,
  definePart,
  integer,
  number,
  reference,
  type NumberSetting,
  type SettingUnit,
  type When,
  direction,
  nameAndSwitch,
  FAR,
} from '../settings';
import { corners, follows, meshFile, pose, shapeChoice, sizes } from './shapes';

const MADE: When = { path: 'born', is: ['burst', 'rate'] };
const FROM_FILE: When = { path: 'born', is: 'file' };
const FLYING: When = { path: 'born', is: ['burst', 'rate', 'children'] };

/** Which particles of a file are taken; at their ends the bounds say nothing. */
function picks() {
  const bound = <const P extends string>(
    path: P,
    label: string,
    unit: SettingUnit,
    range: [number, number],
    none: number,
    doc: string,
  ): NumberSetting<`pick.${P}`> =>
    number(`pick.${path}`, label, unit, range, none, doc, {
      when: FROM_FILE,
      word: { is: none, text: 'any' },
    });
  return [
    bound('slowest', 'slowest', 'm/s', [0, 1000], 0, 'Slower ones are left out.'),
    bound('fastest', 'fastest', 'm/s', [0, 1000], 1000, 'Faster ones are left out.'),
    bound('lowest', 'lowest', 'm', [-1000, 1000], -1000, 'Those that are below it are left out.'),
    bound('highest', 'highest', 'm', [-1000, 1000], 1000, 'Those that are above it are left out.'),
    bound('fewest', 'least crowded', '', [0, 100000], 0, 'Those with fewer others near them are left out.'),
    bound(
      'most',
      'most crowded',
      '',
      [0, 100000],
      100000,
      'Those with more others near them are left out: spray flies apart, a splash hangs together.',
    ),
    number(
      'pick.near',
      'near is within',
      'm',
      [0.0001, 100],
      0.05,
      'How close another one has to be to count as near.',
      {
        when: FROM_FILE,
      },
    ),
    bound(
      'youngest',
      'youngest',
      's',
      [0, 100000],
      0,
      'Younger ones are left out; the file needs a column age.',
    ),
    bound(
      'oldest',
      'oldest',
      's',
      [0, 100000],
      100000,
      'Older ones are left out; the file needs a column age.',
    ),
  ] as const;
}

export const PARTICLES = definePart({
  key: 'particles',
  grouped: true,
  title: 'Particles',
  many: true,
  keyable: true,
  sentence:
    '{name}, {born}[born=burst: , {count} of them][born=rate: , {rate} a second][born=children: , ' +
    '{rate} a second from each of {parent}][born=file: : {sequence}, those from {pick.slowest} to ' +
    '{pick.fastest} fast and {pick.lowest} to {pick.highest} high][born=burst|rate: , in a ' +
    '{shape}][born=burst|rate|children: , thrown {aim} at {speed}, within {spread}, living {life}], ' +
    'balls of {ball}; frames {from} to {until}.',
  settings: [
    ...nameAndSwitch('Particles', 'What they are called.'),
    choice(
      'born',
      'how they come',
      [
        ['burst', 'in a burst'],
        ['rate', 'in a stream'],
        ['children', 'off other particles'],
        ['file', 'from a file'],
      ],
      'A burst: so many, evenly between its two frames. A stream: so many a second. Children: left ' +
        'behind along the way of others. A file: a sequence of PLY or CSV files.',
    ),
    integer('count', 'count', '', [1, 1000000], 500, 'How many there are in all.', {
      when: { path: 'born', is: 'burst' },
    }),
    number('rate', 'rate', '1/s', [0, 1e7], 200, 'How many a second; of children: from each parent.', {
      when: { path: 'born', is: ['rate', 'children'] },
    }),
    reference('parent', 'parents', ['particles'], 'The particles that they spring from.', {
      path: 'born',
      is: 'children',
    }),
    reference('sequence', 'file', ['files'], 'The sequence of particles that was brought in.', {
      path: 'born',
      is: 'file',
    }),
    ...picks(),
    shapeChoice(
      ['sphere', 'box', 'cylinder', 'disc', 'ring', 'plane', 'path', 'mesh'],
      'Where they are born.',
      MADE,
    ),
    meshFile(),
    ...pose([0, 0.4, 0], MADE),
    follows(),
    ...sizes(0.1, 0.2),
    corners(),
    choice(
      'fill',
      'where in it',
      [
        ['filled', 'anywhere inside'],
        ['surface', 'on its surface'],
      ],
      'Anywhere inside the shape, or on its surface.',
      { when: MADE },
    ),
    choice(
      'aim',
      'direction',
      [
        ['along', 'one way'],
        ['outward', 'away from the middle'],
        ['normal', 'out of the surface'],
      ],
      'Where they are thrown. Of children: one way, or the way their parent goes.',
      { when: FLYING },
    ),
    ...direction('direction', 'direction', [0, 1, 0], 'Only its direction counts.', {
      path: 'aim',
      is: 'along',
    }),
    number(
      'spread',
      'spread',
      '°',
      [0, 180],
      20,
      'Half angle of the cone about the direction; 180: every way alike.',
      { when: FLYING },
    ),
    number('speed', 'speed', 'm/s', [-1000, 1000], 1, 'How fast they are thrown.', { when: FLYING }),
    number('vary', 'speed variation', '%', [0, 100], 20, 'How much the speed differs from one to the next.', {
      when: FLYING,
    }),
    number(
      'inherit',
      'takes along',
      '%',
      [0, 200],
      100,
      'How much of the speed of their emitter or parent they start with.',
      {
        when: FLYING,
      },
    ),
    number('life', 'life', 's', [0, 100000], 2, 'How long they live.', {
      when: FLYING,
      word: { is: 0, text: 'for ever' },
    }),
    number(
      'lifeVary',
      'life variation',
      '%',
      [0, 100],
      20,
      'How much the life differs from one to the next.',
      { when: FLYING },
    ),
    number(
      'ball',
      'radius',
      'm',
      [0.00001, FAR],
      0.02,
      'Radius in the world. What they give off as a source is a ball of it.',
    ),
    number(
      'ballVary',
      'radius variation',
      '%',
      [0, 100],
      30,
      'How much the radius differs from one to the next.',
      { when: FLYING },
    ),
    number(
      'endSize',
      'size at the end',
      '%',
      [0, 10000],
      100,
      'Radius at the end of the life, of what it was at first.',
      { when: FLYING },
    ),
    number('gravity', 'gravity', 'm/s²', [-1000, 1000], 9.81, 'Pulls down; below 0 up.', { when: FLYING }),
    number(
      'drag',
      'drag',
      's',
      [0, 100000],
      0.5,
      'Time in which they take up the air’s speed: short for dust, long for grains. They fall at ' +
        'gravity times it.',
      {
        when: FLYING,
        word: { is: 0, text: 'none' },
      },
    ),
    number(
      'churn',
      'turbulence',
      'm/s²',
      [0, 1000],
      0,
      'A push of their own that differs from place to place.',
      { when: FLYING },
    ),
    number('churnSize', 'turbulence size', 'm', [0.001, FAR], 0.3, 'Size of its whirls.', { when: FLYING }),
    number('churnPeriod', 'turbulence period', 's', [0.01, 1000], 1, 'Time in which it changes.', {
      when: FLYING,
    }),
    choice(
      'meets',
      'at an obstacle',
      [
        ['bounces', 'bounce off'],
        ['ends', 'end there'],
        ['passes', 'pass through'],
      ],
      'What happens where they meet an obstacle, or a side of the domain that is a wall.',
      { when: FLYING },
    ),
    number('bounce', 'bounce', '%', [0, 100], 30, 'What is left of the speed into it; 0: they slide along.', {
      when: { path: 'meets', is: 'bounces' },
    }),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another throw.', { when: FLYING }),
    integer('most', 'at most', '', [1, 1000000], 200000, 'Never more than these at once; sizes the memory.', {
      when: FLYING,
    }),
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'First frame in which any are born.'),
    integer('until', 'until frame', 'frames', [0, 100000], 100000, 'Last frame in which any are born.', {
      word: { is: 100000, text: 'the end' },
    }),
  ],
});
