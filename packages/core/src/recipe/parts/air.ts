// How the air moves, what fades, and how exactly that is computed.
import { choice, integer, number, type Part } from '../settings';
import { FAR } from './shapes';

export const BUOYANCY: Part = {
  key: 'buoyancy',
  title: 'Buoyancy',
  many: false,
  keyable: true,
  sentence: 'Warm rises and cold sinks by {lift}; full density weighs {weight}.',
  settings: [
    number(
      'lift',
      'lift',
      'm/s² per K',
      [-1, 1],
      0.033,
      'Upward acceleration of air one kelvin warmer: gravity over the air temperature, 9.81 / 295.',
    ),
    number('weight', 'weight', 'm/s²', [-100, 100], 0.2, 'Downward acceleration at density 1; negative makes the medium light.'),
  ],
};

export const WIND: Part = {
  key: 'wind',
  title: 'Wind',
  many: false,
  keyable: true,
  sentence: 'Wind of {speed} toward {heading} takes hold within {grip}; gusts of {gust} lasting {gustLength}.',
  settings: [
    number('speed', 'speed', 'm/s', [0, 100], 0, 'Speed of the steady wind; 0 is none.'),
    number(
      'heading',
      'heading',
      '°',
      [-360, 360],
      0,
      'Where it blows to, seen from above: 0° along +x (right), 90° along +z (to the front).',
    ),
    number('rise', 'rise', '°', [-90, 90], 0, 'Upward slope of the wind.'),
    number('grip', 'takes hold within', 's', [0.01, 1000], 2, 'Time in which still air reaches 63 % of the wind.'),
    number('gust', 'gust', 'm/s', [0, 100], 0, 'Greatest change of speed by gusts.'),
    number('gustLength', 'gust length', 's', [0.05, 1000], 1.5, 'Mean time from gust to gust.'),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another course of gusts.'),
  ],
};

export const TURBULENCE: Part = {
  key: 'turbulence',
  title: 'Turbulence',
  many: false,
  keyable: true,
  sentence:
    'Turbulence pushes with {strength} in whirls of {size}, {octaves} octaves, each {roughness} of the one before, turning every {period}.',
  settings: [
    number('strength', 'strength', 'm/s²', [0, 1000], 0, 'Typical acceleration; 0 is none.'),
    number('size', 'size', 'm', [0.005, FAR], 0.5, 'Width of the largest whirls, in the world: it does not depend on voxels.'),
    integer(
      'octaves',
      'octaves',
      '',
      [1, 6],
      2,
      'Finer layers, each half the size of the one before. Layers finer than four voxels are left out.',
    ),
    number('roughness', 'roughness', '', [0, 1], 0.5, 'Strength of a layer against the one before.'),
    number('period', 'period', 's', [0.05, 1000], 2, 'Time in which the pattern has turned once.'),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another pattern.'),
  ],
};

export const VORTICITY: Part = {
  key: 'vorticity',
  title: 'Curl',
  many: false,
  keyable: true,
  sentence: 'Small whirls are kept alive by {strength}; rolls {largeSize} wide by {large}.',
  settings: [
    number(
      'strength',
      'confinement',
      '',
      [0, 20],
      0,
      'Vorticity confinement: gives back the curl that the grid loses, so it weakens as voxels get finer. High values fizz.',
    ),
    number(
      'large',
      'large-scale confinement',
      '',
      [0, 20],
      0,
      'The same on the smoothed air: strengthens rolls of a size in the world, whatever the voxels.',
    ),
    number(
      'largeSize',
      'size of the rolls',
      'm',
      [0.01, FAR],
      0.5,
      'Width of the rolls that large-scale confinement strengthens; at least four voxels.',
    ),
  ],
};

export const FADING: Part = {
  key: 'fading',
  title: 'Fading',
  many: false,
  keyable: true,
  sentence: 'Half-life of density: {density}; of the temperature’s difference to the air: {temperature}.',
  settings: [
    number('density', 'density half-life', 's', [0, 10000], 0, 'Time in which density thins to half; 0 is never.', {
      word: { is: 0, text: 'never' },
    }),
    number(
      'temperature',
      'temperature half-life',
      's',
      [0, 10000],
      4,
      'Cooling: time in which the difference to the air halves; 0 is never.',
      { word: { is: 0, text: 'never' } },
    ),
  ],
};

export const SPREADING: Part = {
  key: 'spreading',
  title: 'Spreading',
  many: false,
  keyable: true,
  sentence:
    'The air’s viscosity is {viscosity}, and the room’s walls hold it by {stick}. Density spreads by {density}, temperature by {temperature}.',
  settings: [
    number(
      'viscosity',
      'viscosity',
      'm²/s',
      [0, 1000],
      0,
      'Kinematic viscosity: evens speeds out. Air is 1.5e-5, far below what a grid loses anyway; syrup 1e-3.',
    ),
    number('density', 'diffusion of density', 'm²/s', [0, 1000], 0, 'How fast density seeps into its surroundings.'),
    number('temperature', 'diffusion of temperature', 'm²/s', [0, 1000], 0, 'How fast warmth seeps into its surroundings.'),
    number('stick', 'stick of the walls', '', [0, 1], 0, 'With viscosity: 0 lets air slip along the room’s walls, 1 holds it there.'),
  ],
};

const CARRIED = [
  ['sharp', 'sharply'],
  ['kept', 'without loss'],
  ['soft', 'softly'],
] as const;
const CARRIED_DOC =
  'Sharply: fine detail stays, the sum drifts a little. Without loss: the sum stays to the last digit, a little softer. Softly: first order, smears.';

export const METHOD: Part = {
  key: 'method',
  title: 'Method',
  many: false,
  keyable: false,
  sentence: 'Density is carried {density}, temperature {temperature}. Paths of the air are followed to {trace} order; motion is {motion}.',
  settings: [
    choice('density', 'density', CARRIED, CARRIED_DOC),
    choice('temperature', 'temperature', CARRIED, CARRIED_DOC),
    choice(
      'motion',
      'motion',
      [
        ['plain', 'carried plainly'],
        ['reflected', 'reflected half-way'],
      ],
      'Reflected: solves the pressure twice a substep and keeps whirls much livelier at the same voxel size; about one and a half times the time.',
    ),
    {
      kind: 'choice',
      path: 'trace',
      label: 'path order',
      default: 'second',
      options: [
        { value: 'second', label: 'second' },
        { value: 'third', label: 'third' },
      ],
      doc: 'How exactly the way of the air through a substep is followed. Third holds tight whirls better at large substeps and costs about a tenth more.',
    },
  ],
};
