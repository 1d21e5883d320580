// What takes room: listed with what is safe to go, cleared into the bin, brought back from it, and emptied
// for good.
import { mkdir, rename, rm, stat, statfs } from 'node:fs/promises';
import { dirname } from 'node:path';
import { LRUCache } from 'lru-cache';
import type { Model, ModelStatic } from 'sequelize';
import { changedSince } from '@bramblemist/core/cache/currency';
import { endingOf } from '@bramblemist/core/assets/imported';
import type { CacheMade } from '@bramblemist/contracts/payloads/made';
import type { StorageInfo, StoredItem, StoredKind } from '@bramblemist/contracts/payloads/storage';
import { STORED } from '@bramblemist/contracts/payloads/storage';
import { HttpError } from '../http-error';
import * as models from '../models';
import { BAKING } from '../models/job';
import { bytesBelow, pause } from './disk';
import type { Storage } from './storage';

const { Bake, BroughtFile, CombineRun, ParticleRun, Frame, Job, Production, Render, Sheet, Shot, Variant } =
  models;

/** What stands of a row in the lists: never its recipe, look or settings, which may be large. */
interface Row {
  readonly id: number;
  readonly createdAt: Date;
  readonly clearedAt: Date | null;
  readonly emptied: boolean;
  readonly bytes: number | null;
  readonly variantId?: number;
  readonly bakeId?: number;
  readonly shotId?: number;
  readonly recipeSha256?: string;
  readonly voxelSizeM?: number;
  readonly locked?: boolean;
  readonly made?: CacheMade | null;
  readonly name?: string;
  readonly sha256?: string;
}

const HALF_MADE = ['queued', 'running', 'paused'];
const COMMON = ['id', 'createdAt', 'clearedAt', 'emptied', 'bytes'];
const KINDS: Readonly<Record<StoredKind, { model: ModelStatic<Model>; columns: readonly string[] }>> = {
  bakes: { model: Bake, columns: ['variantId', 'recipeSha256', 'voxelSizeM', 'locked', 'made'] },
  renders: { model: Render, columns: ['bakeId'] },
  combines: { model: CombineRun, columns: ['shotId'] },
  sheets: { model: Sheet, columns: ['variantId'] },
  particles: { model: ParticleRun, columns: ['bakeId'] },
  files: { model: BroughtFile, columns: ['name', 'sha256'] },
};
/** Jobs that make what a kind of rows stands for, or look it over. */
const MAKERS: Readonly<Record<StoredKind, readonly string[]>> = {
  bakes: [...BAKING, 'verify'],
  renders: ['render'],
  combines: ['combine'],
  sheets: ['sheet'],
  particles: ['particles'],
  files: [],
};

/** Where the files of a row are while they are there. */
function placeOf(storage: Storage, kind: StoredKind, row: Row): string {
  switch (kind) {
    case 'bakes':
      return storage.bakeFolder(row.id);
    case 'renders':
      return storage.renderFolder(row.id);
    case 'combines':
      return storage.combineFolder(row.id);
    case 'sheets':
      return storage.sheetFolder(row.id);
    case 'particles':
      return storage.particleFolder(row.id);
    case 'files':
      return storage.broughtFile(row.sha256!, endingOf(row.name!));
  }
}

type Rows = Readonly<Record<StoredKind, readonly Row[]>>;
interface Everything {
  readonly rows: Rows;
  readonly byId: Readonly<Record<StoredKind, ReadonlyMap<number, Row>>>;
  readonly shots: ReadonlyMap<number, { readonly name: string; readonly production: string }>;
  readonly variants: ReadonlyMap<number, { shotId: number; number: number; recipeSha256: string }>;
  readonly active: readonly { kind: string; state: string; targetId: number }[];
  /** Content that a recipe uses. */
  readonly used: ReadonlySet<string>;
  /** Bakes whose recipe differs from their variant's in something that reaches a voxel. */
  readonly stale: ReadonlySet<number>;
}

const indexed = <T extends { id: number }>(list: readonly T[]): Map<number, T> =>
  new Map(list.map((one) => [one.id, one]));

