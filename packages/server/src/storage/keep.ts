// What takes room: listed with what is safe to go, cleared into the bin, brought back from it, and emptied
// for good.
import { existsSync, mkdirSync, renameSync, rmSync, statfsSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Model } from 'sequelize';
import { changedSince } from '@bramblemist/core/cache/currency';
import { endingOf } from '@bramblemist/core/assets/import-asset';
import { STORED, type StorageInfo, type StoredItem, type StoredKind } from '@bramblemist/contracts/payloads';
import {
  Bake,
  BroughtFile,
  CombineRun,
  DriftRun,
  Frame,
  Job,
  Production,
  Render,
  Sheet,
  Shot,
  Variant,
} from '../models';
import { bytesBelow, type Storage } from './storage';
import { HttpError } from '../http-error';

type Row = Model & { id: number; createdAt: Date; clearedAt: Date | null; emptied: boolean };
const ACTIVE = ['queued', 'running', 'paused'];

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
    case 'drifts':
      return storage.driftFolder(row.id);
    case 'files': {
      const file = row as unknown as BroughtFile;
      return storage.broughtFile(file.sha256, endingOf(file.name));
    }
  }
}

interface Everything {
  shots: Map<number, { name: string; production: string }>;
  variants: Map<number, Variant>;
  bakes: Map<number, Bake>;
  renders: Map<number, Render>;
  rows: Record<StoredKind, Row[]>;
  active: readonly Job[];
}

async function everything(): Promise<Everything> {
  const [productions, shots, variants, bakes, renders, combines, sheets, drifts, files, active] =
    await Promise.all([
      Production.findAll(),
      Shot.findAll(),
      Variant.findAll(),
      Bake.findAll(),
      Render.findAll(),
      CombineRun.findAll(),
      Sheet.findAll(),
      DriftRun.findAll(),
      BroughtFile.findAll(),
      Job.findAll({ where: { state: ACTIVE } }),
    ]);
  const byId = <T extends { id: number }>(list: readonly T[]): Map<number, T> =>
    new Map(list.map((x) => [x.id, x]));
  const names = byId(productions);
  return {
    shots: new Map(
      shots.map((s) => [s.id, { name: s.name, production: names.get(s.productionId)?.name ?? '' }]),
    ),
    variants: byId(variants),
    bakes: byId(bakes),
    renders: byId(renders),
    active,
    rows: { bakes, renders, combines, sheets, drifts, files } as unknown as Everything['rows'],
  };
}

/** Which kinds of jobs make a row, and which read a bake. */
const MAKERS: Readonly<Record<StoredKind, readonly string[]>> = {
  bakes: ['bake', 'tool', 'refine', 'bring', 'verify'],
  renders: ['render'],
  combines: ['combine'],
  sheets: ['sheet'],
  drifts: ['particles'],
  files: [],
};

/** The bake that one was made of. */
const sourceOf = (bake: Bake | undefined): number | null =>
  bake?.made && bake.made.kind !== 'brought' ? bake.made.of : null;

/** What it is in a few words. */
function nameOfBake({ id, made }: Bake, variant: number | undefined): string {
  if (!made) return `Bake ${id}, variant ${variant ?? '?'}`;
  if (made.kind === 'brought') return `Bake ${id}, ${made.name}`;
  return made.kind === 'refine'
    ? `Bake ${id}, ${made.of} refined`
    : `Bake ${id}, ${made.of}: ${made.steps.map((s) => s.tool).join(', ')}`;
}

