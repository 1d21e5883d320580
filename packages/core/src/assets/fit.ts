// A domain that holds what stands in it.
import type { Recipe, StandingPart } from '../recipe/types';
import type { Triple } from '../math/vector';
import { boundsOf, cellShape } from '../geometry/shape';
import { boundsInMetres } from '../geometry/mesh';
import { poseOf } from '../geometry/pose';
import type { Assets } from './assets';

/** Clear air around everything, as a part of the longest edge; above, where most media go, twice as much. */
const CLEAR = 0.2;
const FAR: Triple = [1e6, 1e6, 1e6];

/** Least and most corner of a part, m; null for one without an end. */
export function boxOf(part: StandingPart, recipe: Recipe, assets: Assets): readonly [Triple, Triple] | null {
  let shape = cellShape(part, poseOf(part, 0), 1, null);
  if (part.shape === 'mesh') {
    const file = recipe.files.find((f) => f.id === part.file);
    if (!file) return null;
    const { least, most } = boundsInMetres(assets.mesh(file).bounds(), file);
    shape = { ...shape, reach: [least, most] };
  }

  if (!shape.reach || shape.facing < 0 || part.shape === 'particles') return null;
  // whole metres would be too coarse: asked for in millimetres
  const fine = {
    ...shape,
    centre: shape.centre.map((v) => v * 1000 + 5e5) as Triple,
    reach: shape.reach.map((c) => c.map((v) => v * 1000)) as never,
  };
  const [from, to] = boundsOf({ ...fine, grow: shape.grow * 1000 }, [0, 0, 0], FAR, 0);
  return [from.map((v) => (v - 5e5) / 1000) as Triple, to.map((v) => (v - 5e5) / 1000) as Triple];
}

/**
 * Corner and size of a domain around all sources and obstacles that are on; null where there is nothing to
 * fit to.
 */
export function domainAround(recipe: Recipe, assets: Assets): { corner: Triple; size: Triple } | null {
  const bornSomewhere = recipe.particles.filter((p) => p.born === 'burst' || p.born === 'rate');
  const boxes = [...recipe.sources, ...recipe.obstacles, ...bornSomewhere].flatMap((p) => {
    const box = p.on ? boxOf(p, recipe, assets) : null;
    return box ? [box] : [];
  });
  if (boxes.length === 0) return null;
  const least = [0, 1, 2].map((a) => Math.min(...boxes.map((b) => b[0][a])));
  const most = [0, 1, 2].map((a) => Math.max(...boxes.map((b) => b[1][a])));
  const clear = CLEAR * Math.max(...most.map((v, a) => v - least[a]));
  const tidy = (v: number): number => Number(v.toFixed(3));
  // a floor that holds stays where it is, unless something reaches below it
  const floor =
    recipe.space.sides.floor === 'wall' ? Math.min(recipe.space.corner[1], least[1]) : least[1] - clear;
  const corner = [least[0] - clear, floor, least[2] - clear].map(tidy) as Triple;
  const end = [most[0] + clear, most[1] + 2 * clear, most[2] + clear];
  return { corner, size: end.map((v, a) => tidy(Math.max(0.01, v - corner[a]))) as Triple };
}
