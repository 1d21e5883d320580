// Productions, shots, variants and their assets.
import { mkdirSync, readFileSync, renameSync, rmSync, statSync } from 'node:fs';
import { dirname } from 'node:path';
import { Router } from 'express';
import { COMBINE } from '@bramblemist/core/combine/combine';
import { sha256 } from '@bramblemist/core/io/node/files';
import { readPng } from '@bramblemist/core/io/node/png';
import { differences } from '@bramblemist/core/recipe/paths';
import { LOOK } from '@bramblemist/core/look/look';
import { canonicalText } from '@bramblemist/core/recipe/document';
import { example, EXAMPLES } from '@bramblemist/core/presets/examples';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { startFrom } from '@bramblemist/core/presets/starting-points';
import {
  changeShot,
  changeVariant,
  newProduction,
  newShot,
  newVariant,
} from '@bramblemist/contracts/requests';
import { Asset, Production, Shot, Variant } from '../models';
import type { Storage } from '../storage/storage';
import { assetInfo, board, shotInfo, variantInfo } from '../views';
import { body, found, idOf, HttpError, route } from './door';
import { receiveFile } from './receive';

const MOST_UPLOAD = 64 * 2 ** 20;

export function recipeHash(recipe: Recipe): string {
  return sha256(canonicalText(recipe));
}

export function shotRoutes(storage: Storage): Router {
  const router = Router();
  router.get(
    '/productions',
    route(async (_req, res) => void res.json(await board(storage))),
  );
  router.post(
    '/productions',
    route(async (req, res) => {
      const { name } = body(newProduction, req);
      const p = await Production.create({ name });
      res.status(201).json({ id: p.id });
    }),
  );
  router.post(
    '/shots',
    route(async (req, res) => {
      const { productionId, name, example: from } = body(newShot, req);
      await found(Production.findByPk(productionId), 'production');
      if (from !== undefined && !EXAMPLES.includes(from))
        throw new HttpError(422, `There is no example called ${from}. There are: ${EXAMPLES.join(', ')}.`);
      const start = from === undefined ? null : startFrom(from);
      const recipe = { ...(start?.recipe ?? (from ? example(from) : parseRecipe({}))), name };
      const shot = await Shot.create({
        productionId,
        name,
        note: start ? `${start.point.about} ${start.point.first}` : '',
      });
      await Variant.create({
        shotId: shot.id,
        number: 1,
        note: 'first',
        recipe,
        look: start ? { ...start.look, name } : LOOK.parse({}),
        combine: COMBINE.parse({}),
        recipeSha256: recipeHash(recipe),
      });
      res.status(201).json({ id: shot.id });
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
      const shot = await found(Shot.findByPk(idOf(req)), 'shot');
      await shot.update(body(changeShot, req) as Partial<Shot>);
      res.json(await shotInfo(shot, storage));
    }),
  );
  router.post(
    '/shots/:id/variants',
    route(async (req, res) => {
      const shotId = idOf(req);
      const { note, from, recipe: changed } = body(newVariant, req);
      const last = await found(Variant.findOne({ where: { shotId }, order: [['number', 'DESC']] }), 'shot');
      const parent =
        from === undefined
          ? last
          : await found(Variant.findOne({ where: { id: from, shotId } }), 'variant of this shot');
      const recipe = changed === undefined ? parent.recipe : parseRecipe(changed);
      const made = await Variant.create({
        shotId,
        number: last.number + 1,
        parentId: parent.id,
        note,
        recipe,
        look: parent.look,
        combine: parent.combine,
        recipeSha256: recipeHash(recipe),
      });
      res.status(201).json(variantInfo(made));
    }),
  );
  router.patch(
    '/variants/:id',
    route(async (req, res) => {
      const variant = await found(Variant.findByPk(idOf(req)), 'variant');
      const change = body(changeVariant, req);
      if (change.recipe !== undefined) {
        const recipe = parseRecipe(change.recipe);
        const now = new Date().toISOString();
        const paths = differences(variant.recipe, recipe).map((d) => [d.path, now]);
        variant.set({
          recipe,
          recipeSha256: recipeHash(recipe),
          touched: { ...variant.touched, ...Object.fromEntries(paths) },
        });
      }

      if (change.look !== undefined) variant.set({ look: LOOK.parse(change.look) });
      if (change.combine !== undefined) variant.set({ combine: COMBINE.parse(change.combine) });
      if (change.note !== undefined) variant.set({ note: change.note });
      await variant.save();
      await Shot.update({ updatedAt: new Date() } as never, { where: { id: variant.shotId }, silent: true });
      res.json(variantInfo(variant));
    }),
  );
  router.post(
    '/shots/:id/assets',
    route(async (req, res) => {
      const shot = await found(Shot.findByPk(idOf(req)), 'shot');
      const file = await receiveFile(req, storage.uploads(), MOST_UPLOAD);
      try {
        const kind = file.fields.kind === 'reference' ? 'reference' : 'plate';
        const frame = Number(file.fields.frame ?? NaN);
        let picture;
        try {
          picture = readPng(file.path);
        } catch {
          throw new HttpError(
            415,
            `${file.name} is not a PNG picture that can be read. Save it as PNG (8 or 16 bits) and try ` +
              'again.',
          );
        }

        const hash = sha256(readFileSync(file.path));
        const target = storage.assetFile(hash);
        const bytes = statSync(file.path).size;
        mkdirSync(dirname(target), { recursive: true });
        renameSync(file.path, target);
        const asset = await Asset.create({
          shotId: shot.id,
          name: file.name.slice(0, 200),
          kind,
          sha256: hash,
          bytes,
          width: picture.width,
          height: picture.height,
          ...(Number.isInteger(frame) && frame >= 0 && frame < 1e7
            ? { series: (file.fields.series ?? '').slice(0, 200), frame }
            : {}),
        });
        res.status(201).json(assetInfo(asset));
      } finally {
        rmSync(file.path, { force: true });
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
