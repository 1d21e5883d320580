// Beginning a bake: of a variant as it stands.
import { SOLVER } from '@bramblemist/core/cache/manifest';
import type { JobEngine } from '../jobs/engine';
import { Bake, type Variant } from '../models';
import { begin } from './work';

export function beginBake(
  engine: JobEngine,
  variant: Variant,
  voxelSizeM: number,
  { first: firstFrame, last: lastFrame }: { readonly first: number; readonly last: number },
): Promise<{ id: number }> {
  const { id: variantId, recipe, recipeSha256 } = variant;
  const row = { variantId, recipe, recipeSha256, voxelSizeM, firstFrame, lastFrame, solver: SOLVER };
  return begin(engine, 'bake', variant.shotId, lastFrame - firstFrame + 1, (transaction) =>
    Bake.create(row, { transaction }),
  );
}
