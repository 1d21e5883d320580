// Vorticity confinement (Fedkiw, Stam, Jensen 2001): at fine scale by the voxel size, so that it vanishes as
// the grid resolves the curl; at large scale on the smoothed air, by a size in the world.
import { coarser, lattice } from '../../grid/lattice';
import type { Field } from '../../grid/memory';
import { addresses, extent, fillHalo, named, share, SLAB } from '../../grid/sweep';
import type { SimulationState } from '../state';
import type { Force } from './force';

/** 1/s: acceleration = strength · rate · length · |ω| across the curl gradient. */
const CONFINEMENT_RATE = 10;

export const confinement: Force = {
  keys: ['vorticity'],
  isOn: (recipe) => recipe.vorticity.strength !== 0,
  add: ({ state }, { vorticity: { strength } }, weight) => confine(state, strength, weight),
};

function confine({ threadPool, layout, window }: SimulationState, strength: number, weight: number): void {
  const l = window.lattice;
  const forces = layout.acceleration.map((f) => f.address);
  const h = window.voxelSizeM;
  const slab = Math.max(8, share(l.nz, threadPool));
  layout.velocity.forEach((f, axis) => fillHalo(threadPool, f, axis, 0));
  const curl = [...layout.scratch, layout.ahead[2]];
  threadPool.run('confineVorticity', l.nz, slab, {
    ...named(['u', 'v', 'w', 'ox', 'oy', 'oz', 'mag'], addresses([...layout.velocity, ...curl])),
    ...named(['fx', 'fy', 'fz'], forces),
    weight,
    ...extent(l),
    quarter: 0.25 / h,
    strength: strength * h * CONFINEMENT_RATE,
    slab,
  });
}

/** Coarse cells across the whirls that large-scale confinement strengthens. */
const CELLS_A_ROLL = 4;

export const largeConfinement: Force = {
  keys: ['vorticity'],
  isOn: (recipe) => recipe.vorticity.large !== 0,
  add: ({ state }, { vorticity: { large, largeSize } }, weight) =>
    confineLarge(state, large, largeSize, weight),
};

function confineLarge(
  { threadPool, layout, window }: SimulationState,
  large: number,
  largeSize: number,
  weight: number,
): void {
  const fine = window.lattice;
  const h = window.voxelSizeM;
  let factor = 2;
  let c = layout.coarseForce[0].lattice;
  while (factor * 2 * h <= largeSize / CELLS_A_ROLL && Math.min(c.nx, c.ny, c.nz) > 4) {
    factor *= 2;
    c = coarser(c);
  }

  c = lattice(c.nx, c.ny, c.nz);
  const on = (address: number): Field => ({ address: address + c.lead * 4, lattice: c });
  const velocity = layout.coarseForce.map((f) => on(f.address - f.lattice.lead * 4));
  // the curl and its size lie one behind the other in a field of transport
  const room = layout.ahead[2].address - fine.lead * 4;
  const [x, y, z, magnitude] = [0, 1, 2, 3].map((n) => on(room + n * Math.ceil((c.size * 4) / 64) * 64));
  threadPool.run('coarsenVelocity', c.nz, 1, {
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    ...named(['cu', 'cv', 'cw'], addresses(velocity)),
    factor,
    ...extent(fine),
    cx: c.nx,
    cy: c.ny,
    coarseRowStride: c.rowStride,
    coarsePlaneStride: c.planeStride,
  });
  for (const f of velocity) fillHalo(threadPool, f, 3, 0);
  threadPool.run('curlOfCells', c.nz, 2, {
    ...named(['u', 'v', 'w'], addresses(velocity)),
    ...named(['ox', 'oy', 'oz', 'mag'], addresses([x, y, z, magnitude])),
    ...extent(c),
    half: 0.5 / (factor * h),
  });
  fillHalo(threadPool, magnitude, 3, 0);
  threadPool.run('confineVorticityCells', c.nz, 2, {
    ...named(['ox', 'oy', 'oz', 'mag'], addresses([x, y, z, magnitude])),
    ...named(['fx', 'fy', 'fz'], addresses(velocity)),
    ...extent(c),
    strength: large * largeSize,
  });
  velocity.forEach((f, axis) => {
    fillHalo(threadPool, f, 3, 0);
    threadPool.run('addUpsampledWide', fine.nz, SLAB, {
      coarse: f.address,
      fine: layout.acceleration[axis].address,
      weight,
      factor,
      ...extent(fine),
      coarseRowStride: c.rowStride,
      coarsePlaneStride: c.planeStride,
    });
  });
}
