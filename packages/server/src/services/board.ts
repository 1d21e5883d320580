// The board: each shot with what it holds, counted by the database.
import { QueryTypes } from 'sequelize';
import type { ProductionCard, ShotCard } from '@bramblemist/contracts/payloads';
import { routes } from '@bramblemist/contracts/routes';
import { Production, Shot } from '../models';

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

/** Of each shot the newest finished bake, by its job, which knows its picture. */
const BAKED = `
  SELECT v.shot_id AS shotId, MAX(j.id) AS id
  FROM jobs j
  JOIN bakes b ON b.id = j.target_id AND b.cleared_at IS NULL
  JOIN variants v ON v.id = b.variant_id
  WHERE j.kind = 'bake' AND j.state = 'done'
  GROUP BY v.shot_id`;

export async function board(): Promise<ProductionCard[]> {
  const read = <T extends object>(query: string): Promise<T[]> =>
    Shot.sequelize!.query<T>(query, { type: QueryTypes.SELECT });
  const [productions, shots, variants, bakes, references, pictures, baked] = await Promise.all([
    Production.findAll({ order: [['id', 'ASC']] }),
    Shot.findAll({ attributes: ['id', 'productionId', 'name', 'note', 'updatedAt'], order: [['id', 'ASC']] }),
    read<{ id: number; shotId: number }>(VARIANTS),
    read<{ variantId: number; bakes: number }>(BAKES),
    read<{ shotId: number; id: number }>(REFERENCES),
    read<{ shotId: number; id: number; frame: number }>(PICTURES),
    read<{ shotId: number; id: number }>(BAKED),
  ]);
  const bakesOf = new Map(bakes.map((b) => [b.variantId, Number(b.bakes)]));
  const reference = new Map(references.map((r) => [r.shotId, routes.asset(r.id)]));
  const newest = new Map(pictures.map((p) => [p.shotId, routes.combinePicture(p.id, p.frame, 'png')]));
  const bakedOf = new Map(baked.map((b) => [b.shotId, routes.jobPicture(b.id)]));
  const counts = new Map<number, { variants: number; bakes: number }>();
  for (const { id, shotId } of variants) {
    const count = counts.get(shotId) ?? { variants: 0, bakes: 0 };
    counts.set(shotId, { variants: count.variants + 1, bakes: count.bakes + (bakesOf.get(id) ?? 0) });
  }

  const card = (s: Shot): ShotCard => ({
    id: s.id,
    name: s.name,
    note: s.note,
    ...(counts.get(s.id) ?? { variants: 0, bakes: 0 }),
    picture: newest.get(s.id) ?? bakedOf.get(s.id) ?? reference.get(s.id) ?? null,
    changedAt: s.updatedAt.toISOString(),
  });
  return productions.map(({ id, name, note }) => ({
    id,
    name,
    note,
    shots: shots.filter((s) => s.productionId === id).map(card),
  }));
}
