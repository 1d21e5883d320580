// The parts of a look and their settings: how the medium is lit and seen.
import { CURVES } from '../recipe/parts/curves';
import { FILES } from '../recipe/parts/shapes';
import {
  choice,
  definePart,
  flag,
  FAR,
  integer,
  linearColour,
  nameAndSwitch,
  number,
  position,
  type ProfileSetting,
  reference,
  type When,
} from '../recipe/settings';

const DRAWN: When = { path: 'remap', is: 'drawn' };
const COLOURED: When = { path: 'colour', is: ['carried', 'ramp', 'picture'] };
const LOOKED: When = { path: 'colour', is: ['ramp', 'picture'] };
const IMAGE: When = { path: 'colour', is: 'picture' };
const RAMP: When = { path: 'colour', is: 'ramp' };

const CURVE: ProfileSetting<'curve'> = {
  kind: 'profile',
  path: 'curve',
  label: 'curve',
  default: [
    [0, 0],
    [0.5, 0.5],
    [1, 1],
  ],
  doc: 'Density as it is shown, over density as it was simulated; both as parts of the full one.',
  when: DRAWN,
};

const LOOKED_UP = [
  ['density', 'density'],
  ['temperature', 'temperature'],
  ['age', 'age'],
  ['speed', 'speed'],
  ['height', 'height'],
  ['x', 'place along x'],
  ['z', 'place along z'],
] as const;

const MEDIUM_SETTINGS = [
  number(
    'density',
    'density scale',
    '1/m',
    [0, 1000],
    2.2,
    'Extinction at density 1, per metre: how thick the medium looks.',
  ),
  ...linearColour(
    'scatter',
    1,
    [0.92, 0.94, 0.97],
    'Part of the light at full density that is scattered on.',
  ),
  ...linearColour(
    'absorb',
    1,
    [0.08, 0.06, 0.03],
    'Part of the light at full density that is absorbed. Unequal parts colour what shines through.',
  ),
  number(
    'forward',
    'phase',
    '',
    [-0.9, 0.9],
    0.35,
    'Asymmetry of scattering (Henyey–Greenstein g): above 0 it glows against the light.',
  ),
  number('backPart', 'second lobe', '', [0, 1], 0, 'Part of the light that scatters by a second lobe.'),
  number(
    'backward',
    'second phase',
    '',
    [-0.9, 0.9],
    -0.2,
    'Asymmetry of the second lobe: below 0 it leans back.',
  ),
  choice(
    'colour',
    'colour',
    [
      ['even', 'the same everywhere'],
      ['carried', 'what it carries'],
      ['ramp', 'a ramp'],
      ['picture', 'looked up in a picture'],
    ],
    'Where its colour at a place comes from.',
  ),
  choice(
    'colours',
    'colour acts on',
    [
      ['scatter', 'what it scatters'],
      ['absorb', 'what it lets through'],
    ],
    'Scatters: a coloured veil. Lets through: an ink, which colours the light behind it.',
    { when: COLOURED },
  ),
  choice('channel', 'looked up by', LOOKED_UP, 'What the ramp runs over, or what goes across the picture.', {
    when: LOOKED,
  }),
  number('low', 'from', '', [-1e4, 1e4], 0, 'Value at the ramp’s or the picture’s left end, in SI units.', {
    when: LOOKED,
  }),
  number('high', 'to', '', [-1e4, 1e4], 1, 'Value at the ramp’s or the picture’s right end, in SI units.', {
    when: LOOKED,
  }),
  {
    ...reference('picture', 'picture', ['files'], 'The picture that its colours are taken from.', IMAGE),
    none: 'no picture yet',
  },
  choice('upward', 'and upward by', LOOKED_UP, 'What goes from the picture’s bottom to its top.', {
    when: IMAGE,
    default: 'height',
  }),
  number('bottom', 'bottom', '', [-1e4, 1e4], 0, 'Value at the picture’s bottom, in SI units.', {
    when: IMAGE,
  }),
  number('top', 'top', '', [-1e4, 1e4], 1, 'Value at the picture’s top, in SI units.', { when: IMAGE }),
  number('exposure', 'exposure', '', [-10, 10], 0, 'Of the picture, in stops.', { when: IMAGE }),
  number('saturation', 'saturation', '', [0, 4], 1, 'Of the picture: 0 is grey, 1 as it is.', {
    when: IMAGE,
  }),
  ...linearColour('first', 1, [0.2, 0.32, 0.6], 'First colour of the ramp.', RAMP),
  ...linearColour('last', 1, [0.98, 0.85, 0.7], 'Last colour of the ramp.', RAMP),
  choice(
    'remap',
    'density is shown',
    [
      ['plain', 'as it was simulated'],
      ['drawn', 'by a curve'],
    ],
    'A curve brings out what is faint, or leaves it away.',
  ),
  number(
    'full',
    'full density',
    '',
    [0.001, 1000],
    1,
    'Density at the curve’s right end; above it goes on level.',
    { when: DRAWN },
  ),
  CURVE,
  number(
    'clip',
    'clip below',
    '',
    [0, 100],
    0,
    'Density below this is left out: the faintest costs the most light for the least picture.',
  ),
  flag(
    'deposit',
    'deposit',
    true,
    'What has settled is seen where it lies, as thick as it was in the air. Without, only what floats is.',
  ),
] as const;

