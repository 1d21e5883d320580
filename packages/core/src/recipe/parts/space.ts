// The domain, its window and what is kept of a run: what sizes memory, disk and time. None of it takes keys.
import { choice, definePart, flag, integer, number, reference, vector, position, FAR } from '../settings';

const side = <const P extends string>(path: P, label: string, value: 'open' | 'wall') =>
  choice(
    path,
    label,
    [
      ['open', 'open'],
      ['wall', 'a wall'],
    ],
    'Open: air and medium pass and are gone. A wall holds both.',
    { default: value },
  );

export const SPACE = definePart({
  key: 'space',
  title: 'Space',
  many: false,
  keyable: false,
  sentence:
    'A domain {size.0} wide, {size.1} high, {size.2} deep, in voxels of {voxelSize}; rough ones {rough} ' +
    'times as large, final ones {final} times. The medium is {medium}. The floor is ' +
    '{sides.floor}, top {sides.top}, left {sides.left}, right {sides.right}, back {sides.back}, front ' +
    '{sides.front}.',
  settings: [
    ...vector(
      'size',
      ['width', 'height', 'depth'],
      'm',
      [0.01, FAR],
      [4, 3, 3],
      'Edge of the domain that is simulated.',
    ),
    ...position('corner', 'corner', [-2, 0, -1.5], 'Least corner of the domain in the world.'),
    number(
      'voxelSize',
      'voxel size',
      'm',
      [0.001, 10],
      0.05,
      'Edge of a voxel at working size. Half of it costs about sixteen times as much.',
    ),
    number(
      'rough',
      'rough voxels',
      '',
      [1.25, 8],
      3,
      'Edge of a voxel at rough size, times that at working size: for a first look at all frames.',
    ),
    number(
      'final',
      'final voxels',
      '',
      [0.2, 1],
      0.5,
      'Edge of a voxel at final size, times that at working size: for what is delivered.',
    ),
    choice(
      'medium',
      'medium',
      [
        ['air', 'as fine as the air'],
        ['finer', 'twice as fine as the air'],
      ],
      'Twice as fine: density, colour and age lie on voxels half as large, and caches are so fine. Nearly ' +
        'the look of a run in voxels of half the edge, for about a quarter of its time.',
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
    integer(
      'delay',
      'start delay',
      'frames',
      [0, 100000],
      0,
      'So many frames at the start stay empty: the air stands still, nothing is given off, obstacles move.',
    ),
    number(
      'timeScale',
      'time scale',
      '',
      [0.01, 10],
      1,
      'Simulated seconds for a second of the shot: 0.5 is slow motion.',
    ),
    number(
      'cfl',
      'CFL',
      '',
      [0.25, 5],
      3,
      'Voxels that the fastest air may cross in one substep. Lower is more exact and slower.',
    ),
    integer(
      'substepsLeast',
      'least substeps',
      '',
      [1, 32],
      1,
      'Substeps of a frame even when the air is slow.',
    ),
    integer(
      'substepsMost',
      'most substeps',
      '',
      [1, 64],
      8,
      'Substeps of a frame even when the air is fast; reaching it is reported.',
    ),
  ],
});

const FITTED = { path: 'mode', is: 'fit' };

export const WINDOW = definePart({
  key: 'window',
  title: 'Window',
  many: false,
  keyable: false,
  sentence:
    'Computed {mode}[mode=fit: where density is above {threshold}, with {margin} voxels around it, ' +
    'shrinking from frame {shrinkFrom}].',
  settings: [
    choice(
      'mode',
      'window',
      [
        ['whole', 'in the whole domain'],
        ['fit', 'only around the medium'],
      ],
      'The whole domain, or a window in it that grows and shrinks with the medium; the domain is then its ' +
        'limit. Saves time and memory where the medium fills a small part.',
    ),
    number('threshold', 'threshold', '', [0, 10], 0.002, 'Density that the window has to hold.', {
      when: FITTED,
    }),
    integer('margin', 'margin', '', [2, 64], 8, 'Voxels of clear air around the medium.', { when: FITTED }),
    integer(
      'shrinkFrom',
      'shrinks from frame',
      'frames',
      [0, 100000],
      1,
      'Before this frame the window only grows.',
      { when: FITTED },
    ),
    reference(
      'travel',
      'travels with',
      ['obstacles', 'sources'],
      'A moving obstacle or source that the domain goes along with, by whole voxels.',
    ),
  ],
});

export const KEEP = definePart({
  key: 'keep',
  title: 'Keep',
  many: false,
  keyable: false,
  sentence:
    'Keep density, temperature {temperature}, velocity {velocity}[velocity=true: {air}], colour ' +
    '{colour}, age {age}, deposit {deposit}, coordinates {coordinates}, as {precision} floats ' +
    'packed by {packing}, where density is above {threshold}.',
  settings: [
    flag('temperature', 'temperature', true, 'Write the temperature channel.'),
    flag('velocity', 'velocity', true, 'Write the velocity channel (motion blur, particles, refining).'),
    choice(
      'air',
      'where velocity is kept',
      [
        ['medium', 'in the medium'],
        ['room', 'in all of the air'],
      ],
      'In the medium alone, or wherever the run has air: particles that fly beside the medium need it. ' +
        'Takes many times the disk.',
      { when: { path: 'velocity', is: 'true' } },
    ),
    flag(
      'colour',
      'colour',
      false,
      'Carry the sources’ colours with the medium, mixed by mass, and write them.',
    ),
    flag('age', 'age', false, 'Carry the time since the medium was given off, and write it.'),
    flag('deposit', 'deposit', true, 'Write what has settled, in shots in which medium settles and lies.'),
    flag(
      'coordinates',
      'coordinates',
      false,
      'Carry where each bit of air was at the start, and write it: holds textures to the flow.',
    ),
    choice(
      'precision',
      'precision',
      [
        ['half', 'half'],
        ['float', 'full'],
      ],
      'Half floats take half the disk; full floats are exact.',
    ),
    choice(
      'packing',
      'packing',
      [
        ['lz4', 'LZ4'],
        ['zip', 'zip'],
      ],
      'How the files are packed, without loss. LZ4 is written several times as quickly and takes up ' +
        'to a tenth more of the disk; zip is for programs whose OpenVDB was built without Blosc.',
    ),
    number('threshold', 'threshold', '', [0, 1], 0.001, 'Voxels thinner than this are not written.'),
  ],
});