async function everything(): Promise<Everything> {
  const rowsOf = async (kind: StoredKind): Promise<Row[]> => {
    const { model, columns } = KINDS[kind];
    // thousands of them: as plain data
    const found = await model.findAll({ attributes: [...COMMON, ...columns], raw: true });
    return (found as unknown as (Row & { made?: string | null })[]).map((r) => ({
      ...r,
      bytes: r.bytes === null ? null : Number(r.bytes),
      emptied: Boolean(r.emptied),
      locked: Boolean(r.locked),
      made: r.made ? (JSON.parse(r.made) as CacheMade) : null,
    }));
  };

  const [productions, shots, variants, active, lists, ...rows] = await Promise.all([
    Production.findAll({ attributes: ['id', 'name'], raw: true }),
    Shot.findAll({ attributes: ['id', 'name', 'productionId'], raw: true }),
    Variant.findAll({ attributes: ['id', 'shotId', 'number', 'recipeSha256'], raw: true }),
    Job.findAll({ where: { state: HALF_MADE }, attributes: ['kind', 'state', 'targetId'], raw: true }),
    Promise.all([
      Variant.findAll({ attributes: ['files'], raw: true }),
      Bake.findAll({ attributes: ['files'], where: { emptied: false }, raw: true }),
    ]),
    ...STORED.map(rowsOf),
  ]);
  const names = indexed(productions);
  const byKind = Object.fromEntries(STORED.map((kind, n) => [kind, rows[n]])) as unknown as Rows;
  const byVariant = indexed(variants);
  return {
    rows: byKind,
    byId: Object.fromEntries(
      STORED.map((kind) => [kind, indexed(byKind[kind])]),
    ) as unknown as Everything['byId'],
    shots: new Map(
      shots.map((s) => [s.id, { name: s.name, production: names.get(s.productionId)?.name ?? '' }]),
    ),
    variants: byVariant,
    active,
    used: new Set(lists.flat().flatMap((one) => one.files.split(' '))),
    stale: await staleOf(
      byKind.bakes.filter((b) => !b.made && !b.emptied),
      byVariant,
    ),
  };
}

/** Whether two recipes, by their hashes, differ in something that reaches a voxel. */
const differs = new LRUCache<string, boolean>({ max: 20_000 });
/** Recipes that are compared before others have a turn. */
const BEFORE_PAUSE = 10;

async function staleOf(bakes: readonly Row[], variants: Everything['variants']): Promise<Set<number>> {
  const stale = new Set<number>();
  let compared = 0;
  for (const bake of bakes) {
    const variant = variants.get(bake.variantId!);
    if (!variant || variant.recipeSha256 === bake.recipeSha256) continue;
    const key = `${bake.recipeSha256} ${variant.recipeSha256}`;
    let known = differs.get(key);
    if (known === undefined) {
      const [now, then] = await Promise.all([
        Variant.findByPk(bake.variantId, { attributes: ['recipe'] }),
        Bake.findByPk(bake.id, { attributes: ['recipe'] }),
      ]);
      known = now !== null && then !== null && changedSince(then.recipe, now.recipe).length > 0;
      differs.set(key, known);
      if (++compared % BEFORE_PAUSE === 0) await pause();
    }

    if (known) stale.add(bake.id);
  }

  return stale;
}

/** The bake that one was made of. */
const sourceOf = (bake: Row | undefined): number | null =>
  bake?.made && bake.made.kind !== 'brought' ? bake.made.of : null;

/** What it is in a few words. */
function nameOfBake({ id, made }: Row, variant: number | undefined): string {
  if (!made) return `Bake ${id}, variant ${variant ?? '?'}`;
  if (made.kind === 'brought') return `Bake ${id}, ${made.name}`;
  return made.kind === 'refine'
    ? `Bake ${id}, ${made.of} refined`
    : `Bake ${id}, ${made.of}: ${made.steps.map((s) => s.tool).join(', ')}`;
}

/** Why a bake may be cleared; null where nothing replaces it. */
function whySafe(replaced: boolean, outOfDate: boolean): string | null {
  if (replaced) return 'A newer bake of the same size is there.';
  return outOfDate ? 'Out of date: its recipe has changed.' : null;
}

/** The newest that is there of each that could replace another, by what they have in common. */
function newestOf(rows: readonly Row[], common: (row: Row) => string): ReadonlyMap<string, number> {
  const newest = new Map<string, number>();
  for (const row of rows)
    if (!row.clearedAt) newest.set(common(row), Math.max(row.id, newest.get(common(row)) ?? 0));
  return newest;
}

