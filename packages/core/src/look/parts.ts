// The parts of a look and their settings: how the medium is lit and seen.
import { definePart, integer, number, position, linearColour } from '../recipe/settings';

const MEDIUM = definePart({
  key: 'medium',
  title: 'Medium',
  many: false,
  keyable: false,
  sentence:
    'Full density stops {density} of light a metre and scatters {albedo.0} red, {albedo.1} green, ' +
    '{albedo.2} blue of it, leaning forward by {forward}.',
  settings: [
    number(
      'density',
      'density scale',
      '1/m',
      [0, 1000],
      2.2,
      'Extinction at density 1, per metre: how thick the medium looks.',
    ),
    ...linearColour(
      'albedo',
      1,
      [0.92, 0.94, 0.97],
      'Part of the stopped light that is scattered on; the rest is absorbed.',
    ),
    number(
      'forward',
      'phase',
      '',
      [-0.9, 0.9],
      0.35,
      'Asymmetry of scattering (Henyey–Greenstein g): above 0 it glows against the light.',
    ),
    number(
      'shadow',
      'shadow strength',
      '',
      [0, 2],
      1,
      'Extinction toward the light against that toward the camera.',
    ),
  ],
});

const SUN = definePart({
  key: 'sun',
  title: 'Sun',
  many: false,
  keyable: false,
  sentence: 'Sun from {heading} at {height}, {stops} stops, colour {colour.0} {colour.1} {colour.2}.',
  settings: [
    number(
      'heading',
      'heading',
      '°',
      [-360, 360],
      -130,
      'Where it stands, seen from above: 0° on the right, 90° in front.',
    ),
    number('height', 'height', '°', [-10, 90], 28, 'Angle over the horizon.'),
    number('stops', 'intensity', '', [-10, 10], -1.3, 'In stops; each doubles.'),
    ...linearColour('colour', 4, [1, 0.86, 0.7], 'Linear colour.'),
  ],
});

const SKY = definePart({
  key: 'sky',
  title: 'Environment',
  many: false,
  keyable: false,
  sentence: 'All round {stops} stops of {colour.0} {colour.1} {colour.2}.',
  settings: [
    number('stops', 'intensity', '', [-10, 10], -1.5, 'In stops; each doubles.'),
    ...linearColour('colour', 4, [0.62, 0.74, 0.9], 'Linear colour of light from everywhere.'),
  ],
});

export const CAMERA = definePart({
  key: 'camera',
  title: 'Camera',
  many: false,
  keyable: false,
  sentence:
    'Camera at {eye.0}, {eye.1}, {eye.2}, looking at {target.0}, {target.1}, {target.2}, {focal} mm; ' +
    'pictures of {width} by {height}.',
  settings: [
    ...position('eye', 'eye', [1.6, 1.5, 6.2], 'Where the camera stands.'),
    ...position('target', 'target', [0, 0.75, 0], 'What it looks at.'),
    number('focal', 'focal length', '', [4, 600], 38, 'In millimetres on a 36 mm film back.'),
    integer('width', 'width', '', [16, 4096], 640, 'Pixels across.'),
    integer('height', 'height', '', [16, 4096], 360, 'Pixels down.'),
    number(
      'step',
      'march step',
      '',
      [0.1, 4],
      0.75,
      'Step along a camera ray in voxels: smaller is cleaner and slower.',
    ),
  ],
});

export const LOOK_PARTS = [MEDIUM, SUN, SKY, CAMERA] as const;
