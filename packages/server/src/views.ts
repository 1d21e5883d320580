// Rows as the payloads that the browser gets.
import { readIncidents } from '@bramblemist/core/record/incident';
import { readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Op } from 'sequelize';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { SheetCell } from '@bramblemist/core/io/node/sheet';
import { SOLVER } from '@bramblemist/core/cache/manifest';
import { changedSince } from '@bramblemist/core/cache/currency';
import { keptChannels } from '@bramblemist/core/recipe/kept';
import type { CombineInfo, CompVersionInfo, MovieInfo } from '@bramblemist/contracts/payloads/comp';
import type { JobInfo, JobKind } from '@bramblemist/contracts/payloads/jobs';
import type {
  OutOfDate,
  BakeInfo,
  ParticleRunInfo,
  FrameInfo,
  RenderInfo,
  SavingsInfo,
} from '@bramblemist/contracts/payloads/made';
import type { AssetInfo, SheetInfo, ShotInfo, VariantInfo } from '@bramblemist/contracts/payloads/shot';
import {
  Asset,
  Bake,
  CombineRun,
  CompVersion,
  ParticleRun,
  Frame,
  Job,
  Movie,
  Production,
  Render,
  SavingsRun,
  Sheet,
  Shot,
  Variant,
} from './models';
import { BAKING } from './models/job';
import type { Storage } from './storage/storage';

export function jobInfo(job: Job, shotName: string): JobInfo {
  return {
    id: job.id,
    kind: job.kind,
    state: job.state,
    targetId: job.targetId,
    shotId: job.shotId,
    shotName,
    done: job.done ?? 0,
    total: job.total ?? 0,
    message: job.message ?? null,
    rate: job.state === 'running' ? (job.rate ?? null) : null,
    memory: job.state === 'running' ? (job.memory ?? null) : null,
    createdAt: job.createdAt.toISOString(),
    startedAt: job.startedAt?.toISOString() ?? null,
    endedAt: job.endedAt?.toISOString() ?? null,
  };
}

export function variantInfo(v: Variant): VariantInfo {
  return {
    id: v.id,
    number: v.number,
    parent: v.parentId ?? null,
    note: v.note,
    recipe: RECIPE.filled(v.recipe),
    look: v.look,
    combine: v.combine,
    revision: v.revision,
    changedAt: v.updatedAt.toISOString(),
  };
}

export function assetInfo(a: Asset): AssetInfo {
  return {
    id: a.id,
    name: a.name,
    kind: a.kind,
    bytes: a.bytes,
    width: a.width,
    height: a.height,
    series: a.series,
    frame: a.frame ?? null,
  };
}

/** The newest job of each target. */
function newest(jobs: readonly Job[], kinds: readonly JobKind[], shotName: string): Map<number, JobInfo> {
  const out = new Map<number, JobInfo>();
  for (const job of jobs) if (kinds.includes(job.kind)) out.set(job.targetId, jobInfo(job, shotName));
  return out;
}

/** Which frames bakes have, and how large they are. */
async function framesOf(bakeIds: readonly number[]): Promise<Map<number, BakeInfo['frames'][number][]>> {
  const rows = await Frame.findAll({
    where: { bakeId: [...bakeIds] },
    attributes: ['bakeId', 'frame', 'bytes', 'timeS'],
    order: [['frame', 'ASC']],
    raw: true,
  });
  const out = new Map<number, BakeInfo['frames'][number][]>();
  for (const { bakeId, frame, bytes, timeS } of rows) {
    const own = out.get(bakeId) ?? [];
    own.push({ frame, bytes: Number(bytes), ...(timeS === null ? {} : { timeS }) });
    out.set(bakeId, own);
  }

  return out;
}

/** What the run said of a bake's frames. */
export async function frameInfos(bakeId: number): Promise<FrameInfo[]> {
  const rows = await Frame.findAll({ where: { bakeId }, order: [['frame', 'ASC']] });
  return rows.map((f) => ({
    frame: f.frame,
    bytes: f.bytes,
    readings: f.readings,
    incidents: readIncidents(f.incidents),
  }));
}

