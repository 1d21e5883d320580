// The recipe: the whole description of one simulation as plain, versioned data, checked at every door.
import { DocumentKind, type Fault } from './document';
import { PARTS } from './parts';

export type SideRule = 'open' | 'wall';
export type Triple = [number, number, number];
export interface ShapePart {
  id: string;
  name: string;
  on: boolean;
  shape: 'sphere' | 'box';
  centre: Triple;
  radius: number;
  size: Triple;
}
export interface SourcePart extends ShapePart {
  rate: number;
  temperature: number;
  expansion: number;
  colour: Triple;
  from: number;
  until: number;
}
export interface ObstaclePart extends ShapePart {
  turn: Triple;
  motion: 'still' | 'moves';
  velocity: Triple;
  spin: number;
  stick: number;
}
export type Carried = 'sharp' | 'kept' | 'soft';
export interface SpacePart {
  size: Triple;
  corner: Triple;
  voxelSize: number;
  sides: { floor: SideRule; top: SideRule; left: SideRule; right: SideRule; back: SideRule; front: SideRule };
  frameRate: number;
  firstFrame: number;
  lastFrame: number;
  timeScale: number;
  cfl: number;
  substepsLeast: number;
  substepsMost: number;
}
export interface Recipe {
  version: typeof RECIPE_VERSION;
  name: string;
  space: SpacePart;
  window: { mode: 'whole' | 'fit'; threshold: number; margin: number; shrinkFrom: number; travel: string };
  sources: SourcePart[];
  obstacles: ObstaclePart[];
  buoyancy: { lift: number; weight: number };
  wind: { speed: number; heading: number; rise: number; grip: number; gust: number; gustLength: number; seed: number };
  turbulence: { strength: number; size: number; octaves: number; roughness: number; period: number; seed: number };
  vorticity: { strength: number; large: number; largeSize: number };
  fading: { density: number; temperature: number };
  spreading: { viscosity: number; density: number; temperature: number; stick: number };
  method: { density: Carried; temperature: Carried; motion: 'plain' | 'reflected'; trace: 'second' | 'third' };
  keep: {
    temperature: boolean;
    velocity: boolean;
    colour: boolean;
    age: boolean;
    coordinates: boolean;
    precision: 'half' | 'float';
    threshold: number;
  };
}

export const RECIPE_VERSION = 1;
/** Rules that concern two settings at once. */
function crossChecks(recipe: Recipe): Fault[] {
  const { space } = recipe;
  const faults: Fault[] = [];
  if (space.lastFrame < space.firstFrame)
    faults.push({ path: 'space.lastFrame', message: `must not be before the first frame, ${space.firstFrame}` });
  if (space.substepsMost < space.substepsLeast)
    faults.push({ path: 'space.substepsMost', message: `must not be below the least, ${space.substepsLeast}` });
  const { travel } = recipe.window;
  if (travel !== 'nothing' && !recipe.obstacles.some((o) => o.name === travel))
    faults.push({ path: 'window.travel', message: `is the name of no obstacle: ${travel}. Use an obstacle’s name, or: nothing` });
  const ids = [...recipe.sources, ...recipe.obstacles].map((p) => p.id);
  ids.forEach((id, i) => {
    if (ids.indexOf(id) !== i) faults.push({ path: 'sources', message: `two parts share the id ${id}` });
  });
  return faults;
}

export const RECIPE = new DocumentKind<Recipe>('recipe', RECIPE_VERSION, PARTS, crossChecks);

/** Checks data from any door, see DocumentKind.parse. */
export function parseRecipe(data: unknown): Recipe {
  return RECIPE.parse(data);
}