const MEDIUM_SENTENCE =
  'extinction at full density is {density}; scattering {scatter}, absorption {absorb}, phase {forward}. ' +
  'Its colour is {colour}[colour=carried|ramp|picture: and acts on {colours}]' +
  '[colour=ramp:, from {first} to {last} over {channel}][colour=picture:, {picture} by {channel} and ' +
  '{upward}].';

const MEDIUM = definePart({
  key: 'medium',
  title: 'Medium',
  many: false,
  keyable: true,
  sentence: `E${MEDIUM_SENTENCE.slice(1)}`,
  settings: [
    ...MEDIUM_SETTINGS,
    number(
      'shadow',
      'shadow strength',
      '',
      [0, 2],
      1,
      'Extinction toward the light against that toward the camera: 1 is what nature does.',
    ),
  ],
});

const MEDIA = definePart({
  key: 'media',
  title: 'Further media',
  many: true,
  keyable: true,
  sentence: `{name}: bake {bake}, its ${MEDIUM_SENTENCE}`,
  settings: [
    ...nameAndSwitch('Medium', 'What it is called.', 'Off: kept in the look, and not seen.'),
    integer('bake', 'bake', '', [0, 1e9], 0, 'Number of the bake whose volumes it has.', {
      word: { is: 0, text: 'none yet' },
    }),
    ...position('position', 'moved', [0, 0, 0], 'How far it is moved from where it was baked.'),
    integer(
      'shift',
      'shifted by',
      'frames',
      [-100000, 100000],
      0,
      'Frames that it is behind the shot; below 0 it is ahead.',
    ),
    ...MEDIUM_SETTINGS,
  ],
});

const SUN: When = { path: 'kind', is: 'sun' };
const PLACED: When = { path: 'kind', is: ['point', 'spot', 'rectangle', 'disc'] };
const AIMED: When = { path: 'kind', is: ['spot', 'rectangle', 'disc'] };
const ROUND: When = { path: 'kind', is: ['point', 'spot', 'disc'] };
const SPOT: When = { path: 'kind', is: 'spot' };
const RECTANGLE: When = { path: 'kind', is: 'rectangle' };
const KELVIN: When = { path: 'tone', is: 'kelvin' };
const COLOUR: When = { path: 'tone', is: 'colour' };

