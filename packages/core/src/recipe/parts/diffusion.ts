// Viscosity and diffusion: what evens out. step/diffusion.ts does it.
import { where } from './where';
import { definePart, number } from '../settings';

export const DIFFUSION = definePart({
  key: 'diffusion',
  title: 'Diffusion',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  rests: ['viscosity', 'density', 'temperature'],
  sentence:
    'Viscosity of the air is {viscosity}[viscosity=!0:, walls of the domain hold it by {stick}]. Diffusion ' +
    'of density is {density}, of temperature {temperature}; {where}.',
  settings: [
    number(
      'viscosity',
      'viscosity',
      'm²/s',
      [0, 1000],
      0,
      'Kinematic viscosity: evens speeds out. Air is 1.5e-5, far below what a grid loses anyway; syrup 1e-3.',
    ),
    number(
      'density',
      'diffusion of density',
      'm²/s',
      [0, 1000],
      0,
      'How fast density seeps into its surroundings.',
    ),
    number(
      'temperature',
      'diffusion of temperature',
      'm²/s',
      [0, 1000],
      0,
      'How fast warmth seeps into its surroundings.',
    ),
    number(
      'stick',
      'stick of the walls',
      '',
      [0, 1],
      0,
      'With viscosity: 0 lets air slip along the domain’s walls, 1 holds it there.',
    ),
    where(),
  ],
});
