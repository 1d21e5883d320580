// Dust and droplets that fall through the air that carries them, as the recipe says it.
import { power } from '../../math/exact';
import { choice, definePart, number, type PartValues } from '../settings';

const AT_SPEED = { path: 'falls', is: 'speed' };
const AS_GRAINS = { path: 'falls', is: 'grains' };

export const SETTLING = definePart({
  key: 'settling',
  title: 'Settling',
  many: false,
  keyable: true,
  live: true,
  rests: ['falls'],
  sentence:
    'The medium {falls}[falls=speed:, {speed}][falls=grains:, {size} across, {weight}, in {fluid}]' +
    '[falls=speed|grains:; what reaches a floor {lands}].',
  settings: [
    choice(
      'falls',
      'fall',
      [
        ['no', 'floats along with the air'],
        ['speed', 'falls at a speed'],
        ['grains', 'falls as grains'],
      ],
      'Smoke and fine mist float. Dust, sand, droplets and pigment fall through the air that carries them, ' +
        'along gravity.',
    ),
    number(
      'speed',
      'settling speed',
      'm/s',
      [-20, 20],
      0.2,
      'Speed through still air; below 0 it rises, as bubbles do.',
      { when: AT_SPEED },
    ),
    number(
      'size',
      'grain size',
      'm',
      [1e-7, 0.02],
      6e-5,
      'Diameter of a grain or droplet. 10 µm hardly falls, 60 µm does so slowly, 1 mm is rain.',
      { when: AS_GRAINS },
    ),
    number(
      'weight',
      'grain density',
      'kg/m³',
      [0, 25000],
      2650,
      'Of a grain itself: water 1000, flour 1500, stone and sand 2650, lead 11300.',
      { when: AS_GRAINS },
    ),
    choice(
      'fluid',
      'falls through',
      [
        ['air', 'air'],
        ['water', 'water'],
      ],
      'What carries the grains, at 20 °C.',
      { when: AS_GRAINS },
    ),
    choice(
      'lands',
      'what lands',
      [
        ['lies', 'lies there'],
        ['drifts', 'drifts on'],
      ],
      'Lies there: it is no longer medium but a deposit, a channel of its own, until its floor moves away. ' +
        'Drifts on: it gathers above floors, and the air takes it along.',
      { when: { path: 'falls', is: ['speed', 'grains'] } },
    ),
  ],
});

/** Density, kg/m³, and dynamic viscosity, Pa s, at 20 °C. */
const FLUIDS = { air: [1.204, 1.825e-5], water: [998.2, 1.002e-3] } as const;
/** Beyond this Reynolds number a sphere's drag is even (Newton). */
const NEWTON = 1000;
const NEWTON_DRAG = 0.44;

/**
 * Terminal speed of a sphere, m/s; below 0 it rises. Stokes' drag with the correction of Schiller and Naumann
 * (1933), 1 + 0.15 Re^0.687, up to a Reynolds number of 1000, Newton's beyond.
 * @param size diameter, m
 * @param weight density of the sphere, kg/m³
 * @param gravity m/s²
 */
export function terminalSpeed(
  size: number,
  weight: number,
  fluid: keyof typeof FLUIDS,
  gravity: number,
): number {
  const [density, viscosity] = FLUIDS[fluid];
  const pull = Math.abs((weight - density) * gravity);
  const sign = Math.sign((weight - density) * gravity);
  // the drag's weight, less the pull, grows with the speed: halved until nothing is left to find
  const drag = (speed: number): number => {
    const re = (density * speed * size) / viscosity;
    const coefficient = re > NEWTON ? NEWTON_DRAG * re : 24 * (1 + 0.15 * power(re, 0.687));
    return (0.75 * coefficient * viscosity * speed) / (size * size);
  };

  let least = 0;
  let most = (pull * size * size) / (18 * viscosity);
  for (let n = 0; n < 60; n++) {
    const middle = (least + most) / 2;
    if (drag(middle) < pull) least = middle;
    else most = middle;
  }

  return sign * ((least + most) / 2);
}

/** How fast medium falls at a moment, along the gravity, m/s; 0 where it floats. */
export function settlingSpeed(
  { falls, speed, size, weight, fluid }: PartValues<typeof SETTLING>,
  gravity: { readonly strength: number },
): number {
  if (falls === 'no') return 0;
  return falls === 'speed' ? speed : terminalSpeed(size, weight, fluid, gravity.strength);
}
