// Particles: how many there can be at once, and where those of a file are.
import type { Recipe, ParticlesPart } from '../recipe/types';
import type { PlannedShape, PlannedParticles } from './plan';
import { extremes } from '../recipe/keys';
import type { ResolvedAssets } from '../assets/resolve';

/** Particles of a pool come in so many, so that its arrays start on lines of the cache. */
const POOL_STEP = 16;

export function plannedParticles(
  recipe: Recipe,
  list: readonly PlannedShape<ParticlesPart>[],
  frameS: number,
  resolved: ResolvedAssets,
): PlannedParticles[] {
  const { firstFrame, lastFrame } = recipe.space;
  const out: PlannedParticles[] = [];
  const add = (one: PlannedShape<ParticlesPart>): number => {
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
    const from = resolved.particles.get(part.id) ?? null;
    const streams = most('rate', part.rate) * lasting;
    const wanted = {
      burst: part.count,
      rate: streams + 16,
      children: above ? out[parent].room * (streams + 1) : 0,
      file: from?.most ?? 0,
    };
    const room =
      Math.ceil((from ? wanted.file : Math.min(part.most, wanted[part.born])) / POOL_STEP) * POOL_STEP;
    return out.push({ ...one, room, parent, flown: from?.at ?? null }) - 1;
  };

  list.forEach(add);
  return out;
}
