// Warm air rises, heavy medium sinks (Boussinesq): a = −g / 9.81 · (lift · ΔT − weight · density), g the
// gravity.
import { SLAB, named, extent } from '../../grid/sweep';
import { directionOf } from '../../math/vector';
import type { Force } from './force';
import { STANDARD } from '../../recipe/parts/gravity';

export const buoyancy: Force = {
  keys: ['buoyancy', 'gravity'],
  isOn: ({ buoyancy: { lift, weight }, gravity }) => (lift !== 0 || weight !== 0) && gravity.strength !== 0,
  add: ({ state: { threadPool, layout, window } }, { buoyancy: { lift, weight }, gravity }, weightField) => {
    const l = window.lattice;
    const [density, temperature] = layout.channels;
    directionOf(gravity.direction).forEach((along, axis) => {
      const up = (-along * gravity.strength) / STANDARD;
      if (up === 0) return;
      const fields = [layout.acceleration[axis], density, temperature].map((f) => f.address);
      threadPool.run('applyBuoyancy', l.nz, SLAB, {
        ...named(['f', 'density', 'temperature'], fields),
        weight: weightField,
        ...extent(l),
        lift: lift * up,
        heaviness: weight * up,
      });
    });
  },
};
