// Bakes, renders, combines: starting them, following them, fetching what they made.
import { basename, join } from 'node:path';
import { Router, type Response } from 'express';
import { COMBINE } from '@bramblemist/core/combine/combine';
import { withNewest } from '@bramblemist/core/combine/edit';
import { frameName, fileStem } from '@bramblemist/core/cache/manifest';
import { LOOK } from '@bramblemist/core/look/look';
import {
  askCost,
  newBake,
  newCombine,
  newMovie,
  newRender,
  newSavings,
  newSheet,
  askRenderCost,
} from '@bramblemist/contracts/requests';
import type { CompWritten, MovieWanted } from '@bramblemist/contracts/payloads/comp';
import { withMoreSubsteps } from '@bramblemist/core/record/incident';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { JobEngine } from '../jobs/engine';
import { probeCost, probeRenderCost } from '../jobs/probe';
import { deepBeside } from '@bramblemist/core/io/node/pictures';
import { cellFolder } from '@bramblemist/core/io/node/sheet';
import { cellsOf, MOST_CELLS } from '@bramblemist/core/analysis/sheet';
import { Bake, CombineRun, Frame, Job, Movie, Render, SavingsRun, Sheet, Shot, Variant } from '../models';
import { isThere, type Storage } from '../storage/storage';
import { recipeHash } from '../services/documents';
import { beginBake } from '../services/bakes';
import { begin } from '../services/work';
import { frameInfos, jobInfo } from '../views';
import { body, found, goneWith, idOf, route } from './door';
import { HttpError } from '../http-error';

async function shotOf(bake: Bake): Promise<Shot> {
  const variant = await found(Variant.findByPk(bake.variantId), 'variant');
  return found(Shot.findByPk(variant.shotId), 'shot');
}

/** How frames of a comp are written where nothing else is said. */
const WRITTEN: CompWritten = { exr: 'half', png: 8, jpeg: false, scale: 1 };

/** The newest render of a shot that has a picture; 0: there is none. */
async function newestRender(shotId: number, storage: Storage): Promise<number> {
  const variants = await Variant.findAll({ where: { shotId }, attributes: ['id'] });
  const bakes = await Bake.findAll({ where: { variantId: variants.map((v) => v.id) }, attributes: ['id'] });
  const renders = await Render.findAll({
    where: { bakeId: bakes.map((b) => b.id), clearedAt: null },
    attributes: ['id'],
    order: [['id', 'DESC']],
  });
  for (const { id } of renders) if ((await storage.pictured(storage.renderFolder(id))).length > 0) return id;
  return 0;
}

