// Drag: what slows the air down where the medium is, or everywhere: still air that stands in the way of all
// that moves.
import { exponential } from '../../math/exact';
import { SLAB, extent } from '../../grid/sweep';
import type { Force } from './force';

export const drag: Force = {
  keys: ['drag'],
  isOn: (recipe) => recipe.drag.halfLife > 0,
  add: ({ state: { threadPool, layout, window }, dtS }, recipe, weight) => {
    const l = window.lattice;
    const rate = Math.LN2 / recipe.drag.halfLife;
    const density = recipe.drag.on === 'medium' ? layout.channels[0].address : 0;
    // everywhere the same, it is exact over any substep; with the density, as far as a substep goes
    const grip = (1 - exponential(-dtS * rate)) / dtS;
    layout.acceleration.forEach((f, axis) => {
      const next = [4, l.rowStride * 4, l.planeStride * 4][axis];
      threadPool.run('applyDrag', l.nz, SLAB, {
        f: f.address,
        u: layout.velocity[axis].address,
        weight,
        density,
        ...extent(l),
        next,
        grip,
      });
    });
  },
};
