// Pack: the same voxels in other files, for programs that read some and not others.
import { choice, definePart, type PartValues } from '../../recipe/settings';
import type { Tool } from './tool';

const PART = definePart({
  key: 'pack',
  title: 'Pack anew',
  many: false,
  keyable: false,
  sentence: 'Floats {precision}, packed by {packing}.',
  settings: [
    choice(
      'precision',
      'precision',
      [
        ['kept', 'as they are'],
        ['half', 'made half'],
        ['float', 'made full'],
      ],
      'Half floats take half the disk. What was kept as half floats does not become finer by full ones.',
    ),
    choice(
      'packing',
      'packing',
      [
        ['zip', 'zip'],
        ['lz4', 'LZ4'],
      ],
      'zip is for programs whose OpenVDB was built without Blosc; LZ4 is quicker to write and to read.',
    ),
  ],
});

export type PackSettings = PartValues<typeof PART>;

/** Its settings are for whoever writes the frames: see storedAs in cache.ts of the node door. */
export const PACK: Tool<PackSettings> = { part: PART, apply: (frames) => frames };
