// Trim: fewer frames, perhaps under other numbers.
import { CoreError } from '../../base/error';
import { definePart, integer, type PartValues } from '../../recipe/settings';
import type { Tool } from './tool';

const PART = definePart({
  key: 'trim',
  title: 'Trim',
  many: false,
  keyable: false,
  sentence: 'Frames {from} to {until} alone, the first of them as frame {as}.',
  settings: [
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'The first frame that stays.'),
    integer('until', 'until frame', 'frames', [0, 100000], 100000, 'The last frame that stays.', {
      word: { is: 100000, text: 'the end' },
    }),
    integer('as', 'becomes frame', 'frames', [-1, 100000], -1, 'The number of the first one that stays.', {
      word: { is: -1, text: 'it is' },
    }),
  ],
});

export const TRIM: Tool<PartValues<typeof PART>> = {
  part: PART,
  apply(frames, { from, until, as }) {
    const first = Math.max(frames.first, from);
    const last = Math.min(frames.last, until);
    if (last < first)
      throw new CoreError(
        'settings',
        `Nothing is left: the cache has the frames ${frames.first} to ${frames.last}.`,
      );
    const shift = as < 0 ? 0 : as - first;
    return {
      ...frames,
      first: first + shift,
      last: last + shift,
      timeS: (f) => frames.timeS(f - shift),
      read: (f) => ({ ...frames.read(f - shift), frame: f }),
    };
  },
};
