// Settings of a look: how a picture is made and kept.
import { choice, definePart, integer, number, type When } from '../../recipe/settings';

const QUICK: When = { path: 'mode', is: 'quick' };
const TRUE: When = { path: 'mode', is: 'true' };

export const QUALITY = definePart({
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
