// How exactly it is computed.
import { choice, definePart } from '../settings';

const CARRIED = [
  ['fine', 'crisp'],
  ['soft', 'soft'],
] as const;
const CARRIED_DOC =
  'Either way all of it is kept. Crisp: as a parabola in each voxel, edges and wisps stay. Soft: even in ' +
  'each voxel, which smears wisps away; a little quicker.';

export const METHOD = definePart({
  key: 'method',
  title: 'Method',
  many: false,
  keyable: false,
  rests: ['density', 'temperature', 'trace'],
  sentence:
    'Advection of density: {density}, of temperature: {temperature}; paths of the air to {trace} order.',
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
