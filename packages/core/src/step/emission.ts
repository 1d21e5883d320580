// Stage 1: sources write into density and temperature; nothing is written inside an obstacle.
import { SLAB, type StepState } from './state';

export function emission(state: StepState): void {
  const { plan, team, layout } = state;
  const l = layout.density.lattice;
  let wrote = false;
  for (const s of plan.sources) {
    if (state.frame < s.from || state.frame > s.until) continue;
    wrote = true;
    team.run(
      'emit',
      l.nz,
      SLAB,
      layout.density.address,
      layout.temperature.address,
      s.shape.kind === 'box' ? 1 : 0,
      ...s.shape.centre,
      ...s.shape.half,
      s.ratePerS * state.dtS,
      s.kelvin,
      1,
      l.nx,
      l.ny,
      l.rowStride,
      l.planeStride,
    );
  }
  if (!wrote || plan.obstacles.length === 0) return;
  for (const f of [layout.density, layout.temperature]) team.run('clearSolid', l.nz, SLAB, layout.levels[0].block, f.address);
}
