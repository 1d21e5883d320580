// Stage 3: accelerations are gathered at cell centres, one force after the other, then applied on the faces.
import { addBuoyancy } from '../air/buoyancy';
import { addTurbulence } from '../air/turbulence';
import { setConfinement } from '../air/vorticity';
import { windNow } from '../air/wind';
import { fillHalo, sites, SLAB, type StepState } from './state';

export function forces(state: StepState): void {
  const { team, layout } = state;
  const l = layout.density.lattice;

  setConfinement(state); // writes all cells, so it comes first
  addTurbulence(state);
  addBuoyancy(state);

  const wind = windNow(state);
  layout.velocity.forEach((f, axis) => {
    fillHalo(team, layout.acceleration[axis], 3, 0);
    team.run(
      'applyForce',
      sites(l, axis)[2],
      SLAB,
      f.address,
      layout.acceleration[axis].address,
      layout.levels[0].open[axis].address,
      l.nx,
      l.ny,
      l.rowStride,
      l.planeStride,
      axis,
      state.dtS,
      wind.velocity[axis],
      wind.grip,
    );
  });
}