const alikeBakes = (b: Row): string => `${b.variantId} ${b.voxelSizeM} ${b.made ? b.id : ''}`;
const alikeRenders = (r: Row): string => String(r.bakeId);
const alikeCombines = (c: Row): string => String(c.shotId);

/** Describes rows; what many of them ask is worked out once. */
function describer(all: Everything): (kind: StoredKind, row: Row) => Omit<StoredItem, 'bytes'> {
  const newest = {
    bakes: newestOf(all.rows.bakes, alikeBakes),
    renders: newestOf(all.rows.renders, alikeRenders),
    combines: newestOf(all.rows.combines, alikeCombines),
  };
  const reading = new Set(
    all.active.flatMap(({ kind, targetId }) => {
      if (kind === 'render') return all.byId.renders.get(targetId)?.bakeId ?? [];
      if (kind === 'particles') return all.byId.particles.get(targetId)?.bakeId ?? [];
      return kind === 'tool' || kind === 'refine' ? (sourceOf(all.byId.bakes.get(targetId)) ?? []) : [];
    }),
  );
  const inShot = (shotId: number | undefined): Pick<StoredItem, 'shotId' | 'shotName' | 'production'> => {
    const shot = shotId === undefined ? undefined : all.shots.get(shotId);
    return { shotId: shotId ?? null, shotName: shot?.name ?? '', production: shot?.production ?? '' };
  };

  const ofVariant = (id: number | undefined): ReturnType<typeof inShot> =>
    inShot(all.variants.get(id ?? 0)?.shotId);
  const ofBake = (id: number | undefined): ReturnType<typeof inShot> =>
    ofVariant(all.byId.bakes.get(id ?? 0)?.variantId);
  const busyWith = (kind: StoredKind, id: number): string | null => {
    const jobs = all.active.filter((j) => j.targetId === id && MAKERS[kind].includes(j.kind));
    if (jobs.length === 0) return null;
    return jobs.every((j) => j.state === 'paused')
      ? 'It is paused half-made. Stop its job first.'
      : 'It is being made.';
  };

  return (kind, row) => {
    const base = { kind, id: row.id, createdAt: row.createdAt.toISOString(), locked: false };
    const busy = busyWith(kind, row.id);
    switch (kind) {
      case 'bakes': {
        const replaced = (newest.bakes.get(alikeBakes(row)) ?? 0) > row.id;
        return {
          ...base,
          ...ofVariant(row.variantId),
          locked: row.locked!,
          name: nameOfBake(row, all.variants.get(row.variantId!)?.number),
          safe: row.locked ? null : whySafe(replaced, all.stale.has(row.id)),
          kept: row.locked ? 'It is locked.' : (busy ?? (reading.has(row.id) ? 'A job reads it.' : null)),
        };
      }
      case 'renders':
        return {
          ...base,
          ...ofBake(row.bakeId),
          name: `Render ${row.id} of bake ${row.bakeId}`,
          safe:
            newest.renders.get(alikeRenders(row))! > row.id
              ? 'A newer render of the same bake is there.'
              : null,
          kept: busy,
        };
      case 'combines':
        return {
          ...base,
          ...inShot(row.shotId),
          name: `Comp ${row.id}`,
          safe:
            newest.combines.get(alikeCombines(row))! > row.id
              ? 'A newer comp of the same shot is there.'
              : null,
          kept: busy,
        };
      case 'sheets':
        return {
          ...base,
          ...ofVariant(row.variantId),
          name: `Trial sheet ${row.id}`,
          safe: 'Its runs are small and quickly made again.',
          kept: busy,
        };
      case 'particles':
        return {
          ...base,
          ...ofBake(row.bakeId),
          name: `Particles ${row.id} through bake ${row.bakeId}`,
          safe: null,
          kept: busy,
        };
      case 'files': {
        const used = all.used.has(row.sha256!);
        return {
          ...base,
          ...inShot(undefined),
          name: row.name!,
          safe: used ? null : 'No shot uses it.',
          kept: used ? 'A recipe, a look or a comp uses it.' : null,
        };
      }
    }
  };
}

