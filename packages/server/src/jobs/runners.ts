// What bakes, renders and combines run, and what is noted of their frames.
import { writeWhole } from '@bramblemist/core/io/node/files';
import type { Readings } from '@bramblemist/core/readings/readings';
import type { JobKind } from '@bramblemist/contracts/payloads';
import { Asset, Bake, CombineRun, Frame, Render, type Job } from '../models';
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
          '--json',
        ];
      },
      async onLine(job: Job, line) {
        if (line.event !== 'frame') return;
        const { frame, file, bytes, sha256, readings } = line as unknown as {
          frame: number;
          file: string;
          bytes: number;
          sha256: string;
          readings: Readings;
        };
        await Frame.create({ bakeId: job.targetId, frame, file, bytes, sha256, readings });
      },
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
