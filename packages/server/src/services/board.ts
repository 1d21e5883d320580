// The board: each shot with what it holds, counted by the database, and how it stands there.
import { QueryTypes } from 'sequelize';
import type { ProductionCard, ShotCard, ShotStatus } from '@bramblemist/contracts/payloads/board';
import { routes } from '@bramblemist/contracts/routes';
import { HttpError } from '../http-error';
import { Production, Shot } from '../models';
import type { Storage } from '../storage/storage';
import { inTransaction, locked } from './documents';

/** Each read from an index alone: recipes and looks, which are large, are not touched. */
const VARIANTS = 'SELECT id, shot_id AS shotId FROM variants';
const BAKES = `
  SELECT variant_id AS variantId, COUNT(*) AS bakes FROM bakes WHERE cleared_at IS NULL GROUP BY variant_id`;
const REFERENCES = `
  SELECT shot_id AS shotId, MIN(id) AS id FROM assets WHERE kind = 'reference' GROUP BY shot_id`;

/** Of each shot the newest combine that has a picture, and its last frame. */
const PICTURES = `
  SELECT c.shot_id AS shotId, c.id, c.first_frame + j.done - 1 AS frame
  FROM combines c
  JOIN jobs j ON j.kind = 'combine' AND j.target_id = c.id AND j.done > 0
  WHERE c.cleared_at IS NULL
  ORDER BY c.id`;

/** Of each shot the newest finished bake, by its job, which knows its pictures. */
const BAKED = `
  SELECT v.shot_id AS shotId, MAX(j.id) AS id, MAX(b.id) AS bakeId
  FROM jobs j
  JOIN bakes b ON b.id = j.target_id AND b.cleared_at IS NULL
  JOIN variants v ON v.id = b.variant_id
  WHERE j.kind = 'bake' AND j.state = 'done'
  GROUP BY v.shot_id`;

/** Of each shot for how long its jobs have run. */
const COMPUTED = `
  SELECT shot_id AS shotId,
    SUM(TIMESTAMPDIFF(SECOND, started_at, COALESCE(ended_at, UTC_TIMESTAMP()))) AS seconds
  FROM jobs WHERE started_at IS NOT NULL GROUP BY shot_id`;

/** Pictures of a comp that are shown one after the other; they are as large as the shot. */
const COMP_IN_LOOP = 12;

/** The part of a run after which most shots show what they are: at the end there may be little left. */
const TELLING = 0.6;

/** At most so many of a list, evenly. */
export function someOf<T>(list: readonly T[], most: number): T[] {
  if (list.length <= most) return [...list];
  return Array.from({ length: most }, (_, n) => list[Math.floor((n * list.length) / most)]);
}

