// What sources and obstacles share: where they stand, how they move, and the files that their shapes come
// from.
import {
  choice,
  type ChoiceSetting,
  definePart,
  integer,
  number,
  type PointsSetting,
  reference,
  type ReferenceSetting,
  text,
  vector,
  type When,
  position,
  FAR,
} from '../settings';

/** Metres: no place and no edge lies further out. */

const SHAPES = {
  sphere: 'sphere',
  box: 'box',
  cylinder: 'cylinder',
  disc: 'disc',
  ring: 'ring',
  plane: 'patch',
  path: 'path',
  mesh: 'mesh or volume',
  ground: 'ground',
  particles: 'cloud of particles',
} as const;
export type ShapeName = keyof typeof SHAPES;

/** @param called what shapes are called here, where that is not what they are called elsewhere */
export const shapeChoice = <const V extends string>(
  shapes: readonly V[],
  doc: string,
  when?: When,
  called: Readonly<Record<string, string>> = {},
): ChoiceSetting<'shape', V> =>
  choice(
    'shape',
    'shape',
    shapes.map((s) => [s, called[s] ?? (SHAPES as Readonly<Record<string, string>>)[s]] as const),
    doc,
    when ? { when } : {},
  );

export const sizes = (radius: number, edge: number) =>
  [
    number(
      'radius',
      'radius',
      'm',
      [0.001, FAR],
      radius,
      'Radius of the sphere, cylinder, disc, ring or path.',
      {
        when: { path: 'shape', is: ['sphere', 'cylinder', 'disc', 'ring', 'path'] },
      },
    ),
    number('tube', 'tube', 'm', [0.001, FAR], radius / 4, 'Radius of the ring’s tube.', {
      when: { path: 'shape', is: 'ring' },
    }),
    ...vector(
      'size',
      ['width', 'height', 'depth'],
      'm',
      [0.001, FAR],
      [edge, edge, edge],
      'Edges of the box; height of the cylinder and the disc; width and depth of the patch.',
      {
        path: 'shape',
        is: ['box', 'cylinder', 'disc', 'plane'],
      },
    ),
  ] as const;

/** Corners of a path. */
export const corners = (): PointsSetting<'points'> => ({
  kind: 'points',
  path: 'points',
  label: 'corners',
  default: [
    [-0.5, 0, 0],
    [0.5, 0, 0],
  ],
  doc: 'Corners of the path, about its middle.',
  when: { path: 'shape', is: 'path' },
});

/** Where it stands and how it goes. */
export const pose = (centre: [number, number, number], when?: When) =>
  [
    ...position(
      'centre',
      'centre',
      centre,
      'Middle of the shape in the world; of a mesh the place of its origin.',
      when,
    ),
    ...vector(
      'turn',
      'turn about',
      '°',
      [-36000, 36000],
      [0, 0, 0],
      'How it stands: turned about its middle, first about x, then y, then z.',
      when,
    ),
    choice(
      'motion',
      'motion',
      [
        ['still', 'stands still'],
        ['moves', 'moves'],
      ],
      'A steady motion. Keys on the centre and the turn move it too, and a mesh may have an animation of ' +
        'its own.',
      when ? { when } : {},
    ),
    ...vector(
      'velocity',
      'velocity',
      'm/s',
      [-1000, 1000],
      [0, 0, 0],
      'Steady speed from the first frame on.',
      {
        path: 'motion',
        is: 'moves',
      },
    ),
    number('spin', 'spin', '°/s', [-36000, 36000], 0, 'Turning about the upright axis through its middle.', {
      when: { path: 'motion', is: 'moves' },
    }),
  ] as const;

/** What carries it along. */
export const follows = (): ReferenceSetting<'follows'> => ({
  ...reference(
    'follows',
    'carried by',
    ['obstacles'],
    'An obstacle that it goes along with: its middle and turn are then those in the obstacle’s own axes.',
  ),
  none: 'nothing',
});

export const meshFile = (): ReferenceSetting<'file'> =>
  reference(
    'file',
    'file',
    ['files'],
    'The file that the mesh or the volume is in; bring it in on the shelf of files.',
    {
      path: 'shape',
      is: 'mesh',
    },
  );

const SOLID_KIND: When = { path: 'kind', is: ['mesh', 'particles', 'volume'] };

/** Meshes, particles and pictures that were brought in, and how they are read. */
export const FILES = definePart({
  key: 'files',
  title: 'Files',
  many: true,
  keyable: false,
  sentence: '{name}, a {kind}[kind=mesh|particles|volume: with {scale} to its unit, {up} up].',
  settings: [
    text('name', 'name', 'file.obj', 'Name of the file; for a sequence that of its first frame.'),
    text(
      'sha256',
      'content',
      '',
      'What the file’s bytes must hash to; empty: whatever stands under the name.',
      true,
    ),
    choice(
      'kind',
      'kind',
      [
        ['mesh', 'mesh'],
        ['particles', 'cloud of particles'],
        ['picture', 'picture'],
        ['volume', 'volume'],
      ],
      'What is in it.',
    ),
    number(
      'scale',
      'scale',
      'm',
      [1e-6, 1e6],
      1,
      'Metres to one unit of the file: 0.01 where it was made in centimetres.',
      {
        when: SOLID_KIND,
      },
    ),
    choice(
      'up',
      'up',
      [
        ['y', 'y'],
        ['z', 'z'],
      ],
      'Which axis of the file points up.',
      { when: SOLID_KIND },
    ),
    integer(
      'start',
      'starts at frame',
      'frames',
      [-100000, 100000],
      1,
      'Frame of the shot at which a sequence or an animation begins.',
      {
        when: SOLID_KIND,
      },
    ),
    number('rate', 'rate', 'fps', [0, 1000], 0, 'Frames a second of a sequence.', {
      when: SOLID_KIND,
      word: { is: 0, text: 'that of the shot' },
    }),
    number(
      'pace',
      'pace',
      '%',
      [0.1, 10000],
      100,
      'How fast a sequence or an animation goes, of its own pace.',
      { when: SOLID_KIND },
    ),
    choice(
      'after',
      'after its end',
      [
        ['hold', 'it stands still'],
        ['loop', 'it starts again'],
      ],
      'What a sequence or an animation does after its last frame.',
      { when: SOLID_KIND },
    ),
  ],
});
