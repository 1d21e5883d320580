// Settings of a look: what files hold besides the beauty.
import { definePart, flag } from '../../recipe/settings';

export const PASSES = definePart({
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
