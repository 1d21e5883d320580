// Handing over: what can be packed of a bake, packages as they were chosen, and their files in one stream.
import { Router } from 'express';
import { newPackage } from '@bramblemist/contracts/requests';
import type { PackingInfo } from '@bramblemist/contracts/payloads';
import { Bake, HandedOver } from '../models';
import { bakeInside, choosePackage, packagesOf, streamOf } from '../services/hand-over';
import { packingOf } from '../services/packing';
import type { Storage } from '../storage/storage';
import { body, found, idOf, route } from './door';

export function packageRoutes(storage: Storage, cli: string): Router {
  const router = Router();
  const present = async (id: number): Promise<Bake> =>
    found(Bake.findOne({ where: { id, clearedAt: null } }), 'bake');
  router.get(
    '/bakes/:id/packing',
    route(async (req, res) => {
      const inside = await bakeInside(await present(idOf(req)));
      const packing = await packingOf(storage, inside);
      const packages = await packagesOf(inside.shot);
      const info: PackingInfo = {
        lines: packing.lines,
        packages,
        next: Math.max(0, ...packages.map((p) => p.version)) + 1,
        production: packing.values.production,
        shot: packing.values.shot,
      };
      res.json(info);
    }),
  );
  router.post(
    '/bakes/:id/packages',
    route(async (req, res) => {
      const { names, note, lines, frames } = body(newPackage, req);
      const inside = await bakeInside(await present(idOf(req)));
      const { id, version } = await choosePackage(storage, inside, names, note ?? '', {
        lines,
        frames: frames ?? null,
      });
      res.status(201).json({ id, version });
    }),
  );
  router.get(
    '/packages/:id',
    route(async (req, res) => {
      const handedOver = await found(HandedOver.findByPk(idOf(req)), 'package');
      const own = await streamOf(storage, cli, handedOver);
      res.attachment(own.name);
      try {
        await own.send(res);
      } catch (error) {
        // a part of it is on its way: it breaks off, so that nobody takes it for the whole
        res.destroy(error as Error);
      }
    }),
  );
  return router;
}
