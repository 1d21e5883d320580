// The recipe: the whole description of one simulation as plain, versioned data, checked at every door.
import type { MEASURES } from '../air/regions';
import { check } from '../formulas/check';
import type { Moment } from '../formulas/language';
import type { Dab } from '../geometry/paint';
import { DocumentKind, type Fault } from './document';
import { targetOf, type Curve } from './keys';
import { PARTS } from './parts';
import { isPlaced, partOf } from './settings';
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
/** Carried along by an obstacle: its id. */
export interface Follows {
  follows: string;
}
/** Limited to a region: its id; '' everywhere. */
export interface Placed {
  where: string;
}
/** How a value is written. */
export type Way = 'none' | 'add' | 'raise' | 'replace' | 'blend';
export interface SourcePart extends StandingPart, Follows, Placed {
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
export interface ParticlesPart extends StandingPart, Follows {
  points: Triple[];
  fill: 'filled' | 'surface';
  born: 'burst' | 'rate' | 'children' | 'file';
  count: number;
  rate: number;
  /** Id of other particles. */
  parent: string;
  /** Id of a file. */
  sequence: string;
  /** Bounds of those that are taken of it. */
  pick: {
    slowest: number;
    fastest: number;
    lowest: number;
    highest: number;
    fewest: number;
    most: number;
    near: number;
    youngest: number;
    oldest: number;
  };
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
export interface CurrentPart extends StandingPart, Follows, Placed {
  points: Triple[];
  does: 'jet' | 'spin' | 'point' | 'still' | 'shear' | 'path' | 'pipe' | 'volume';
  soft: number;
  speed: number;
  /** Of a volume's speed. */
  times: number;
  direction: Triple;
  turning: number;
  pull: number;
  shear: number;
  toPath: number;
  mouth: number;
  within: number;
  from: number;
  until: number;
}
export interface RegionPart extends Omit<StandingPart, 'shape'>, Follows {
  shape:
    'sphere' | 'box' | 'cylinder' | 'ring' | 'path' | 'ground' | 'mesh' | 'noise' | 'channel' | 'formula';
  points: Triple[];
  soft: number;
  lumps: number;
  period: number;
  seed: number;
  channel: keyof typeof MEASURES;
  text: string;
  low: number;
  high: number;
  edge: [number, number][];
  facing: 'inside' | 'outside';
  joins: 'alone' | 'both' | 'either' | 'without';
  /** Id of a region. */
  other: string;
}
export interface ChangePart {
  id: string;
  name: string;
  on: boolean;
  /** Id of a region. */
  region: string;
  path: string;
  how: 'times' | 'plus' | 'is';
  amount: number;
}
export interface FormulaPart extends Placed {
  id: string;
  name: string;
  on: boolean;
  when: Moment;
  text: string;
  from: number;
  until: number;
}
export interface FilePart {
  id: string;
  name: string;
  sha256: string;
  kind: 'mesh' | 'particles' | 'picture' | 'volume';
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
  gravity: { strength: number; direction: Triple };
  buoyancy: { lift: number; weight: number } & Placed;
  wind: {
    speed: number;
    heading: number;
    rise: number;
    grip: number;
    gust: number;
    gustLength: number;
    seed: number;
  } & Placed;
  drag: { halfLife: number; on: 'all' | 'medium' } & Placed;
  turbulence: {
    strength: number;
    size: number;
    octaves: number;
    roughness: number;
    period: number;
    seed: number;
  } & Placed;
  edges: { strength: number; size: number; period: number; seed: number } & Placed;
  vorticity: { strength: number; large: number; largeSize: number } & Placed;
  currents: CurrentPart[];
  fading: { density: number; temperature: number; bias: number; even: number } & Placed;
  spreading: { viscosity: number; density: number; temperature: number; stick: number } & Placed;
  method: {
    density: Carried;
    temperature: Carried;
    motion: 'plain' | 'reflected';
    trace: 'second' | 'third';
  };
  keep: {
    temperature: boolean;
    velocity: boolean;
    air: 'medium' | 'room';
    colour: boolean;
    age: boolean;
    coordinates: boolean;
    precision: 'half' | 'float';
    threshold: number;
  };
  regions: RegionPart[];
  changes: ChangePart[];
  formulas: FormulaPart[];
  files: FilePart[];
  curves: Curve[];
}

export const RECIPE_VERSION = 2;

/** Rules that concern two settings at once. */
function crossChecks(recipe: Recipe): Fault[] {
  const { space } = recipe;
  const faults: Fault[] = [];
  if (space.lastFrame < space.firstFrame)
    faults.push({
      path: 'space.lastFrame',
      message: `must not be before the first frame, ${space.firstFrame}`,
    });
  if (space.substepsMost < space.substepsLeast)
    faults.push({
      path: 'space.substepsMost',
      message: `must not be below the least, ${space.substepsLeast}`,
    });
  const lists = PARTS.filter((p) => p.many).map((p) => ({
    part: p,
    items: recipe[p.key as 'sources'] as readonly { id: string }[],
  }));
  for (const { part, items } of lists) {
    items.forEach(({ id }, n) => {
      if (
        lists.some((l) =>
          l.items.some(
            (other, m) =>
              other.id === id && (l.part !== part ? PARTS.indexOf(l.part) < PARTS.indexOf(part) : m < n),
          ),
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
      const holders = part.many
        ? (recipe[part.key as 'sources'] as object[])
        : [recipe[part.key as 'window'] as object];
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
    for (
      let at: ParticlesPart | undefined = p;
      at?.born === 'children';
      at = recipe.particles.find((q) => q.id === at!.parent)
    ) {
      if (line.includes(at.id)) {
        faults.push({
          path: `particles[${n}].parent`,
          message: `${p.name} would spring from itself: ${line.join(' from ')}`,
        });
        break;
      }

      line.push(at.id);
    }
  });
  recipe.regions.forEach((r, n) => {
    const line: string[] = [];
    for (
      let at: RegionPart | undefined = r;
      at && at.joins !== 'alone';
      at = recipe.regions.find((q) => q.id === at!.other)
    ) {
      if (line.includes(at.id)) {
        faults.push({
          path: `regions[${n}].other`,
          message: `${r.name} would be joined with itself: ${line.join(' with ')}`,
        });
        break;
      }

      line.push(at.id);
    }
  });
  recipe.changes.forEach(({ path, on }, n) => {
    if (!on) return;
    const target = targetOf(recipe, path);
    if ('wrong' in target) faults.push({ path: `changes[${n}].path`, message: target.wrong });
    else if (!isPlaced(partOf(PARTS, path.split('/')[0]), target.setting.path))
      faults.push({
        path: `changes[${n}].path`,
        message:
          `${target.name} cannot be another one inside a region; what the air does and what sources give ` +
          'can',
      });
  });
  const read = (at: string, text: string, moment: Moment | null): void => {
    const result = check(text, { moment, keep: recipe.keep });
    if (!result.ok)
      faults.push({ path: at, message: `character ${result.fault.from + 1}: ${result.fault.message}` });
  };

  recipe.formulas.forEach((f, n) => f.on && read(`formulas[${n}].text`, f.text, f.when));
  recipe.regions.forEach((r, n) => r.on && r.shape === 'formula' && read(`regions[${n}].text`, r.text, null));
  recipe.curves.forEach(({ path, keys }, n) => {
    const at = `curves[${n}]`;
    const target = targetOf(recipe, path);
    if ('wrong' in target) return faults.push({ path: `${at}.path`, message: target.wrong });
    const { least, most, unit } = target.setting;
    keys.forEach((k, m) => {
      if (m > 0 && k.frame <= keys[m - 1].frame)
        faults.push({ path: `${at}.keys[${m}].frame`, message: 'must be later than that of the key before' });
      if (k.value < least || k.value > most)
        faults.push({
          path: `${at}.keys[${m}].value`,
          message: `must be from ${least} to ${most}${unit ? ` ${unit}` : ''}`,
        });
    });
    if (recipe.curves.some((c, m) => m < n && c.path === path))
      faults.push({ path: `${at}.path`, message: `two curves move ${path}` });
  });
  return faults;
}

export const RECIPE = new DocumentKind<Recipe>('recipe', RECIPE_VERSION, PARTS, crossChecks, UPGRADES);

/** Checks data from any door, see DocumentKind.parse. */
export function parseRecipe(data: unknown): Recipe {
  return RECIPE.parse(data);
}