export function jobRoutes(storage: Storage, engine: JobEngine): Router {
  const router = Router();
  router.post(
    '/cost',
    route(async (req, res) => {
      const { recipe, voxelSizeM } = body(askCost, req);
      const checked = RECIPE.parse(recipe);
      try {
        const given = goneWith(res);
        res.json(await probeCost(engine.cli, storage.filesFolder(), checked, voxelSizeM, given));
      } catch (error) {
        throw new HttpError(422, (error as Error).message);
      }
    }),
  );
  router.post(
    '/variants/:id/bakes',
    route(async (req, res) => {
      const variant = await found(Variant.findByPk(idOf(req)), 'variant');
      const { voxelSizeM, frames } = body(newBake, req);
      const { space } = variant.recipe;
      if (frames.first < space.firstFrame || frames.last > space.lastFrame)
        throw new HttpError(
          422,
          `The frames must lie within the recipe’s ${space.firstFrame}–${space.lastFrame}.`,
        );
      res.status(201).json(await beginBake(engine, variant, voxelSizeM, frames));
    }),
  );
  router.post(
    '/variants/:id/sheets',
    route(async (req, res) => {
      const variant = await found(Variant.findByPk(idOf(req)), 'variant');
      const { varied, voxelSizeM, last } = body(newSheet, req);
      const { firstFrame, lastFrame } = variant.recipe.space;
      if (last < firstFrame || last > lastFrame)
        throw new HttpError(422, `The last frame must lie within the recipe’s ${firstFrame}–${lastFrame}.`);
      let cells: number;
      try {
        cells = cellsOf(variant.recipe, varied).length;
      } catch (error) {
        throw new HttpError(422, (error as Error).message);
      }

      const { id: variantId, recipe, look } = variant;
      const row = { variantId, recipe, look, varied, voxelSizeM, firstFrame, lastFrame: last };
      const frames = cells * (last - firstFrame + 1);
      const made = await begin(engine, 'sheet', variant.shotId, frames, (transaction) =>
        Sheet.create(row, { transaction }),
      );
      res.status(201).json(made);
    }),
  );
  router.post(
    '/bakes/:id/renders',
    route(async (req, res) => {
      const bake = await found(Bake.findByPk(idOf(req)), 'bake');
      const { look, frames } = body(newRender, req);
      const checked = LOOK.parse(look);
      if (bake.clearedAt) throw new HttpError(409, 'This bake lies in the bin. Bring it back first.');
      if (frames.first < bake.firstFrame || frames.last > bake.lastFrame)
        throw new HttpError(
          422,
          `The frames must lie within the bake’s ${bake.firstFrame}–${bake.lastFrame}.`,
        );
      const there = await Frame.count({ where: { bakeId: bake.id } });
      if (there === 0) throw new HttpError(409, 'This bake has no frame yet; wait for the first.');
      const { first: firstFrame, last: lastFrame } = frames;
      const row = { bakeId: bake.id, look: checked, firstFrame, lastFrame };
      const shot = await shotOf(bake);
      const made = await begin(engine, 'render', shot.id, lastFrame - firstFrame + 1, (transaction) =>
        Render.create(row, { transaction }),
      );
      res.status(201).json(made);
    }),
  );
  router.post(
    '/shots/:id/combines',
    route(async (req, res) => {
      const shot = await found(Shot.findByPk(idOf(req)), 'shot');
      const { settings, frames, output } = body(newCombine, req);
      const checked = withNewest(COMBINE.parse(settings), await newestRender(shot.id, storage));
      const { first: firstFrame, last: lastFrame } = frames;
      const row = {
        shotId: shot.id,
        settings: checked,
        output: { ...WRITTEN, ...output } as CompWritten,
        firstFrame,
        lastFrame,
      };
      const made = await begin(engine, 'combine', shot.id, lastFrame - firstFrame + 1, (transaction) =>
        CombineRun.create(row, { transaction }),
      );
      res.status(201).json(made);
    }),
  );
  router.post(
    '/bakes/:id/savings',
    route(async (req, res) => {
      const bake = await found(Bake.findByPk(idOf(req)), 'bake');
      if (bake.clearedAt) throw new HttpError(409, 'This bake lies in the bin. Bring it back first.');
      const { look, frame } = body(newSavings, req);
      const checked = LOOK.parse(look);
      if (!(await storage.frameFile(storage.bakeFolder(bake.id), frame, 'vdb')))
        throw new HttpError(409, `Frame ${frame} is not baked yet.`);
      const shot = await shotOf(bake);
      const made = await begin(engine, 'savings', shot.id, 1, (transaction) =>
        SavingsRun.create({ bakeId: bake.id, frame, look: checked }, { transaction }),
      );
      res.status(201).json(made);
    }),
  );
  router.get(
    '/savings/:id',
    route(async (req, res) => {
      const run = await found(SavingsRun.findByPk(idOf(req)), 'sheet of savings');
      const path = join(storage.savingsFolder(run), 'savings.json');
      if (!(await isThere(path))) throw new HttpError(404, 'This sheet is not measured yet.');
      res.type('application/json').sendFile(path);
    }),
  );
  router.get(
    '/savings/:id/pictures/:name',
    route(async (req, res) => {
      const name = String(req.params.name);
      if (!/^(as-it-is|saving-\d{1,3}(-map)?)\.png$/.test(name))
        throw new HttpError(404, 'A sheet has no such picture.');
      const run = await found(SavingsRun.findByPk(idOf(req)), 'sheet of savings');
      const path = join(storage.savingsFolder(run), name);
      sendFrame(res, (await isThere(path)) ? path : null, 'image/png');
    }),
  );
  router.post(
    '/bakes/:id/render-cost',
    route(async (req, res) => {
      const bake = await found(Bake.findByPk(idOf(req)), 'bake');
      const { look } = body(askRenderCost, req);
      const checked = LOOK.parse(look);
      try {
        const folders = { bake: storage.bakeFolder(bake.id), files: storage.filesFolder() };
        res.json(await probeRenderCost(engine.cli, folders, checked, goneWith(res)));
      } catch (error) {
        throw new HttpError(422, (error as Error).message);
      }
    }),
  );
  for (const owner of ['renders', 'combines'] as const)
    router.post(
      `/${owner}/:id/movies`,
      route(async (req, res) => {
        const settings = body(newMovie, req) as MovieWanted;
        const combine = owner === 'combines' ? await found(CombineRun.findByPk(idOf(req)), 'combine') : null;
        const render = combine ? null : await found(Render.findByPk(idOf(req)), 'render');
        const owned = combine ?? render!;
        if (owned.clearedAt) throw new HttpError(409, 'Its pictures lie in the bin. Bring them back first.');
        const row = combine ? { combineId: combine.id } : { renderId: render!.id };
        const frames = await storage.pictured(storage.picturesOf(row));
        if (frames.length === 0) throw new HttpError(409, 'There is no picture yet; wait for the first.');
        const shotId =
          combine?.shotId ?? (await shotOf(await found(Bake.findByPk(render!.bakeId), 'bake'))).id;
        const total = frames[frames.length - 1] - frames[0] + 1;
        const made = await begin(engine, 'movie', shotId, total, (transaction) =>
          Movie.create({ ...row, settings }, { transaction }),
        );
        res.status(201).json(made);
      }),
    );
  router.get(
    '/movies/:id/file',
    route(async (req, res) => {
      const movie = await found(Movie.findByPk(idOf(req)), 'movie');
      const path = storage.movieFile(storage.picturesOf(movie), movie.id, movie.settings.kind);
      if (!(await isThere(path))) throw new HttpError(404, 'This movie is not there (yet).');
      const type = movie.settings.kind === 'review' ? 'video/mp4' : 'video/quicktime';
      const of = movie.combineId ? `combine_${movie.combineId}` : `render_${movie.renderId}`;
      if (req.query.keep !== undefined) res.attachment(`${of}_${basename(path)}`);
      res.type(type).sendFile(path);
    }),
  );

  const sendFrame = (res: Response, path: string | null, type: string, download?: string): void => {
    if (!path) throw new HttpError(404, 'This frame is not there (yet).');
    if (download) res.attachment(download);
    res.type(type).set('Cache-Control', 'private, max-age=31536000, immutable').sendFile(path);
  };

  router.get(
    '/bakes/:id/frames',
    route(async (req, res) => {
      const bake = await found(Bake.findByPk(idOf(req), { attributes: ['id'] }), 'bake');
      res.json(await frameInfos(bake.id));
    }),
  );
  router.get(
    '/bakes/:id/frames/:frame/brick',
    route(async (req, res) => {
      sendFrame(
        res,
        await storage.frameFile(join(storage.bakeFolder(idOf(req)), 'preview'), idOf(req, 'frame'), 'brick'),
        'application/octet-stream',
      );
    }),
  );
  router.get(
    '/bakes/:id/frames/:frame/volume',
    route(async (req, res) => {
      const bake = await found(Bake.findByPk(idOf(req)), 'bake');
      const frame = idOf(req, 'frame');
      sendFrame(
        res,
        await storage.frameFile(storage.bakeFolder(bake.id), frame, 'vdb'),
        'application/octet-stream',
        frameName(fileStem(bake.recipe.name), frame, 'vdb'),
      );
    }),
  );
  router.get(
    '/sheets/:id/cells/:cell/frames/:frame',
    route(async (req, res) => {
      const cell = Number(req.params.cell);
      if (!Number.isInteger(cell) || cell < 0 || cell >= MOST_CELLS)
        throw new HttpError(404, 'There is no such run in a sheet.');
      sendFrame(
        res,
        await storage.frameFile(cellFolder(storage.sheetFolder(idOf(req)), cell), idOf(req, 'frame'), 'png'),
        'image/png',
      );
    }),
  );
  for (const [kind, folder] of [
    ['renders', (id: number) => storage.renderFolder(id)],
    ['combines', (id: number) => storage.combineFolder(id)],
  ] as const) {
    router.get(
      `/${kind}/:id/frames/:frame/:type`,
      route(async (req, res) => {
        const type = String(req.params.type);
        if (!['png', 'exr', 'deep'].includes(type))
          throw new HttpError(404, 'Pictures are there as png, exr and, where a look asks for it, deep.');
        const own = folder(idOf(req));
        const path = await storage.frameFile(own, idOf(req, 'frame'), type === 'png' ? 'png' : 'exr');
        const deep = path && type === 'deep' ? deepBeside(path) : path;
        sendFrame(
          res,
          deep && (await isThere(deep)) ? deep : null,
          type === 'png' ? 'image/png' : 'image/x-exr',
        );
      }),
    );
  }

  router.get(
    '/jobs',
    route(async (_req, res) => {
      const jobs = await Job.findAll({ order: [['id', 'DESC']], limit: 100 });
      const shots = await Shot.findAll({ where: { id: [...new Set(jobs.map((j) => j.shotId))] } });
      res.json(jobs.map((j) => jobInfo(j, shots.find((s) => s.id === j.shotId)?.name ?? '')));
    }),
  );
  /** A bake that went wrong goes on from some frames before, with more substeps. */
  const goOnWithMoreSubsteps = async (id: number): Promise<Job | null> => {
    const job = await Job.findByPk(id);
    if (!job || job.kind !== 'bake' || job.state !== 'failed')
      throw new HttpError(409, 'Only a bake that has failed can go on with more substeps.');
    const bake = await found(Bake.findByPk(job.targetId), 'bake');
    const recipe = withMoreSubsteps(bake.recipe);
    if (recipe.space.substepsLeast === bake.recipe.space.substepsLeast)
      throw new HttpError(
        422,
        'It has as many substeps as there can be. Take smaller voxels, or weaker forces.',
      );
    await bake.update({ recipe, recipeSha256: recipeHash(recipe) });
    return engine.goOn(id);
  };

  for (const [path, act] of [
    ['stop', (id: number) => engine.stop(id)],
    ['pause', (id: number) => engine.pause(id)],
    ['go-on', (id: number) => engine.goOn(id)],
    ['more-substeps', goOnWithMoreSubsteps],
    ['first', (id: number) => engine.first(id)],
  ] as const)
    router.post(
      `/jobs/:id/${path}`,
      route(async (req, res) => {
        const job = await act(idOf(req));
        if (!job) throw new HttpError(404, 'There is no such job.');
        res.json({ state: job.state });
      }),
    );
  return router;
}
