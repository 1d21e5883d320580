// Regions: places with soft edges that limit a force or hold other settings inside, and what they change.
import {
  choice,
  definePart,
  formula,
  integer,
  number,
  reference,
  text,
  nameAndSwitch,
  FAR,
} from '../settings';
import { corners, follows, meshFile, pose, shapeChoice, sizes } from './shapes';

const SOLID = ['sphere', 'box', 'cylinder', 'ring', 'path', 'ground', 'mesh'];
const STANDS = { path: 'shape', is: SOLID };
const NOISE = { path: 'shape', is: 'noise' };
const MEASURED = { path: 'shape', is: ['noise', 'channel', 'formula'] };

/** What a region by a channel measures, and the formula for it. */
export const REGION_MEASURES = {
  density: 'density',
  temperature: 'temperature / K',
  speed: 'speed / (m / s)',
  rise: 'velocity.y / (m / s)',
  height: 'y / m',
} as const;

export const REGIONS = definePart({
  key: 'regions',
  grouped: true,
  title: 'Regions',
  many: true,
  keyable: true,
  live: true,
  sentence:
    '{name}, {shape}[shape=sphere: of radius {radius}][shape=cylinder: of radius {radius}, {size.1} ' +
    'high][shape=box: {size.0} by {size.1} by {size.2}][shape=ring: of radius {radius}, its tube ' +
    '{tube}][shape=path: of radius {radius}][shape=mesh: from {file}][shape=noise: in lumps of ' +
    '{lumps}][shape=channel: {channel}][shape=noise|channel|formula:, whole from {high}, nothing below ' +
    '{low}][shape=sphere|box|cylinder|ring|path|ground|mesh:; its edge is {soft} ' +
    'soft][facing=outside:, taken inside out][joins=both:, as far as it lies in ' +
    '{other}][joins=either:, together with {other}][joins=without:, without {other}].',
  settings: [
    ...nameAndSwitch(
      'Region',
      'What it is called.',
      'Off: it changes nothing, and what is limited to it acts everywhere.',
    ),
    shapeChoice(
      [...SOLID, 'noise', 'channel', 'formula'],
      'A simple shape, all under a plane, a mesh, lumps of noise, where a channel has certain values, ' +
        'or a formula of your own.',
      undefined,
      {
        ground: 'all under a plane',
        noise: 'lumps of noise',
        channel: 'wherever there is much',
        formula: 'by a formula',
      },
    ),
    meshFile(),
    ...pose([0, 0.5, 0], STANDS),
    follows(),
    ...sizes(0.4, 1),
    corners(),
    number('soft', 'soft edge', 'm', [0, FAR], 0.1, 'Width over which it fades outside of the shape.', {
      when: STANDS,
    }),
    number('lumps', 'lumps', 'm', [0.002, FAR], 0.4, 'Width of the lumps.', { when: NOISE }),
    number('period', 'period', 's', [0, 1000], 0, 'Time in which the lumps become others.', {
      when: NOISE,
      word: { is: 0, text: 'they stay' },
    }),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, other lumps.', { when: NOISE }),
    choice(
      'channel',
      'channel',
      [
        ['density', 'density'],
        ['temperature', 'temperature (K)'],
        ['speed', 'speed (m/s)'],
        ['rise', 'speed upward (m/s)'],
        ['height', 'height (m)'],
      ],
      'What is measured in each voxel.',
      { when: { path: 'shape', is: 'channel' } },
    ),
    formula(
      'text',
      'formula',
      'value',
      'noise(position / 0.3) * smoothstep(0, 1, density)',
      'A number for each voxel.',
      {
        path: 'shape',
        is: 'formula',
      },
    ),
    number(
      'low',
      'nothing below',
      '',
      [-1e6, 1e6],
      0.4,
      'Value at which the region begins. Above “whole from” it is turned round.',
      {
        when: MEASURED,
      },
    ),
    number('high', 'whole from', '', [-1e6, 1e6], 0.6, 'Value from which on a voxel lies wholly in it.', {
      when: MEASURED,
    }),
    {
      kind: 'profile',
      path: 'edge',
      label: 'edge',
      default: [
        [0, 0],
        [1, 1],
      ],
      doc:
        'How it goes from nothing, on the left, to whole, on the right: over the soft edge, or between ' +
        'the two values.',
    },
    choice(
      'facing',
      'taken',
      [
        ['inside', 'as it is'],
        ['outside', 'inside out'],
      ],
      'Inside out: all that lies outside of it.',
    ),
    choice(
      'joins',
      'joins',
      [
        ['alone', 'alone'],
        ['both', 'as far as it lies in'],
        ['either', 'together with'],
        ['without', 'without'],
      ],
      'With another region: only what is in both, what is in either, or this one without the other.',
    ),
    reference('other', 'other region', ['regions'], 'The region that it is joined with.', {
      path: 'joins',
      is: ['both', 'either', 'without'],
    }),
  ],
});

export const CHANGES = definePart({
  key: 'changes',
  title: 'Changes',
  many: true,
  keyable: true,
  live: true,
  sentence: '{name}: {path} is {how} {amount}.',
  settings: [
    ...nameAndSwitch('Change'),
    reference('region', 'region', ['regions'], 'Where it holds.'),
    text(
      'path',
      'setting',
      'wind/speed',
      'Which number: the part, for one of a list its id, and the setting: currents/jet/speed.',
    ),
    choice(
      'how',
      'how',
      [
        ['times', 'multiplied by'],
        ['plus', 'raised by'],
        ['is', 'replaced by'],
      ],
      'What is done to the setting inside; on the soft edge what it makes of the forces goes over smoothly.',
    ),
    number('amount', 'amount', '', [-1e6, 1e6], 0, 'By how much; in the unit of the setting.'),
  ],
});
