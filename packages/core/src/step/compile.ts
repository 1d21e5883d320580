// compile(recipe, voxel size) → plan: everything that reaches a voxel passes through here. Pure: no memory, no kernels.
import { windowOver, type Window } from '../grid/lattice';
import { isMoving } from '../obstacles/pose';
import type { Carried, ObstaclePart, Recipe, SideRule, SourcePart, Triple } from '../recipe/recipe';

/** A shape on the world's lattice, in cells: its centre and half sizes (radius in all three for a sphere). */
export interface CellShape {
  readonly kind: 'sphere' | 'box';
  readonly centre: Triple;
  readonly half: Triple;
}
export interface PlannedSource {
  readonly shape: CellShape;
  readonly ratePerS: number;
  readonly kelvin: number;
  readonly colour: Triple;
  /** 1/s. */
  readonly expansion: number;
  readonly from: number;
  readonly until: number;
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
  readonly sources: readonly PlannedSource[];
  readonly obstacles: readonly ObstaclePart[];
  /** The obstacle that the room travels with. */
  readonly guide: ObstaclePart | null;
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
}

export function compile(recipe: Recipe, options: CompileOptions = {}): Plan {
  const { space, keep, method, fading, spreading } = recipe;
  const window = windowOver(space.corner, space.size, options.voxelSizeM ?? space.voxelSize),
    h = window.voxelSizeM;
  const inCells = (s: SourcePart): CellShape => ({
    kind: s.shape,
    centre: s.centre.map((c) => c / h) as Triple,
    half: (s.shape === 'sphere' ? [s.radius, s.radius, s.radius] : s.size.map((v) => v / 2)).map((v) => v / h) as Triple,
  });
  const sources = recipe.sources
    .filter((s) => s.on)
    .map((s) => ({
      shape: inCells(s),
      ratePerS: s.rate,
      kelvin: s.temperature,
      colour: s.colour,
      expansion: s.expansion,
      from: s.from,
      until: s.until,
    }));
  const hottest = sources.reduce((most, s) => Math.max(most, Math.abs(s.kelvin)), 0);
  const obstacles = recipe.obstacles.filter((o) => o.on);
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
    guide: obstacles.find((o) => o.name === recipe.window.travel) ?? null,
    hasOutflow: obstacles.some(isMoving) || sources.some((s) => s.expansion !== 0),
    frameS: space.timeScale / space.frameRate,
    frames: options.frames ?? { first: space.firstFrame, last: space.lastFrame },
    accelerationBound: Math.abs(recipe.buoyancy.lift) * hottest + Math.abs(recipe.buoyancy.weight) + 2 * recipe.turbulence.strength,
  };
}
