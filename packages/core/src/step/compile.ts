// compile(recipe, voxel size) → plan: everything that reaches a voxel passes through here. Pure: no memory, no kernels.
import { windowOver, type Window } from '../grid/lattice';
import type { Recipe, SideRule, ShapePart } from '../recipe/recipe';

/** A shape in cells of the window, its centre and half sizes (radius in all three for a sphere). */
export interface CellShape {
  readonly kind: 'sphere' | 'box';
  readonly centre: readonly [number, number, number];
  readonly half: readonly [number, number, number];
}
export interface PlannedSource {
  readonly shape: CellShape;
  readonly ratePerS: number;
  readonly kelvin: number;
  readonly from: number;
  readonly until: number;
}
/** Side rules in the order −x +x −y +y −z +z. */
export type Sides = readonly [SideRule, SideRule, SideRule, SideRule, SideRule, SideRule];

/** What the step needs of a recipe at one voxel size. */
export interface Plan {
  readonly recipe: Recipe;
  readonly window: Window;
  readonly sides: Sides;
  readonly sources: readonly PlannedSource[];
  readonly obstacles: readonly CellShape[];
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
  const { space } = recipe;
  const window = windowOver(space.corner, space.size, options.voxelSizeM ?? space.voxelSize);
  const inCells = (shape: ShapePart): CellShape => {
    const h = window.voxelSizeM;
    const half = shape.shape === 'sphere' ? [shape.radius, shape.radius, shape.radius] : shape.size.map((s) => s / 2);
    const centre = shape.centre.map((c, a) => c / h - window.origin[a]);
    return { kind: shape.shape, centre: [centre[0], centre[1], centre[2]], half: [half[0] / h, half[1] / h, half[2] / h] };
  };
  const sources = recipe.sources
    .filter((s) => s.on)
    .map((s) => ({ shape: inCells(s), ratePerS: s.rate, kelvin: s.temperature, from: s.from, until: s.until }));
  const hottest = sources.reduce((most, s) => Math.max(most, Math.abs(s.kelvin)), 0);
  return {
    recipe,
    window,
    sides: [space.sides.left, space.sides.right, space.sides.floor, space.sides.top, space.sides.back, space.sides.front],
    sources,
    obstacles: recipe.obstacles.filter((o) => o.on).map(inCells),
    frameS: space.timeScale / space.frameRate,
    frames: options.frames ?? { first: space.firstFrame, last: space.lastFrame },
    accelerationBound: Math.abs(recipe.buoyancy.lift) * hottest + Math.abs(recipe.buoyancy.weight) + 2 * recipe.turbulence.strength,
  };
}
