// Fading: density thins, warmth goes over to the air. By a half-life, exact for any substep, with a lean to
// thick or thin parts.
import { SLAB } from '../grid/sweep';
import { where } from '../recipe/parts/where';
import { number, type Part } from '../recipe/settings';
import type { Field } from '../grid/memory';
import type { Now } from './force';

export const FADING: Part = {
  key: 'fading',
  title: 'Fading',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  sentence:
    'Half-life of density: {density}; of the temperature’s difference to the air: {temperature}; {where}.',
  settings: [
    number(
      'density',
      'density half-life',
      's',
      [0, 10000],
      0,
      'Time in which density thins to half; 0 is never.',
      {
        word: { is: 0, text: 'never' },
      },
    ),
    number(
      'temperature',
      'temperature half-life',
      's',
      [0, 10000],
      4,
      'Cooling: time in which the difference to the air halves; 0 is never.',
      { word: { is: 0, text: 'never' } },
    ),
    number(
      'bias',
      'lean',
      '',
      [-1, 1],
      0,
      'Above 0 thick parts fade faster than thin ones, below 0 thin ones; at ±1 the others not at all.',
    ),
    number(
      'even',
      'thick from',
      '',
      [1e-6, 1000],
      1,
      'Density that counts as neither thick nor thin, and fades by the half-life whatever the lean.',
    ),
    where(),
  ],
};

/** 2^(−dt / half-life), exact for any split into substeps; 1 where the half-life is 0 (never). */
export function fadingGain({ state, dtS }: Now, halfLifeS: number): number {
  return halfLifeS > 0 ? state.team.solo('exponential', (-Math.LN2 * dtS) / halfLifeS) : 1;
}

/**
 * What is left after a time of something that stays at a density: for drawing what a half-life means. 1: all.
 */
export function fadingShare(
  halfLifeS: number,
  seconds: number,
  { bias, even }: { bias: number; even: number },
  density: number,
): number {
  return halfLifeS > 0
    ? 2 ** ((-seconds / halfLifeS) * (1 + (bias * (density - even)) / (density + even)))
    : 1;
}

/**
 * f ← f · 2^(−w · dt / half-life · lean), lean = 1 + bias (density − even) / (density + even): several of
 * them, one after the other, blend their rates by their weights w.
 */
export function fade(
  { state: { team, window }, dtS }: Now,
  f: Field,
  density: Field,
  halfLifeS: number,
  bias: number,
  even: number,
  weight: number,
): void {
  if (halfLifeS <= 0) return;
  const l = window.lattice;
  team.run(
    'fade',
    l.nz,
    SLAB,
    f.address,
    density.address,
    weight,
    l.nx,
    l.ny,
    l.rowStride,
    l.planeStride,
    (-Math.LN2 * dtS) / halfLifeS,
    bias,
    even,
  );
}
