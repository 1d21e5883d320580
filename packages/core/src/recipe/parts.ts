// The parts of a recipe and their settings.
import { integer, number, vector, type ChoiceSetting, type Part } from './settings';

const side = (path: string, label: string, value: string): ChoiceSetting => ({
  kind: 'choice',
  path,
  label,
  default: value,
  options: [
    { value: 'open', label: 'lets go' },
    { value: 'wall', label: 'holds' },
  ],
  doc: 'Lets go: air and medium pass and are gone. Holds: a wall.',
});

const SHAPE: ChoiceSetting = {
  kind: 'choice',
  path: 'shape',
  label: 'shape',
  default: 'sphere',
  options: [
    { value: 'sphere', label: 'sphere' },
    { value: 'box', label: 'box' },
  ],
  doc: 'A sphere with a radius or a box with three edges.',
};
const FAR = 1000;

export const PARTS: readonly Part[] = [
  {
    key: 'space',
    title: 'Space',
    many: false,
    sentence:
      'A room {size.0} wide, {size.1} high, {size.2} deep, in voxels of {voxelSize}. Floor {sides.floor}, top {sides.top}, left {sides.left}, right {sides.right}, back {sides.back}, front {sides.front}.',
    settings: [
      ...vector('size', ['width', 'height', 'depth'], 'm', [0.01, FAR], [4, 3, 3], 'Edge of the room that is simulated.'),
      ...vector('corner', ['corner x', 'corner y', 'corner z'], 'm', [-FAR, FAR], [-2, 0, -1.5], 'Least corner of the room in the world.'),
      number(
        'voxelSize',
        'voxel size',
        'm',
        [0.001, 10],
        0.05,
        'Edge of a voxel at working size. Half of it costs about sixteen times as much.',
      ),
      side('sides.floor', 'floor', 'wall'),
      side('sides.top', 'top', 'open'),
      side('sides.left', 'left', 'open'),
      side('sides.right', 'right', 'open'),
      side('sides.back', 'back', 'open'),
      side('sides.front', 'front', 'open'),
      number('frameRate', 'frame rate', 'fps', [1, 240], 24, 'Frames a second of the shot.'),
      integer('firstFrame', 'first frame', 'frames', [0, 100000], 1, 'The run starts here.'),
      integer('lastFrame', 'last frame', 'frames', [0, 100000], 120, 'The run ends here.'),
      number('timeScale', 'time scale', '', [0.01, 10], 1, 'Simulated seconds for a second of the shot: 0.5 is slow motion.'),
      number('cfl', 'CFL', '', [0.25, 5], 3, 'Voxels that the fastest air may cross in one substep. Lower is more exact and slower.'),
      integer('substepsLeast', 'least substeps', '', [1, 32], 1, 'Substeps of a frame even when the air is slow.'),
      integer('substepsMost', 'most substeps', '', [1, 64], 8, 'Substeps of a frame even when the air is fast; reaching it is reported.'),
    ],
  },
  {
    key: 'sources',
    title: 'Sources',
    many: true,
    sentence:
      '{name}, a {shape}[shape=sphere: of radius {radius}][shape=box: {size.0} by {size.1} by {size.2}], gives {rate} density a second, {temperature} against the air, from frame {from} to {until}.',
    settings: [
      { kind: 'text', path: 'name', label: 'name', default: 'Source', doc: 'What it is called.' },
      { kind: 'flag', path: 'on', label: 'on', default: true, doc: 'Off: kept in the recipe, without effect.' },
      SHAPE,
      ...vector('centre', ['centre x', 'centre y', 'centre z'], 'm', [-FAR, FAR], [0, 0.4, 0], 'Middle of the shape in the world.'),
      number('radius', 'radius', 'm', [0.001, FAR], 0.25, 'Radius of the sphere.', { when: { path: 'shape', is: 'sphere' } }),
      ...vector('size', ['width', 'height', 'depth'], 'm', [0.001, FAR], [0.5, 0.5, 0.5], 'Edges of the box.', {
        path: 'shape',
        is: 'box',
      }),
      number('rate', 'density rate', '1/s', [0, 1000], 2, 'Density added each second at the inside of the shape.'),
      number('temperature', 'temperature', 'K', [-300, 3000], 20, 'Kelvin above the air (below 0: colder) that the shape holds.'),
      integer('from', 'from frame', 'frames', [0, 100000], 1, 'First frame in which it gives off anything.'),
      integer('until', 'until frame', 'frames', [0, 100000], 100000, 'Last frame in which it gives off anything.', {
        word: { is: 100000, text: 'the end' },
      }),
    ],
  },
  {
    key: 'obstacles',
    title: 'Obstacles',
    many: true,
    sentence: '{name}, a {shape}[shape=sphere: of radius {radius}][shape=box: {size.0} by {size.1} by {size.2}], stands still.',
    settings: [
      { kind: 'text', path: 'name', label: 'name', default: 'Obstacle', doc: 'What it is called.' },
      { kind: 'flag', path: 'on', label: 'on', default: true, doc: 'Off: kept in the recipe, without effect.' },
      { ...SHAPE, default: 'box' },
      ...vector('centre', ['centre x', 'centre y', 'centre z'], 'm', [-FAR, FAR], [0, 0.5, 0], 'Middle of the shape in the world.'),
      number('radius', 'radius', 'm', [0.001, FAR], 0.4, 'Radius of the sphere.', { when: { path: 'shape', is: 'sphere' } }),
      ...vector('size', ['width', 'height', 'depth'], 'm', [0.001, FAR], [1, 1, 1], 'Edges of the box.', { path: 'shape', is: 'box' }),
    ],
  },
  {
    key: 'buoyancy',
    title: 'Buoyancy',
    many: false,
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
  },
  {
    key: 'wind',
    title: 'Wind',
    many: false,
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
  },
  {
    key: 'turbulence',
    title: 'Turbulence',
    many: false,
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
  },
  {
    key: 'vorticity',
    title: 'Curl',
    many: false,
    sentence: 'Small whirls are kept alive by {strength}.',
    settings: [
      number(
        'strength',
        'confinement',
        '',
        [0, 20],
        0,
        'Vorticity confinement: gives back the curl that the grid loses. High values fizz.',
      ),
    ],
  },
  {
    key: 'fading',
    title: 'Fading',
    many: false,
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
  },
  {
    key: 'method',
    title: 'Method',
    many: false,
    sentence: 'Paths of the air are followed to {trace} order.',
    settings: [
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
  },
  {
    key: 'keep',
    title: 'Keep',
    many: false,
    sentence: 'Keep density, temperature {temperature}, velocity {velocity}, as {precision} floats, where density is above {threshold}.',
    settings: [
      { kind: 'flag', path: 'temperature', label: 'temperature', default: true, doc: 'Write the temperature channel.' },
      {
        kind: 'flag',
        path: 'velocity',
        label: 'velocity',
        default: true,
        doc: 'Write the velocity channel (motion blur, particles, refining).',
      },
      {
        kind: 'choice',
        path: 'precision',
        label: 'precision',
        default: 'half',
        options: [
          { value: 'half', label: 'half' },
          { value: 'float', label: 'full' },
        ],
        doc: 'Half floats take half the disk; full floats are exact.',
      },
      number('threshold', 'threshold', '', [0, 1], 0.001, 'Voxels thinner than this are not written.'),
    ],
  },
];
