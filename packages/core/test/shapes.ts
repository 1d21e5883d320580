import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { ObstaclePart } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';

/** An obstacle in few words: a sphere of that radius, or a cube of twice that edge. */
export function defaultShape(shape: 'sphere' | 'box', centre: Triple, size: number): ObstaclePart {
  return RECIPE.defaultPart('obstacles', {
    id: `${shape}-${centre.join()}`,
    shape,
    centre,
    radius: size,
    size: [size * 2, size * 2, size * 2],
  });
}
