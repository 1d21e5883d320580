// Sources and obstacles at a moment of the run: where keys and motion have taken them.
import { poseBetween, poseOf, type Pose } from '../geometry/pose';
import { cellShape, type CellShape } from '../geometry/shape';
import type { CurrentPart, ObstaclePart, ParticlesPart, SourcePart } from '../recipe/recipe';
import type { Plan, Standing } from './compile';

type ListName = 'sources' | 'obstacles' | 'particles' | 'currents';
type AnyStanding = Standing<SourcePart> | Standing<ObstaclePart> | Standing<ParticlesPart> | Standing<CurrentPart>;
/** Sine of radians; a run passes its kernels' own, so that all engines agree to the last bit. */
export type Sine = (x: number) => number;

/**
 * @param timeS simulated time since the start of the first frame
 * @param asked whether distances will be asked for; for bounds an outline does
 */
export function shapeAt(plan: Plan, list: ListName, standing: AnyStanding, timeS: number, asked = false): CellShape {
  const part = plan.at(timeS)[list][standing.index];
  return cellShape(
    part,
    poseOf(part, timeS),
    plan.window.voxelSizeM,
    (asked ? standing.mesh?.at(timeS).grid : standing.mesh?.outline) ?? null,
  );
}

/** The pose at a time with its velocity over the stretch before it; without keys that of its steady motion. */
export function poseAt(plan: Plan, list: ListName, standing: AnyStanding, timeS: number, lengthS: number, sine?: Sine): Pose {
  const at = (t: number): Pose => poseOf(plan.at(t)[list][standing.index], t, sine),
    now = at(timeS);
  if (!standing.moves || lengthS <= 0) return now;
  const before = at(timeS - lengthS),
    keyed = plan.recipe.curves.some((c) => c.path.startsWith(`${list}/${standing.part.id}/`));
  return keyed ? poseBetween(before, now, lengthS) : now;
}
