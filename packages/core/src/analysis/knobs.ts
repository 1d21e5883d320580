// Settings that an artist reaches for when a run does not look like its reference, each with all the numbers
// that it stands for, and how the measures answer to them: sensitivities.ts, measured by trial runs.
import type { Look } from '../look/look';
import { numbersOf, withNumber } from '../recipe/tell';
import type { Recipe } from '../recipe/types';
import { MEASURES, type Match, type MeasureName } from './measures';
import { SENSITIVITIES } from './sensitivities';

export interface Knob {
  readonly key: string;
  readonly label: string;
  /** The named numbers that it turns, all by the same factor; of the look: its medium's density. */
  readonly paths: RegExp | 'look';
}
export const KNOBS: readonly Knob[] = [
  { key: 'given', label: 'density that sources give', paths: /^sources\/.*\/density\.amount$/ },
  { key: 'warmth', label: 'temperature that sources give', paths: /^sources\/.*\/temperature\.amount$/ },
  { key: 'reach', label: 'size of the sources', paths: /^sources\/.*\/(radius|tube|size\.\d)$/ },
  { key: 'push', label: 'speed that sources give', paths: /^sources\/.*\/push\.speed$/ },
  { key: 'lift', label: 'lift by temperature', paths: /^buoyancy\/lift$/ },
  { key: 'weight', label: 'weight of the medium', paths: /^buoyancy\/weight$/ },
  { key: 'wind', label: 'wind speed', paths: /^wind\/speed$/ },
  { key: 'stir', label: 'turbulence strength', paths: /^turbulence\/strength$/ },
  { key: 'eddies', label: 'turbulence size', paths: /^turbulence\/size$/ },
  { key: 'whirls', label: 'vorticity', paths: /^vorticity\/(strength|large)$/ },
  { key: 'fade', label: 'half-life of density', paths: /^dissipation\/density$/ },
  { key: 'cool', label: 'half-life of temperature', paths: /^dissipation\/temperature$/ },
  { key: 'thickness', label: 'density scale of the look', paths: 'look' },
];

/** The named numbers of a recipe that a knob turns: those that are not 0, which no factor changes. */
export function turnedBy(knob: Knob, recipe: Recipe): string[] {
  const { paths } = knob;
  return paths === 'look'
    ? []
    : numbersOf(recipe).flatMap((n) => (paths.test(n.path) && n.value !== 0 ? [n.path] : []));
}

/**
 * A recipe and a look with a knob turned by a factor, within what its settings allow; null where it turns
 * nothing.
 */
export function turned(
  knob: Knob,
  recipe: Recipe,
  look: Look,
  factor: number,
): { recipe: Recipe; look: Look } | null {
  if (knob.paths === 'look')
    return { recipe, look: { ...look, medium: { ...look.medium, density: look.medium.density * factor } } };
  const paths = turnedBy(knob, recipe);
  if (paths.length === 0) return null;
  const all = numbersOf(recipe);
  return {
    look,
    recipe: paths.reduce((r, path) => {
      const { setting, value } = all.find((n) => n.path === path)!;
      return withNumber(
        r,
        path,
        Number(Math.min(setting.most, Math.max(setting.least, value * factor)).toPrecision(4)),
      );
    }, recipe),
  };
}

export interface Hint {
  readonly knob: Knob;
  /** By which the knob is likely to bring the run to the reference, at most threefold. */
  readonly factor: number;
  /** What the shots agreed on, 0…1. */
  readonly trust: number;
}
const MOST_FACTOR = 3;
/** A likeness above this needs no hint. */
const WELL = 0.9;
/** Answers weaker than this are none. */
const WEAK = 0.06;

/** The knobs that are likely to bring one measure nearer to the reference, the likeliest first. */
export function hintsFor(m: Match, recipe: Recipe, most = 3): Hint[] {
  if (m.score > WELL || m.reference <= 0 || m.run <= 0) return [];
  const wanted = Math.log2(m.reference / m.run);
  return KNOBS.flatMap((knob): (Hint & { weight: number })[] => {
    const s = SENSITIVITIES[m.name]?.[knob.key];
    if (!s || Math.abs(s.mean) < WEAK || (knob.paths !== 'look' && turnedBy(knob, recipe).length === 0))
      return [];
    const limit = Math.log2(MOST_FACTOR);
    const turn = Math.min(limit, Math.max(-limit, wanted / s.mean));
    const trust = Math.abs(s.mean) / (Math.abs(s.mean) + s.spread);
    return [{ knob, factor: Number((2 ** turn).toPrecision(2)), trust, weight: Math.abs(s.mean) * trust }];
  })
    .sort((a, b) => b.weight - a.weight)
    .slice(0, most)
    .map(({ knob, factor, trust }) => ({ knob, factor, trust }));
}

export const MEASURE_NAMES = Object.keys(MEASURES) as MeasureName[];