const LIGHTS = definePart({
  key: 'lights',
  title: 'Lights',
  many: true,
  keyable: true,
  begins: [{ id: 'sun', name: 'Sun' }],
  sentence:
    '{name}: a {kind}[kind=sun: from {heading} at {height}, {angle} wide][kind=point: of radius ' +
    '{radius}][kind=spot: {cone} wide][kind=rectangle: {width} × {length}][kind=disc: of radius {radius}]' +
    '[tone=colour:, {colour}][tone=kelvin:, {kelvin}], {stops} stops[shadows=false:, without shadows].',
  settings: [
    ...nameAndSwitch('Light', 'What it is called.', 'Off: kept in the look, without effect.'),
    choice(
      'kind',
      'kind',
      [
        ['sun', 'sun'],
        ['point', 'point light'],
        ['spot', 'spot'],
        ['rectangle', 'rectangle'],
        ['disc', 'disc'],
      ],
      'A sun shines along one direction; a point all round; a spot in a cone; rectangles and discs ' +
        'from a face.',
    ),
    number(
      'heading',
      'heading',
      '°',
      [-360, 360],
      -130,
      'Where it stands, seen from above: 0° on the right, 90° in front.',
      { when: SUN },
    ),
    number('height', 'height', '°', [-90, 90], 28, 'Angle over the horizon.', { when: SUN }),
    number('angle', 'size', '°', [0, 60], 0.5, 'Its angle across: the wider, the softer its shadows.', {
      when: SUN,
    }),
    ...position('position', 'place', [1, 1.5, 1], 'Where it stands.', PLACED),
    ...position('aim', 'aim', [0, 0.5, 0], 'What it points at.', AIMED),
    number('radius', 'radius', 'm', [0, FAR], 0.05, 'The wider, the softer its shadows.', { when: ROUND }),
    number('width', 'width', 'm', [0.001, FAR], 0.6, 'Across.', { when: RECTANGLE }),
    number('length', 'length', 'm', [0.001, FAR], 0.9, 'Upward.', { when: RECTANGLE }),
    number('cone', 'cone', '°', [1, 170], 40, 'Its whole angle, from edge to edge.', { when: SPOT }),
    number('soft', 'soft edge', '', [0, 1], 0.3, 'Part of the cone over which it fades.', { when: SPOT }),
    choice(
      'tone',
      'colour by',
      [
        ['colour', 'red, green, blue'],
        ['kelvin', 'temperature'],
      ],
      'How its colour is told.',
    ),
    ...linearColour('colour', 4, [1, 0.86, 0.7], 'Linear colour.', COLOUR),
    number(
      'kelvin',
      'temperature',
      'K',
      [1000, 20000],
      5600,
      'Of a black body: candles 1900, bulbs 2900, daylight 5600.',
      { when: KELVIN },
    ),
    number(
      'stops',
      'intensity',
      '',
      [-20, 20],
      -1.3,
      'In stops; each doubles. Other lights are as bright at one metre as a sun of the same stops.',
    ),
    flag('shadows', 'shadows', true, 'Off: solids do not hold it back.'),
  ],
});

const EVEN: When = { path: 'kind', is: 'even' };
const PICTURE: When = { path: 'kind', is: 'picture' };

const SKY = definePart({
  key: 'sky',
  title: 'Environment',
  many: false,
  keyable: true,
  sentence:
    'All round {stops} stops of [kind=even:{colour}][kind=picture:{picture}, turned by {turn}], {seen}.',
  settings: [
    choice(
      'kind',
      'environment',
      [
        ['even', 'even'],
        ['picture', 'a picture'],
      ],
      'The same light from everywhere, or what a picture of all directions shows.',
    ),
    number('stops', 'intensity', '', [-20, 20], -1.5, 'In stops; each doubles.'),
    ...linearColour('colour', 4, [0.62, 0.74, 0.9], 'Linear colour of light from everywhere.', EVEN),
    {
      ...reference(
        'picture',
        'picture',
        ['files'],
        'An HDR, EXR or PNG picture of all directions, twice as wide as high.',
        PICTURE,
      ),
      none: 'no picture yet',
    },
    number('turn', 'turn', '°', [-360, 360], 0, 'Turns the picture about the upright axis.', {
      when: PICTURE,
    }),
    choice(
      'seen',
      'background',
      [
        ['unseen', 'not seen behind'],
        ['seen', 'seen behind everything'],
      ],
      'Seen: the picture has no clear places left.',
    ),
  ],
});

const GROUND: When = { path: 'ground', is: ['seen', 'catcher', 'held-out'] };
const WALLS: When = { path: 'vessels', is: 'seen' };

