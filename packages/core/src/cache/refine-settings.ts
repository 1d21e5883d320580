// What the refine pass is told: finer voxels, and how strong the added motion is.
import { definePart, flag, integer, number, type PartValues } from '../recipe/settings';
import { DocumentKind } from '../recipe/document';

export const PART = definePart({
  key: 'refine',
  title: 'Refine',
  many: false,
  keyable: false,
  sentence:
    'Voxels {times} times as fine, with whirls of {size} and smaller at {strength} of what such a flow ' +
    'has, {strain} more where it is strained; their pattern is renewed over {renew}, the coarse ' +
    'picture held to {hold}; velocity kept: {velocity}.',
  settings: [
    integer(
      'times',
      'finer',
      '',
      [2, 4],
      2,
      'Fine voxels to a coarse one along an edge. What has settled is left out.',
    ),
    number(
      'strength',
      'strength',
      '%',
      [0, 500],
      100,
      'Of the speed that whirls of this size have in turbulence that goes on to small scales (Kolmogorov).',
    ),
    number('size', 'size', 'm', [0, 10], 0, 'Width of the largest whirls that are added, in the world.', {
      word: { is: 0, text: 'two voxels' },
    }),
    number(
      'strain',
      'where strained',
      '%',
      [0, 500],
      50,
      'How much stronger they are where the coarse flow is sheared.',
    ),
    integer(
      'renew',
      'renewed over',
      'frames',
      [4, 200],
      24,
      'Frames after which the pattern that the flow has stretched is replaced; it is faded, so that ' +
        'nothing pops.',
    ),
    number(
      'hold',
      'held to',
      '%',
      [0, 100],
      100,
      'How much of the difference from the coarse cache is taken back in each frame.',
    ),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another pattern.'),
    flag(
      'velocity',
      'velocity',
      false,
      'Write the fine velocity too, for motion blur and particles: takes several times the disk.',
    ),
  ],
});

export type Refine = PartValues<typeof PART>;

export const KIND = new DocumentKind<{ refine: Refine }>('refine pass', 1, [PART]);

export const REFINE = {
  part: PART,
  /** @throws DocumentError */
  parse: (settings: unknown): Refine => KIND.parse({ refine: settings }).refine,
  start: (): Refine => KIND.defaultPart<Refine>('refine'),
};
