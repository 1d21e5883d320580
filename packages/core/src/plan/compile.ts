// compile(recipe, voxel size) → plan: everything that reaches a voxel passes through here. Pure: no memory,
// no kernels.
import { windowOver, type Window } from '../grid/lattice';
import type { Flown, TimedClouds } from '../assets/timed-clouds';
import { cloudsOf, meshShape, pictureOf, type Assets } from '../assets/assets';
import { ownTime } from '../assets/own-time';
import type { Picture } from '../files/picture';
import { inMetres } from '../geometry/mesh';
import { isMoving } from '../geometry/pose';
import type { MeshShape } from '../geometry/shape';
import { STANDARD } from '../recipe/parts/gravity';
import { MEASURES } from '../recipe/parts/regions';
import { check } from '../formulas/check';
import type { Moment } from '../formulas/language';
import { assemble, INSTRUCTION_BYTES, registerBytes, type Program } from '../formulas/program';
import { extremes, recipeAt, targetOf } from '../recipe/keys';
import { PARTS } from '../recipe/parts';
import type {
  ChangePart,
  Follows,
  FormulaPart,
  Placed,
  RegionPart,
  Carried,
  CurrentPart,
  ObstaclePart,
  FilePart,
  ParticlesPart,
  Recipe,
  SideRule,
  SourcePart,
  SpacePart,
  StandingPart,
} from '../recipe/types';

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
  /**
   * What their file holds, at a simulated time and an earlier one, in metres; null where they are made here.
   */
  readonly flown: ((timeS: number, earlierS: number) => Flown) | null;
}
/** A region that is on. */
export interface PlannedRegion extends Omit<Standing<StandingPart>, 'part'> {
  readonly part: RegionPart;
  /** Place in the plan's list of the one that it is joined with; −1: none. */
  readonly other: number;
  /** Whether its weights are other ones from substep to substep. */
  readonly varies: boolean;
}
/** A change that is on. */
export interface PlannedChange {
  readonly index: number;
  readonly part: ChangePart;
  /** Place of its region in the plan's list. */
  readonly region: number;
  /**
   * The part of the recipe that it is in, with the id of one of a list, and the setting's place and bounds.
   */
  readonly key: string;
  readonly at: string;
  readonly least: number;
  readonly most: number;
}
/** Side rules in the order −x +x −y +y −z +z. */
export type Sides = readonly [SideRule, SideRule, SideRule, SideRule, SideRule, SideRule];

/**
 * What the medium carries besides the air's velocity. Colour and age are carried as amounts (times density),
 * so that they mix by mass; coordinates as the way from where the air was at the start, in metres.
 */
export type ChannelName =
  'density' | 'temperature' | 'red' | 'green' | 'blue' | 'age' | 'wayX' | 'wayY' | 'wayZ';
