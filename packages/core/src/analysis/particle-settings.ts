// What particles through a cache are asked for: how many, from where, which way.
import { DocumentKind } from '../recipe/document';
import { shapeChoice, sizes } from '../recipe/parts/shapes';
import { choice, definePart, flag, integer, type PartValues, position } from '../recipe/settings';
import type { StandingPart } from '../recipe/types';

const SHAPED = { path: 'seeds', is: 'shape' } as const;
const PART = definePart({
  key: 'particles',
  title: 'Particles through a cache',
  many: false,
  keyable: false,
  sentence:
    '{count} particles, {born}[born=stream: from frame {from} to {until}], {seeds}[seeds=shape: , a ' +
    '{shape}], {way} through the cache in {substeps} steps a frame[trail=true: , with trails of ' +
    '{length}].',
  settings: [
    integer('count', 'count', '', [1, 5_000_000], 10000, 'How many there are in all.'),
    choice(
      'born',
      'when',
      [
        ['burst', 'all at once'],
        ['stream', 'in a stream'],
      ],
      'All in the frame that they start from, or evenly over some frames.',
    ),
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'The first frame of the stream.', {
      when: { path: 'born', is: 'stream' },
    }),
    integer('until', 'until frame', 'frames', [0, 100000], 100000, 'The last frame of the stream.', {
      when: { path: 'born', is: 'stream' },
      word: { is: 100000, text: 'the end' },
    }),
    choice(
      'seeds',
      'where they start',
      [
        ['density', 'in the medium'],
        ['source', 'in the recipe’s sources'],
        ['shape', 'in a shape'],
      ],
      'In the medium: the denser it is the more of them. In the sources that gave it off. Or in a ' +
        'shape of their own.',
    ),
    shapeChoice(['sphere', 'box', 'cylinder', 'disc', 'ring', 'plane'], 'Where they start.', SHAPED),
    ...position('centre', 'centre', [0, 0.5, 0], 'Middle of the shape in the world.', SHAPED),
    ...sizes(0.2, 0.4),
    choice(
      'way',
      'direction in time',
      [
        ['forward', 'forward'],
        ['backward', 'back'],
      ],
      'Forward from the first frame, or back from the last: where did what is here come from?',
    ),
    integer(
      'substeps',
      'steps a frame',
      '',
      [1, 16],
      2,
      'Parts of a frame that their way is found in: more for tight whirls.',
    ),
    choice(
      'leaving',
      'where no velocity is kept',
      [
        ['coast', 'go on as they were'],
        ['end', 'end there'],
      ],
      'A cache keeps velocity in the medium, or in all of the air if its recipe says so.',
    ),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, other places.'),
    flag('density', 'density', false, 'Write the density where each one is.'),
    flag('temperature', 'temperature', false, 'Write the temperature where each one is.'),
    flag('colour', 'colour', false, 'Write the medium’s colour where each one is.'),
    flag('trail', 'trails', false, 'Also write the way of each as a line.'),
    integer('length', 'trail', 'frames', [2, 100], 12, 'How many frames a trail reaches back.', {
      when: { path: 'trail', is: 'true' },
    }),
  ],
});

export type ParticleAdvection = PartValues<typeof PART>;

const KIND = new DocumentKind<{ particles: ParticleAdvection & Partial<StandingPart> }>(
  'particles through a cache',
  1,
  [PART],
);
export const PARTICLE_ADVECTION = {
  part: PART,
  /** @throws DocumentError */
  parse: (settings: unknown): ParticleAdvection => KIND.parse({ particles: settings }).particles,
  start: (): ParticleAdvection => KIND.defaultPart<ParticleAdvection>('particles'),
};
