// What stands in the way of the air.
import { choice, definePart, number, nameAndSwitch, FAR } from '../settings';
import { meshFile, pose, shapeChoice, sizes } from './shapes';

export const OBSTACLES = definePart({
  key: 'obstacles',
  grouped: true,
  title: 'Obstacles',
  many: true,
  keyable: true,
  sentence:
    '{name}, a {shape}[shape=sphere: of radius {radius}][shape=box: {size.0} by {size.1} by ' +
    '{size.2}][shape=cylinder: of radius {radius}, {size.1} high][shape=ring: of radius {radius}, its ' +
    'tube {tube}][shape=mesh: from {file}], {facing}, {motion}[motion=moves: by {velocity.0}, ' +
    '{velocity.1}, {velocity.2}, turning by {spin}].',
  settings: [
    ...nameAndSwitch('Obstacle'),
    shapeChoice(
      ['box', 'sphere', 'cylinder', 'ring', 'ground', 'mesh'],
      'A simple shape, the ground (all that lies under it), or a mesh.',
    ),
    meshFile(),
    ...pose([0, 0.5, 0]),
    ...sizes(0.4, 1),
    choice(
      'facing',
      'facing',
      [
        ['solid', 'solid'],
        ['vessel', 'a vessel: the air is inside'],
      ],
      'Solid: the air is around it. Vessel: turned inside-out, the air is in it and all around it is solid.',
    ),
    number('grow', 'thickness', 'm', [-FAR, FAR], 0, 'Pushes the surface outward; below 0 inward.'),
    number(
      'stick',
      'stick',
      '',
      [0, 1],
      0,
      'How far the air beside it takes on its speed: 0 slips along, 1 sticks.',
    ),
  ],
});
