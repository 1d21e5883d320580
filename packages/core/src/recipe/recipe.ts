// The recipe: the whole description of one simulation as plain, versioned data, checked at every door.
import type { Dab } from '../geometry/paint';
import { DocumentKind, type Fault } from './document';
import { targetOf, type Curve } from './keys';
import { PARTS } from './parts';
import { getAt } from './paths';
import { UPGRADES } from './upgrades';

export type SideRule = 'open' | 'wall';
export type Triple = [number, number, number];
/** What sources and obstacles share: a shape that stands somewhere and may move. */
export interface StandingPart {
  id: string;
  name: string;
  on: boolean;
  shape: 'sphere' | 'box' | 'cylinder' | 'disc' | 'ring' | 'plane' | 'path' | 'ground' | 'mesh' | 'particles';
  /** Id of a file. */
  file: string;
  centre: Triple;
  turn: Triple;
  motion: 'still' | 'moves';
  velocity: Triple;
  spin: number;
  radius: number;
  tube: number;
  size: Triple;
}
/** How a value is written. */
export type Way = 'none' | 'add' | 'raise' | 'replace' | 'blend';
export interface SourcePart extends StandingPart {
  points: Triple[];
  /** Id of particles. */
  particles: string;
  swell: number;
  endAmount: number;
  fill: 'filled' | 'surface';
  layer: number;
  mask: 'none' | 'painted' | 'red' | 'green' | 'blue' | 'light';
  paint: Dab[];
  threshold: number;
  softness: number;
  density: { how: Way; amount: number };
  temperature: { how: Way; amount: number };
  colour: { how: 'add' | 'replace' | 'blend' | 'none'; amount: Triple };
  push: {
    how: Way;
    mode: 'along' | 'normal' | 'motion' | 'point';
    speed: number;
    direction: Triple;
    point: Triple;
    spread: number;
    vary: number;
    lump: number;
  };
  age: { how: Way; amount: number };
  expansion: number;
  within: number;
  timing: 'steady' | 'bursts';
  burstEvery: number;
  burstLength: number;
  from: number;
  until: number;
}
export interface PatternPart {
  id: string;
  name: string;
  on: boolean;
  /** Id of a source. */
  source: string;
  noise: 'value' | 'cellular' | 'billow' | 'picture';
  size: number;
  period: number;
  seed: number;
  file: string;
  across: number;
  use: 'amount' | 'colour';
  low: number;
  high: number;
  contrast: number;
  strength: number;
}
export interface ObstaclePart extends StandingPart {
  facing: 'solid' | 'vessel';
  grow: number;
  stick: number;
}
export interface ParticlesPart extends StandingPart {
  points: Triple[];
  fill: 'filled' | 'surface';
  born: 'burst' | 'rate' | 'children' | 'file';
  count: number;
  rate: number;
  /** Id of other particles. */
  parent: string;
  /** Id of a file. */
  sequence: string;
  aim: 'along' | 'outward' | 'normal';
  direction: Triple;
  spread: number;
  speed: number;
  vary: number;
  inherit: number;
  life: number;
  lifeVary: number;
  size: Triple;
  ball: number;
  ballVary: number;
  endSize: number;
  gravity: number;
  drag: number;
  churn: number;
  churnSize: number;
  churnPeriod: number;
  meets: 'passes' | 'ends' | 'bounces';
  bounce: number;
  seed: number;
  most: number;
  from: number;
  until: number;
}
export interface CurrentPart extends StandingPart {
  points: Triple[];
  does: 'jet' | 'spin' | 'point' | 'still' | 'shear' | 'path';
  soft: number;
  speed: number;
  direction: Triple;
  turning: number;
  pull: number;
  shear: number;
  toPath: number;
  within: number;
  from: number;
  until: number;
}
export interface FilePart {
  id: string;
  name: string;
  sha256: string;
  kind: 'mesh' | 'particles' | 'picture';
  scale: number;
  up: 'y' | 'z';
  start: number;
  rate: number;
  pace: number;
  after: 'hold' | 'loop';
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
  patterns: PatternPart[];
  obstacles: ObstaclePart[];
  particles: ParticlesPart[];
  buoyancy: { lift: number; weight: number };
  wind: { speed: number; heading: number; rise: number; grip: number; gust: number; gustLength: number; seed: number };
  turbulence: { strength: number; size: number; octaves: number; roughness: number; period: number; seed: number };
  vorticity: { strength: number; large: number; largeSize: number };
  currents: CurrentPart[];
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
  files: FilePart[];
  curves: Curve[];
}

