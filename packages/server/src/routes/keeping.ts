// Working on caches: tools, refining, particles, looking over, locks; and what fills the disk.
import archiver from 'archiver';
import { mkdir, open, readdir, readFile, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Router } from 'express';
import { fileStem, SOLVER } from '@bramblemist/core/cache/manifest';
import { REFINE } from '@bramblemist/core/cache/refine-settings';
import { applySteps, parseStep, type ToolStep } from '@bramblemist/core/volume/tools/tools';
import { writeWhole } from '@bramblemist/core/io/node/files';
import { openCache } from '@bramblemist/core/io/node/cache';
import { PARTICLE_ADVECTION } from '@bramblemist/core/analysis/particle-settings';
import type { VolumesReport } from '@bramblemist/core/volume/adopt';
import { endingOf } from '@bramblemist/core/assets/imported';
import type { CacheMade, VolumesFolder } from '@bramblemist/contracts/payloads/made';
import {
  askTried,
  bringNamed,
  changeBake,
  newParticleRun,
  newRefine,
  newTool,
} from '@bramblemist/contracts/requests';
import type { JobEngine } from '../jobs/engine';
import { Bake, ParticleRun, Frame, Job, Variant } from '../models';
import { BAKING } from '../models/job';
import { begin } from '../services/work';
import { channelsOf } from '../views';
import { clear, emptyBin, restore, storageInfo } from '../storage/keep';
import { isThere, type Storage } from '../storage/storage';
import { body, found, goneWith, idOf, route } from './door';
import { hashOf } from './files';
import { toldBy, TRY_BOUNDS } from '../jobs/children';
import { bringBack, isResult } from '../services/bundles';
import { shortName } from '../words';
import { receiveFile } from './receive';
import { HttpError } from '../http-error';

/** Volumes of gigabytes are read once before they are taken. */
const LOOK_OVER_BOUNDS = { ms: 30 * 60_000, bytes: 4 * 2 ** 30 } as const;
const RUN_IN = 4;
const MOST_VOLUME_BYTES = 64 * 2 ** 30;

/** A cache with a frame that is there. @throws Refused */
async function finished(id: number): Promise<{ bake: Bake; shotId: number }> {
  const bake = await found(Bake.findOne({ where: { id, clearedAt: null } }), 'bake');
  const variant = await found(Variant.findByPk(bake.variantId), 'variant');
  if ((await Frame.count({ where: { bakeId: id } })) === 0)
    throw new HttpError(409, 'This bake has no frame yet; wait for the first.');
  return { bake, shotId: variant.shotId };
}

function checked<T>(make: () => T): T {
  try {
    return make();
  } catch (error) {
    if ((error as Error).name === 'DocumentError') throw error;
    throw new HttpError(422, (error as Error).message);
  }
}

