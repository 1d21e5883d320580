// Currents: pushes of the air that are limited to a shape with a soft edge, as the recipe says them.
import { choice, definePart, integer, number, reference, direction, nameAndSwitch, FAR } from '../settings';
import { shapeChoice, pose, follows, sizes, corners } from './shapes';
import { where } from './where';

const DRAWN = ['jet', 'spin', 'still', 'shear', 'path', 'pipe', 'volume'];

export const CURRENTS = definePart({
  key: 'currents',
  grouped: true,
  title: 'Currents',
  many: true,
  keyable: true,
  placed: ['speed', 'direction', 'turning', 'pull', 'shear', 'toPath', 'within'],
  live: true,
  sentence:
    '{name}, in a {shape}[shape=sphere: of radius {radius}][shape=cylinder: of radius {radius}, ' +
    '{size.1} high][shape=box: {size.0} by {size.1} by {size.2}], {does}[does=jet|path|pipe: at ' +
    '{speed}][does=spin: by {turning}][does=point: by {pull}][does=shear: by {shear}][does=volume: , ' +
    'the air of {file} times {times}][does=jet|spin|still|shear|path|pipe|volume: within {within}]; ' +
    'its edge is {soft} soft; {where}.',
  settings: [
    ...nameAndSwitch('Current'),
    choice(
      'does',
      'what it does',
      [
        ['jet', 'blows one way'],
        ['spin', 'spins about an axis'],
        ['point', 'pulls to its middle'],
        ['still', 'brings the air to rest'],
        ['shear', 'shears the air'],
        ['path', 'leads along a path'],
        ['pipe', 'takes in at one end and blows at the other'],
        ['volume', 'follows a volume'],
      ],
      'A jet, a fan; a whirl; a pull or a push; a drag; layers that slide over each other; a current ' +
        'along corners; a pipe; the velocity of a volume that was brought in, where it is known.',
    ),
    shapeChoice(
      ['sphere', 'box', 'cylinder', 'path'],
      'Where it acts: all inside, fading over the soft edge. A current along a path acts around it, a ' +
        'pipe in it and before its ends.',
    ),
    reference('file', 'file', ['files'], 'The volume whose air is followed.', { path: 'does', is: 'volume' }),
    number('times', 'times', '', [-100, 100], 1, 'Its speed times this.', {
      when: { path: 'does', is: 'volume' },
    }),
    ...pose([0, 0.5, 0]),
    follows(),
    ...sizes(0.4, 1),
    corners(),
    number('soft', 'soft edge', 'm', [0, FAR], 0.1, 'Width over which it fades outside of the shape.'),
    number('speed', 'speed', 'm/s', [-1000, 1000], 1, 'Speed that the air is drawn to.', {
      when: { path: 'does', is: ['jet', 'path', 'pipe'] },
    }),
    ...direction(
      'direction',
      'direction',
      [0, 1, 0],
      'Where it blows; of a spin its axis. Only its direction counts.',
      { path: 'does', is: ['jet', 'spin', 'shear'] },
    ),
    number(
      'turning',
      'turning',
      '°/s',
      [-36000, 36000],
      180,
      'How fast it turns, as a whole; along a path about it.',
      {
        when: { path: 'does', is: ['spin', 'path'] },
      },
    ),
    number(
      'pull',
      'pull',
      'm/s²',
      [-1000, 1000],
      2,
      'Acceleration toward the middle; below 0 away from it.',
      {
        when: { path: 'does', is: 'point' },
      },
    ),
    number(
      'shear',
      'shear',
      '1/s',
      [-1000, 1000],
      1,
      'Speed gained with each metre of height over the middle.',
      {
        when: { path: 'does', is: 'shear' },
      },
    ),
    number(
      'toPath',
      'pull to the path',
      '1/s',
      [0, 1000],
      1,
      'Speed toward the path for each metre from it.',
      {
        when: { path: 'does', is: 'path' },
      },
    ),
    number(
      'mouth',
      'reach of the ends',
      'm',
      [0, FAR],
      0.6,
      'How far from its first corner a pipe draws in, and from its last one blows.',
      {
        when: { path: 'does', is: 'pipe' },
      },
    ),
    number(
      'within',
      'takes hold within',
      's',
      [0.001, 1000],
      0.3,
      'Time in which the air goes 63 % of the way to its goal.',
      {
        when: { path: 'does', is: DRAWN },
      },
    ),
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'First frame in which it acts.'),
    integer('until', 'until frame', 'frames', [0, 100000], 100000, 'Last frame in which it acts.', {
      word: { is: 100000, text: 'the end' },
    }),
    where(),
  ],
});