export const RECIPE_VERSION = 2;
/** Rules that concern two settings at once. */
function crossChecks(recipe: Recipe): Fault[] {
  const { space } = recipe;
  const faults: Fault[] = [];
  if (space.lastFrame < space.firstFrame)
    faults.push({ path: 'space.lastFrame', message: `must not be before the first frame, ${space.firstFrame}` });
  if (space.substepsMost < space.substepsLeast)
    faults.push({ path: 'space.substepsMost', message: `must not be below the least, ${space.substepsLeast}` });
  const lists = PARTS.filter((p) => p.many).map((p) => ({ part: p, items: recipe[p.key as 'sources'] as readonly { id: string }[] }));
  for (const { part, items } of lists) {
    items.forEach(({ id }, n) => {
      if (
        lists.some((l) =>
          l.items.some((other, m) => other.id === id && (l.part !== part ? PARTS.indexOf(l.part) < PARTS.indexOf(part) : m < n)),
        )
      )
        faults.push({ path: `${part.key}[${n}].id`, message: `two parts share the id ${id}` });
      if (id.includes('/')) faults.push({ path: `${part.key}[${n}].id`, message: 'must not hold a slash' });
    });
  }
  const ids = (key: string): string[] => lists.find((l) => l.part.key === key)!.items.map((p) => p.id);
  for (const part of PARTS)
    for (const s of part.settings) {
      if (s.kind !== 'reference') continue;
      const holders = part.many ? (recipe[part.key as 'sources'] as object[]) : [recipe[part.key as 'window'] as object];
      holders.forEach((holder, n) => {
        const id = getAt(holder, s.path) as string;
        if (id !== '' && !s.to.some((key) => ids(key).includes(id)))
          faults.push({
            path: part.many ? `${part.key}[${n}].${s.path}` : `${part.key}.${s.path}`,
            message: `is the id of nothing in ${s.to.join(' or ')}: ${id}`,
          });
      });
    }
  recipe.particles.forEach((p, n) => {
    const line: string[] = [];
    for (let at: ParticlesPart | undefined = p; at?.born === 'children'; at = recipe.particles.find((q) => q.id === at!.parent)) {
      if (line.includes(at.id)) {
        faults.push({ path: `particles[${n}].parent`, message: `${p.name} would spring from itself: ${line.join(' from ')}` });
        break;
      }
      line.push(at.id);
    }
  });
  recipe.curves.forEach(({ path, keys }, n) => {
    const at = `curves[${n}]`,
      target = targetOf(recipe, path);
    if ('wrong' in target) return faults.push({ path: `${at}.path`, message: target.wrong });
    const { least, most, unit } = target.setting;
    keys.forEach((k, m) => {
      if (m > 0 && k.frame <= keys[m - 1].frame)
        faults.push({ path: `${at}.keys[${m}].frame`, message: 'must be later than that of the key before' });
      if (k.value < least || k.value > most)
        faults.push({ path: `${at}.keys[${m}].value`, message: `must be from ${least} to ${most}${unit ? ` ${unit}` : ''}` });
    });
    if (recipe.curves.some((c, m) => m < n && c.path === path)) faults.push({ path: `${at}.path`, message: `two curves move ${path}` });
  });
  return faults;
}

export const RECIPE = new DocumentKind<Recipe>('recipe', RECIPE_VERSION, PARTS, crossChecks, UPGRADES);

/** Checks data from any door, see DocumentKind.parse. */
export function parseRecipe(data: unknown): Recipe {
  return RECIPE.parse(data);
}
