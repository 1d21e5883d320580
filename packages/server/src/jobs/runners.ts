// What bakes, renders and combines run, and what is noted of their frames.
import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { writeWhole } from '@bramblemist/core/io/node/files';
import type { CachedFrame, Damage, Manifest } from '@bramblemist/core/cache/manifest';
import { MANIFEST } from '@bramblemist/core/io/node/cache';
import type { JobKind } from '@bramblemist/contracts/payloads/jobs';
import type { CacheMade } from '@bramblemist/contracts/payloads/made';
import {
  Bake,
  CombineRun,
  ParticleRun,
  Frame,
  Job,
  Movie,
  Render,
  SavingsRun,
  Sheet,
  Shot,
  Variant,
} from '../models';
import { BAKING } from '../models/job';
import { isThere, type Storage } from '../storage/storage';
import type { JobRunner } from './engine';
import { frameRow } from './frame-row';

async function need<T>(found: Promise<T | null>, what: string): Promise<T> {
  const value = await found;
  if (!value) throw new Error(`${what} that this job was for is gone.`);
  return value;
}

/** Notes a frame of a cache. One that is made once more has the same bits, and its row is written anew. */
async function noteFrame(job: Job, line: Record<string, unknown>): Promise<void> {
  if (line.event !== 'frame') return;
  await Frame.upsert(frameRow(job.targetId, line as unknown as CachedFrame));
}

/** Whether the same upload is still to become another cache. */
async function isBroughtAgain({ id }: Job, key: string): Promise<boolean> {
  const waiting = await Job.findAll({ where: { kind: 'bring', state: ['queued', 'running', 'paused'] } });
  const bakes = await Bake.findAll({
    where: { id: waiting.filter((j) => j.id !== id).map((j) => j.targetId) },
    attributes: ['made'],
  });
  return bakes.some(({ made }) => made?.kind === 'brought' && made.key === key);
}

/** A cache may not be made anew while it lies in the bin. */
async function hindranceOf(row: Promise<{ clearedAt: Date | null } | null>): Promise<string | null> {
  const found = await row;
  if (!found) return 'What this job was to make is gone.';
  return found.clearedAt ? 'What it makes lies in the bin. Bring it back first, on the storage page.' : null;
}

/** How a bake's frames are pictured while they come: as its variant looks. */
async function lookFile(storage: Storage, job: Job, bake: Bake): Promise<string[]> {
  const variant = await Variant.findByPk(bake.variantId);
  if (!variant) return [];
  const path = storage.jobFile(job.id, 'look');
  writeWhole(path, JSON.stringify(variant.look));
  return ['--look', path];
}

/** Which frames of a range the source has, and which of them have no picture yet. */
async function missingOf(
  storage: Storage,
  source: readonly number[],
  { firstFrame, lastFrame }: { firstFrame: number; lastFrame: number },
  folder: string,
): Promise<{ all: number[]; missing: number[] }> {
  const all = source.filter((f) => f >= firstFrame && f <= lastFrame).sort((a, b) => a - b);
  if (all.length === 0) throw new Error(`There is nothing to work on in frames ${firstFrame}-${lastFrame}.`);
  const made = new Set(await storage.pictured(folder));
  return { all, missing: all.filter((f) => !made.has(f)) };
}

/** The frame rate of a movie's shot, and what is burnt in: shot, variant and render. */
async function namesOfMovie({ renderId, combineId }: Movie): Promise<{ rate: number; words: string }> {
  if (combineId) {
    const { settings, shotId } = await need(CombineRun.findByPk(combineId), 'The comp');
    const { name } = await need(Shot.findByPk(shotId), 'The shot');
    return { rate: settings.frame.rate, words: `${name} · comp ${combineId}` };
  }

  const render = await need(Render.findByPk(renderId ?? 0), 'The render');
  const bake = await need(Bake.findByPk(render.bakeId), 'The bake');
  const variant = await need(Variant.findByPk(bake.variantId), 'The variant');
  const shot = await need(Shot.findByPk(variant.shotId), 'The shot');
  return {
    rate: bake.recipe.space.frameRate,
    words: `${shot.name} · variant ${variant.number} · render ${render.id}`,
  };
}