export function keepingRoutes(storage: Storage, engine: JobEngine): Router {
  const router = Router();
  /** Bakes of the same shot by their numbers: what steps may name. */
  const stepsFor = async (given: readonly { tool: string; settings: unknown }[]): Promise<ToolStep[]> => {
    const steps = given.map((s) => checked(() => parseStep(s.tool, s.settings)));
    for (const { settings } of steps.filter((s) => s.tool === 'merge')) {
      const other = /^\d+$/.test(String(settings.with))
        ? await Bake.findOne({ where: { id: Number(settings.with), clearedAt: null } })
        : null;
      if (!other)
        throw new HttpError(
          422,
          `There is no bake “${String(settings.with)}” to merge with. Name it by its number.`,
        );
    }

    return steps;
  };

  /** How the frames come out, without making any. */
  const rangeOf = (
    bake: Bake,
    steps: readonly ToolStep[],
  ): { first: number; last: number; voxelSizeM: number } => {
    const frames = openCache(storage.bakeFolder(bake.id));
    return checked(() => {
      const { first, last, voxelSizeM } = applySteps(frames, steps, {
        other: (name) => openCache(storage.bakeFolder(Number(name))),
        solid: () => () => 0,
      });
      return { first, last, voxelSizeM };
    });
  };

  /** A cache that is made of another one, and the job that makes it. */
  const enqueueMade = async (
    { variantId, recipe, recipeSha256, solver }: Bake,
    shotId: number,
    made: Exclude<CacheMade, { kind: 'brought' }>,
    { first, last, voxelSizeM }: { first: number; last: number; voxelSizeM: number },
  ): Promise<{ id: number }> => {
    const [firstFrame, lastFrame] = [first, last];
    const row = { variantId, recipe, recipeSha256, voxelSizeM, firstFrame, lastFrame, solver, made };
    return begin(engine, made.kind, shotId, last - first + 1, (transaction) =>
      Bake.create(row, { transaction }),
    );
  };

  const needsVelocity = (bake: Bake, so: string): void => {
    if (!channelsOf(bake).includes('velocity'))
      throw new HttpError(422, `This cache keeps no velocity, so ${so}. Bake it with velocity.`);
  };

  router.post(
    '/bakes/:id/tools',
    route(async (req, res) => {
      const { bake, shotId } = await finished(idOf(req));
      const steps = await stepsFor(body(newTool, req).steps as ToolStep[]);
      const { first, last, voxelSizeM } = rangeOf(bake, steps);
      res
        .status(201)
        .json(
          await enqueueMade(bake, shotId, { kind: 'tool', of: bake.id, steps }, { first, last, voxelSizeM }),
        );
    }),
  );
  router.post(
    '/bakes/:id/refines',
    route(async (req, res) => {
      const { bake, shotId } = await finished(idOf(req));
      const settings = REFINE.parse(body(newRefine, req).settings);
      const { first, last } = openCache(storage.bakeFolder(bake.id));
      const voxelSizeM = bake.voxelSizeM / settings.times;
      needsVelocity(bake, 'detail cannot ride on it');
      res
        .status(201)
        .json(
          await enqueueMade(
            bake,
            shotId,
            { kind: 'refine', of: bake.id, settings },
            { first, last, voxelSizeM },
          ),
        );
    }),
  );
  router.post(
    '/bakes/:id/particles',
    route(async (req, res) => {
      const { bake, shotId } = await finished(idOf(req));
      const { settings, format } = body(newParticleRun, req);
      const { first, last } = openCache(storage.bakeFolder(bake.id));
      needsVelocity(bake, 'nothing can be carried through it');
      const row = {
        bakeId: bake.id,
        settings: PARTICLE_ADVECTION.parse(settings),
        format: format as 'ply' | 'csv',
      };
      const made = await begin(engine, 'particles', shotId, last - first + 1, (transaction) =>
        ParticleRun.create(row, { transaction }),
      );
      res.status(201).json(made);
    }),
  );
  router.get(
    '/volumes',
    route(async (_req, res) => {
      const answer: VolumesFolder = { folder: storage.allowed, names: await storage.allowedNames() };
      res.json(answer);
    }),
  );
  router.post(
    '/shots/:id/volumes',
    route(async (req, res) => {
      const shotId = idOf(req);
      const variant = await found(
        Variant.findOne({ where: { shotId }, order: [['number', 'DESC']] }),
        'shot',
      );
      let path: string;
      let name: string;
      let key: string;
      let from: 'folder' | 'upload' = 'upload';
      if (req.is('multipart/form-data')) {
        const file = await receiveFile(req, storage.uploads(), MOST_VOLUME_BYTES);
        const ending = endingOf(file.name);
        if (ending !== 'vdb' && ending !== 'zip') {
          await rm(file.path, { force: true });
          throw new HttpError(
            415,
            `${file.name}: volumes come as a .vdb file, or as a ZIP of numbered ones.`,
          );
        }

        if (ending === 'zip' && isResult(file.path)) {
          const back = await bringBack(storage, engine.cli, shotId, file.path);
          const job = await Job.findOne({ where: { kind: back.what, targetId: back.id } });
          if (job) engine.emit('job', job);
          return void res.status(201).json({ ...back, isResult: true });
        }

        name = shortName(file.name, 200);
        key = `${await hashOf(file.path)}.${ending}`;
        path = storage.broughtVolumes(key);
        await mkdir(dirname(path), { recursive: true });
        await rename(file.path, path);
      } else {
        ({ name } = body(bringNamed, req));
        const allowed = await storage.allowedPath(name);
        if (!allowed)
          throw new HttpError(404, `There is nothing called ${name.slice(0, 80)} in the folder of volumes.`);
        [path, key, from] = [allowed, name, 'folder'];
      }

      let report: VolumesReport;
      try {
        report = JSON.parse(
          await toldBy(engine.cli, ['bring', path, '--name', name, '--json'], LOOK_OVER_BOUNDS),
        ) as VolumesReport;
      } catch (error) {
        if (from === 'upload') await rm(path, { force: true });
        throw error instanceof HttpError ? new HttpError(415, error.message) : error;
      }

      const { recipe, recipeSha256 } = variant;
      const { first, last, voxelSizeM } = report;
      const row = {
        variantId: variant.id,
        recipe,
        recipeSha256,
        voxelSizeM,
        firstFrame: first,
        lastFrame: last,
        solver: SOLVER,
        made: { kind: 'brought' as const, name, from, key, report },
      };
      const made = await begin(engine, 'bring', shotId, last - first + 1, (transaction) =>
        Bake.create(row, { transaction }),
      );
      res.status(201).json({ ...made, report });
    }),
  );
  router.post(
    '/bakes/:id/verify',
    route(async (req, res) => {
      const { bake, shotId } = await finished(idOf(req));
      await engine.enqueue('verify', bake.id, shotId, await Frame.count({ where: { bakeId: bake.id } }));
      res.status(201).json({ id: bake.id });
    }),
  );
  router.patch(
    '/bakes/:id',
    route(async (req, res) => {
      const bake = await found(Bake.findOne({ where: { id: idOf(req), clearedAt: null } }), 'bake');
      const { locked } = body(changeBake, req);
      if (
        locked &&
        (await Job.count({
          where: {
            kind: [...BAKING],
            targetId: bake.id,
            state: ['queued', 'running', 'paused'],
          },
        })) > 0
      )
        throw new HttpError(409, 'It is still being made. Lock it when it is done.');
      await bake.update({ locked });
      res.json({ id: bake.id, locked });
    }),
  );
  router.post(
    '/bakes/:id/tried',
    route(async (req, res) => {
      const { bake } = await finished(idOf(req));
      const { frame, steps, refine } = body(askTried, req);
      const folder = storage.bakeFolder(bake.id);
      const out = await storage.scratch();
      try {
        const common = ['--out', join(out, 'made'), '--bricks', '--json'];
        let args: string[];
        if (steps) {
          writeWhole(join(out, 'steps.json'), JSON.stringify(await stepsFor(steps as ToolStep[])));
          args = [
            'tool',
            folder,
            '--steps',
            join(out, 'steps.json'),
            '--files',
            storage.filesFolder(),
            '--caches',
            storage.bakesFolder(),
            '--frames',
            String(frame),
            ...common,
          ];
        } else {
          writeWhole(join(out, 'settings.json'), JSON.stringify(REFINE.parse(refine ?? {})));
          // detail takes a few frames to come
          const from = Math.max(bake.firstFrame, frame - RUN_IN);
          args = [
            'refine',
            folder,
            '--settings',
            join(out, 'settings.json'),
            '--frames',
            `${from}-${frame}`,
            ...common,
          ];
        }

        await toldBy(engine.cli, args, { ...TRY_BOUNDS, signal: goneWith(res) });
        const preview = join(out, 'made', 'preview');
        const file = (await readdir(preview)).at(-1);
        if (!file) throw new HttpError(422, 'There is no such frame in what comes out.');
        res.type('application/octet-stream').send(await readFile(join(preview, file)));
      } finally {
        await rm(out, { recursive: true, force: true });
      }
    }),
  );
  router.get(
    '/particles/:id/package',
    route(async (req, res) => {
      const run = await found(
        ParticleRun.findOne({ where: { id: idOf(req), clearedAt: null } }),
        'run of particles',
      );
      const folder = storage.particleFolder(run.id);
      const bake = await found(Bake.findByPk(run.bakeId), 'bake');
      if (!(await isThere(join(folder, 'particles.json'))))
        throw new HttpError(409, 'They have no frame yet; wait for the first.');
      const archive = archiver('zip', { zlib: { level: 1 } });
      res.attachment(`${fileStem(bake.recipe.name)}_particles${run.id}.zip`);
      archive.on('error', (error) => res.destroy(error));
      archive.pipe(res);
      archive.directory(folder, false);
      await archive.finalize();
    }),
  );

  router.get(
    '/storage',
    route(async (_req, res) => void res.json(await storageInfo(storage))),
  );
  for (const [path, act] of [
    ['clear', clear],
    ['restore', restore],
  ] as const)
    router.post(
      `/storage/:kind/:id/${path}`,
      route(async (req, res) => {
        await act(storage, String(req.params.kind), idOf(req));
        res.json(await storageInfo(storage));
      }),
    );
  router.post(
    '/storage/empty',
    route(async (_req, res) => {
      const freed = await emptyBin(storage);
      res.json({ freed, ...(await storageInfo(storage)) });
    }),
  );

  router.get(
    '/jobs/:id/log',
    route(async (req, res) => {
      const job = await found(Job.findByPk(idOf(req)), 'job');
      const path = storage.jobLog(job.id);
      res.type('text/plain').send(await endOf(path, LONGEST_LOG));
    }),
  );
  router.get(
    '/jobs/:id/picture',
    route(async (req, res) => {
      const job = await found(Job.findByPk(idOf(req)), 'job');
      const path = await newestPicture(storage, job);
      if (!path) throw new HttpError(404, 'There is no picture of it yet.');
      res.type('png').set('Cache-Control', 'no-store').sendFile(path);
    }),
  );
  router.get(
    '/jobs/:id/loop/:frame',
    route(async (req, res) => {
      const job = await found(Job.findByPk(idOf(req)), 'job');
      const path = await storage.frameFile(storage.loopFolder(job.targetId), idOf(req, 'frame'), 'png');
      if (!path || !BAKING.includes(job.kind)) throw new HttpError(404, 'There is no such picture of it.');
      res.type('png').set('Cache-Control', 'private, max-age=31536000, immutable').sendFile(path);
    }),
  );
  return router;
}

const LONGEST_LOG = 60_000;

/** The last so many bytes of a file; nothing where it is not there. */
async function endOf(path: string, most: number): Promise<string> {
  const file = await open(path).catch(() => null);
  if (!file) return '';
  try {
    const { size } = await file.stat();
    const bytes = Buffer.alloc(Math.min(size, most));
    await file.read(bytes, 0, bytes.length, size - bytes.length);
    return bytes.toString();
  } finally {
    await file.close();
  }
}

/** The newest picture that a job has made; null without. */
async function newestPicture(storage: Storage, job: Job): Promise<string | null> {
  const last = async (folder: string): Promise<string | null> => {
    const file = (await storage.frameFiles(folder, 'png')).at(-1);
    return file ? join(folder, file.file) : null;
  };

  switch (job.kind) {
    case 'render':
      return last(storage.renderFolder(job.targetId));
    case 'combine':
      return last(storage.combineFolder(job.targetId));
    case 'sheet':
      return last(join(storage.sheetFolder(job.targetId), 'cell-0'));
    default: {
      const path = join(storage.bakeFolder(job.targetId), 'newest.png');
      return !['particles', 'movie', 'savings'].includes(job.kind) && (await isThere(path)) ? path : null;
    }
  }
}
