// Wind as a linear drag toward a moving air mass, with gusts as a smooth random course of the speed.
import { sine, exponential } from '../../math/exact';
import { SLAB, extent } from '../../grid/sweep';
import type { Recipe } from '../../recipe/types';
import type { Triple } from '../../math/vector';
import type { Force, Now } from './force';
import { gustySpeed } from '../../recipe/parts/wind';

export const wind: Force = {
  keys: ['wind'],
  isOn: ({ wind: w }) => w.speed !== 0 || w.gust !== 0,
  add: (now, recipe, weight) => {
    drawAir(now, windAt(recipe.wind, now.state.timeS + now.dtS / 2), recipe.wind.grip, weight);
  },
};

/** Speed of the air mass at a simulated time, m/s along x, y, z. */
export function windAt(w: Recipe['wind'], timeS: number): Triple {
  const speed = gustySpeed(w, timeS);
  const at = (degrees: number): number => sine((degrees * Math.PI) / 180);
  const level = at(w.rise + 90);
  return [speed * level * at(w.heading + 90), speed * at(w.rise), speed * level * at(w.heading)];
}

/**
 * Draws the air to a speed as a linear drag does, exactly over any substep: 63 % of the way in `within`
 * seconds.
 */
function drawAir(
  { state: { threadPool, layout, window }, dtS }: Now,
  goal: Triple,
  within: number,
  weight: number,
): void {
  const l = window.lattice;
  const grip = (1 - exponential(-dtS / within)) / dtS;
  layout.acceleration.forEach((f, axis) => {
    const next = [4, l.rowStride * 4, l.planeStride * 4][axis];
    threadPool.run('relaxToVelocity', l.nz, SLAB, {
      f: f.address,
      u: layout.velocity[axis].address,
      weight,
      ...extent(l),
      next,
      goal: goal[axis],
      grip,
    });
  });
}
