// Stage 5: accelerations are gathered at cell centres, one force after the other, then applied on the faces. To add a force,
// write one file in air/ that adds to layout.acceleration, name it here, and describe its settings in recipe/parts/.
import { addBuoyancy } from '../air/buoyancy';
import { addCurrents } from '../air/currents';
import { addTurbulence } from '../air/turbulence';
import { addLargeConfinement, setConfinement } from '../air/vorticity';
import { windNow } from '../air/wind';
import { fillHalo, sites, SLAB } from '../grid/sweep';
import type { StepState } from './state';

/** Writes the accelerations of all cells; the others add to them. */
const FIRST = setConfinement;
const FORCES = [addLargeConfinement, addTurbulence, addBuoyancy];

export function forces(state: StepState, dtS: number): void {
  const { team, layout } = state;
  const l = state.window.lattice;
  FIRST(state);
  for (const add of FORCES) add(state);
  addCurrents(state, dtS);

  const wind = windNow(state, dtS);
  layout.velocity.forEach((f, axis) => {
    fillHalo(team, layout.acceleration[axis], 3, 0);
    team.run(
      'applyForce',
      sites(l, axis)[2],
      SLAB,
      ...[f.address, layout.acceleration[axis].address, layout.levels[0].open[axis].address],
      ...[l.nx, l.ny, l.rowStride, l.planeStride, axis, dtS, wind.velocity[axis], wind.grip],
    );
  });
}
