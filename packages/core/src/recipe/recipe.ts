// The recipe: the whole description of one simulation as plain, versioned data, checked at every door.
import { check } from '../formulas/check';
import type { Moment } from '../formulas/language';
import { isPlaced, partOf } from './settings';
import { DocumentKind, type Fault } from './document';
import { keptForFormulas } from './kept';
import { curveFaults, targetOf } from './keys';
import { PARTS } from './parts';
import { getAt } from './paths';
import type { ParticlesPart, Recipe, RegionPart } from './types';
import { UPGRADES } from './upgrades';

const RECIPE_VERSION = 4;

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
    const result = check(text, { moment, keep: keptForFormulas(recipe) });
    if (!result.ok)
      faults.push({ path: at, message: `character ${result.fault.from + 1}: ${result.fault.message}` });
  };

  recipe.formulas.forEach((f, n) => f.on && read(`formulas[${n}].text`, f.text, f.when));
  recipe.regions.forEach((r, n) => r.on && r.shape === 'formula' && read(`regions[${n}].text`, r.text, null));
  faults.push(...curveFaults(PARTS, recipe));
  return faults;
}

export const RECIPE = new DocumentKind<Recipe>('recipe', RECIPE_VERSION, PARTS, crossChecks, UPGRADES);

/** Checks data from any door, see DocumentKind.parse. */
export function parseRecipe(data: unknown): Recipe {
  return RECIPE.parse(data);
}