export async function board(storage: Storage): Promise<ProductionCard[]> {
  const read = <T extends object>(query: string): Promise<T[]> =>
    Shot.sequelize!.query<T>(query, { type: QueryTypes.SELECT });
  const [productions, shots, variants, bakes, references, pictures, baked, computed] = await Promise.all([
    Production.findAll({ order: [['id', 'ASC']] }),
    Shot.findAll({ attributes: { exclude: ['views', 'reference'] }, order: ['place', 'id'] }),
    read<{ id: number; shotId: number }>(VARIANTS),
    read<{ variantId: number; bakes: number }>(BAKES),
    read<{ shotId: number; id: number }>(REFERENCES),
    read<{ shotId: number; id: number; frame: number }>(PICTURES),
    read<{ shotId: number; id: number; bakeId: number }>(BAKED),
    read<{ shotId: number; seconds: string | null }>(COMPUTED),
  ]);
  const bakesOf = new Map(bakes.map((b) => [b.variantId, Number(b.bakes)]));
  const reference = new Map(references.map((r) => [r.shotId, routes.asset(r.id)]));
  const newest = new Map(pictures.map((p) => [p.shotId, p]));
  const bakedOf = new Map(baked.map((b) => [b.shotId, b]));
  const secondsOf = new Map(computed.map((c) => [c.shotId, Number(c.seconds ?? 0)]));
  const counts = new Map<number, { variants: number; bakes: number }>();
  for (const { id, shotId } of variants) {
    const count = counts.get(shotId) ?? { variants: 0, bakes: 0 };
    counts.set(shotId, { variants: count.variants + 1, bakes: count.bakes + (bakesOf.get(id) ?? 0) });
  }

  const picturesOf = async (shotId: number): Promise<Pick<ShotCard, 'picture' | 'loop'>> => {
    const comp = newest.get(shotId);
    if (comp) {
      const of = (frame: number): string => routes.combinePicture(comp.id, frame, 'png');
      const there = await storage.pictured(storage.combineFolder(comp.id));
      return { picture: of(comp.frame), loop: someOf(there, COMP_IN_LOOP).map(of) };
    }

    const bake = bakedOf.get(shotId);
    if (!bake) return { picture: reference.get(shotId) ?? null, loop: [] };
    const there = await storage.pictured(storage.loopFolder(bake.bakeId));
    const loop = there.map((f) => routes.jobLoop(bake.id, f));
    return { picture: loop[Math.floor(TELLING * loop.length)] ?? routes.jobPicture(bake.id), loop };
  };

  const card = async (s: Shot): Promise<ShotCard> => ({
    id: s.id,
    name: s.name,
    note: s.note,
    ...(counts.get(s.id) ?? { variants: 0, bakes: 0 }),
    ...(await picturesOf(s.id)),
    status: s.status,
    assignee: s.assignee,
    due: s.due ?? null,
    computedS: secondsOf.get(s.id) ?? 0,
    archived: Boolean(s.archivedAt),
    changedAt: s.updatedAt.toISOString(),
  });
  const cards = await Promise.all(shots.map(card));
  return productions.map(({ id, name, note, archivedAt }) => ({
    id,
    name,
    note,
    archived: Boolean(archivedAt),
    shots: cards.filter((_, n) => shots[n].productionId === id),
  }));
}

interface Named {
  readonly name?: string;
  readonly note?: string;
  readonly archived?: boolean;
}

/** What is archived keeps the moment when it was. */
const asColumns = ({ archived, ...rest }: Named): object => ({
  ...rest,
  ...(archived === undefined ? {} : { archivedAt: archived ? new Date() : null }),
});

export function saveProduction(id: number, change: Named): Promise<Production> {
  return inTransaction(async (transaction) => {
    const lock = transaction.LOCK.UPDATE;
    const production = await locked(Production.findByPk(id, { transaction, lock }), 'production');
    return production.update(asColumns(change), { transaction });
  });
}

export interface CardChange extends Named {
  readonly status?: string;
  readonly assignee?: string;
  readonly due?: string | null;
}

/** Saves what is given of how a shot stands on the board; its documents stay as they are. */
export function saveCard(id: number, change: CardChange): Promise<Shot> {
  return inTransaction(async (transaction) => {
    const shot = await locked(Shot.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE }), 'shot');
    const { status, due, ...rest } = change;
    return shot.update(
      {
        ...asColumns(rest),
        ...(status === undefined ? {} : { status: status as ShotStatus }),
        // an emptied field of a day is no day
        ...(due === undefined ? {} : { due: due || null }),
      },
      { transaction },
    );
  });
}

/**
 * Puts a production's shots into an order. Shots that are not in the list, as those that came meanwhile, go
 * behind it in the order that they have.
 * @throws HttpError where a shot is of another production
 */
export function saveOrder(productionId: number, wanted: readonly number[]): Promise<void> {
  return inTransaction(async (transaction) => {
    const lock = transaction.LOCK.UPDATE;
    await locked(Production.findByPk(productionId, { transaction, lock }), 'production');
    const attributes = ['id', 'place'];
    const shots = await Shot.findAll({
      where: { productionId },
      attributes,
      order: ['place', 'id'],
      transaction,
    });
    const stranger = wanted.find((id) => !shots.some((s) => s.id === id));
    if (stranger !== undefined)
      throw new HttpError(422, `Shot ${stranger} is not of this production: fetch the board again.`);
    const listed = [...new Set(wanted)];
    const order = [...listed, ...shots.map((s) => s.id).filter((id) => !listed.includes(id))];
    for (const shot of shots) {
      const place = order.indexOf(shot.id) + 1;
      // where it stands is no change of the shot
      if (shot.place !== place) await shot.update({ place }, { transaction, silent: true });
    }
  });
}
