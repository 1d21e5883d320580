// Starting points: small whole recipes for a kind of shot, with physical numbers and what to change first.
import { LOOK, type Look } from '../look/look';
import { withMedium } from './media';
import { parseRecipe } from '../recipe/recipe';
import type { Recipe } from '../recipe/types';

export interface StartingPoint {
  readonly key: string;
  readonly name: string;
  /** What one sees. */
  readonly about: string;
  /** What to change first. */
  readonly first: string;
  readonly medium: string;
  readonly recipe: object;
  /** Parts of the look that differ from its defaults. */
  readonly look: object;
}

const FLOOR_HOLDS = { floor: 'wall', top: 'open', left: 'open', right: 'open', back: 'open', front: 'open' };

export const STARTING_POINTS: readonly StartingPoint[] = [
  {
    key: 'mist-over-water',
    name: 'Mist over water',
    about: 'Thin mist stands on cold water and drifts in a light air.',
    first:
      'Change the wind first: below 0.2 m/s it stands in sheets, above 0.6 m/s it tears. Then the ' +
      'lumps of “Off the water”.',
    medium: 'mist',
    recipe: {
      space: { size: [6, 1.4, 4], corner: [-3, 0, -2], voxelSize: 0.06, lastFrame: 144, sides: FLOOR_HOLDS },
      sources: [
        {
          id: 'water',
          name: 'Off the water',
          shape: 'plane',
          centre: [-0.4, 0.05, 0],
          size: [4.6, 0.1, 3.4],
          density: { amount: 0.8 },
          temperature: { amount: -4 },
        },
      ],
      patterns: [
        {
          id: 'sheets',
          name: 'Sheets',
          source: 'water',
          noise: 'billow',
          size: 0.7,
          period: 3,
          contrast: 2.4,
          strength: 95,
        },
      ],
      wind: { speed: 0.3, heading: 8, grip: 3, gust: 0.2, gustLength: 2.4, seed: 5 },
      turbulence: { strength: 0.16, size: 0.9, octaves: 3, roughness: 0.6, period: 4, seed: 2 },
      vorticity: { strength: 0.1 },
      dissipation: { density: 5 },
    },
    look: { medium: { density: 3 } },
  },
  {
    key: 'floor-vapour',
    name: 'Floor-hugging vapour',
    about:
      'Cold, heavy vapour pours over an edge, falls, and spreads over the floor around what stands there.',
    first:
      'Change how much the bowl gives first, then its temperature: colder falls faster and spreads thinner.',
    medium: 'dry-ice',
    recipe: {
      space: {
        size: [2.6, 1.2, 2],
        corner: [-1.1, 0, -1],
        voxelSize: 0.035,
        lastFrame: 120,
        sides: FLOOR_HOLDS,
      },
      sources: [
        {
          id: 'bowl',
          name: 'Bowl',
          shape: 'cylinder',
          centre: [-0.52, 0.71, 0],
          radius: 0.24,
          size: [0.5, 0.14, 0.5],
          density: { amount: 14 },
          temperature: { amount: -34 },
          push: { how: 'blend', mode: 'along', direction: [1, 0, 0.2], speed: 0.5, vary: 40, lump: 0.15 },
        },
      ],
      patterns: [
        {
          id: 'boil',
          name: 'Boiling',
          source: 'bowl',
          noise: 'billow',
          size: 0.16,
          period: 0.8,
          contrast: 2,
          strength: 80,
        },
      ],
      obstacles: [
        { id: 'table', name: 'Table', shape: 'box', centre: [-0.62, 0.32, 0], size: [0.7, 0.64, 0.7] },
        {
          id: 'post',
          name: 'Post',
          shape: 'cylinder',
          centre: [0.5, 0.35, 0.2],
          radius: 0.12,
          size: [0.3, 0.7, 0.3],
        },
      ],
      turbulence: { strength: 0.14, size: 0.4, octaves: 3, roughness: 0.6, period: 2, seed: 8 },
      vorticity: { strength: 0.1 },
    },
    look: { medium: { density: 3 } },
  },
  {
    key: 'kicked-dust',
    name: 'Kicked-up dust',
    about: 'Something lands; dust is thrown out over the ground in a ring, hangs and settles.',
    first:
      'Change the speed of “Thrown out” first: it sets how far the ring goes. Then its last frame, for ' +
      'how much.',
    medium: 'dust',
    recipe: {
      space: {
        size: [3.6, 1.5, 3.6],
        corner: [-1.8, 0, -1.8],
        voxelSize: 0.045,
        lastFrame: 96,
        sides: FLOOR_HOLDS,
      },
      sources: [
        {
          id: 'ring',
          name: 'Thrown out',
          shape: 'ring',
          centre: [0, 0.09, 0],
          radius: 0.34,
          tube: 0.1,
          density: { amount: 34 },
          temperature: { how: 'none' },
          from: 3,
          until: 8,
          push: {
            how: 'raise',
            mode: 'point',
            point: [0, -0.05, 0],
            speed: 5,
            spread: 24,
            vary: 55,
            lump: 0.12,
          },
        },
      ],
      patterns: [
        {
          id: 'clods',
          name: 'Clods',
          source: 'ring',
          noise: 'cellular',
          size: 0.13,
          period: 0.15,
          contrast: 2.4,
          strength: 90,
        },
      ],
      turbulence: { strength: 0.35, size: 0.4, octaves: 3, roughness: 0.6, period: 1.4, seed: 6 },
      edges: { strength: 0.6, size: 0.2 },
      vorticity: { strength: 0.15 },
      wind: { speed: 0.15, heading: 20, grip: 4 },
    },
    look: { medium: { density: 4, albedo: [0.86, 0.78, 0.66] } },
  },
  {
    key: 'chimney-smoke',
    name: 'Chimney smoke in wind',
    about: 'Lukewarm smoke leaves a chimney, rises a little and is bent and rolled by gusts.',
    first:
      'Change the wind’s speed against the smoke’s own at the mouth: equal, it leans at half a right ' +
      'angle. Then pick the gusts by their curve.',
    medium: 'smoke',
    recipe: {
      space: {
        size: [5.2, 3.2, 2.2],
        corner: [-1.4, 0, -1.1],
        voxelSize: 0.055,
        lastFrame: 144,
        sides: FLOOR_HOLDS,
      },
      sources: [
        {
          id: 'mouth',
          name: 'Mouth',
          shape: 'disc',
          centre: [-0.7, 1.06, 0],
          radius: 0.15,
          size: [0.3, 0.12, 0.3],
          density: { amount: 14 },
          temperature: { amount: 36 },
          push: { how: 'blend', mode: 'along', direction: [0, 1, 0], speed: 2.4, vary: 20 },
        },
      ],
      patterns: [
        {
          id: 'puffs',
          name: 'Puffs',
          source: 'mouth',
          noise: 'value',
          size: 0.3,
          period: 0.35,
          contrast: 2,
          strength: 70,
        },
      ],
      obstacles: [
        { id: 'chimney', name: 'Chimney', shape: 'box', centre: [-0.7, 0.5, 0], size: [0.4, 1, 0.4] },
      ],
      wind: { speed: 1.2, heading: 0, grip: 0.9, gust: 0.6, gustLength: 1.2, seed: 12 },
      turbulence: { strength: 0.6, size: 0.6, octaves: 3, roughness: 0.65, period: 1.2, seed: 3 },
      vorticity: { strength: 0.25 },
      dissipation: { density: 5, temperature: 2.4 },
    },
    look: { medium: { density: 4, albedo: [0.82, 0.82, 0.84] } },
  },
  {
    key: 'ink-drop',
    name: 'Ink drop',
    about: 'A drop of ink breaks the surface of still water, sinks as a ring, and comes apart in fingers.',
    first:
      'Change the speed with which “Drop” enters first: slow, it hangs in threads; fast, it rolls into ' +
      'a ring.',
    medium: 'ink',
    recipe: {
      space: {
        size: [0.24, 0.32, 0.24],
        corner: [-0.12, 0, -0.12],
        voxelSize: 0.004,
        lastFrame: 144,
        sides: { floor: 'wall', top: 'open', left: 'wall', right: 'wall', back: 'wall', front: 'wall' },
      },
      sources: [
        {
          id: 'drop',
          name: 'Drop',
          shape: 'sphere',
          centre: [0, 0.285, 0],
          radius: 0.013,
          density: { how: 'raise', amount: 1 },
          until: 12,
          temperature: { how: 'none' },
          colour: { amount: [0.06, 0.07, 0.3] },
          push: {
            how: 'raise',
            mode: 'along',
            direction: [0.04, -1, 0.02],
            speed: 0.13,
            vary: 12,
            lump: 0.006,
          },
        },
      ],
      turbulence: { strength: 0.012, size: 0.05, octaves: 2, roughness: 0.6, period: 2.5, seed: 4 },
      vorticity: { strength: 0.05 },
      keep: { colour: true, temperature: false },
    },
    look: { medium: { density: 130 } },
  },
  {
    key: 'breath',
    name: 'Breath in cold air',
    about: 'A breath leaves a mouth as a small warm jet, slows, rises and is gone within seconds.',
    first:
      'Change how long a breath lasts first (“every” and “for” of the mouth), then the half-life of ' +
      'density: drier air, sooner gone.',
    medium: 'breath',
    recipe: {
      space: {
        size: [0.9, 0.62, 0.46],
        corner: [-0.1, 0, -0.23],
        voxelSize: 0.009,
        lastFrame: 120,
        sides: { ...FLOOR_HOLDS, floor: 'open' },
      },
      sources: [
        {
          id: 'mouth',
          name: 'Mouth',
          shape: 'sphere',
          centre: [0.02, 0.26, 0],
          radius: 0.022,
          turn: [0, 0, 0],
          density: { how: 'raise', amount: 1 },
          temperature: { amount: 28 },
          timing: 'bursts',
          burstEvery: 60,
          burstLength: 30,
          from: 4,
          push: { how: 'raise', mode: 'along', direction: [1, -0.22, 0], speed: 2.4, vary: 25, lump: 0.02 },
        },
      ],
      wind: { speed: 0.06, heading: 25, grip: 3 },
      turbulence: { strength: 0.3, size: 0.14, octaves: 3, roughness: 0.6, period: 0.9, seed: 7 },
      vorticity: { strength: 0.25 },
      edges: { strength: 0.5, size: 0.05 },
    },
    look: { medium: { density: 22 } },
  },
  {
    key: 'chaff-whirl',
    name: 'Whirl of chaff in a yard',
    about: 'A dry gust turns in the corner of a yard and lifts chaff off the ground in a leaning column.',
    first:
      'Change the turning of “Whirl” first; twice as fast lifts twice as high. Then move it by keys on ' +
      'its centre.',
    medium: 'chaff',
    recipe: {
      space: {
        size: [3, 2.6, 3],
        corner: [-1.5, 0, -1.5],
        voxelSize: 0.045,
        lastFrame: 120,
        sides: FLOOR_HOLDS,
      },
      sources: [
        {
          id: 'ground',
          name: 'Off the ground',
          shape: 'disc',
          centre: [0, 0.05, 0],
          radius: 0.5,
          size: [1, 0.1, 1],
          density: { amount: 1.6 },
          temperature: { how: 'none' },
        },
      ],
      patterns: [
        {
          id: 'husks',
          name: 'Husks',
          source: 'ground',
          noise: 'cellular',
          size: 0.16,
          period: 0.5,
          contrast: 2.6,
          strength: 95,
        },
      ],
      currents: [
        {
          id: 'whirl',
          name: 'Whirl',
          does: 'spin',
          shape: 'cylinder',
          centre: [0.06, 1.2, 0],
          radius: 0.34,
          size: [1, 2.4, 1],
          soft: 0.3,
          direction: [0.12, 1, 0],
          turning: 560,
          within: 0.25,
        },
        {
          id: 'updraught',
          name: 'Updraught',
          does: 'jet',
          shape: 'cylinder',
          centre: [0.1, 1.15, 0],
          radius: 0.2,
          size: [1, 2.1, 1],
          soft: 0.2,
          direction: [0.1, 1, 0],
          speed: 2.4,
          within: 0.25,
        },
      ],
      turbulence: { strength: 0.7, size: 0.45, octaves: 3, roughness: 0.6, period: 1.2, seed: 5 },
      vorticity: { strength: 0.2 },
      dissipation: { density: 4 },
    },
    look: { medium: { density: 3.4, albedo: [0.9, 0.8, 0.58] } },
  },
];

