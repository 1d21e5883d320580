// The parts of a recipe and their settings.
import { choice, flag, integer, number, vector, type ChoiceSetting, type Part } from './settings';

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

const CARRIED = [
  ['sharp', 'sharply'],
  ['kept', 'without loss'],
  ['soft', 'softly'],
] as const;
const CARRIED_DOC =
  'Sharply: fine detail stays, the sum drifts a little. Without loss: the sum stays to the last digit, a little softer. Softly: first order, smears.';

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
    key: 'window',
    title: 'Window',
    many: false,
    sentence:
      'Computed {mode}[mode=fit: where density is above {threshold}, with {margin} voxels around it, shrinking from frame {shrinkFrom}].',
    settings: [
      choice(
        'mode',
        'window',
        [
          ['whole', 'in the whole room'],
          ['fit', 'only around the medium'],
        ],
        'The whole room, or a window in it that grows and shrinks with the medium; the room is then its limit. Saves time and memory where the medium fills a small part.',
      ),
      {
        ...number('threshold', 'threshold', '', [0, 10], 0.002, 'Density that the window has to hold.'),
        when: { path: 'mode', is: 'fit' },
      },
      { ...integer('margin', 'margin', '', [2, 64], 8, 'Voxels of clear air around the medium.'), when: { path: 'mode', is: 'fit' } },
      {
        ...integer('shrinkFrom', 'shrinks from frame', 'frames', [0, 100000], 1, 'Before this frame the window only grows.'),
        when: { path: 'mode', is: 'fit' },
      },
      {
        kind: 'text',
        path: 'travel',
        label: 'travels with',
        default: 'nothing',
        doc: 'Name of a moving obstacle that the room goes along with, by whole voxels; or: nothing.',
      },
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
      number(
        'expansion',
        'expansion',
        '1/s',
        [-100, 100],
        0,
        'Air given off: part of its own volume each second; pushes everything outward, below 0 inward.',
      ),
      ...vector('colour', ['red', 'green', 'blue'], '', [0, 1], [1, 1, 1], 'Colour of what it gives off, where colour is kept.'),
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
    sentence:
      '{name}, a {shape}[shape=sphere: of radius {radius}][shape=box: {size.0} by {size.1} by {size.2}], {motion}[motion=moves: by {velocity.0}, {velocity.1}, {velocity.2}, turning by {spin}].',
    settings: [
      { kind: 'text', path: 'name', label: 'name', default: 'Obstacle', doc: 'What it is called.' },
      { kind: 'flag', path: 'on', label: 'on', default: true, doc: 'Off: kept in the recipe, without effect.' },
      { ...SHAPE, default: 'box' },
      ...vector('centre', ['centre x', 'centre y', 'centre z'], 'm', [-FAR, FAR], [0, 0.5, 0], 'Middle of the shape in the world.'),
      number('radius', 'radius', 'm', [0.001, FAR], 0.4, 'Radius of the sphere.', { when: { path: 'shape', is: 'sphere' } }),
      ...vector('size', ['width', 'height', 'depth'], 'm', [0.001, FAR], [1, 1, 1], 'Edges of the box.', { path: 'shape', is: 'box' }),
      ...vector(
        'turn',
        ['turn about x', 'turn about y', 'turn about z'],
        '°',
        [-360, 360],
        [0, 0, 0],
        'How it stands: turned about its middle, first about x, then y, then z.',
      ),
      choice(
        'motion',
        'motion',
        [
          ['still', 'stands still'],
          ['moves', 'moves'],
        ],
        'A moving obstacle pushes the air with the speed of its surface.',
      ),
      ...vector(
        'velocity',
        ['velocity x', 'velocity y', 'velocity z'],
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
      number('stick', 'stick', '', [0, 1], 0, 'How far the air beside it takes on its speed: 0 slips along, 1 sticks.'),
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
    key: 'spreading',
    title: 'Spreading',
    many: false,
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
  },
  {
    key: 'method',
    title: 'Method',
    many: false,
    sentence:
      'Density is carried {density}, temperature {temperature}. Paths of the air are followed to {trace} order; motion is {motion}.',
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
  },
  {
    key: 'keep',
    title: 'Keep',
    many: false,
    sentence:
      'Keep density, temperature {temperature}, velocity {velocity}, colour {colour}, age {age}, coordinates {coordinates}, as {precision} floats, where density is above {threshold}.',
    settings: [
      { kind: 'flag', path: 'temperature', label: 'temperature', default: true, doc: 'Write the temperature channel.' },
      {
        kind: 'flag',
        path: 'velocity',
        label: 'velocity',
        default: true,
        doc: 'Write the velocity channel (motion blur, particles, refining).',
      },
      flag('colour', 'colour', false, 'Carry the sources’ colours with the medium, mixed by mass, and write them.'),
      flag('age', 'age', false, 'Carry the time since the medium was given off, and write it.'),
      flag('coordinates', 'coordinates', false, 'Carry where each bit of air was at the start, and write it: holds textures to the flow.'),
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
