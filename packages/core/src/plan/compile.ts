// compile(recipe, voxel size) → plan: everything that reaches a voxel passes through here. Pure: no memory,
// no kernels.
import { CHANNELS } from '../base/channels';
import { carriedChannels, keptForFormulas } from '../recipe/kept';
import { finerWindow, windowOver } from '../grid/lattice';
import type { Assets } from '../assets/assets';
import { resolveAssets } from '../assets/resolve';
import { memoize } from '../base/memoize';
import { droppedParts, type Dropped } from './dropped';
import { isMoving } from '../geometry/pose';
import { STANDARD } from '../recipe/parts/gravity';
import { extremes, recipeAt } from '../recipe/keys';
import type {
  Follows,
  CurrentPart,
  ObstaclePart,
  ParticlesPart,
  Recipe,
  SourcePart,
  StandingPart,
} from '../recipe/types';
import type { PlannedShape, PlannedChannel, Plan } from './plan';
import { programOf, largest } from './programs';
import { plannedRegions, changedBy, plannedChanges, textOfRegion } from './plan-regions';
import { plannedParticles } from './plan-particles';

export interface CompileOptions {
  /** Instead of the recipe's voxel size. */
  readonly voxelSizeM?: number;
  /** Instead of the recipe's frame range. */
  readonly frames?: { readonly first: number; readonly last: number };
  /** What stands in the recipe's files. */
  readonly assets?: Assets;
}

export interface Compiled {
  readonly plan: Plan;
  /** What of the recipe has no part in the run, and why. */
  readonly dropped: readonly Dropped[];
}

/** A step asks for the same moments many times over. */
const MOMENTS = 16;

/** @throws CoreError where a file is wanted that is not there */
export function compile(recipe: Recipe, options: CompileOptions = {}): Compiled {
  const { space } = recipe;
  const window = windowOver(space.corner, space.size, options.voxelSizeM ?? space.voxelSize);
  const h = window.voxelSizeM;
  const resolved = resolveAssets(recipe, h, options.assets);
  const moved = (list: string, id: string): boolean =>
    recipe.curves.some(
      (c) => c.path.startsWith(`${list}/${id}/centre.`) || c.path.startsWith(`${list}/${id}/turn.`),
    );
  const standing = <P extends StandingPart & Partial<Follows>>(
    list: 'sources' | 'obstacles' | 'particles' | 'currents' | 'regions',
  ): PlannedShape<P>[] =>
    (recipe[list] as unknown as P[]).flatMap((part, index) => {
      if (!part.on) return [];
      const carrier = recipe.obstacles.find((o) => o.id === part.follows);
      const keyed =
        moved(list, part.id) ||
        (carrier !== undefined && (isMoving(carrier) || moved('obstacles', carrier.id)));
      const mesh = resolved.shapes.get(part.id) ?? null;
      return [{ index, part, moves: keyed || isMoving(part) || (mesh?.moves ?? false), mesh }];
    });
  const sources = standing<SourcePart>('sources');
  const obstacles = standing<ObstaclePart>('obstacles');
  const currents = standing<CurrentPart>('currents');
  const regions = plannedRegions(recipe, standing<StandingPart>('regions'));
  const changes = plannedChanges(recipe, regions);
  const formulas = recipe.formulas.flatMap((part, index) =>
    part.on ? [{ index, part, program: programOf(part.text, part.when, keptForFormulas(recipe)) }] : [],
  );
  const frameS = space.timeScale / space.frameRate;
  // keys and changes of regions may make it more
  const most = (path: string, own: number): number => {
    const values = extremes(recipe, path, own);
    const changed = recipe.changes
      .filter((c) => c.on && c.path === path)
      .flatMap((c) => values.map((v) => changedBy(c, c.amount, v)));
    return Math.max(...[...values, ...changed].map(Math.abs));
  };

  const hottest = sources.reduce(
    (m, { part: s }) =>
      s.temperature.how === 'none'
        ? m
        : Math.max(m, most(`sources/${s.id}/temperature.amount`, s.temperature.amount)),
    0,
  );
  const channels = carriedChannels(recipe).flatMap((name): PlannedChannel[] => {
    const { fields, fades, held } = CHANNELS[name];
    return fields.map((field) => ({ name: field, fades, rides: held === 'amount' }));
  });
  const expands = sources.some(({ part: s }) => most(`sources/${s.id}/expansion`, s.expansion) > 0);
  const plan: Omit<Plan, 'medium'> = {
    recipe,
    window,
    sides: [
      space.sides.left,
      space.sides.right,
      space.sides.floor,
      space.sides.top,
      space.sides.back,
      space.sides.front,
    ],
    channels,
    perCell: 1,
    sources,
    obstacles,
    particles: plannedParticles(recipe, standing<ParticlesPart>('particles'), frameS, resolved),
    currents,
    regions,
    changes,
    formulas,
    programs: largest([
      ...formulas.map((f) => f.program),
      ...regions
        .flatMap((r) => textOfRegion(r.part) ?? [])
        .map((t) => programOf(t, null, keptForFormulas(recipe))),
    ]),
    pictures: recipe.patterns.flatMap((p, pattern) => {
      const texture = resolved.textures.get(p.id);
      return texture ? [{ ...texture, pattern }] : [];
    }),
    guide: guideOf(recipe),
    at: memoize(MOMENTS, (timeS: number) => recipeAt(recipe, space.firstFrame - 1 + timeS / frameS)),
    hasOutflow: obstacles.some((o) => o.moves) || expands,
    makesAir: expands || obstacles.some((o) => o.mesh?.moves),
    frameS,
    frames: options.frames ?? { first: space.firstFrame, last: space.lastFrame },
    accelerationBound:
      (most('gravity/strength', recipe.gravity.strength) / STANDARD) *
        (most('buoyancy/lift', recipe.buoyancy.lift) * hottest +
          most('buoyancy/weight', recipe.buoyancy.weight)) +
      2 *
        (most('turbulence/strength', recipe.turbulence.strength) +
          most('edges/strength', recipe.edges.strength)) +
      Math.max(
        0,
        ...currents.map(({ part: c }) => (c.does === 'point' ? most(`currents/${c.id}/pull`, c.pull) : 0)),
      ),
  };
  const whole = { ...plan, medium: space.medium === 'finer' ? onFinerCells(plan, options.assets) : null };
  return { plan: whole, dropped: droppedParts(recipe, whole) };
}

/** The plan as the medium's own cells see it, half as large as the air's. */
function onFinerCells(plan: Omit<Plan, 'medium'>, assets: Assets | undefined): Plan {
  const { recipe, channels, sources } = plan;
  const window = finerWindow(plan.window);
  const own = { ...recipe, obstacles: [], currents: [], regions: [], particles: [], patterns: [] };
  const { shapes } = resolveAssets(own, window.voxelSizeM, assets);
  return {
    ...plan,
    medium: null,
    perCell: 8,
    window,
    channels: channels.filter((c, n) => n === 0 || c.rides),
    sources: sources.map((s) => ({ ...s, mesh: s.mesh && (shapes.get(s.part.id) ?? null) })),
  };
}

function guideOf({ window, sources, obstacles }: Recipe): Plan['guide'] {
  const inSources = sources.findIndex((s) => s.id === window.travel);
  const inObstacles = obstacles.findIndex((o) => o.id === window.travel);
  if (window.travel === '' || (inSources < 0 && inObstacles < 0)) return null;
  return inObstacles >= 0 ? { list: 'obstacles', index: inObstacles } : { list: 'sources', index: inSources };
}