const SOLIDS = definePart({
  key: 'solids',
  title: 'Surfaces',
  many: false,
  keyable: true,
  sentence:
    'Obstacles are {seen}, of {colour}; vessels {vessels}[vessels=seen:, of {walls}]; the ground is ' +
    '{ground}[ground=seen:, of {floor}].',
  settings: [
    choice(
      'seen',
      'obstacles',
      [
        ['held-out', 'held out'],
        ['seen', 'seen'],
        ['catcher', 'seen by their shadows only'],
        ['unseen', 'not there'],
      ],
      'Held out: what they hide is missing, for laying over a plate. Seen: they are in the picture, lit. ' +
        'By their shadows only: the picture darkens where light is held back from them.',
    ),
    ...linearColour('colour', 1, [0.32, 0.3, 0.28], 'Part of light that obstacles scatter.'),
    choice(
      'vessels',
      'vessels',
      [
        ['unseen', 'not there'],
        ['seen', 'seen from within'],
      ],
      'What holds the medium from outside never hides it; its inner side may be seen behind.',
    ),
    ...linearColour('walls', 1, [0.8, 0.8, 0.8], 'Part of light that a vessel’s inner side scatters.', WALLS),
    choice(
      'ground',
      'ground',
      [
        ['none', 'not there'],
        ['seen', 'seen'],
        ['catcher', 'seen by its shadows only'],
        ['held-out', 'held out'],
      ],
      'A level ground without an end: shadows and light fall on it.',
    ),
    number('level', 'ground level', 'm', [-FAR, FAR], 0, 'Height of the ground.', { when: GROUND }),
    ...linearColour('floor', 1, [0.2, 0.19, 0.18], 'Part of light that the ground scatters.', {
      path: 'ground',
      is: ['seen', 'catcher'],
    }),
    flag('shadows', 'shadows', true, 'Off: obstacles and ground do not hold light back.'),
  ],
});

const GLOWS: When = { path: 'glows', is: 'true' };

const SURFACES = definePart({
  key: 'surfaces',
  title: 'Surfaces, one by one',
  many: true,
  keyable: true,
  sentence:
    '{name}: {of} is {seen}[seen=seen|catcher|unseen:, of {colour}][glows=true:, glows {stops} stops of ' +
    '{glow}][shadows=false:, without shadows].',
  settings: [
    ...nameAndSwitch('Surface', 'What it is called.', 'Off: the obstacle is as all others are.'),
    {
      ...reference('of', 'obstacle', ['obstacles'], 'The obstacle that is other than the rest.'),
      none: 'no obstacle yet',
    },
    choice(
      'seen',
      'how it is seen',
      [
        ['seen', 'seen'],
        ['held-out', 'held out'],
        ['catcher', 'seen by its shadows only'],
        ['unseen', 'not seen, but lit'],
      ],
      'By its shadows only: the picture darkens where light is held back from it, for a plate that shows it.',
    ),
    ...linearColour('colour', 1, [0.32, 0.3, 0.28], 'Part of light that it scatters.'),
    flag('glows', 'glows', false, 'It gives light of its own, on to the medium too.'),
    number('stops', 'glow', '', [-20, 20], 0, 'Radiance of its own, in stops; each doubles.', {
      when: GLOWS,
    }),
    ...linearColour('glow', 4, [1, 0.72, 0.42], 'Linear colour of its glow.', GLOWS),
    flag('shadows', 'shadows', true, 'Off: it does not hold light back.'),
  ],
});

