// Starting points: small whole recipes for a kind of shot, a file each, with physical numbers and what to
// change first.
import { LOOK, type Look } from '../look/look';
import { withMedium } from './media';
import { parseRecipe } from '../recipe/recipe';
import type { Recipe } from '../recipe/types';
import breath from './starting-points/breath.json';
import chaffWhirl from './starting-points/chaff-whirl.json';
import chimneySmoke from './starting-points/chimney-smoke.json';
import floorVapour from './starting-points/floor-vapour.json';
import inkDrop from './starting-points/ink-drop.json';
import kickedDust from './starting-points/kicked-dust.json';
import mistOverWater from './starting-points/mist-over-water.json';

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

export const STARTING_POINTS: readonly StartingPoint[] = [
  { key: 'mist-over-water', ...mistOverWater },
  { key: 'floor-vapour', ...floorVapour },
  { key: 'kicked-dust', ...kickedDust },
  { key: 'chimney-smoke', ...chimneySmoke },
  { key: 'ink-drop', ...inkDrop },
  { key: 'breath', ...breath },
  { key: 'chaff-whirl', ...chaffWhirl },
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

/** A camera that sees all of a domain from a little above, at the default focal length. */
export function cameraFor({ space }: Recipe): { eye: number[]; target: number[] } {
  const middle = space.corner.map((c, a) => c + space.size[a] / 2);
  // 38 mm on 36 mm of film, 16 to 9: the domain's width and height with air around them, before its front
  const away = Math.max(space.size[0] * 1.18, space.size[1] * 2.1) + space.size[2] * 0.5;
  const round = (v: number): number => Number(v.toPrecision(4));
  return {
    eye: [middle[0] + 0.22 * away, middle[1] + 0.16 * away, middle[2] + 0.96 * away].map(round),
    target: [middle[0], middle[1] - 0.04 * space.size[1], middle[2]].map(round),
  };
}
