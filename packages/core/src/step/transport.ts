// Stage 2: everything is carried along by the velocity that the last projection left, and fades on the way.
// MacCormack with limiting (Selle et al. 2008); see the kernel advect.ts.
import type { Field } from '../grid/memory';
import { fillHalo, shape, share, sites, SLAB, type StepState } from './state';

/** 2^(−dt / half-life), exact for any split into substeps; 1 where the half-life is 0 (never). */
export function fadingGain(state: StepState, halfLifeS: number): number {
  return halfLifeS > 0 ? state.team.solo('exponential', (-Math.LN2 * state.dtS) / halfLifeS) : 1;
}

export function transport(state: StepState): void {
  const { plan, team, layout } = state;
  const l = layout.density.lattice;
  const kappa = state.dtS / plan.window.voxelSizeM;
  const emptySides = plan.sides.reduce((bits, rule, side) => (rule === 'open' ? bits | (1 << side) : bits), 0);
  const { back, ahead, scratch } = layout,
    [hat, lo, hi] = scratch;
  const { block } = layout.levels[0];

  layout.velocity.forEach((f, axis) => fillHalo(team, f, axis, 0));
  const trace = [...layout.velocity, ...back, ...ahead].map((f) => f.address);
  team.run('traceBack', l.nz, SLAB, ...trace, ...shape(l), kappa);
  if (plan.recipe.method.trace === 'third') team.run('traceThird', l.nz, SLAB, ...trace, ...shape(l), kappa);
  for (const d of [...back, ...ahead]) fillHalo(team, d, 3, 0);

  // look-ups reach as far as the fastest air goes in a step, with room for its change, and a cell on
  const reach = state.topSpeeds.map((speed) => Math.floor(speed * kappa * 1.5) + 2);
  const carry = (f: Field, to: Field, axis: number, zeroSides: number, gain: number): void => {
    const planes = sites(l, axis)[2],
      slab = share(planes, team),
      marks = axis === 3 ? layout.marks : 0;
    if (marks) team.run('markRows', l.nz, SLAB, f.address, marks, l.nx, l.ny, l.rowStride, l.planeStride);
    new Int32Array(team.memory.buffer, layout.carry, 18).set([
      ...[f, hat, lo, hi, to, ...back, ...ahead].map((x) => x.address),
      ...[axis, zeroSides, ...reach, 1, marks],
    ]);
    new Float32Array(team.memory.buffer, layout.carry + 72, 1)[0] = gain;
    team.run('carry', planes, slab, block, layout.carry);
    team.run('carryEdges', planes, slab, block, layout.carry);
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
