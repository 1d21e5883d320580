// Warm air rises, heavy medium sinks (Boussinesq): a = −g / 9.81 · (lift · ΔT − weight · density), g the
// gravity.
import { SLAB } from '../grid/sweep';
import { where } from '../recipe/parts/where';
import { number, type Part } from '../recipe/settings';
import { directionOf, type Force } from './force';
import { STANDARD } from './gravity';

export const BUOYANCY: Part = {
  key: 'buoyancy',
  title: 'Buoyancy',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  sentence: 'Warm rises and cold sinks by {lift}; full density weighs {weight}, {where}.',
  settings: [
    number(
      'lift',
      'lift',
      'm/s² per K',
      [-1, 1],
      0.033,
      'Upward acceleration of air one kelvin warmer: gravity over the air temperature, 9.81 / 295. ' +
        'Under another gravity it goes along.',
    ),
    number(
      'weight',
      'weight',
      'm/s²',
      [-100, 100],
      0.2,
      'Downward acceleration at density 1; negative makes the medium light.',
    ),
    where(),
  ],
};

export const buoyancy: Force = {
  keys: ['buoyancy', 'gravity'],
  isOn: ({ buoyancy: { lift, weight }, gravity }) => (lift !== 0 || weight !== 0) && gravity.strength !== 0,
  add: ({ state: { team, layout, window } }, { buoyancy: { lift, weight }, gravity }, weightField) => {
    const l = window.lattice;
    const [density, temperature] = layout.channels;
    directionOf(gravity.direction).forEach((along, axis) => {
      const up = (-along * gravity.strength) / STANDARD;
      if (up === 0) return;
      const fields = [layout.acceleration[axis], density, temperature].map((f) => f.address);
      team.run(
        'buoyancy',
        l.nz,
        SLAB,
        ...fields,
        weightField,
        l.nx,
        l.ny,
        l.rowStride,
        l.planeStride,
        lift * up,
        weight * up,
      );
    });
  },
};
