// Stage 5: accelerations are gathered at cell centres, one force after the other, then applied on the faces.
// To add a force, write one file in air/ with its description and a Force, name it here and in
// recipe/parts.ts.
import { buoyancy } from './buoyancy';
import { currentForces } from './currents';
import { drag } from './drag';
import { edges } from './edges';
import type { Force } from './force';
import { turbulence } from './turbulence';
import { confinement, largeConfinement } from './vorticity';
import { wind } from './wind';
import { addresses, fillHalo, named, SLAB } from '../../grid/sweep';
import type { Placed } from '../../recipe/types';
import { formulas } from '../formulas';
import { eachRegionVariant } from '../region-variants';
import type { SimulationState } from '../state';

const FORCES: readonly Force[] = [confinement, largeConfinement, turbulence, edges, buoyancy, wind, drag];

/** Told after each force that acts what it is called, with the sum so far in layout.acceleration. */
export type Witness = (name: string) => void;

/** Gathers the accelerations of all forces at the middle of the substep, m/s² at cell centres. */
export function gather(state: SimulationState, dtS: number, witness?: Witness | null): void {
  const { threadPool, layout } = state;
  const l = state.window.lattice;
  const now = { state, dtS };
  for (const f of layout.acceleration)
    threadPool.run('fill', l.nz, SLAB, {
      f: f.address,
      ny: l.ny,
      rowStride: l.rowStride,
      planeStride: l.planeStride,
      nx: l.nx,
      value: 0,
    });
  let acted = false;
  FORCES.forEach((force, n) => {
    const [key] = force.keys;
    eachRegionVariant(
      state,
      force.keys,
      (recipe) => recipe[key] as unknown as Placed,
      (recipe, weight) => {
        if (!force.isOn(recipe)) return;
        force.add(now, recipe, weight);
        acted = true;
      },
    );
    if (FORCES[n + 1]?.keys[0] === key) return; // several forces of one part are told of as one
    if (acted) witness?.(key);
    acted = false;
  });
  for (const { id, index, add } of currentForces(state.plan)) {
    eachRegionVariant(
      state,
      [`currents/${id}`],
      (recipe) => recipe.currents[index],
      (recipe, weight) => add(now, recipe, weight),
    );
    witness?.(`currents/${id}`);
  }

  if (formulas(state, 'pushed')) witness?.('formulas');
}

export function forces(state: SimulationState, dtS: number): void {
  const { threadPool, layout } = state;
  const l = state.window.lattice;
  gather(state, dtS, state.onForce);
  for (const f of layout.acceleration) fillHalo(threadPool, f, 3, 0);
  threadPool.run('applyForces', l.nz + 1, SLAB, {
    level: layout.levels[0].block,
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    ...named(['fx', 'fy', 'fz'], addresses(layout.acceleration)),
    dt: dtS,
  });
}
