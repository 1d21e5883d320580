// Where something acts or gives off: everywhere, or in a region.
import { reference, type ReferenceSetting } from '../settings';

export const where = (): ReferenceSetting<'where'> => ({
  ...reference('where', 'where', ['regions'], 'The region that it is limited to; fading with its soft edge.'),
  none: 'everywhere',
  prefix: 'in ',
});
