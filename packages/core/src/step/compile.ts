// compile(recipe, voxel size) → plan: everything that reaches a voxel passes through here. Pure: no memory, no kernels.
import { windowOver, type Window } from '../grid/lattice';
import { meshShape, pictureOf, type Assets, type Picture } from '../geometry/assets';
import { isMoving } from '../geometry/pose';
import type { DistanceGrid } from '../geometry/shape';
import { extremes, recipeAt } from '../recipe/keys';
import type { Carried, ObstaclePart, ParticlesPart, Recipe, SideRule, SourcePart, StandingPart, Triple } from '../recipe/recipe';

/** A source or an obstacle that is on: its place in the recipe's list, and whether it ever moves. */
export interface Standing<P extends StandingPart> {
  readonly index: number;
  /** As it is without keys. */
  readonly part: P;
  readonly moves: boolean;
  /** Where its shape comes from, for a mesh. */
  readonly mesh: MeshShape | null;
}
/** Particles that are on, parents before their children. */
export interface PlannedParticles extends Standing<ParticlesPart> {
  /** The most that can be there at once. */
  readonly room: number;
  /** Place of those that they spring from, in the plan's list; −1: none. */
  readonly parent: number;
}
/** A mesh on the lattice. What it takes in memory is known before it is made. */
export interface MeshShape {
  readonly nodes: Triple;
  readonly grid: () => DistanceGrid;
  /** The mask over its surface at the grid's nodes, 0…1; null without one. */
  readonly mask: (() => Float32Array) | null;
}
/** Side rules in the order −x +x −y +y −z +z. */
export type Sides = readonly [SideRule, SideRule, SideRule, SideRule, SideRule, SideRule];

/**
 * What the medium carries besides the air's velocity. Colour and age are carried as amounts (times density), so that they
 * mix by mass; coordinates as the way from where the air was at the start, in metres.
 */
export type ChannelName = 'density' | 'temperature' | 'red' | 'green' | 'blue' | 'age' | 'wayX' | 'wayY' | 'wayZ';
export interface PlannedChannel {
  readonly name: ChannelName;
  readonly carried: Carried;
  /** Time in which it halves, s; 0 is never. */
  readonly halfLifeS: number;
  /** m²/s. */
  readonly diffusivity: number;
}

/** What the step needs of a recipe at one voxel size. */
export interface Plan {
  readonly recipe: Recipe;
  /** The whole room; a run's own window lies in it. */
  readonly window: Window;
  readonly sides: Sides;
  readonly channels: readonly PlannedChannel[];
  readonly sources: readonly Standing<SourcePart>[];
  readonly obstacles: readonly Standing<ObstaclePart>[];
  readonly particles: readonly PlannedParticles[];
  /** Pictures of the patterns, and which pattern (of the recipe's list) each belongs to. */
  readonly pictures: readonly (Picture & { readonly pattern: number })[];
  /** What the room travels with: a list of the recipe and the place in it. */
  readonly guide: { readonly list: 'sources' | 'obstacles'; readonly index: number } | null;
  /** The recipe with its keys as they are at a simulated time since the start of the first frame, s. */
  readonly at: (timeS: number) => Recipe;
  /** Something makes air or drives it out of cells: expansion or moving obstacles. */
  readonly hasOutflow: boolean;
  /** Simulated seconds from frame to frame. */
  readonly frameS: number;
  readonly frames: { readonly first: number; readonly last: number };
  /** An upper guess of the acceleration, m/s², for the first choice of substeps. */
  readonly accelerationBound: number;
}

export interface CompileOptions {
  /** Instead of the recipe's voxel size. */
  readonly voxelSizeM?: number;
  /** Instead of the recipe's frame range. */
  readonly frames?: { readonly first: number; readonly last: number };
  /** What stands in the recipe's files. */
  readonly assets?: Assets;
}

