// Pushes of the air that are limited to a place.
import { choice, flag, integer, number, text, vector, type Part } from '../settings';
import { corners, FAR, pose, shapeChoice, sizes } from './shapes';

const DRAWN = ['jet', 'spin', 'still', 'shear', 'path'];

export const CURRENTS: Part = {
  key: 'currents',
  title: 'Currents',
  many: true,
  keyable: true,
  sentence:
    '{name}, in a {shape}[shape=sphere: of radius {radius}][shape=cylinder: of radius {radius}, {size.1} high][shape=box: {size.0} by {size.1} by {size.2}], {does}[does=jet|path: at {speed}][does=spin: by {turning}][does=point: by {pull}][does=shear: by {shear}][does=jet|spin|still|shear|path: within {within}]; its edge is {soft} soft.',
  settings: [
    text('name', 'name', 'Current', 'What it is called.'),
    flag('on', 'on', true, 'Off: kept in the recipe, without effect.'),
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
      ],
      'A jet, a fan; a whirl; a pull or a push; a drag; layers that slide over each other; a current along corners.',
    ),
    shapeChoice(
      ['sphere', 'box', 'cylinder', 'path'],
      'Where it acts: all inside, fading over the soft edge. A current along a path acts around it.',
    ),
    ...pose([0, 0.5, 0]),
    ...sizes(0.4, 1),
    corners(),
    number('soft', 'soft edge', 'm', [0, FAR], 0.1, 'Width over which it fades outside of the shape.'),
    number('speed', 'speed', 'm/s', [-1000, 1000], 1, 'Speed that the air is drawn to.', { when: { path: 'does', is: ['jet', 'path'] } }),
    ...vector(
      'direction',
      ['direction x', 'direction y', 'direction z'],
      '',
      [-1000, 1000],
      [0, 1, 0],
      'Where it blows; of a spin its axis. Only its direction counts.',
      { path: 'does', is: ['jet', 'spin', 'shear'] },
    ),
    number('turning', 'turning', '°/s', [-36000, 36000], 180, 'How fast it turns, as a whole; along a path about it.', {
      when: { path: 'does', is: ['spin', 'path'] },
    }),
    number('pull', 'pull', 'm/s²', [-1000, 1000], 2, 'Acceleration toward the middle; below 0 away from it.', {
      when: { path: 'does', is: 'point' },
    }),
    number('shear', 'shear', '1/s', [-1000, 1000], 1, 'Speed gained with each metre of height over the middle.', {
      when: { path: 'does', is: 'shear' },
    }),
    number('toPath', 'pull to the path', '1/s', [0, 1000], 1, 'Speed toward the path for each metre from it.', {
      when: { path: 'does', is: 'path' },
    }),
    number('within', 'takes hold within', 's', [0.001, 1000], 0.3, 'Time in which the air goes 63 % of the way to its goal.', {
      when: { path: 'does', is: DRAWN },
    }),
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'First frame in which it acts.'),
    integer('until', 'until frame', 'frames', [0, 100000], 100000, 'Last frame in which it acts.', {
      word: { is: 100000, text: 'the end' },
    }),
  ],
};