export async function shotInfo(shot: Shot, storage: Storage): Promise<ShotInfo> {
  const production = await Production.findByPk(shot.productionId);
  const variants = await Variant.findAll({ where: { shotId: shot.id }, order: [['number', 'ASC']] });
  const bakes = await Bake.findAll({
    where: { variantId: variants.map((v) => v.id), clearedAt: null },
    order: [['id', 'ASC']],
  });
  const [jobs, frames, renders, assets] = await Promise.all([
    Job.findAll({ where: { shotId: shot.id }, order: [['id', 'ASC']] }),
    framesOf(bakes.map((b) => b.id)),
    Render.findAll({ where: { bakeId: bakes.map((b) => b.id), clearedAt: null }, order: [['id', 'ASC']] }),
    Asset.findAll({ where: { shotId: shot.id }, order: [['id', 'ASC']] }),
  ]);
  const combines = await CombineRun.findAll({
    where: { shotId: shot.id, clearedAt: null },
    order: [['id', 'ASC']],
  });
  const comps = await CompVersion.findAll({ where: { shotId: shot.id }, order: [['number', 'ASC']] });
  const movies = await Movie.findAll({
    where: {
      [Op.or]: [{ renderId: renders.map((r) => r.id) }, { combineId: combines.map((c) => c.id) }],
    },
    order: [['id', 'ASC']],
  });
  const savings = await SavingsRun.findAll({
    where: { bakeId: bakes.map((b) => b.id) },
    order: [['id', 'ASC']],
  });
  const sheets = await Sheet.findAll({
    where: { variantId: variants.map((v) => v.id), clearedAt: null },
    order: [['id', 'ASC']],
  });
  const runs = await ParticleRun.findAll({
    where: { bakeId: bakes.map((b) => b.id), clearedAt: null },
    order: [['id', 'ASC']],
  });
  const byKind = {
    bake: newest(jobs, BAKING, shot.name),
    render: newest(jobs, ['render'], shot.name),
    combine: newest(jobs, ['combine'], shot.name),
    movie: newest(jobs, ['movie'], shot.name),
    savings: newest(jobs, ['savings'], shot.name),
    sheet: newest(jobs, ['sheet'], shot.name),
    particles: newest(jobs, ['particles'], shot.name),
  };
  const rendered = await Promise.all(renders.map((r) => storage.pictured(storage.renderFolder(r.id))));
  const combined = await Promise.all(combines.map((c) => storage.pictured(storage.combineFolder(c.id))));
  const movieBytes = await Promise.all(
    movies.map((m) => sizeOf(storage.movieFile(storage.picturesOf(m), m.id, m.settings.kind))),
  );
  const files = await Promise.all(runs.map((d) => sizesOf(storage, storage.particleFolder(d.id), d.format)));
  const troubles = await Promise.all(sheets.map((s) => troublesOf(storage.sheetFolder(s.id))));
  return {
    id: shot.id,
    name: shot.name,
    note: shot.note,
    views: shot.views,
    reference: shot.reference,
    revision: shot.revision,
    production: { id: shot.productionId, name: production?.name ?? '' },
    variants: variants.map(variantInfo),
    bakes: bakes.map((b): BakeInfo => {
      const variant = variants.find((v) => v.id === b.variantId);
      const own = frames.get(b.id) ?? [];
      return {
        id: b.id,
        variantId: b.variantId,
        variantNumber: variant?.number ?? 0,
        voxelSizeM: b.voxelSizeM,
        first: b.firstFrame,
        last: b.lastFrame,
        job: byKind.bake.get(b.id) ?? null,
        bytes: own.reduce((sum, f) => sum + f.bytes, 0),
        recipe: RECIPE.filled(b.recipe),
        outOfDate:
          variant && b.made?.kind !== 'brought'
            ? [
                ...otherSolver(b),
                ...changedSince(b.recipe, variant.recipe).map((d) => ({
                  ...d,
                  at: changedAt(variant.touched, d.path),
                })),
              ]
            : [],
        made: b.made ?? null,
        channels: channelsOf(b),
        locked: b.locked,
        verified: b.verified ?? null,
        frames: own,
        createdAt: b.createdAt.toISOString(),
      };
    }),
    renders: renders.map((r, n): RenderInfo => ({
      id: r.id,
      bakeId: r.bakeId,
      look: r.look,
      job: byKind.render.get(r.id) ?? null,
      frames: rendered[n],
      createdAt: r.createdAt.toISOString(),
    })),
    combines: combines.map((c, n): CombineInfo => ({
      id: c.id,
      settings: c.settings,
      output: c.output,
      job: byKind.combine.get(c.id) ?? null,
      frames: combined[n],
      createdAt: c.createdAt.toISOString(),
    })),
    comps: comps.map(({ id, number, note, settings, createdAt }): CompVersionInfo => ({
      id,
      number,
      note,
      settings,
      createdAt: createdAt.toISOString(),
    })),
    movies: movies.map((m, n): MovieInfo => ({
      id: m.id,
      renderId: m.renderId ?? null,
      combineId: m.combineId ?? null,
      settings: m.settings,
      job: byKind.movie.get(m.id) ?? null,
      bytes: movieBytes[n],
      createdAt: m.createdAt.toISOString(),
    })),
    savings: savings.map((r): SavingsInfo => ({
      id: r.id,
      bakeId: r.bakeId,
      frame: r.frame,
      look: r.look,
      job: byKind.savings.get(r.id) ?? null,
      createdAt: r.createdAt.toISOString(),
    })),
    assets: assets.map(assetInfo),
    particleRuns: runs.map((d, n): ParticleRunInfo => ({
      id: d.id,
      bakeId: d.bakeId,
      settings: d.settings,
      format: d.format,
      job: byKind.particles.get(d.id) ?? null,
      frames: files[n].length,
      bytes: files[n].reduce((sum, bytes) => sum + bytes, 0),
      createdAt: d.createdAt.toISOString(),
    })),
    sheets: sheets.map((s, n): SheetInfo => ({
      id: s.id,
      variantId: s.variantId,
      variantNumber: variants.find((v) => v.id === s.variantId)?.number ?? 0,
      varied: s.varied,
      recipe: s.recipe,
      voxelSizeM: s.voxelSizeM,
      first: s.firstFrame,
      last: s.lastFrame,
      job: byKind.sheet.get(s.id) ?? null,
      troubles: troubles[n],
      createdAt: s.createdAt.toISOString(),
    })),
  };
}