export interface PlannedChannel {
  readonly name: ChannelName;
  readonly carried: Carried;
  /** By which of the half-lives it fades, and by which of the diffusivities it spreads; null: by none. */
  readonly fades: 'density' | 'temperature' | null;
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
  readonly currents: readonly Standing<CurrentPart>[];
  /** Those that something is limited to or changed in, each behind the one that it is joined with. */
  readonly regions: readonly PlannedRegion[];
  readonly changes: readonly PlannedChange[];
  readonly formulas: readonly {
    readonly index: number;
    readonly part: FormulaPart;
    readonly program: Program;
  }[];
  /** The largest of the formulas' programs and those of the regions; null without any. */
  readonly programs: {
    readonly bytes: number;
    readonly registerBytes: number;
    readonly curls: number;
  } | null;
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
  const { space, keep, method } = recipe;
  const window = windowOver(space.corner, space.size, options.voxelSizeM ?? space.voxelSize);
  const h = window.voxelSizeM;
  const moved = (list: string, id: string): boolean =>
    recipe.curves.some(
      (c) => c.path.startsWith(`${list}/${id}/centre.`) || c.path.startsWith(`${list}/${id}/turn.`),
    );
  const standing = <P extends StandingPart & Partial<Follows>>(
    list: 'sources' | 'obstacles' | 'particles' | 'currents' | 'regions',
  ): Standing<P>[] =>
    (recipe[list] as unknown as P[]).flatMap((part, index) => {
      if (!part.on) return [];
      const carrier = recipe.obstacles.find((o) => o.id === part.follows);
      const keyed =
        moved(list, part.id) ||
        (carrier !== undefined && (isMoving(carrier) || moved('obstacles', carrier.id)));
      const shapeless = 'born' in part && part.born !== 'burst' && part.born !== 'rate';
      const follows = 'does' in part && part.does === 'volume';
      const use = follows ? 'current' : list === 'obstacles' ? 'obstacle' : 'source';
      const mesh =
        (part.shape === 'mesh' || follows) && !shapeless
          ? meshShape(part, recipe, h, use, options.assets)
          : null;
      return [{ index, part, moves: keyed || isMoving(part) || (mesh?.moves ?? false), mesh }];
    });
  const sources = standing<SourcePart>('sources');
  const obstacles = standing<ObstaclePart>('obstacles');
  const currents = standing<CurrentPart>('currents');
  const regions = plannedRegions(recipe, standing<StandingPart>('regions'));
  const changes = plannedChanges(recipe, regions);
  const formulas = recipe.formulas.flatMap((part, index) =>
    part.on ? [{ index, part, program: programOf(part.text, part.when, recipe.keep) }] : [],
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
  const medium = { carried: method.density, fades: 'density' as const };
  const channels: PlannedChannel[] = [
    { name: 'density', ...medium },
    { name: 'temperature', carried: method.temperature, fades: 'temperature' },
    ...(keep.colour ? (['red', 'green', 'blue'] as const).map((name) => ({ name, ...medium })) : []),
    ...(keep.age ? [{ name: 'age' as const, ...medium }] : []),
    ...(keep.coordinates
      ? (['wayX', 'wayY', 'wayZ'] as const).map((name) => ({ name, carried: 'sharp' as const, fades: null }))
      : []),
  ];
  return {
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
    sources,
    obstacles,
    particles: plannedParticles(recipe, standing<ParticlesPart>('particles'), frameS, options.assets),
    currents,
    regions,
    changes,
    formulas,
    programs: largest([
      ...formulas.map((f) => f.program),
      ...regions.flatMap((r) => textOfRegion(r.part) ?? []).map((t) => programOf(t, null, recipe.keep)),
    ]),
    pictures: recipe.patterns.flatMap((p, pattern) =>
      p.on && p.noise === 'picture' && p.source !== ''
        ? [{ ...pictureOf(p, recipe, options.assets), pattern }]
        : [],
    ),
    guide: guideOf(recipe),
    at: remembering((timeS) => recipeAt(recipe, space.firstFrame - 1 + timeS / frameS)),
    hasOutflow:
      obstacles.some((o) => o.moves) ||
      sources.some(({ part: s }) => most(`sources/${s.id}/expansion`, s.expansion) > 0),
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
}

/** The part whose `where` names a region, or whose change holds in it. */
function regionsInUse(recipe: Recipe): Set<string> {
  const used = new Set(recipe.changes.filter((c) => c.on).map((c) => c.region));
  for (const part of PARTS)
    for (const holder of part.many
      ? (recipe[part.key as 'sources'] as readonly object[])
      : [recipe[part.key as 'wind'] as object])
      if (!('on' in holder) || holder.on !== false || !part.many)
        used.add((holder as Partial<Placed>).where ?? '');
  for (const id of used) {
    const region = recipe.regions.find((r) => r.id === id);
    if (region && region.joins !== 'alone') used.add(region.other);
  }

  return used;
}

function plannedRegions(recipe: Recipe, list: readonly Standing<StandingPart>[]): PlannedRegion[] {
  const used = regionsInUse(recipe);
  const out: PlannedRegion[] = [];
  const add = (one: Standing<StandingPart>): number => {
    const known = out.findIndex((r) => r.index === one.index);
    if (known >= 0) return known;
    const part = recipe.regions[one.index];
    const with_ = part.joins === 'alone' ? undefined : list.find((r) => r.part.id === part.other);
    const other = with_ ? add(with_) : -1;
    const keyed = recipe.curves.some((c) => c.path.startsWith(`regions/${part.id}/`));
    const varies =
      one.moves ||
      keyed ||
      ['channel', 'formula'].includes(part.shape) ||
      (part.shape === 'noise' && part.period > 0);
    return out.push({ ...one, part, other, varies: varies || (other >= 0 && out[other].varies) }) - 1;
  };

  list.filter((r) => used.has(r.part.id)).forEach(add);
  return out;
}

/** What a change makes of a value. */
export function changedBy(change: Pick<ChangePart, 'how'>, amount: number, value: number): number {
  return { times: value * amount, plus: value + amount, is: amount }[change.how];
}

function plannedChanges(recipe: Recipe, regions: readonly PlannedRegion[]): PlannedChange[] {
  return recipe.changes.flatMap((part, index) => {
    const region = regions.findIndex((r) => r.part.id === part.region);
    const target = targetOf(recipe, part.path);
    if (!part.on || region < 0 || 'wrong' in target) return [];
    const { least, most } = target.setting;
    return [
      {
        index,
        part,
        region,
        key: part.path.slice(0, part.path.lastIndexOf('/')),
        at: target.at,
        least,
        most,
      },
    ];
  });
}

/** Of a region that is worked out voxel by voxel its formula; null for one with a shape. */
export function textOfRegion({ shape, channel, text, lumps, period, seed }: RegionPart): string | null {
  if (shape === 'noise') return `noise(position / ${lumps}, ${period > 0 ? `time / ${period}` : 0}, ${seed})`;
  if (shape === 'channel') return MEASURES[channel];
  return shape === 'formula' ? text : null;
}

const programs = new Map<string, Program>();
const MOST_PROGRAMS = 64;
/** @throws Error where the text is no formula */
export function programOf(
  text: string,
  moment: Moment | null,
  keep: { colour: boolean; age: boolean },
): Program {
  const key = `${moment} ${keep.colour} ${keep.age} ${text}`;
  const known = programs.get(key);
  if (known) return known;
  const result = check(text, { moment, keep });
  if (!result.ok)
    throw new Error(`The formula “${text}”, character ${result.fault.from + 1}: ${result.fault.message}`);
  const made = assemble(result.checked);
  programs.set(key, made);
  if (programs.size > MOST_PROGRAMS) programs.delete(programs.keys().next().value!);
  return made;
}

function largest(all: readonly Program[]): Plan['programs'] {
  if (all.length === 0) return null;
  return {
    bytes: Math.max(...all.map((p) => p.instructions.length)) * INSTRUCTION_BYTES,
    registerBytes: Math.max(...all.map(registerBytes)),
    curls: Math.max(...all.map((p) => p.curls.length)),
  };
}

/** Particles of a pool come in so many, so that its arrays start on lines of the cache. */
const POOL_STEP = 16;

function plannedParticles(
  recipe: Recipe,
  list: readonly Standing<ParticlesPart>[],
  frameS: number,
  assets: Assets | undefined,
): PlannedParticles[] {
  const { firstFrame, lastFrame } = recipe.space;
  const out: PlannedParticles[] = [];
  const add = (one: Standing<ParticlesPart>): number => {
    const known = out.findIndex((p) => p.index === one.index);
    if (known >= 0) return known;
    const { part } = one;
    const above = part.born === 'children' ? list.find((p) => p.part.id === part.parent) : undefined;
    const parent = above ? add(above) : -1;
    const most = (setting: string, own: number): number =>
      Math.max(0, ...extremes(recipe, `particles/${part.id}/${setting}`, own));
    const frames = Math.max(1, Math.min(part.until, lastFrame) - Math.max(part.from, firstFrame) + 1);
    const life = part.life === 0 ? Infinity : most('life', part.life) * (1 + part.lifeVary / 100);
    const lasting = Math.min(life, frames * frameS);
    const from = part.born === 'file' ? cloudsOf(part, recipe, assets) : null;
    const streams = most('rate', part.rate) * lasting;
    const wanted = {
      burst: part.count,
      rate: streams + 16,
      children: above ? out[parent].room * (streams + 1) : 0,
      file: from?.clouds.most ?? 0,
    };
    const room =
      Math.ceil((from ? wanted.file : Math.min(part.most, wanted[part.born])) / POOL_STEP) * POOL_STEP;
    const flown =
      from &&
      ((timeS: number, earlierS: number) =>
        flownInMetres(from.clouds, from.file, recipe.space, timeS, earlierS));
    return out.push({ ...one, room, parent, flown }) - 1;
  };

  list.forEach(add);
  return out;
}

/** Particles of a file where they are at a time of the run, in metres. */
export function flownInMetres(
  clouds: TimedClouds,
  file: FilePart,
  space: SpacePart,
  timeS: number,
  earlierS: number,
): Flown {
  const at = (t: number): number => ownTime(file, clouds, space, t);
  // where a loop starts again, nothing flies back
  const [now, before] = [at(timeS), Math.min(at(earlierS), at(timeS))];
  const flown = clouds.at(now, before);
  const turned = (positions: Float32Array): Float32Array =>
    inMetres({ positions, triangles: new Uint32Array(0), colours: null }, file).positions;
  return {
    ...flown,
    positions: turned(flown.positions),
    earlier: turned(flown.earlier),
    velocities: flown.velocities && turned(flown.velocities),
    radii: flown.radii && flown.radii.map((r) => r * file.scale),
  };
}

function guideOf({ window, sources, obstacles }: Recipe): Plan['guide'] {
  const inSources = sources.findIndex((s) => s.id === window.travel);
  const inObstacles = obstacles.findIndex((o) => o.id === window.travel);
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
