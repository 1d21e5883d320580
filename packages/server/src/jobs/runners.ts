// What bakes, renders and combines run, and what is noted of their frames.
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { writeWhole } from '@bramblemist/core/io/node/files';
import type { CachedFrame } from '@bramblemist/core/cache/manifest';
import type { JobKind } from '@bramblemist/contracts/payloads';
import { Asset, Bake, CombineRun, Frame, Render, Sheet, type Job } from '../models';
import type { Storage } from '../storage/storage';
import type { JobRunner } from './engine';

async function need<T>(found: Promise<T | null>, what: string): Promise<T> {
  const value = await found;
  if (!value) throw new Error(`${what} that this job was for is gone.`);
  return value;
}

export function runners(storage: Storage): Readonly<Record<JobKind, JobRunner>> {
  return {
    bake: {
      async command(job) {
        const bake = await need(Bake.findByPk(job.targetId), 'The bake'),
          recipe = storage.jobFile(job.id, 'recipe');
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
          '--json',
        ];
      },
      async onLine(job: Job, line) {
        if (line.event !== 'frame') return;
        const { frame, file, bytes, sha256, readings, notices } = line as unknown as CachedFrame;
        // a bake that goes on makes the frames behind its last whole state once more, with the same bits
        await Frame.destroy({ where: { bakeId: job.targetId, frame } });
        await Frame.create({ bakeId: job.targetId, frame, file, bytes, sha256, readings, notices: [...notices] });
      },
    },
    sheet: {
      async command(job) {
        const sheet = await need(Sheet.findByPk(job.targetId), 'The trial sheet'),
          recipe = storage.jobFile(job.id, 'recipe'),
          look = storage.jobFile(job.id, 'look');
        rmSync(join(storage.sheetFolder(sheet.id), 'sheet.json'), { force: true }); // a sheet that goes on begins anew
        writeWhole(recipe, JSON.stringify(sheet.recipe));
        writeWhole(look, JSON.stringify(sheet.look));
        return [
          ...['sheet', recipe, '--out', storage.sheetFolder(sheet.id), '--files', storage.filesFolder(), '--look', look],
          ...['--voxel', String(sheet.voxelSizeM), '--last', String(sheet.lastFrame), '--width', '288', '--json'],
          ...sheet.varied.flatMap(({ path, values }) => ['--vary', `${path}=${values.join(',')}`]),
        ];
      },
      onLine: async () => {},
    },
    render: {
      async command(job) {
        const render = await need(Render.findByPk(job.targetId), 'The render'),
          look = storage.jobFile(job.id, 'look');
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
          `${render.firstFrame}-${render.lastFrame}`,
          '--json',
        ];
      },
      onLine: async () => {},
    },
    combine: {
      async command(job) {
        const run = await need(CombineRun.findByPk(job.targetId), 'The combine'),
          settings = storage.jobFile(job.id, 'combine');
        writeWhole(settings, JSON.stringify(run.settings));
        const plate = run.plateId === null ? null : await need(Asset.findByPk(run.plateId), 'The plate');
        return [
          'combine',
          storage.renderFolder(run.renderId),
          '--out',
          storage.combineFolder(run.id),
          '--settings',
          settings,
          '--frames',
          `${run.firstFrame}-${run.lastFrame}`,
          '--json',
          ...(plate ? ['--plate', storage.assetFile(plate.sha256)] : []),
        ];
      },
      onLine: async () => {},
    },
  };
}
