// Stage 2: everything is carried along by the velocity that the last projection left, and fades on the way.
// MacCormack with limiting (Selle et al. 2008); see the kernel advect.ts.
import type { Field } from '../grid/memory';
import { fillHalo, shape, sites, SLAB, type StepState } from './state';

/** 2^(−dt / half-life), exact for any split into substeps; 1 where the half-life is 0 (never). */
export function fadingGain(state: StepState, halfLifeS: number): number {
  return halfLifeS > 0 ? state.team.solo('exponential', (-Math.LN2 * state.dtS) / halfLifeS) : 1;
}

export function transport(state: StepState): void {
  const { plan, team, layout } = state;
  const l = layout.density.lattice;
  const kappa = state.dtS / plan.window.voxelSizeM;
  const emptySides = plan.sides.reduce((bits, rule, side) => (rule === 'open' ? bits | (1 << side) : bits), 0);
  const [u, v, w] = layout.velocity;
  const [dx, dy, dz, hat, lo, hi] = layout.scratch;
  const { open, kind } = layout.levels[0];

  layout.velocity.forEach((f, axis) => fillHalo(team, f, axis, 0));
  team.run('traceBack', l.nz, SLAB, u.address, v.address, w.address, dx.address, dy.address, dz.address, ...shape(l), kappa);
  for (const d of [dx, dy, dz]) fillHalo(team, d, 3, 0);

  const carry = (f: Field, to: Field, axis: number, zeroSides: number, gain: number): void => {
    const planes = sites(l, axis)[2];
    team.run(
      'advectBack',
      planes,
      SLAB,
      f.address,
      hat.address,
      lo.address,
      hi.address,
      dx.address,
      dy.address,
      dz.address,
      ...shape(l),
      axis,
    );
    fillHalo(team, hat, axis, zeroSides);
    team.run(
      'advectFix',
      planes,
      SLAB,
      f.address,
      hat.address,
      lo.address,
      hi.address,
      to.address,
      dx.address,
      dy.address,
      dz.address,
      u.address,
      v.address,
      w.address,
      open[0].address,
      open[1].address,
      open[2].address,
      kind,
      ...shape(l),
      axis,
      kappa,
      gain,
    );
  };
  for (const [name, halfLife] of [
    ['density', plan.recipe.fading.density],
    ['temperature', plan.recipe.fading.temperature],
  ] as const) {
    fillHalo(team, layout[name], 3, emptySides);
    carry(layout[name], layout.spare, 3, emptySides, fadingGain(state, halfLife));
    [layout[name], layout.spare] = [layout.spare, layout[name]];
  }
  layout.velocity.forEach((f, axis) => carry(f, layout.velocityNext[axis], axis, 0, 1));
  [layout.velocity, layout.velocityNext] = [layout.velocityNext, layout.velocity];
}
