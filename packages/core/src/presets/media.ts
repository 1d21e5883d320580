// Media by name: what a density of 1 stands for, and the numbers of its buoyancy and fading that follow from
// it.
//
// weight = 9.81 · (extra mass in a cubic metre of full density) / (mass of a cubic metre of what is around
// it); lift = 9.81 · (relative expansion by one kelvin), 1 / T for air. Air 1.20 kg/m³ at 20 °C, molar masses
// 28.97 (air) and 44.01 (carbon dioxide) g/mol, expansion of water 2.07e-4 a kelvin at 20 °C, water in
// saturated air 39 g/m³ at 35 °C and 7 g/m³ at 5 °C: CRC Handbook of Chemistry and Physics. Water in fog 0.05
// to 0.5 g/m³: Pruppacher, Klett, Microphysics of Clouds and Precipitation (1997). Dust that one cannot see
// through from 50 g/m³: Eckhoff, Dust Explosions in the Process Industries (2003). Viscosity and molecular
// diffusion of air (1.5e-5, 2e-5 m²/s) and of ink in water (1e-6, 5e-10 m²/s) lie far below what a grid of
// centimetres loses, so they stay 0. Half-lives of density are for the eye: how long it is seen.
import { CoreError } from '../base/error';
import { setAt } from '../recipe/paths';
import type { Recipe } from '../recipe/types';

export interface Medium {
  readonly key: string;
  readonly name: string;
  /** What a density of 1 is, and when to take it. */
  readonly when: string;
  /** Settings of the recipe by their paths. */
  readonly settings: Readonly<Record<string, number | string>>;
}

const medium = (
  key: string,
  name: string,
  when: string,
  { lift, weight, lasts, cools }: { lift: number; weight: number; lasts: number; cools: number },
): Medium => ({
  key,
  name,
  when,
  settings: {
    'gravity.strength': 9.81,
    'buoyancy.lift': lift,
    'buoyancy.weight': weight,
    'dissipation.density': lasts,
    'dissipation.temperature': cools,
  },
});

const AIR = 0.0335;
const COLD_AIR = 0.0353;

export const MEDIA: readonly Medium[] = [
  medium(
    'smoke',
    'Cool smoke',
    'Density 1 is a gram of soot in a cubic metre: so light that only its warmth moves it.',
    {
      lift: AIR,
      weight: 0.0082,
      lasts: 0,
      cools: 4,
    },
  ),
  medium(
    'mist',
    'Mist',
    'Density 1 is 5 grams of fine drops in a cubic metre, spray over a weir; fog holds a tenth of that.',
    {
      lift: AIR,
      weight: 0.041,
      lasts: 20,
      cools: 8,
    },
  ),
  medium(
    'dry-ice',
    'Dry-ice vapour',
    'Density 1 is air with a tenth of carbon dioxide in it, heavy besides being cold.',
    {
      lift: 0.0363,
      weight: 0.51,
      lasts: 14,
      cools: 12,
    },
  ),
  medium(
    'dust',
    'Dust',
    'Density 1 is 50 grams in a cubic metre, which one cannot see through. It settles; warmth does nothing.',
    {
      lift: 0,
      weight: 0.41,
      lasts: 8,
      cools: 0,
    },
  ),
  medium(
    'ink',
    'Ink in water',
    'Density 1 is ink from the bottle, one part in a hundred heavier than water.',
    {
      lift: 0.002,
      weight: 0.098,
      lasts: 0,
      cools: 0,
    },
  ),
  medium(
    'breath',
    'Breath in cold air',
    'Density 1 is 10 grams of drops in a cubic metre: what breath at 35 °C leaves in air at 5 °C. Soon gone.',
    {
      lift: COLD_AIR,
      weight: 0.082,
      lasts: 0.9,
      cools: 1.2,
    },
  ),
  medium(
    'chaff',
    'Chaff',
    'Density 1 is 20 grams of husks in a cubic metre: it goes where the air goes and sinks slowly.',
    {
      lift: 0,
      weight: 0.16,
      lasts: 0,
      cools: 0,
    },
  ),
];

/** The recipe with the numbers of a medium. @throws Error where there is none of that key */
export function withMedium(recipe: Recipe, key: string): Recipe {
  const found = MEDIA.find((m) => m.key === key);
  if (!found)
    throw new CoreError(
      'settings',
      `There is no medium called ${key}. There are: ${MEDIA.map((m) => m.key).join(', ')}.`,
    );
  return Object.entries(found.settings).reduce((r, [path, value]) => setAt(r, path, value), recipe);
}
