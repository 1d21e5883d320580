// Stage 6: viscosity evens speeds out, density and warmth seep into their surroundings; implicit, see
// diffuse.ts of the kernels.
import { coverFaces } from './cut-cells';
import { fillHalo, sites, SLAB } from '../grid/sweep';
import type { Field } from '../grid/memory';
import { eachRegionVariant } from './region-variants';
import { describeMedium, gatherMedium, mediumOf, weightOnMedium } from './finer';
import { isMass, type MediumState, type SimulationState } from './state';

export function diffusion(state: SimulationState): void {
  const { plan, layout, dtS } = state;
  eachRegionVariant(
    state,
    ['diffusion'],
    (r) => r.diffusion,
    ({ diffusion }, weight) => {
      const spread = (f: Field, site: number, diffusivity: number): void =>
        evenOut(state, f, site, diffusivity * dtS, diffusion.stick, weight);
      plan.channels.forEach(({ fades }, n) => {
        if (fades && !(layout.medium && isMass(plan, n))) spread(layout.channels[n], 3, diffusion[fades]);
      });
      if (layout.medium && diffusion.density > 0) spreadMedium(state, diffusion.density, weight);
      if (diffusion.viscosity === 0) return;
      if (plan.obstacles.length > 0) coverFaces(state);
      layout.velocity.forEach((f, axis) => spread(f, axis, diffusion.viscosity));
    },
  );
}

/** The medium on its own cells. */
function spreadMedium(state: SimulationState, diffusivity: number, weight: number): void {
  const medium = mediumOf(state);
  describeMedium(state);
  const by = weightOnMedium(state, weight);
  for (const f of medium.layout.channels) evenOut(medium, f, 3, diffusivity * state.dtS, 0, by);
  gatherMedium(state);
}

/**
 * @param spreadM2 diffusivity times time, m²; weight: address of a field by which it counts, 0: everywhere
 */
function evenOut(
  { threadPool, layout, window }: MediumState,
  f: Field,
  site: number,
  spreadM2: number,
  stick: number,
  weight: number,
): void {
  if (spreadM2 === 0) return;
  const l = window.lattice;
  const [mx, my, mz] = sites(l, site);
  const perCell = spreadM2 / (window.voxelSizeM * window.voxelSizeM);
  const [coefficients, copy] = layout.scratch;
  const target = weight ? copy : f;
  if (weight)
    threadPool.solo('copyBytes', {
      to: copy.address - l.lead * 4,
      from: f.address - l.lead * 4,
      bytes: l.size * 4,
    });
  for (const direction of [0, 1, 2])
    threadPool.run('diffuse', direction === 2 ? my : mz, SLAB, {
      level: layout.levels[0].block,
      f: target.address,
      c: coefficients.address,
      site,
      dir: direction,
      a: perCell,
      stick,
    });
  if (!weight) return;
  fillHalo(threadPool, { address: weight, lattice: l }, 3, 0);
  const back = [4, l.rowStride * 4, l.planeStride * 4, 0][site];
  threadPool.run('blendByWeight', mz, SLAB, {
    f: f.address,
    g: copy.address,
    weight,
    mx,
    my,
    rowStride: l.rowStride,
    planeStride: l.planeStride,
    back,
  });
}