const CAMERA_SETTINGS = [
  ...position('eye', 'eye', [1.6, 1.5, 6.2], 'Where the camera stands.'),
  ...position('target', 'target', [0, 0.75, 0], 'What it looks at.'),
  number('roll', 'roll', '°', [-3600, 3600], 0, 'Turns the picture; above 0 its top goes right.'),
  number('focal', 'focal length', 'mm', [4, 600], 38, 'Distance of the lens from the film.'),
  number('back', 'film back', 'mm', [4, 100], 36, 'Width of the film or sensor.'),
  number('squeeze', 'pixel aspect', '', [0.25, 4], 1, 'Width of a pixel over its height.'),
  integer('width', 'width', '', [16, 8192], 640, 'Pixels across.'),
  integer('height', 'height', '', [16, 8192], 360, 'Pixels down.'),
  choice(
    'moving',
    'what moves',
    [
      ['sharp', 'sharp'],
      ['blurred', 'blurred'],
    ],
    'Blurred: the medium by its velocity, solids and the camera by their keys, for as long as the ' +
      'shutter is open.',
  ),
  number(
    'shutter',
    'shutter',
    '°',
    [0, 720],
    180,
    'Open for this part of a frame’s 360°, about its moment.',
    {
      when: { path: 'moving', is: 'blurred' },
    },
  ),
  choice(
    'lens',
    'lens',
    [
      ['pinhole', 'everything in focus'],
      ['thin', 'a thin lens'],
    ],
    'A thin lens is in focus at one distance only.',
  ),
  number('fNumber', 'f-number', '', [0.5, 128], 2.8, 'Focal length over the width of the lens.', {
    when: { path: 'lens', is: 'thin' },
  }),
  number('focus', 'focus', 'm', [0.01, FAR], 5, 'What is this far ahead is sharp.', {
    when: { path: 'lens', is: 'thin' },
  }),
  number('overscan', 'overscan', '%', [0, 50], 0, 'Rendered beyond each edge of the frame, of its width.'),
  number('crop.left', 'crop left', '%', [0, 100], 0, 'Part of the frame that is left out on the left.'),
  number('crop.right', 'crop right', '%', [0, 100], 0, 'Part of the frame that is left out on the right.'),
  number('crop.top', 'crop top', '%', [0, 100], 0, 'Part of the frame that is left out at the top.'),
  number('crop.bottom', 'crop bottom', '%', [0, 100], 0, 'Part of the frame that is left out at the bottom.'),
] as const;

export const CAMERA = definePart({
  key: 'camera',
  title: 'Shot camera',
  many: false,
  keyable: true,
  sentence:
    'The shot camera stands at {eye.0}, {eye.1}, {eye.2} and looks at {target.0}, {target.1}, {target.2}, ' +
    '{focal} on {back}; pictures of {width} by {height}, what moves is {moving}[moving=blurred: by a ' +
    'shutter of ' +
    '{shutter}], {lens}[lens=thin: of f/{fNumber}, in focus at {focus}].',
  settings: CAMERA_SETTINGS,
});

const CAMERAS = definePart({
  key: 'cameras',
  title: 'Further cameras',
  many: true,
  keyable: true,
  sentence:
    '{name}: at {eye.0}, {eye.1}, {eye.2}, looking at {target.0}, {target.1}, {target.2}, {focal} on ' +
    '{back}; ' +
    'pictures of {width} by {height}, what moves is {moving}[moving=blurred: by a shutter of {shutter}], ' +
    '{lens}[lens=thin: of f/{fNumber}, in focus at {focus}].',
  settings: [
    ...nameAndSwitch('Camera', 'What it is called.', 'Off: kept in the look, and not rendered.'),
    ...CAMERA_SETTINGS,
  ],
});

const QUICK: When = { path: 'mode', is: 'quick' };
const TRUE: When = { path: 'mode', is: 'true' };

const QUALITY = definePart({
  key: 'quality',
  title: 'Quality',
  many: false,
  keyable: false,
  sentence:
    'Pictures are {mode}[mode=quick:, with {octaves} further orders of scattering][mode=true:, at most ' +
    '{samples} samples a pixel, ending by {until}, {bounces} bounces; noise taken out {denoise}]; passes ' +
    'are {files}.',
  settings: [
    choice(
      'mode',
      'estimator',
      [
        ['quick', 'quick'],
        ['true', 'true'],
      ],
      'Quick: smooth, in a fraction of a second, further scattering by estimate. True: by paths of ' +
        'light, with noise.',
    ),
    integer(
      'octaves',
      'further orders',
      '',
      [0, 4],
      4,
      'Orders of scattering that are estimated; 0 is single scattering.',
      { when: QUICK },
    ),
    number(
      'step',
      'march step',
      '',
      [0.1, 4],
      0.75,
      'Step along a camera ray in voxels: smaller is cleaner and slower.',
    ),
    choice(
      'until',
      'ends by',
      [
        ['samples', 'their samples'],
        ['noise', 'little noise'],
      ],
      'By noise: places with more of it get more samples, until the whole has no more than is asked for.',
      { when: TRUE },
    ),
    number(
      'noise',
      'noise',
      '',
      [0.0001, 1],
      0.01,
      'Standard error of the luminance, root mean square over the pixels.',
      { when: { path: 'until', is: 'noise' } },
    ),
    integer(
      'samples',
      'samples',
      '',
      [1, 65536],
      64,
      'Paths a pixel, at the most; four times as many halve the noise.',
      { when: TRUE },
    ),
    number('limit', 'time limit', 's', [1, 86400], 3600, 'A frame takes no further samples after it.', {
      when: { path: 'until', is: 'noise' },
    }),
    choice(
      'denoise',
      'noise taken out',
      [
        ['preview', 'in the window'],
        ['always', 'in the window and in files'],
        ['never', 'nowhere'],
      ],
      'By what quick pictures and coverage say of each place; a little of the finest light goes with it.',
      { when: TRUE },
    ),
    integer('bounces', 'bounces', '', [0, 256], 8, 'Scatterings after the first.', { when: TRUE }),
    integer(
      'moments',
      'moments',
      '',
      [1, 64],
      16,
      'Moments of the shutter, and in quick pictures places on the lens, that blur is made of.',
    ),
    choice(
      'files',
      'passes in files',
      [
        ['layers', 'layers of one picture'],
        ['parts', 'parts of one file'],
        ['tiles', 'layers in tiles'],
      ],
      'Layers of one picture are read by every program; of parts each is read without the ' +
        'others; of tiles a viewer reads what it shows.',
    ),
    integer('seed', 'seed', '', [0, 1e6], 1, 'Another one has other noise.', { when: TRUE }),
  ],
});

