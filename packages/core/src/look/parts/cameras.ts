// Settings of a look: where the picture is seen from.
import { choice, definePart, FAR, integer, nameAndSwitch, number, position } from '../../recipe/settings';

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

export const CAMERAS = definePart({
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
