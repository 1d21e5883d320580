// Shots, variants and their assets.
import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Router, type Request } from 'express';
import { changeShot, changeVariant, newShot, newVariant } from '@bramblemist/contracts/requests';
import { Asset, Shot, Variant } from '../models';
import type { Storage } from '../storage/storage';
import { assetInfo, shotInfo, variantInfo } from '../views';
import { body, clientOf, found, idOf, revisionOf, route } from './door';
import { createShot, createVariant, saveShot, saveVariant } from '../services/documents';
import type { Events } from '../events';
import { shortName } from '../words';
import { check, hashOf } from './files';
import { receiveFile, type Received } from './receive';
import { HttpError, StaleError } from '../http-error';

const MOST_UPLOAD = 64 * 2 ** 20;

/** Saves; where something newer stands in the way, that goes along with the refusal as the page reads it. */
async function freshly<T, I>(saved: Promise<T>, told: (row: T) => I | Promise<I>): Promise<T> {
  try {
    return await saved;
  } catch (error) {
    if (error instanceof StaleError) throw new StaleError(await told(error.current as T));
    throw error;
  }
}

function neededRevision(req: Request): number {
  const revision = revisionOf(req);
  if (revision === null) throw new HttpError(428, 'Say with If-Match which revision this began from.');
  return revision;
}

/** A picture is looked at in a process of its own: a small file may unpack to gigabytes. */
async function pictureOf(cli: string, { path, name }: Received): Promise<{ width: number; height: number }> {
  const refused = new HttpError(
    415,
    `${name} is not a PNG picture that can be read. Save it as PNG (8 or 16 bits) and try again.`,
  );
  const report = await check(cli, path, `${name.replace(/\.\w+$/, '')}.png`).catch((error: unknown) => {
    throw error instanceof HttpError && error.status === 415 ? refused : error;
  });
  if (report.kind !== 'picture') throw refused;
  return report;
}

export function shotRoutes(storage: Storage, events: Events, cli: string): Router {
  const router = Router();
  router.post(
    '/shots',
    route(async (req, res) => {
      const { productionId, name, example } = body(newShot, req);
      const { id } = await createShot(productionId, name, example);
      events.tell({ kind: 'board' });
      res.status(201).json({ id });
    }),
  );
  router.get(
    '/shots/:id',
    route(
      async (req, res) =>
        void res.json(await shotInfo(await found(Shot.findByPk(idOf(req)), 'shot'), storage)),
    ),
  );
  router.patch(
    '/shots/:id',
    route(async (req, res) => {
      const change = body(changeShot, req) as Partial<Shot>;
      const shot = await freshly(saveShot(idOf(req), change, neededRevision(req)), (s) =>
        shotInfo(s, storage),
      );
      const { id, revision } = shot;
      events.tell({ kind: 'document', shotId: id, variantId: null, revision, client: clientOf(req) });
      res.json(await shotInfo(shot, storage));
    }),
  );
  router.post(
    '/shots/:id/variants',
    route(async (req, res) => {
      const { note, from, recipe } = body(newVariant, req);
      res.status(201).json(variantInfo(await createVariant(idOf(req), note, from, recipe)));
    }),
  );
  router.get(
    '/variants/:id',
    route(
      async (req, res) => void res.json(variantInfo(await found(Variant.findByPk(idOf(req)), 'variant'))),
    ),
  );
  router.patch(
    '/variants/:id',
    route(async (req, res) => {
      const change = body(changeVariant, req);
      const variant = await freshly(saveVariant(idOf(req), change, revisionOf(req)), variantInfo);
      const { id: variantId, shotId, revision } = variant;
      events.tell({ kind: 'document', shotId, variantId, revision, client: clientOf(req) });
      res.json(variantInfo(variant));
    }),
  );
  router.post(
    '/shots/:id/assets',
    route(async (req, res) => {
      const shot = await found(Shot.findByPk(idOf(req)), 'shot');
      const file = await receiveFile(req, storage.uploads(), MOST_UPLOAD);
      try {
        const frame = Number(file.fields.frame ?? NaN);
        const { width, height } = await pictureOf(cli, file);
        const hash = await hashOf(file.path);
        const target = storage.assetFile(hash);
        const bytes = (await stat(file.path)).size;
        await mkdir(dirname(target), { recursive: true });
        await rename(file.path, target);
        const asset = await Asset.create({
          shotId: shot.id,
          name: shortName(file.name, 200),
          kind: 'reference',
          sha256: hash,
          bytes,
          width,
          height,
          ...(Number.isInteger(frame) && frame >= 0 && frame < 1e7
            ? { series: (file.fields.series ?? '').slice(0, 200), frame }
            : {}),
        });
        res.status(201).json(assetInfo(asset));
      } finally {
        await rm(file.path, { force: true });
      }
    }),
  );
  router.get(
    '/assets/:id/file',
    route(async (req, res) => {
      const asset = await found(Asset.findByPk(idOf(req)), 'picture');
      res
        .type('png')
        .set('Cache-Control', 'private, max-age=31536000, immutable')
        .sendFile(storage.assetFile(asset.sha256));
    }),
  );
  return router;
}