export function runners(storage: Storage): Readonly<Record<JobKind, JobRunner>> {
  /**
   * Brings the rows of a cache's frames to what its manifest holds: a server that died may have missed some
   * that its child had finished.
   */
  const reconcile = async (job: Job): Promise<void> => {
    const bakeId = job.targetId;
    const path = join(storage.bakeFolder(bakeId), MANIFEST);
    const text = await readFile(path, 'utf8').catch(() => null);
    if (text === null) return;
    const { frames } = JSON.parse(text) as Manifest;
    const rows = await Frame.findAll({ where: { bakeId }, attributes: ['frame', 'sha256'] });
    const known = new Map(rows.map((r) => [r.frame, r.sha256]));
    const missing = frames.filter((f) => known.get(f.frame) !== f.sha256);
    if (missing.length > 0)
      await Frame.bulkCreate(
        missing.map((f) => frameRow(bakeId, f)),
        { updateOnDuplicate: ['file', 'bytes', 'sha256', 'readings', 'incidents', 'timeS', 'updatedAt'] },
      );
    const gone = [...known.keys()].filter((frame) => !frames.some((f) => f.frame === frame));
    if (gone.length > 0) await Frame.destroy({ where: { bakeId, frame: gone } });
    const done = frames.length;
    if (job.done !== done && BAKING.includes(job.kind)) await Job.update({ done }, { where: { id: job.id } });
  };

  const ofCache = {
    reconcile,
    hindrance: (job: Job) => hindranceOf(Bake.findByPk(job.targetId)),
  };
  /** What makes a cache of another one. */
  const remake = (kind: 'tool' | 'refine', argsFor: (made: CacheMade, job: Job) => string[]): JobRunner => ({
    async command(job) {
      const bake = await need(Bake.findByPk(job.targetId), 'The cache');
      const { made } = bake;
      if (!made || made.kind === 'brought') throw new Error('This cache was not made of another one.');
      await need(Bake.findOne({ where: { id: made.of, clearedAt: null } }), `Bake ${made.of}, the cache`);
      return [
        kind,
        storage.bakeFolder(made.of),
        '--out',
        storage.bakeFolder(bake.id),
        ...argsFor(made, job),
        '--bricks',
        '--json',
        ...(await lookFile(storage, job, bake)),
      ];
    },
    onLine: noteFrame,
    ...ofCache,
  });
  return {
    bake: {
      async command(job) {
        const bake = await need(Bake.findByPk(job.targetId), 'The bake');
        const recipe = storage.jobFile(job.id, 'recipe');
        writeWhole(recipe, JSON.stringify(bake.recipe));
        return [
          'bake',
          recipe,
          '--out',
          storage.bakeFolder(bake.id),
          '--voxel',
          String(bake.voxelSizeM),
          '--frames',
          `${bake.firstFrame}-${bake.lastFrame}`,
          '--files',
          storage.filesFolder(),
          '--bricks',
          '--resume',
          '--other-substeps',
          '--json',
          ...(await lookFile(storage, job, bake)),
        ];
      },
      onLine: noteFrame,
      ...ofCache,
    },
    tool: remake('tool', (made, job) => {
      const steps = storage.jobFile(job.id, 'steps');
      writeWhole(steps, JSON.stringify(made.kind === 'tool' ? made.steps : []));
      return ['--steps', steps, '--files', storage.filesFolder(), '--caches', storage.bakesFolder()];
    }),
    refine: remake('refine', (made, job) => {
      const settings = storage.jobFile(job.id, 'settings');
      writeWhole(settings, JSON.stringify(made.kind === 'refine' ? made.settings : {}));
      return ['--settings', settings];
    }),
    bring: {
      async command(job) {
        const bake = await need(Bake.findByPk(job.targetId), 'The cache');
        const made = bake.made as Extract<CacheMade, { kind: 'brought' }>;
        const path =
          made.from === 'upload' ? storage.broughtVolumes(made.key) : await storage.allowedPath(made.key);
        const recipe = storage.jobFile(job.id, 'recipe');
        if (!path || !(await isThere(path)))
          throw new Error(`${made.name} is not there any more. Bring it in again.`);
        writeWhole(recipe, JSON.stringify(bake.recipe));
        return [
          'bring',
          path,
          '--name',
          made.name,
          '--out',
          storage.bakeFolder(bake.id),
          '--recipe',
          recipe,
          '--bricks',
          '--json',
          ...(await lookFile(storage, job, bake)),
        ];
      },
      async onLine(job, line) {
        await noteFrame(job, line);
        if (line.event !== 'end') return;
        // the cache holds all of it now
        const { made } = await need(Bake.findByPk(job.targetId), 'The cache');
        if (made?.kind === 'brought' && made.from === 'upload' && !(await isBroughtAgain(job, made.key)))
          await rm(storage.broughtVolumes(made.key), { force: true });
      },
      ...ofCache,
    },
    particles: {
      async command(job) {
        const run = await need(ParticleRun.findByPk(job.targetId), 'The run of particles');
        const settings = storage.jobFile(job.id, 'settings');
        await need(Bake.findOne({ where: { id: run.bakeId, clearedAt: null } }), 'The cache');
        writeWhole(settings, JSON.stringify(run.settings));
        return [
          'particles',
          storage.bakeFolder(run.bakeId),
          '--out',
          storage.particleFolder(run.id),
          '--settings',
          settings,
          '--format',
          run.format,
          '--files',
          storage.filesFolder(),
          '--json',
        ];
      },
      onLine: async () => {},
      hindrance: (job) => hindranceOf(ParticleRun.findByPk(job.targetId)),
    },
    verify: {
      async command(job) {
        const bake = await need(Bake.findOne({ where: { id: job.targetId, clearedAt: null } }), 'The cache');
        return ['verify', storage.bakeFolder(bake.id), '--json'];
      },
      async onLine(job, line) {
        if (line.event !== 'end') return;
        const damages = (line.damages as Damage[]).slice(0, 100);
        await Bake.update(
          { verified: { at: new Date().toISOString(), damages } },
          { where: { id: job.targetId } },
        );
      },
    },
    sheet: {
      async command(job) {
        const sheet = await need(Sheet.findByPk(job.targetId), 'The trial sheet');
        const recipe = storage.jobFile(job.id, 'recipe');
        const look = storage.jobFile(job.id, 'look');
        // a sheet that goes on begins anew
        await rm(join(storage.sheetFolder(sheet.id), 'sheet.json'), { force: true });
        writeWhole(recipe, JSON.stringify(sheet.recipe));
        writeWhole(look, JSON.stringify(sheet.look));
        return [
          'sheet',
          recipe,
          '--out',
          storage.sheetFolder(sheet.id),
          '--files',
          storage.filesFolder(),
          '--look',
          look,
          '--voxel',
          String(sheet.voxelSizeM),
          '--last',
          String(sheet.lastFrame),
          '--width',
          '288',
          '--json',
          ...sheet.varied.flatMap(({ path, values }) => ['--vary', `${path}=${values.join(',')}`]),
        ];
      },
      onLine: async () => {},
      hindrance: (job) => hindranceOf(Sheet.findByPk(job.targetId)),
    },
    render: {
      async frames(job) {
        const render = await need(Render.findByPk(job.targetId), 'The render');
        const rows = await Frame.findAll({ where: { bakeId: render.bakeId }, attributes: ['frame'] });
        return missingOf(
          storage,
          rows.map((r) => r.frame),
          render,
          storage.renderFolder(render.id),
        );
      },
      async command(job, chunk) {
        const render = await need(Render.findByPk(job.targetId), 'The render');
        const look = storage.jobFile(job.id, 'look');
        writeWhole(look, JSON.stringify(render.look));
        return [
          'render',
          storage.bakeFolder(render.bakeId),
          '--out',
          storage.renderFolder(render.id),
          '--files',
          storage.filesFolder(),
          '--look',
          look,
          '--frames',
          `${chunk!.first}-${chunk!.last}`,
          '--json',
        ];
      },
      onLine: async () => {},
      hindrance: (job) => hindranceOf(Render.findByPk(job.targetId)),
    },
    savings: {
      async command(job) {
        const run = await need(SavingsRun.findByPk(job.targetId), 'The sheet of savings');
        const look = storage.jobFile(job.id, 'look');
        writeWhole(look, JSON.stringify(run.look));
        return [
          'savings',
          storage.bakeFolder(run.bakeId),
          '--out',
          storage.savingsFolder(run),
          '--files',
          storage.filesFolder(),
          '--look',
          look,
          '--frames',
          `${run.frame}-${run.frame}`,
          '--json',
        ];
      },
      onLine: async () => {},
      async hindrance(job) {
        const run = await SavingsRun.findByPk(job.targetId);
        return hindranceOf(Bake.findByPk(run?.bakeId ?? 0));
      },
    },
    movie: {
      async command(job) {
        const movie = await need(Movie.findByPk(job.targetId), 'The movie');
        const folder = storage.picturesOf(movie);
        const { kind, burn, note } = movie.settings;
        const { rate, words } = await namesOfMovie(movie);
        const said = [words, ...(note === '' ? [] : [note])].join(' · ');
        return [
          'movie',
          folder,
          '--out',
          storage.movieFile(folder, movie.id, kind),
          '--kind',
          kind,
          '--rate',
          String(rate),
          ...(burn ? ['--burn', said] : []),
          '--json',
        ];
      },
      onLine: async () => {},
      async hindrance(job) {
        const movie = await Movie.findByPk(job.targetId);
        if (movie?.renderId) return hindranceOf(Render.findByPk(movie.renderId));
        return movie?.combineId
          ? hindranceOf(CombineRun.findByPk(movie.combineId))
          : 'What this movie was to be of is gone.';
      },
    },
    combine: {
      async frames(job) {
        const { firstFrame, lastFrame, id } = await need(CombineRun.findByPk(job.targetId), 'The comp');
        const all = Array.from({ length: lastFrame - firstFrame + 1 }, (_, n) => firstFrame + n);
        return missingOf(storage, all, { firstFrame, lastFrame }, storage.combineFolder(id));
      },
      async command(job, chunk) {
        const run = await need(CombineRun.findByPk(job.targetId), 'The comp');
        const settings = storage.jobFile(job.id, 'combine');
        writeWhole(settings, JSON.stringify(run.settings));
        const { exr, png, jpeg, scale } = run.output;
        return [
          'combine',
          settings,
          '--out',
          storage.combineFolder(run.id),
          '--renders',
          storage.rendersFolder(),
          '--files',
          storage.filesFolder(),
          '--frames',
          `${chunk!.first}-${chunk!.last}`,
          '--exr',
          exr,
          '--png',
          String(png),
          ...(jpeg ? ['--jpeg'] : []),
          '--size',
          String(100 * scale),
          '--json',
        ];
      },
      onLine: async () => {},
      hindrance: (job) => hindranceOf(CombineRun.findByPk(job.targetId)),
    },
  };
}
