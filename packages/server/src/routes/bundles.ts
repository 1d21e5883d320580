// Bundles for other machines.
import { Router, type Response } from 'express';
import { CheckedArchive, type PackageSink } from '@bramblemist/core/io/node/checked-archive';
import { fileStem } from '@bramblemist/core/cache/manifest';
import { HttpError } from '../http-error';
import { Bake, Frame, Variant } from '../models';
import { putBakeBundle, putRenderBundle } from '../services/bundles';
import type { Storage } from '../storage/storage';
import { found, idOf, route } from './door';

/** Sends a package as it is made. */
export async function sendArchive(
  res: Response,
  name: string,
  put: (to: PackageSink) => Promise<void>,
): Promise<void> {
  res.attachment(`${name}.zip`);
  try {
    await put(new CheckedArchive(res));
  } catch (error) {
    // a part of it is on its way: it breaks off, so that nobody takes it for the whole
    res.destroy(error as Error);
  }
}

export function bundleRoutes(storage: Storage): Router {
  const router = Router();
  router.get(
    '/variants/:id/bundle',
    route(async (req, res) => {
      const variant = await found(Variant.findByPk(idOf(req)), 'variant');
      const voxelSizeM = Number(req.query.voxel ?? variant.recipe.space.voxelSize);
      if (!(voxelSizeM >= 0.001 && voxelSizeM <= 10))
        throw new HttpError(422, 'voxel must be a length in metres from 0.001 to 10.');
      const name = `${fileStem(variant.recipe.name)}_bake`;
      await sendArchive(res, name, (to) => putBakeBundle(storage, variant, voxelSizeM, to));
    }),
  );
  router.get(
    '/bakes/:id/bundle',
    route(async (req, res) => {
      const bake = await found(Bake.findOne({ where: { id: idOf(req), clearedAt: null } }), 'bake');
      if ((await Frame.count({ where: { bakeId: bake.id } })) === 0)
        throw new HttpError(409, `Bake ${bake.id} has no finished frames to render.`);
      const name = `${fileStem(bake.recipe.name)}_render`;
      await sendArchive(res, name, (to) => putRenderBundle(storage, bake, to));
    }),
  );
  return router;
}