/** A starting point as an ordinary recipe and the look that fits it; null where there is none of that key. */
export function startFrom(key: string): { recipe: Recipe; look: Look; point: StartingPoint } | null {
  const point = STARTING_POINTS.find((p) => p.key === key);
  if (!point) return null;
  // what the point says itself stands above the numbers of its medium
  const own = point.recipe as Record<string, object | undefined>;
  const base = withMedium(parseRecipe({}), point.medium) as unknown as Record<string, object>;
  const under = (part: string): object => ({ ...base[part], ...own[part] });
  const recipe = parseRecipe({
    ...structuredClone(point.recipe),
    name: point.name,
    gravity: under('gravity'),
    buoyancy: under('buoyancy'),
    dissipation: under('dissipation'),
    method: under('method'),
  });
  return { recipe, look: LOOK.parse({ name: point.name, ...point.look, camera: cameraFor(recipe) }), point };
}

/** A camera that sees all of a room from a little above, at the default focal length. */
export function cameraFor({ space }: Recipe): { eye: number[]; target: number[] } {
  const middle = space.corner.map((c, a) => c + space.size[a] / 2);
  // 38 mm on 36 mm of film, 16 to 9: the room's width and height with air around them, before its front
  const away = Math.max(space.size[0] * 1.18, space.size[1] * 2.1) + space.size[2] * 0.5;
  const round = (v: number): number => Number(v.toPrecision(4));
  return {
    eye: [middle[0] + 0.22 * away, middle[1] + 0.16 * away, middle[2] + 0.96 * away].map(round),
    target: [middle[0], middle[1] - 0.04 * space.size[1], middle[2]].map(round),
  };
}