/** @throws Error where a file is wanted that is not there */
export function compile(recipe: Recipe, options: CompileOptions = {}): Plan {
  const { space, keep, method, fading, spreading } = recipe;
  const window = windowOver(space.corner, space.size, options.voxelSizeM ?? space.voxelSize),
    h = window.voxelSizeM;
  const standing = <P extends StandingPart>(list: 'sources' | 'obstacles' | 'particles'): Standing<P>[] =>
    (recipe[list] as unknown as P[]).flatMap((part, index) => {
      if (!part.on) return [];
      const keyed = recipe.curves.some(
        (c) => c.path.startsWith(`${list}/${part.id}/centre.`) || c.path.startsWith(`${list}/${part.id}/turn.`),
      );
      const shapeless = 'born' in part && part.born !== 'burst' && part.born !== 'rate';
      const mesh = part.shape === 'mesh' && !shapeless ? meshShape(part, recipe, h, list === 'obstacles' ? 1 : 2, options.assets) : null;
      return [{ index, part, moves: keyed || isMoving(part), mesh }];
    });
  const sources = standing<SourcePart>('sources'),
    obstacles = standing<ObstaclePart>('obstacles');
  const frameS = space.timeScale / space.frameRate;
  const most = (path: string, own: number): number => Math.max(...extremes(recipe, path, own).map(Math.abs));
  const hottest = sources.reduce(
    (m, { part: s }) => (s.temperature.how === 'none' ? m : Math.max(m, most(`sources/${s.id}/temperature.amount`, s.temperature.amount))),
    0,
  );
  const medium = { carried: method.density, halfLifeS: fading.density, diffusivity: spreading.density };
  const channels: PlannedChannel[] = [
    { name: 'density', ...medium },
    { name: 'temperature', carried: method.temperature, halfLifeS: fading.temperature, diffusivity: spreading.temperature },
    ...(keep.colour ? (['red', 'green', 'blue'] as const).map((name) => ({ name, ...medium })) : []),
    ...(keep.age ? [{ name: 'age' as const, ...medium }] : []),
    ...(keep.coordinates
      ? (['wayX', 'wayY', 'wayZ'] as const).map((name) => ({ name, carried: 'sharp' as const, halfLifeS: 0, diffusivity: 0 }))
      : []),
  ];
  return {
    recipe,
    window,
    sides: [space.sides.left, space.sides.right, space.sides.floor, space.sides.top, space.sides.back, space.sides.front],
    channels,
    sources,
    obstacles,
    particles: plannedParticles(recipe, standing<ParticlesPart>('particles'), frameS),
    pictures: recipe.patterns.flatMap((p, pattern) =>
      p.on && p.noise === 'picture' && p.source !== '' ? [{ ...pictureOf(p, recipe, options.assets), pattern }] : [],
    ),
    guide: guideOf(recipe),
    at: remembering((timeS) => recipeAt(recipe, space.firstFrame - 1 + timeS / frameS)),
    hasOutflow: obstacles.some((o) => o.moves) || sources.some(({ part: s }) => most(`sources/${s.id}/expansion`, s.expansion) > 0),
    frameS,
    frames: options.frames ?? { first: space.firstFrame, last: space.lastFrame },
    accelerationBound:
      most('buoyancy/lift', recipe.buoyancy.lift) * hottest +
      most('buoyancy/weight', recipe.buoyancy.weight) +
      2 * most('turbulence/strength', recipe.turbulence.strength),
  };
}

/** Particles of a pool come in so many, so that its arrays start on lines of the cache. */
const POOL_STEP = 16;

function plannedParticles(recipe: Recipe, list: readonly Standing<ParticlesPart>[], frameS: number): PlannedParticles[] {
  const { firstFrame, lastFrame } = recipe.space,
    out: PlannedParticles[] = [];
  const add = (one: Standing<ParticlesPart>): number => {
    const known = out.findIndex((p) => p.index === one.index);
    if (known >= 0) return known;
    const { part } = one,
      above = part.born === 'children' ? list.find((p) => p.part.id === part.parent) : undefined,
      parent = above ? add(above) : -1;
    const most = (setting: string, own: number): number => Math.max(0, ...extremes(recipe, `particles/${part.id}/${setting}`, own));
    const frames = Math.max(1, Math.min(part.until, lastFrame) - Math.max(part.from, firstFrame) + 1),
      life = part.life === 0 ? Infinity : most('life', part.life) * (1 + part.lifeVary / 100),
      lasting = Math.min(life, frames * frameS);
    const wanted =
      part.born === 'burst'
        ? part.count
        : part.born === 'rate'
          ? most('rate', part.rate) * lasting + 16
          : above
            ? out[parent].room * (most('rate', part.rate) * lasting + 1)
            : 0;
    const room = Math.ceil(Math.min(part.most, wanted) / POOL_STEP) * POOL_STEP;
    return out.push({ ...one, room, parent }) - 1;
  };
  list.forEach(add);
  return out;
}

function guideOf({ window, sources, obstacles }: Recipe): Plan['guide'] {
  const inSources = sources.findIndex((s) => s.id === window.travel),
    inObstacles = obstacles.findIndex((o) => o.id === window.travel);
  if (window.travel === '' || (inSources < 0 && inObstacles < 0)) return null;
  return inObstacles >= 0 ? { list: 'obstacles', index: inObstacles } : { list: 'sources', index: inSources };
}

/** A step asks for the same moments many times over. */
function remembering<T>(make: (timeS: number) => T): (timeS: number) => T {
  const kept = new Map<number, T>();
  return (timeS) => {
    const found = kept.get(timeS);
    if (found) return found;
    const made = make(timeS);
    kept.set(timeS, made);
    if (kept.size > 16) kept.delete(kept.keys().next().value!);
    return made;
  };
}