function describe(all: Everything, kind: StoredKind, row: Row): Omit<StoredItem, 'bytes'> {
  const base = { kind, id: row.id, createdAt: row.createdAt.toISOString(), locked: false };
  const own = all.active.some((j) => j.targetId === row.id && MAKERS[kind].includes(j.kind));
  const paused = own && all.active.every((j) => j.targetId !== row.id || j.state === 'paused');
  const making = paused ? 'It is paused half-made. Stop its job first.' : 'It is being made.';
  const busy = own ? making : null;
  const inShot = (shotId: number | undefined): Pick<StoredItem, 'shotId' | 'shotName' | 'production'> => {
    const shot = shotId === undefined ? undefined : all.shots.get(shotId);
    return { shotId: shotId ?? null, shotName: shot?.name ?? '', production: shot?.production ?? '' };
  };

  const ofBake = (id: number): ReturnType<typeof inShot> =>
    inShot(all.variants.get(all.bakes.get(id)?.variantId ?? 0)?.shotId);
  const newer = (same: (other: Row) => boolean): boolean =>
    all.rows[kind].some((o) => o.id > row.id && !o.clearedAt && same(o));
  switch (kind) {
    case 'bakes': {
      const bake = row as unknown as Bake;
      const variant = all.variants.get(bake.variantId);
      const stale = variant ? changedSince(bake.recipe, variant.recipe).length : 0;
      const reads = all.active.some((j) => {
        if (j.kind === 'render') return all.renders.get(j.targetId)?.bakeId === bake.id;
        if (j.kind === 'particles')
          return (
            (all.rows.drifts as unknown as DriftRun[]).find((d) => d.id === j.targetId)?.bakeId === bake.id
          );
        return (j.kind === 'tool' || j.kind === 'refine') && sourceOf(all.bakes.get(j.targetId)) === bake.id;
      });
      const replaced = newer((o) => {
        const b = o as unknown as Bake;
        return b.variantId === bake.variantId && b.voxelSizeM === bake.voxelSizeM && !b.made && !bake.made;
      });
      return {
        ...base,
        ...inShot(variant?.shotId),
        locked: bake.locked,
        name: nameOfBake(bake, variant?.number),
        safe: bake.locked ? null : whySafe(replaced, stale > 0 && !bake.made),
        kept: bake.locked ? 'It is locked.' : (busy ?? (reads ? 'A job reads it.' : null)),
      };
    }
    case 'renders': {
      const { bakeId } = row as unknown as Render;
      return {
        ...base,
        ...ofBake(bakeId),
        name: `Render ${row.id} of bake ${bakeId}`,
        safe: newer((o) => (o as unknown as Render).bakeId === bakeId)
          ? 'A newer render of the same bake is there.'
          : null,
        kept: busy,
      };
    }
    case 'combines': {
      const { renderId } = row as unknown as CombineRun;
      return {
        ...base,
        ...ofBake(all.renders.get(renderId)?.bakeId ?? 0),
        name: `Combine ${row.id} of render ${renderId}`,
        safe: newer((o) => (o as unknown as CombineRun).renderId === renderId)
          ? 'A newer combine of the same render is there.'
          : null,
        kept: busy,
      };
    }
    case 'sheets':
      return {
        ...base,
        ...inShot(all.variants.get((row as unknown as Sheet).variantId)?.shotId),
        name: `Trial sheet ${row.id}`,
        safe: 'Its runs are small and quickly made again.',
        kept: busy,
      };
    case 'drifts': {
      const { bakeId } = row as unknown as DriftRun;
      return {
        ...base,
        ...ofBake(bakeId),
        name: `Particles ${row.id} through bake ${bakeId}`,
        safe: null,
        kept: busy,
      };
    }
    case 'files': {
      const file = row as unknown as BroughtFile;
      const uses = (r: { files: readonly { sha256: string }[] }): boolean =>
        r.files.some((f) => f.sha256 === file.sha256);
      const used =
        [...all.variants.values()].some((v) => uses(v.recipe)) ||
        [...all.bakes.values()].some((b) => !b.emptied && uses(b.recipe));
      return {
        ...base,
        ...inShot(undefined),
        name: file.name,
        safe: used ? null : 'No shot uses it.',
        kept: used ? 'A recipe uses it.' : null,
      };
    }
  }
}

export async function storageInfo(storage: Storage): Promise<StorageInfo> {
  mkdirSync(storage.root, { recursive: true });
  const all = await everything();
  const disk = statfsSync(storage.root);
  const items: StoredItem[] = [];
  const bin: StoredItem[] = [];
  for (const kind of STORED)
    for (const row of all.rows[kind]) {
      if (row.emptied) continue;
      const place = row.clearedAt ? storage.binFolder(kind, row.id) : placeOf(storage, kind, row);
      (row.clearedAt ? bin : items).push({ ...describe(all, kind, row), bytes: bytesBelow(place) });
    }

  return { freeBytes: disk.bavail * disk.bsize, diskBytes: disk.blocks * disk.bsize, items, bin };
}

async function rowOf(kind: string, id: number): Promise<{ all: Everything; kind: StoredKind; row: Row }> {
  const known = STORED.find((k) => k === kind);
  if (!known) throw new HttpError(404, 'There is no such kind of thing on the disk.');
  const all = await everything();
  const row = all.rows[known].find((r) => r.id === id);
  if (!row || row.emptied) throw new HttpError(404, 'There is nothing of it on the disk.');
  return { all, kind: known, row };
}

function move(from: string, to: string): void {
  if (!existsSync(from)) return;
  mkdirSync(dirname(to), { recursive: true });
  renameSync(from, to);
}

/** Into the bin. @throws Refused where it is locked, in use or there already */
export async function clear(storage: Storage, kindName: string, id: number): Promise<void> {
  const { all, kind, row } = await rowOf(kindName, id);
  if (row.clearedAt) throw new HttpError(409, 'It is in the bin already.');
  const { kept, name } = describe(all, kind, row);
  if (kept) throw new HttpError(409, `${name} cannot be cleared: ${kept}`);
  move(placeOf(storage, kind, row), storage.binFolder(kind, id));
  await row.update({ clearedAt: new Date() });
}

/** Back from the bin. @throws Refused */
export async function restore(storage: Storage, kindName: string, id: number): Promise<void> {
  const { kind, row } = await rowOf(kindName, id);
  if (!row.clearedAt) throw new HttpError(409, 'It is not in the bin.');
  move(storage.binFolder(kind, id), placeOf(storage, kind, row));
  await row.update({ clearedAt: null });
}

/** For good. @returns bytes that came free */
export async function emptyBin(storage: Storage): Promise<number> {
  const all = await everything();
  let freed = 0;
  for (const kind of STORED)
    for (const row of all.rows[kind]) {
      if (!row.clearedAt || row.emptied) continue;
      const place = storage.binFolder(kind, row.id);
      freed += bytesBelow(place);
      await row.update({ emptied: true });
      rmSync(place, { recursive: true, force: true });
      if (kind === 'bakes') await Frame.destroy({ where: { bakeId: row.id } });
      if (kind === 'files') await row.destroy();
    }

  return freed;
}

/** Why a bake may be cleared; null where nothing replaces it. */
function whySafe(replaced: boolean, outOfDate: boolean): string | null {
  if (replaced) return 'A newer bake of the same size is there.';
  return outOfDate ? 'Out of date: its recipe has changed.' : null;
}
