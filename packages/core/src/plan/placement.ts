// Sources and obstacles at a moment of the run: where keys and motion have taken them.
import { poseBetween, poseIn, type Pose } from '../geometry/pose';
import { cellShape, type CellShape } from '../geometry/shape';
import type { CurrentPart, ObstaclePart, ParticlesPart, SourcePart, StandingPart } from '../recipe/types';
import type { Plan, PlannedShape } from './plan';

type ListName = 'sources' | 'obstacles' | 'particles' | 'currents';
type AnyStanding =
  | PlannedShape<SourcePart>
  | PlannedShape<ObstaclePart>
  | PlannedShape<ParticlesPart>
  | PlannedShape<CurrentPart>;

/**
 * @param timeS simulated time since the start of the first frame
 * @param asked whether distances will be asked for; for bounds an outline does
 */
export function shapeAt(
  plan: Plan,
  list: ListName,
  standing: AnyStanding,
  timeS: number,
  asked = false,
): CellShape {
  const now = plan.at(timeS);
  const part = now[list][standing.index];
  return cellShape(
    part,
    poseIn(now, part, timeS),
    plan.window.voxelSizeM,
    (asked ? standing.mesh?.at(timeS).grid : standing.mesh?.outline) ?? null,
  );
}

/**
 * The pose at a time with its velocity over the stretch before it; without keys that of its steady motion.
 */
export function poseAt(
  plan: Plan,
  list: ListName | 'regions',
  standing: {
    readonly index: number;
    readonly part: { readonly id: string; readonly follows?: string };
    readonly moves: boolean;
  },
  timeS: number,
  lengthS: number,
): Pose {
  const at = (t: number): Pose => poseIn(plan.at(t), plan.at(t)[list][standing.index] as StandingPart, t);
  const now = at(timeS);
  if (!standing.moves || lengthS <= 0) return now;
  const before = at(timeS - lengthS);
  const { id, follows } = standing.part;
  const keyed = plan.recipe.curves.some(
    ({ path }) => path.startsWith(`${list}/${id}/`) || (follows && path.startsWith(`obstacles/${follows}/`)),
  );
  return keyed ? poseBetween(before, now, lengthS) : now;
}
