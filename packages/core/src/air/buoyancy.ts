// Warm air rises, heavy medium sinks (Boussinesq): a_y = lift · ΔT − weight · density.
import { SLAB } from '../grid/sweep';
import type { StepState } from '../step/state';

export function addBuoyancy(state: StepState): void {
  const { plan, team, layout } = state;
  const { lift, weight } = plan.recipe.buoyancy;
  if (lift === 0 && weight === 0) return;
  const l = state.window.lattice;
  team.run(
    'buoyancy',
    l.nz,
    SLAB,
    layout.acceleration[1].address,
    layout.channels[0].address,
    layout.channels[1].address,
    l.nx,
    l.ny,
    l.rowStride,
    l.planeStride,
    lift,
    weight,
  );
}