const PASSES = definePart({
  key: 'passes',
  title: 'Passes',
  many: false,
  keyable: false,
  sentence:
    'Besides the beauty, files have: density {density}, depth {depth}, each light {lights}, single and ' +
    'multiple ' +
    'scattering {orders}, position {position}, normal {normal}, motion {motion}, carried colour {colour}, ' +
    'tint {tint}, temperature {temperature}, age {age}, shadow {shadow}, matte {matte}, noise {noise}; a ' +
    'deep picture {deep}.',
  settings: [
    flag('density', 'density', true, 'Optical depth along the ray: density.Y.'),
    flag(
      'depth',
      'depth',
      true,
      'Where the first of what is seen stands, its mean and its last, in m along the camera’s axis: ' +
        'depth.Z, ' +
        'depth.ZMiddle, depth.ZBack.',
    ),
    flag(
      'lights',
      'each light',
      false,
      'What each light gives as a layer of its own, as lights.NAME; together they are the beauty.',
    ),
    flag(
      'orders',
      'single and multiple scattering',
      false,
      'Light that has been scattered once at the most, and the rest: single, multiple.',
    ),
    flag('position', 'position', false, 'World position of what is seen, its mean, m: position.X, .Y, .Z.'),
    flag(
      'normal',
      'normal',
      false,
      'Which way the medium thins out, and which way surfaces face, unit length: normal.X, .Y, .Z.',
    ),
    flag(
      'motion',
      'motion',
      false,
      'How far what is seen moves to the next frame, pixels right and down: motion.X, motion.Y.',
    ),
    flag('colour', 'carried colour', false, 'The colour that the medium carries, as seen: colour.R, .G, .B.'),
    flag(
      'tint',
      'tint',
      false,
      'The colour that the look gives the medium, as seen: tint.R, .G, .B; where a picture colours it, ' +
        'looked.R, ' +
        '.G, .B is the picture’s before exposure and saturation.',
    ),
    flag('temperature', 'temperature', false, 'Temperature of what is seen, its mean, K: temperature.Y.'),
    flag('age', 'age', false, 'Age of what is seen, its mean, s: age.Y.'),
    flag('shadow', 'shadow', false, 'Part of the light that is held back from surfaces: shadow.Y.'),
    flag('matte', 'matte', false, 'Part of each pixel that solids hold out: matte.A.'),
    flag('noise', 'noise', false, 'Of true pictures: samples.Y, and variance.Y of the mean luminance.'),
    flag(
      'deep',
      'deep picture',
      false,
      'A second file, NAME.deep.0001.exr: colour and coverage by depth, to be merged with other deep ' +
        'pictures.',
    ),
  ],
});

export const LOOK_PARTS = [
  MEDIUM,
  MEDIA,
  LIGHTS,
  SKY,
  SOLIDS,
  SURFACES,
  CAMERA,
  CAMERAS,
  QUALITY,
  PASSES,
  CURVES,
  FILES,
] as const;
