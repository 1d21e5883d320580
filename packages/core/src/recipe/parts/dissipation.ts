// How the medium thins and cools over time, as the recipe says it.
import { definePart, number } from '../settings';
import { where } from './where';

export const DISSIPATION = definePart({
  key: 'dissipation',
  title: 'Dissipation',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['density', 'temperature'],
  sentence: 'Dissipation half-lives: density {density}, temperature {temperature}; {where}.',
  settings: [
    number(
      'density',
      'density half-life',
      's',
      [0, 10000],
      0,
      'Time in which density thins to half; 0 is never.',
      {
        word: { is: 0, text: 'endless' },
      },
    ),
    number(
      'temperature',
      'temperature half-life',
      's',
      [0, 10000],
      4,
      'Cooling: time in which the difference to the air halves; 0 is never.',
      { word: { is: 0, text: 'endless' } },
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
});

/**
 * What is left after a time of something that stays at a density: for drawing what a half-life means. 1: all.
 */
export function dissipationShare(
  halfLifeS: number,
  seconds: number,
  { bias, even }: { bias: number; even: number },
  density: number,
): number {
  return halfLifeS > 0
    ? 2 ** ((-seconds / halfLifeS) * (1 + (bias * (density - even)) / (density + even)))
    : 1;
}
