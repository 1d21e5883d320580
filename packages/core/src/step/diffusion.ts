// Stage 6: viscosity evens speeds out, density and warmth seep into their surroundings; implicit, see diffuse.ts of the kernels.
import { coverFaces } from '../obstacles/faces';
import { sites, SLAB } from '../grid/sweep';
import type { StepState } from './state';

export function diffusion(state: StepState, dtS: number, what: { velocity: boolean; channels: boolean }): void {
  const { plan, team, layout, window } = state,
    { viscosity, stick } = plan.recipe.spreading;
  const perStep = dtS / (window.voxelSizeM * window.voxelSizeM);
  const spread = (address: number, site: number, diffusivity: number): void => {
    const [, my, mz] = sites(window.lattice, site);
    for (const direction of [0, 1, 2])
      team.run(
        'diffuse',
        direction === 2 ? my : mz,
        SLAB,
        ...[layout.levels[0].block, address, layout.scratch[0].address, site, direction, diffusivity * perStep, stick],
      );
  };
  if (what.channels) plan.channels.forEach((c, n) => c.diffusivity > 0 && spread(layout.channels[n].address, 3, c.diffusivity));
  if (what.velocity && viscosity > 0) {
    if (plan.obstacles.length > 0) coverFaces(state);
    layout.velocity.forEach((f, axis) => spread(f.address, axis, viscosity));
  }
}
