// How exactly it is computed.
import { choice, definePart } from '../settings';

const CARRIED = [
  ['fine', 'finely'],
  ['soft', 'softly'],
] as const;
const CARRIED_DOC =
  'Either way all of it is kept. Finely: as a parabola in each voxel, edges and wisps stay crisp. Softly: ' +
  'even in each voxel, which smears wisps away; for a soft look, and a little quicker.';

export const METHOD = definePart({
  key: 'method',
  title: 'Method',
  many: false,
  keyable: false,
  sentence:
    'Density is carried {density}, temperature {temperature}. Paths of the air are followed to {trace} ' +
    'order.',
  settings: [
    choice('density', 'density', CARRIED, CARRIED_DOC),
    choice('temperature', 'temperature', CARRIED, CARRIED_DOC),
    choice(
      'trace',
      'path order',
      [
        ['second', 'second'],
        ['third', 'third'],
      ],
      'How exactly the way of the air through a substep is followed. Third holds tight whirls better ' +
        'at large substeps and costs about a tenth more.',
    ),
  ],
});