/** Measures what a row takes on the disk, and keeps it where nothing works on it any more. */
export async function measure(storage: Storage, kind: StoredKind, id: number): Promise<number> {
  const { model, columns } = KINDS[kind];
  const row = (await model.findByPk(id, { attributes: [...COMMON, ...columns] })) as unknown as Row | null;
  if (!row) return 0;
  const bytes = await bytesBelow(row.clearedAt ? storage.binFolder(kind, id) : placeOf(storage, kind, row));
  const busy = await Job.count({ where: { targetId: id, kind: [...MAKERS[kind]], state: HALF_MADE } });
  if (busy === 0) await model.update({ bytes }, { where: { id }, silent: true });
  return bytes;
}

/** Things that are described before others have a turn. */
const TOLD_BEFORE_PAUSE = 500;

export async function storageInfo(storage: Storage): Promise<StorageInfo> {
  await mkdir(storage.root, { recursive: true });
  const [all, disk] = await Promise.all([everything(), statfs(storage.root)]);
  const describe = describer(all);
  const items: StoredItem[] = [];
  const bin: StoredItem[] = [];
  let count = 0;
  for (const kind of STORED)
    for (const row of all.rows[kind]) {
      if (row.emptied) continue;
      if (++count % TOLD_BEFORE_PAUSE === 0) await pause();
      const told = describe(kind, row);
      // what is being made grows
      const grows = told.kept !== null && kind !== 'files' && !told.locked;
      const bytes = row.bytes === null || grows ? await measure(storage, kind, row.id) : row.bytes;
      (row.clearedAt ? bin : items).push({ ...told, bytes });
    }

  return { freeBytes: disk.bavail * disk.bsize, diskBytes: disk.blocks * disk.bsize, items, bin };
}

function kindOf(name: string): StoredKind {
  const kind = STORED.find((k) => k === name);
  if (!kind) throw new HttpError(404, 'There is no such kind of thing on the disk.');
  return kind;
}

async function rowOf(kind: StoredKind, id: number): Promise<Row & Model> {
  const { model, columns } = KINDS[kind];
  const row = (await model.findByPk(id, { attributes: [...COMMON, ...columns] })) as (Row & Model) | null;
  if (!row || row.emptied) throw new HttpError(404, 'There is nothing of it on the disk.');
  return row;
}

async function move(from: string, to: string): Promise<void> {
  if (!(await stat(from).catch(() => null))) return;
  await mkdir(dirname(to), { recursive: true });
  await rename(from, to);
}

/** Into the bin. @throws HttpError where it is locked, in use or there already */
export async function clear(storage: Storage, kindName: string, id: number): Promise<void> {
  const kind = kindOf(kindName);
  const row = await rowOf(kind, id);
  if (row.clearedAt) throw new HttpError(409, 'It is in the bin already.');
  const { kept, name } = describer(await everything())(kind, row);
  if (kept) throw new HttpError(409, `${name} cannot be cleared: ${kept}`);
  const [place, bin] = [placeOf(storage, kind, row), storage.binFolder(kind, id)];
  await move(place, bin);
  try {
    await row.update({ clearedAt: new Date() } as never);
  } catch (error) {
    await move(bin, place); // what the database does not know of is not moved either
    throw error;
  }
}

/** Back from the bin. @throws HttpError */
export async function restore(storage: Storage, kindName: string, id: number): Promise<void> {
  const kind = kindOf(kindName);
  const row = await rowOf(kind, id);
  if (!row.clearedAt) throw new HttpError(409, 'It is not in the bin.');
  const place = placeOf(storage, kind, row);
  // an empty folder that something left there is no obstacle
  if ((await bytesBelow(place)) === 0) await rm(place, { recursive: true, force: true });
  await move(storage.binFolder(kind, id), place);
  await row.update({ clearedAt: null } as never);
}

/** For good. @returns bytes that came free */
export async function emptyBin(storage: Storage): Promise<number> {
  let freed = 0;
  for (const kind of STORED) {
    const { model, columns } = KINDS[kind];
    const rows = (await model.findAll({
      where: { emptied: false },
      attributes: [...COMMON, ...columns],
    })) as unknown as (Row & Model)[];
    for (const row of rows.filter((r) => r.clearedAt)) {
      const place = storage.binFolder(kind, row.id);
      freed += await bytesBelow(place);
      await row.update({ emptied: true } as never);
      await rm(place, { recursive: true, force: true });
      if (kind === 'bakes') await Frame.destroy({ where: { bakeId: row.id } });
      if (kind === 'files') await row.destroy();
    }
  }

  return freed;
}
