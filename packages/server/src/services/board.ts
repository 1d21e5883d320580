// The board: each shot with what it holds, counted by the database.
import { QueryTypes } from 'sequelize';
import type { ProductionCard, ShotCard } from '@bramblemist/contracts/payloads';
import { routes } from '@bramblemist/contracts/routes';
import { Production, Shot } from '../models';

interface Row {
  readonly id: number;
  readonly productionId: number;
  readonly name: string;
  readonly note: string;
  readonly updatedAt: Date;
  readonly variants: number;
  readonly bakes: number;
  readonly reference: number | null;
}

const SHOTS = `
  SELECT s.id, s.production_id AS productionId, s.name, s.note, s.updated_at AS updatedAt,
    (SELECT COUNT(*) FROM variants v WHERE v.shot_id = s.id) AS variants,
    (SELECT COUNT(*) FROM bakes b JOIN variants v ON v.id = b.variant_id
      WHERE v.shot_id = s.id AND b.cleared_at IS NULL) AS bakes,
    (SELECT MIN(a.id) FROM assets a WHERE a.shot_id = s.id AND a.kind = 'reference') AS reference
  FROM shots s ORDER BY s.id`;

/** Of each shot the newest combine that has a picture, and its last frame. */
const PICTURES = `
  SELECT v.shot_id AS shotId, c.id, c.first_frame + j.done - 1 AS frame
  FROM combines c
  JOIN renders r ON r.id = c.render_id
  JOIN bakes b ON b.id = r.bake_id
  JOIN variants v ON v.id = b.variant_id
  JOIN jobs j ON j.kind = 'combine' AND j.target_id = c.id AND j.done > 0
  WHERE c.cleared_at IS NULL AND b.cleared_at IS NULL AND r.cleared_at IS NULL
  ORDER BY c.id`;

export async function board(): Promise<ProductionCard[]> {
  const read = <T extends object>(query: string): Promise<T[]> =>
    Shot.sequelize!.query<T>(query, { type: QueryTypes.SELECT });
  const [productions, shots, pictures] = await Promise.all([
    Production.findAll({ order: [['id', 'ASC']] }),
    read<Row>(SHOTS),
    read<{ shotId: number; id: number; frame: number }>(PICTURES),
  ]);
  const newest = new Map(pictures.map((p) => [p.shotId, routes.combinePicture(p.id, p.frame, 'png')]));
  const card = (s: Row): ShotCard => ({
    id: s.id,
    name: s.name,
    note: s.note,
    variants: Number(s.variants),
    bakes: Number(s.bakes),
    picture: newest.get(s.id) ?? (s.reference === null ? null : routes.asset(s.reference)),
    changedAt: new Date(s.updatedAt).toISOString(),
  });
  return productions.map(({ id, name, note }) => ({
    id,
    name,
    note,
    shots: shots.filter((s) => s.productionId === id).map(card),
  }));
}
