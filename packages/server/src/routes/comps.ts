// What comps need: feeds, frame by frame, and comps that were put aside.
import { readFile } from 'node:fs/promises';
import { Router } from 'express';
import pLimit from 'p-limit';
import { COMBINE, type CompFile } from '@bramblemist/core/combine/combine';
import { packWords } from '@bramblemist/core/combine/raw-picture';
import { readExrHead, sizeOf } from '@bramblemist/core/files/exr/header';
import { layersIn } from '@bramblemist/core/files/exr/colours';
import type { FileReport } from '@bramblemist/core/assets/import-asset';
import { NodeFeeds } from '@bramblemist/core/io/node/feeds';
import { changeCompVersion, newCompVersion } from '@bramblemist/contracts/requests';
import type { RenderFeed } from '@bramblemist/contracts/payloads/comp';
import { Bake, BroughtFile, CompVersion, Render, Shot, Variant } from '../models';
import { HttpError } from '../http-error';
import { inTransaction } from '../services/documents';
import type { Storage } from '../storage/storage';
import { body, found, idOf, route } from './door';

/** Decoders that run at once: each is a process of its own. */
const AT_ONCE = 2;
/** A file that stays what it is may be kept as long as one likes. */
const FOR_EVER = 'private, max-age=31536000, immutable';

const KINDS: Readonly<Partial<Record<FileReport['kind'], CompFile['kind']>>> = {
  picture: 'picture',
  pictures: 'sequence',
  movie: 'movie',
};

export function compRoutes(storage: Storage): Router {
  const router = Router();
  const feeds = new NodeFeeds({ render: () => null, files: storage.filesFolder(), rate: 24 });
  const limit = pLimit(AT_ONCE);

  router.get(
    '/renders/:id/feed',
    route(async (req, res) => {
      const render = await found(Render.findByPk(idOf(req)), 'render');
      const bake = await found(Bake.findByPk(render.bakeId), 'bake');
      const variant = await found(Variant.findByPk(bake.variantId), 'variant');
      const shot = await found(Shot.findByPk(variant.shotId), 'shot');
      const folder = storage.renderFolder(render.id);
      const frames = await storage.pictured(folder);
      const first = frames.length > 0 ? await storage.frameFile(folder, frames[0], 'exr') : null;
      const bytes = first ? await readFile(first) : null;
      const [width, height] = bytes ? sizeOf(readExrHead(bytes).parts[0].display) : [0, 0];
      const feed: RenderFeed = {
        frames,
        rate: bake.recipe.space.frameRate,
        width,
        height,
        passes: bytes ? layersIn(bytes) : [],
        shot: shot.name,
      };
      res.json(feed);
    }),
  );
  router.get(
    '/files/:sha256/frames/:frame',
    route(async (req, res) => {
      const file = await found(BroughtFile.findOne({ where: { sha256: String(req.params.sha256) } }), 'file');
      const kind = KINDS[file.report.kind];
      if (!kind) throw new HttpError(422, `${file.name} has no pictures in it.`);
      const part = {
        ...COMBINE.defaultPart<CompFile>('files'),
        id: file.sha256,
        name: file.name,
        sha256: file.sha256,
        kind,
      };
      const raw = await limit(() => feeds.raw(part, idOf(req, 'frame'))).catch((error: unknown) => {
        throw new HttpError(422, (error as Error).message);
      });
      if (!raw) throw new HttpError(404, `${file.name} has no such frame.`);
      res.set('Cache-Control', FOR_EVER).set('X-Kind', raw.kind).type('application/octet-stream');
      res.send(Buffer.from(raw.kind === 'words' ? packWords(raw) : raw.bytes));
    }),
  );

  router.post(
    '/shots/:id/comps',
    route(async (req, res) => {
      const shotId = idOf(req);
      const { settings, note } = body(newCompVersion, req);
      const checked = COMBINE.parse(settings);
      const made = await inTransaction(async (transaction) => {
        // one at a time counts on for a shot
        await found(Shot.findByPk(shotId, { transaction, lock: transaction.LOCK.UPDATE }), 'shot');
        const last = await CompVersion.max<number, CompVersion>('number', { where: { shotId }, transaction });
        return CompVersion.create(
          { shotId, number: (last ?? 0) + 1, note, settings: checked },
          { transaction },
        );
      });
      res.status(201).json({ id: made.id, number: made.number });
    }),
  );
  router.patch(
    '/comps/:id',
    route(async (req, res) => {
      const version = await found(CompVersion.findByPk(idOf(req)), 'comp');
      await version.update({ note: body(changeCompVersion, req).note });
      res.json({ id: version.id });
    }),
  );
  router.delete(
    '/comps/:id',
    route(async (req, res) => {
      await (await found(CompVersion.findByPk(idOf(req)), 'comp')).destroy();
      res.json({});
    }),
  );
  return router;
}