/** When a setting was changed last, or the list that it stands in. */
function changedAt(touched: Record<string, string>, path: string): string | null {
  for (let at = path; ; at = at.slice(0, at.lastIndexOf('.'))) {
    if (touched[at]) return touched[at];
    if (!at.includes('.')) return null;
  }
}

/** Says so where the solver has changed since a bake was made. */
function otherSolver(b: Bake): OutOfDate[] {
  if (b.solver === SOLVER) return [];
  return [{ path: 'solver', from: b.solver, to: SOLVER, at: null, channels: channelsOf(b) }];
}

/** Channels that a cache holds. */
export function channelsOf({ recipe, made }: Bake): string[] {
  if (made?.kind === 'brought') return [...made.report.channels];
  const all = keptChannels(recipe);
  return made?.kind === 'refine' && !made.settings.velocity ? all.filter((c) => c !== 'velocity') : all;
}

/** From what the runs of a sheet say of themselves. */
async function troublesOf(folder: string): Promise<(string | null)[]> {
  try {
    const cells = JSON.parse(await readFile(join(folder, 'sheet.json'), 'utf8')) as SheetCell[];
    return cells.map((c) => c.trouble);
  } catch {
    return []; // not begun
  }
}

/** How many bytes each frame of a folder has. */
async function sizesOf(storage: Storage, folder: string, extension: string): Promise<number[]> {
  const files = await storage.frameFiles(folder, extension);
  return Promise.all(files.map(async ({ file }) => (await stat(join(folder, file))).size));
}

/** What a file takes; null where it is not there. */
const sizeOf = (path: string): Promise<number | null> =>
  stat(path).then(
    ({ size }) => size,
    () => null,
  );
